package project

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
)

func set(kind, id, path, v string) Op {
	op := Op{Kind: kind, ID: id, Path: path}
	if v != "" {
		op.Value = json.RawMessage(v)
	}
	return op
}

// larch is a small yard: a device, a folder, four tags and a screen.
func larch(t *testing.T) *Project {
	t.Helper()
	p, _, err := New("Larchmoor").Edit([]Op{
		set(KindDevice, "d1", "", `{"name":"KilnPLC","protocol":"modbus-tcp","host":"127.0.0.1","port":502,"unit":1,"order":"ABCD","numbering":0,"poll":250,"timeout":1000,"maxGap":16,"maxBlock":125}`),
		set(KindFolder, "f1", "", `{"name":"Kiln1"}`),
		set(KindTag, "t1", "", `{"name":"DryBulb","folder":"f1","type":"INT","source":"device","device":"d1","address":"holding:100"}`),
		set(KindTag, "t2", "", `{"name":"DryBulbSP","folder":"f1","type":"INT","source":"device","device":"d1","address":"400141","access":"readwrite"}`),
		set(KindTag, "t3", "", `{"name":"Gap","folder":"f1","type":"LREAL","source":"computed","formula":"Kiln1.DryBulbSP - Kiln1.DryBulb"}`),
		set(KindRole, "r1", "", `{"name":"Operator","rights":["view","operate"]}`),
		set(KindScreen, "s1", "", `{"name":"Chamber","width":1280,"height":676,"home":true,"order":1,"elements":{
			"e1":{"kind":"entry","x":0,"y":0,"w":100,"h":50,"z":1,"props":{"tag":"t2"}},
			"e2":{"kind":"text","x":0,"y":0,"w":100,"h":50,"z":2,"props":{"text":"at {Kiln1.DryBulb:0.0}"},"bind":{"visible":"Kiln1.Gap > 1"}}}}`),
	})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func rules(p *Project) string {
	var out []string
	for _, f := range p.Findings() {
		out = append(out, f.Rule+" "+f.ID+f.Place)
	}
	return strings.Join(out, "; ")
}

func TestRenameFollowsEverywhere(t *testing.T) {
	p, changes, err := larch(t).Edit([]Op{set(KindFolder, "f1", "/name", `"Chamber1"`)})
	if err != nil || len(changes) != 1 {
		t.Fatalf("%v, %d changes", err, len(changes))
	}
	if got := p.ShownTag(p.Tags["t3"]).Formula; got != "Chamber1.DryBulbSP - Chamber1.DryBulb" {
		t.Errorf("formula %q", got)
	}
	s := p.ShownScreen(p.Screens["s1"])
	if got := s.Elements["e2"].Props["text"]; got != "at {Chamber1.DryBulb:0.0}" {
		t.Errorf("text %q", got)
	}
	if got := s.Elements["e2"].Bind["visible"]; got != "Chamber1.Gap > 1" {
		t.Errorf("binding %q", got)
	}
	if rules(p) != "site.areas site/areas" {
		t.Errorf("findings %s", rules(p))
	}
}

func TestUndoIsExactAndRedoToo(t *testing.T) {
	p := larch(t)
	q, changes, err := p.Edit([]Op{
		set(KindTag, "t1", "/unit", `"°C"`), set(KindScreen, "s1", "/elements/e1", ""),
		set(KindTag, "t4", "", `{"name":"X","type":"BOOL","source":"internal"}`),
		set(KindScreen, "s1", "/elements/e2/bind/visible", `"X"`)})
	if err != nil {
		t.Fatal(err)
	}
	if q.Screens["s1"].Elements["e2"].Bind["visible"] != "{t4|X}" {
		t.Errorf("a formula must see what the same edit made: %v", q.Screens["s1"].Elements["e2"].Bind)
	}
	back, redo, err := q.Revert(changes)
	if err != nil {
		t.Fatal(err)
	}
	if a, b := fmt.Sprint(p.Entities()), fmt.Sprint(back.Entities()); a != b {
		t.Errorf("undo left\n%s\nwant\n%s", b, a)
	}
	again, _, err := back.Revert(redo)
	if err != nil || fmt.Sprint(again.Entities()) != fmt.Sprint(q.Entities()) {
		t.Errorf("redo: %v", err)
	}
}

func TestAnEditThatChangesNothingIsNoStep(t *testing.T) {
	if _, changes, err := larch(t).Edit([]Op{set(KindTag, "t1", "/name", `"DryBulb"`)}); err != nil || len(changes) != 0 {
		t.Errorf("%v, %v", changes, err)
	}
}

func TestUndoCannotBringAnOldNameBack(t *testing.T) {
	p := larch(t)
	p, changes, _ := p.Edit([]Op{set(KindTag, "t3", "/formula", `"Kiln1.DryBulb * 2"`)})
	p, _, _ = p.Edit([]Op{set(KindTag, "t2", "/name", `"SetPoint"`)})
	p, _, err := p.Revert(changes)
	if err != nil {
		t.Fatal(err)
	}
	if got := p.ShownTag(p.Tags["t3"]).Formula; got != "Kiln1.SetPoint - Kiln1.DryBulb" {
		t.Errorf("formula %q", got)
	}
}

func TestStaleEditsAreRefusedWithBothVersions(t *testing.T) {
	p := larch(t)
	op := set(KindScreen, "s1", "/elements/e1/x", "40")
	op.Was = json.RawMessage("0")
	other := set(KindScreen, "s1", "/elements/e1/y", "80")
	other.Was = json.RawMessage("0")
	p1, _, err := p.Edit([]Op{op})
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := p1.Edit([]Op{other}); err != nil {
		t.Errorf("another property of the same element must not collide: %v", err)
	}
	op.Value = json.RawMessage("60")
	_, _, err = p1.Edit([]Op{op})
	var r *Refusal
	if !errors.As(err, &r) || !r.Stale || string(r.Theirs) != "40" || string(r.Yours) != "60" {
		t.Errorf("%+v", err)
	}
	gone, _, _ := p.Edit([]Op{set(KindScreen, "s1", "", "")})
	if _, _, err := gone.Edit([]Op{op}); !errors.As(err, &r) || !r.Stale || !strings.Contains(r.Message, "deleted") {
		t.Errorf("%v", err)
	}
}

func TestUndoRefusesToLoseALaterChange(t *testing.T) {
	p, changes, _ := larch(t).Edit([]Op{set(KindTag, "t1", "/unit", `"°C"`)})
	p, _, _ = p.Edit([]Op{set(KindTag, "t1", "/unit", `"K"`)})
	_, _, err := p.Revert(changes)
	var r *Refusal
	if !errors.As(err, &r) || !r.Stale {
		t.Errorf("%v", err)
	}
}

func TestRefusalsNameThePlaceAndApplyNothing(t *testing.T) {
	p := larch(t)
	for _, c := range []struct {
		op         Op
		path, says string
	}{
		{set(KindTag, "t1", "/name", `"DryBulbSP"`), "/name", "already a tag Kiln1.DryBulbSP"},
		{set(KindTag, "t1", "/name", `"1st"`), "/name", "starts with a letter"},
		{set(KindTag, "t1", "/address", `"coil:4"`), "/address", "only a BOOL fits"},
		{set(KindTag, "t1", "/adress", `"holding:4"`), "/adress", "unknown field"},
		{set(KindTag, "t1", "/folder", `"f9"`), "/folder", "does not exist"},
		{set(KindFolder, "f1", "/parent", `"f1"`), "/parent", "lie in itself"},
		{set(KindFolder, "f1", "", ""), "/folder", "would be gone"},
		{set(KindFolder, "f2", "", `{"name":"kiln1"}`), "/name", "already a folder"},
		{set(KindScreen, "s1", "/elements/e1/props/tag", `5`), "/elements/e1/props/tag", "text is needed"},
		{set(KindScreen, "s1", "/elements/e1/props/tag/x", `5`), "/elements/e1/props/tag/x", "no object"},
		{set(KindScreen, "s1", "/elements/e2/props/text", `"a { b"`), "/elements/e2/props/text", "brace"},
		{set(KindSite, SiteID, "", ""), "", "cannot be deleted"},
		{set("moon", "m", "", "{}"), "", "no things of kind"},
		{set(KindTag, "a|b", "", "{}"), "", "needs an id"},
	} {
		_, _, err := p.Edit([]Op{set(KindSite, SiteID, "/name", `"Other"`), c.op})
		var r *Refusal
		if !errors.As(err, &r) || r.Path != c.path || !strings.Contains(r.Message, c.says) {
			t.Errorf("%s %s: %+v; want %q at %q", c.op.ID, c.op.Path, err, c.says, c.path)
		}
	}
	if p.Site().Name != "Larchmoor" {
		t.Error("a refused edit must leave the project alone")
	}
}

func TestFindings(t *testing.T) {
	for _, c := range []struct {
		name string
		ops  []Op
		want string
	}{
		{"deleted tag", []Op{set(KindTag, "t2", "", "")},
			"formula.gone t3/formula; screen.tag s1/elements/e1/props/tag"},
		{"read-only entry", []Op{set(KindTag, "t2", "/access", `"read"`)}, "screen.readonly s1/elements/e1/props/tag"},
		{"unknown path", []Op{set(KindTag, "t3", "/formula", `"Nobody + 1"`)}, "formula t3/formula"},
		{"wrong type", []Op{set(KindScreen, "s1", "/elements/e2/bind/visible", `"Kiln1.Gap"`)},
			"screen.binding.type s1/elements/e2/bind/visible"},
		{"overlap", []Op{set(KindTag, "t5", "", `{"name":"R","type":"REAL","source":"device","device":"d1","address":"holding:99"}`)},
			"tag.overlap t1/address"},
		{"same place twice", []Op{set(KindTag, "t5", "", `{"name":"R","type":"INT","source":"device","device":"d1","address":"holding:100"}`)},
			"tag.twice t5/address"},
		{"register and bits", []Op{set(KindTag, "t5", "",
			`{"name":"B","type":"BOOL","source":"device","device":"d1","address":"holding:100.3"}`)}, "tag.bits t5/address"},
		{"cycle", []Op{set(KindTag, "t6", "", `{"name":"C","type":"LREAL","source":"computed","formula":"Kiln1.Gap + 1"}`),
			set(KindTag, "t3", "/formula", `"C"`)}, "tag.cycle t3/formula"},
		{"button on a number", []Op{set(KindScreen, "s1", "/elements/e3",
			`{"kind":"button","x":0,"y":0,"w":9,"h":9,"z":3,"props":{"tag":"t2","action":"hold"}}`)}, "screen.bool s1/elements/e3/props/tag"},
		{"selector without states", []Op{set(KindScreen, "s1", "/elements/e3",
			`{"kind":"selector","x":0,"y":0,"w":9,"h":9,"z":3,"props":{"tag":"t2"}}`)}, "screen.stateless s1/elements/e3/props/tag"},
		{"lost target", []Op{set(KindScreen, "s1", "/elements/e3",
			`{"kind":"button","x":0,"y":0,"w":9,"h":9,"z":3,"props":{"screen":"s9","action":"open"}}`)},
			"screen.target s1/elements/e3/props/screen"},
		{"outside", []Op{set(KindScreen, "s1", "/elements/e2/x", `5000`)}, "screen.outside s1/elements/e2/x"},
	} {
		p, _, err := larch(t).Edit(c.ops)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		if got := strings.Trim(strings.Replace(rules(p), "site.areas site/areas", "", 1), "; "); got != c.want {
			t.Errorf("%s: %s; want %s", c.name, got, c.want)
		}
		for _, f := range p.Findings() {
			for _, lang := range []string{"en", "de"} {
				if w := f.Render(lang); w.Says == "" || w.Mend == "" || strings.Contains(w.Says+w.Mend, "{") {
					t.Errorf("%s in %s: %+v", f.Rule, lang, w)
				}
			}
		}
	}
}

func TestReadiness(t *testing.T) {
	p, _, _ := larch(t).Edit([]Op{set(KindTag, "t2", "/access", `"read"`)})
	for _, r := range p.Readiness() {
		want := map[Stop][2]int{StopSite: {1, 1}, StopDevices: {1, 1}, StopTags: {3, 3}, StopScreens: {2, 3}, StopHistory: {3, 3},
			StopPeople: {1, 1}}[r.Stop]
		if r.Clean != want[0] || r.Things != want[1] {
			t.Errorf("%s: %d of %d, want %v", r.Stop, r.Clean, r.Things, want)
		}
	}
}

func TestUses(t *testing.T) {
	var got []string
	for _, u := range larch(t).Uses("t1") {
		got = append(got, u.Name+" "+u.Place)
	}
	if s := strings.Join(got, "; "); s != "Chamber › Text /elements/e2/props/text; Kiln1.Gap /formula" {
		t.Errorf("%s", s)
	}
}

func TestLoadReadsWhatEntitiesWrote(t *testing.T) {
	p := larch(t)
	q, err := Load(p.Entities())
	if err != nil || fmt.Sprint(p.Entities()) != fmt.Sprint(q.Entities()) {
		t.Fatalf("%v", err)
	}
	if q.ShownTag(q.Tags["t3"]).Formula != "Kiln1.DryBulbSP - Kiln1.DryBulb" {
		t.Error("paths are missing after loading")
	}
}
