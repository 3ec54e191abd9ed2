package equipment

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

func typed(k value.Kind) value.Type { return value.Type{Kind: k} }

func deviceTag(k value.Kind, address, description string) *tag.Tag {
	return &tag.Tag{Type: typed(k), Source: tag.Device, Address: address, Access: tag.Read, Description: description}
}

// yard are the types of a drying chamber with four fans.
func yard() map[string]*Type {
	fan := &Type{ID: "fan", Name: "Fan", Settings: []Setting{{Name: "base"}},
		Members: map[string]*Member{
			"run": {Order: 1, Name: "Running", Tag: deviceTag(value.BOOL, "discrete:{base}", "Fan {i} runs")},
			"cur": {Order: 2, Name: "Current", Tag: deviceTag(value.INT, "input:{base + 1}", "Current of fan {i}"),
				Differs: []string{"high", "description"}},
			"load": {Order: 3, Name: "Load", Tag: &tag.Tag{Type: typed(value.LREAL), Source: tag.Computed, Formula: "{.cur|Current} * 2"}},
		}}
	chamber := &Type{ID: "chamber", Name: "Chamber",
		Settings: []Setting{{Name: "base", Default: "0"}, {Name: "line", Text: true, Default: "A"}},
		Members: map[string]*Member{
			"dry": {Order: 1, Name: "DryBulb", Tag: deviceTag(value.INT, "holding:{base + 3}", "Dry bulb of {name}, line {line}"),
				Differs: []string{"high"}},
			"probe": {Order: 2, Name: "Moisture", From: 1, To: 3, Tag: deviceTag(value.INT, "holding:{base + 10 + i}", "")},
			"fan":   {Order: 3, Name: "Fan", From: 1, To: 4, Type: "fan", Settings: map[string]string{"base": "base + 20 + 5 * i"}},
			"hot": {Order: 4, Name: "Hot", Tag: &tag.Tag{Type: typed(value.BOOL), Source: tag.Computed,
				Formula: "{.dry|DryBulb} > 80 and {.fan.2.run|Fan[2].Running}"}},
		}}
	return map[string]*Type{"fan": fan, "chamber": chamber}
}

func lookup(types map[string]*Type) Lookup { return func(id string) *Type { return types[id] } }

func lines(x Expansion) string {
	var out []string
	for _, f := range x.Folders {
		out = append(out, fmt.Sprintf("%s in %s: %s (%s)", f.ID, f.Parent, f.Name, f.Type))
	}
	for _, t := range x.Tags {
		out = append(out, fmt.Sprintf("%s in %s: %s %s%s", t.ID, t.Folder, t.Name, t.Address, t.Formula))
	}
	for _, p := range x.Problems {
		out = append(out, fmt.Sprintf("! %s %s %s", p.Rule, p.Chain, p.Why))
	}
	return strings.Join(out, "\n")
}

func TestExpandFollowsArraysAndNesting(t *testing.T) {
	types := yard()
	types["chamber"].Members["fan"].To = 2
	e := &Instance{ID: "k2", Folder: "top", Name: "Kiln2", Type: "chamber", Device: "plc", Settings: map[string]string{"base": "200"}}
	got := lines(Expand(e, lookup(types)))
	want := `k2 in top: Kiln2 (chamber)
k2.fan.1 in k2: Fan[1] (fan)
k2.fan.2 in k2: Fan[2] (fan)
k2.dry in k2: DryBulb holding:203
k2.probe.1 in k2: Moisture[1] holding:211
k2.probe.2 in k2: Moisture[2] holding:212
k2.probe.3 in k2: Moisture[3] holding:213
k2.fan.1.run in k2.fan.1: Running discrete:225
k2.fan.1.cur in k2.fan.1: Current input:226
k2.fan.1.load in k2.fan.1: Load {k2.fan.1.cur|Current} * 2
k2.fan.2.run in k2.fan.2: Running discrete:230
k2.fan.2.cur in k2.fan.2: Current input:231
k2.fan.2.load in k2.fan.2: Load {k2.fan.2.cur|Current} * 2
k2.hot in k2: Hot {k2.dry|DryBulb} > 80 and {k2.fan.2.run|Fan[2].Running}`
	if got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
	x := Expand(e, lookup(types))
	if x.Tags[0].Description != "Dry bulb of Kiln2, line A" || x.Tags[0].Device != "plc" || x.Tags[4].Description != "Fan 1 runs" {
		t.Errorf("%q %q %q", x.Tags[0].Description, x.Tags[0].Device, x.Tags[4].Description)
	}
}

