package demo

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
)

func withRules(t *testing.T, list ...access.Rule) *project.Project {
	t.Helper()
	p := yard(t)
	var ops []project.Op
	for id := range p.Rules {
		ops = append(ops, project.Op{Kind: project.KindRule, ID: id})
	}
	for _, r := range list {
		doc, _ := json.Marshal(r)
		ops = append(ops, project.Op{Kind: project.KindRule, ID: r.ID, Value: doc})
	}
	out, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func ruleNames(asked project.Asked) string {
	var out []string
	for _, by := range asked.By {
		out = append(out, by.Name)
	}
	slices.Sort(out)
	return strings.Join(out, " ")
}

// TestWhatIsAskedWhere: rules of the yard by area, folder, type, tag, book, action
// and role, at tags, at buttons with several steps, and at what is sent.
func TestWhatIsAskedWhere(t *testing.T) {
	p := yard(t)
	folder, _ := p.FindFolder("Kiln2.Schedule")
	sp, _ := p.FindPath("Kiln2.DryBulbSP")
	accel, _ := p.FindPath("Car.AccelSP")
	chamber := p.TypeOf(p.Folders[folder].Parent)
	if chamber == "" {
		t.Fatal("the chamber is no equipment")
	}
	rule := func(name string, r access.Rule) access.Rule {
		r.ID, r.Name, r.Confirm = "q-"+name, name, true
		return r
	}
	p = withRules(t, rule("area", access.Rule{Area: "a-kilns"}), rule("folder", access.Rule{Folder: folder}),
		rule("type", access.Rule{Type: chamber}),
		rule("tag", access.Rule{Tag: sp}), rule("book", access.Rule{Book: "b-drying"}), rule("role", access.Rule{Role: "r-operator"}),
		rule("writing", access.Rule{Area: "a-car", Does: access.DoesWrite}),
		rule("sending", access.Rule{Area: "a-kilns", Does: access.DoesDeliver}))
	operator := func(string) []string { return []string{"r-operator"} }
	nobody := func(string) []string { return nil }
	for path, want := range map[string]string{
		"Kiln2.DryBulbSP":            "area role tag type",
		"Kiln1.DryBulbSP":            "area role type",
		"Kiln2.Schedule.Step[1].Dry": "area folder role type",
		"Car.VelocitySP":             "role writing",
	} {
		id, _ := p.FindPath(path)
		if got := ruleNames(p.AskedAt(p.Tags[id], access.DoesWrite, "", operator)); got != want {
			t.Errorf("%s: %s; want %s", path, got, want)
		}
		if got := ruleNames(p.AskedAt(p.Tags[id], access.DoesWrite, "", nobody)); strings.Contains(got, "role") {
			t.Errorf("%s by who has no role: %s", path, got)
		}
	}
	button := &screen.Element{Kind: "button", Name: "Both",
		Props: map[string]any{"action": "set", "tag": accel, "value": "300", "reason": "offered"},
		Then:  []screen.Action{{Do: "set", Tag: sp, Value: "60"}, {Do: "open", Screen: "s-yard"}}}
	if got := ruleNames(p.AskedByElement(button, "", operator)); got != "Both area role tag type writing" {
		t.Errorf("a button of two steps: %s", got)
	}
	button.Props["action"] = "hold"
	if asked := p.AskedByElement(button, "", operator); asked.Any() {
		t.Errorf("a button that is held asks %+v", asked)
	}
	b := p.Books["b-drying"]
	if b == nil {
		t.Fatal("no book of drying schedules")
	}
	for i, want := range []string{"area book role sending type", "area book folder role sending type"} {
		if got := ruleNames(p.AskedToSend(b, p.BookTargets(b)[i], operator)); !strings.Contains(got, want) {
			t.Errorf("sent to %s: %s; want %s", p.TargetPlace(b, p.BookTargets(b)[i]), got, want)
		}
	}
	// A rule without an act is about all of them; one of writes about no other.
	for does, want := range map[string]string{access.DoesHold: "role", access.DoesShelve: "role", access.DoesLimit: "role"} {
		id, _ := p.FindPath("Car.VelocitySP")
		if got := ruleNames(p.AskedAt(p.Tags[id], does, "", operator)); got != "Car.VelocitySP "+want {
			t.Errorf("%s: %s", does, got)
		}
	}
	if got := ruleNames(p.AskedToApprove(b, operator)); got != "area book folder role type" {
		t.Errorf("approving: %s", got)
	}
	for name, want := range map[string]int{"tag": 1, "book": 1} {
		if got := p.Applies(p.Rules["q-"+name], 0); got != want {
			t.Errorf("the rule %s applies at %d places, want %d", name, got, want)
		}
	}
	if all, some := p.Applies(p.Rules["q-area"], 0), p.Applies(p.Rules["q-area"], 3); all < 50 || some < 3 || some > 5 {
		t.Errorf("the area's rule applies at %d places, counted to three at %d", all, some)
	}
}

// TestFindingsOfRules: a rule that names what is gone, asks nothing, or applies
// nowhere is found; those of the yard are in order.
func TestFindingsOfRules(t *testing.T) {
	for _, f := range yard(t).Findings() {
		if f.Kind == project.KindRule {
			t.Errorf("the yard: %v", f)
		}
	}
	weather, _ := yard(t).FindFolder("Weather")
	for want, r := range map[string]access.Rule{
		"rule.gone":    {Area: "a-gone", Reason: access.ReasonRequired},
		"rule.nothing": {Area: "a-car"},
		"rule.capture": {Area: "a-car", Reason: access.ReasonRequired, Capture: []string{"t-gone"}},
		"rule.nowhere": {Folder: weather, Does: access.DoesWrite, Reason: access.ReasonRequired},
		"rule.book":    {Book: "b-drying", Does: access.DoesWrite, Reason: access.ReasonRequired},
		"rule.second":  {Area: "a-car", Sign: access.SignSecond, By: "r-viewer"},
	} {
		r.ID, r.Name = "q-x", "X"
		found := false
		for _, f := range withRules(t, r).Findings() {
			found = found || f.Rule == want && f.ID == "q-x"
		}
		if !found {
			t.Errorf("%+v: no finding %s", r, want)
		}
	}
}