// TestTheIndexOfAnInstance: i is the index in its name, or the number that it
// ends with; 0 only where there is none.
func TestTheIndexOfAnInstance(t *testing.T) {
	for name, want := range map[string]string{"Fan[3]": "Fan 3 runs", "Fan[2][7]": "7", "Fan4": "Fan 4 runs", "Fan": "Fan 0 runs"} {
		x := Expand(&Instance{ID: "f", Name: name, Type: "fan", Settings: map[string]string{"base": "10"}}, lookup(yard()))
		if got := x.Tags[0].Description; !strings.Contains(got, want) {
			t.Errorf("%s: %q, want %q", name, got, want)
		}
	}
}

func TestDifferencesStayWithTheirInstance(t *testing.T) {
	types := yard()
	e := &Instance{ID: "k1", Name: "Kiln1", Type: "chamber", Differs: map[string]map[string]json.RawMessage{
		"dry":       {"high": json.RawMessage("95")},
		"fan.3.cur": {"description": json.RawMessage(`"The old motor"`), "access": json.RawMessage("null")},
		"gone":      {"high": json.RawMessage("1")},
	}}
	find := func(x Expansion, id string) tag.Tag {
		for _, t := range x.Tags {
			if t.ID == id {
				return t.Tag
			}
		}
		t.Fatalf("no %s", id)
		return tag.Tag{}
	}
	x := Expand(e, lookup(types))
	if h := find(x, "k1.dry").High; h == nil || *h != 95 {
		t.Error("the limit of its own is gone")
	}
	if d := find(x, "k1.fan.3.cur").Description; d != "The old motor" {
		t.Error(d)
	}
	if len(x.Problems) != 1 || x.Problems[0].Chain != "gone" {
		t.Errorf("%v", x.Problems)
	}
	// The type moves on; what the instance has for itself holds.
	types["fan"].Members["cur"].Tag.Description = "Motor current {i}"
	types["fan"].Members["cur"].Tag.Unit = "A"
	x = Expand(e, lookup(types))
	if c := find(x, "k1.fan.3.cur"); c.Description != "The old motor" || c.Unit != "A" {
		t.Errorf("%+v", c)
	}
	if c := find(x, "k1.fan.2.cur"); c.Description != "Motor current 2" {
		t.Errorf("%+v", c)
	}
}

func TestProblemsAreNamed(t *testing.T) {
	types := yard()
	types["fan"].Members["self"] = &Member{Name: "Within", Type: "chamber"}
	types["chamber"].Members["bad"] = &Member{Name: "Bad", Tag: deviceTag(value.INT, "holding:{bse + 1}", "")}
	types["chamber"].Members["fan"].To = 1
	x := Expand(&Instance{ID: "k", Name: "K", Type: "chamber", Settings: map[string]string{"base": "many"}}, lookup(types))
	seen := map[string]string{}
	for _, p := range x.Problems {
		seen[p.Rule] = p.Why.Error()
	}
	if !strings.Contains(seen["ring"], "holds itself") || !strings.Contains(seen["member"], "there are base, i, line, name") ||
		!strings.Contains(seen["setting"], `not "many"`) {
		t.Errorf("%v", seen)
	}
	if !Within("chamber", lookup(types)) || !Within("fan", lookup(types)) || Within("fan", lookup(yard())) {
		t.Error("Within")
	}
	if x := Expand(&Instance{ID: "k", Name: "K", Type: "none"}, lookup(types)); len(x.Folders) != 1 || x.Problems[0].Rule != "type" {
		t.Errorf("%+v", x)
	}
}

func TestFindAndResolveAreInverse(t *testing.T) {
	types := yard()
	for _, p := range Chains(types["chamber"], lookup(types)) {
		chain, at, typ, ok := Find(types["chamber"], p.Path, lookup(types))
		if !ok || chain != p.Chain || at != p.Tag || typ != p.Type {
			t.Errorf("%s: %s %v %q %v, want %s", p.Path, chain, at, typ, ok, p.Chain)
		}
		path, at, typ, ok := Resolve(types["chamber"], p.Chain, lookup(types))
		if !ok || path != p.Path || at != p.Tag || typ != p.Type {
			t.Errorf("%s: %s %v %q %v, want %s", p.Chain, path, at, typ, ok, p.Path)
		}
	}
	for _, path := range []string{"Nothing", "Fan", "Fan[9].Running", "Fan[1].None", "DryBulb.More", "Fan[1]..Running", "Moisture[4]"} {
		if chain, _, _, ok := Find(types["chamber"], path, lookup(types)); ok {
			t.Errorf("%s is found at %s", path, chain)
		}
	}
	for _, chain := range []string{"fan", "fan.9", "fan.x", "dry.1", "none"} {
		if path, _, _, ok := Resolve(types["chamber"], chain, lookup(types)); ok {
			t.Errorf("%s is resolved to %s", chain, path)
		}
	}
}

// Renaming a member and expanding commute: the ids and what refers to them are
// the same whichever comes first.
func TestRenamingAndExpandingCommute(t *testing.T) {
	for _, member := range []string{"fan/run", "fan/cur", "chamber/dry", "chamber/fan", "chamber/probe"} {
		types := yard()
		e := &Instance{ID: "k", Name: "K", Type: "chamber"}
		before := Expand(e, lookup(types))
		typ, id, _ := strings.Cut(member, "/")
		types[typ].Members[id].Name = "Renamed"
		after := Expand(e, lookup(types))
		if len(before.Tags) != len(after.Tags) {
			t.Fatal(member)
		}
		bare := func(f string) string { return formula.Show(f, func(id string) (string, bool) { return id, true }) }
		for i := range before.Tags {
			a, b := before.Tags[i], after.Tags[i]
			if a.ID != b.ID || a.Folder != b.Folder || a.Address != b.Address || bare(a.Formula) != bare(b.Formula) {
				t.Errorf("%s: %+v and %+v", member, a.Tag, b.Tag)
			}
			renamed := a.Member == id && a.Type == typ
			if renamed == (a.Name == b.Name) {
				t.Errorf("%s: %s became %s", member, a.Name, b.Name)
			}
		}
	}
}

func TestCheckNamesThePlace(t *testing.T) {
	for place, mend := range map[string]func(*Type){
		"":                         func(*Type) {},
		"/name":                    func(t *Type) { t.Name = "1st" },
		"/settings/0":              func(t *Type) { t.Settings[0].Name = "i" },
		"/settings/1":              func(t *Type) { t.Settings = append(t.Settings[:1], Setting{Name: "n", Default: "x"}) },
		"/members/a b":             func(t *Type) { t.Members["a b"] = t.Members["dry"] },
		"/members/dry/name":        func(t *Type) { t.Members["dry"].Name = "a.b" },
		"/members/fan/name":        func(t *Type) { t.Members["fan"].Name = "drybulb" },
		"/members/dry":             func(t *Type) { t.Members["dry"].Type = "fan" },
		"/members/dry/differs":     func(t *Type) { t.Members["dry"].Differs = []string{"id"} },
		"/members/fan/to":          func(t *Type) { t.Members["fan"].To = -1 },
		"/members/dry/tag/address": func(t *Type) { t.Members["dry"].Tag.Address = "" },
	} {
		c := yard()["chamber"]
		mend(c)
		if got, err := c.Check(); got != place || (err == nil) != (place == "") {
			t.Errorf("want %q, got %q, %v", place, got, err)
		}
	}
}

func FuzzExpand(f *testing.F) {
	f.Add("holding:{base + 3}", "base + 20 + 5 * i", "K.{name}", "7")
	f.Add("{", "}", "{i:hex4}", "-1")
	f.Add(`\{base\}`, "i / 0", "{base ? 1 : 2}", "1e400")
	f.Fuzz(func(t *testing.T, address, setting, description, base string) {
		types := yard()
		types["chamber"].Members["dry"].Tag.Address = address
		types["chamber"].Members["dry"].Tag.Description = description
		types["chamber"].Members["fan"].Settings["base"] = setting
		x := Expand(&Instance{ID: "k", Name: "K", Type: "chamber", Settings: map[string]string{"base": base}}, lookup(types))
		if len(x.Tags) != 17 || len(x.Folders) != 5 {
			t.Fatalf("%d tags, %d folders", len(x.Tags), len(x.Folders))
		}
	})
}
