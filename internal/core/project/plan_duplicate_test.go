package project

import (
	"fmt"
	"strings"
	"testing"
)

func TestDuplicatesStepTagsAndTexts(t *testing.T) {
	p := presses(t)
	n := 0
	ids := func(kind string) string { n++; return fmt.Sprintf("%s%d", kind, n) }
	p = edited(t, p, put(KindScreen, "s1", "", map[string]any{"name": "Presses", "width": 800, "height": 400, "home": true,
		"elements": map[string]any{
			"g": map[string]any{"kind": "group", "x": 100, "y": 40, "w": 10, "h": 10, "z": 1, "name": "Fan 1"},
			"a": map[string]any{"kind": "readout", "x": 100, "y": 40, "w": 80, "h": 40, "z": 2, "group": "g",
				"props": map[string]any{"tag": "p2f1speed", "caption": "Fan 1 of 10, 1.5 kW"}},
			"c": map[string]any{"kind": "text", "x": 100, "y": 80, "w": 80, "h": 20, "z": 4, "group": "g",
				"props": map[string]any{"text": "No 1: {Press[2].Fan[1].Speed:0}"}}}}))
	plan, ops, err := p.PlanDuplicates(Duplicates{Screen: "s1", Elements: []string{"g"}, Count: 3, Columns: 2, Gap: 10,
		Of: "Press[2].Fan[1]", Step: 1}, ids)
	if err != nil || strings.Join(plan.Of, " ") != "Press[2].Fan[1] Press[2]" || len(plan.Made) != 3 {
		t.Fatalf("%+v %v", plan, err)
	}
	var lines []string
	for _, l := range plan.Lines {
		lines = append(lines, l.From+" "+l.Path+" "+l.Problem.String())
	}
	if got := strings.Join(lines, "; "); got != "Press[2].Fan[1].Speed Press[2].Fan[2].Speed ; Press[2].Fan[1].Speed Press[2].Fan[3].Speed there is no Press[2].Fan[3].Speed; Press[2].Fan[1].Speed Press[2].Fan[4].Speed there is no Press[2].Fan[4].Speed" {
		t.Error(got)
	}
	q := edited(t, p, ops...)
	shown := q.ShownScreen(q.Screens["s1"])
	if len(shown.Elements) != 12 {
		t.Fatalf("%d elements", len(shown.Elements))
	}
	var got []string
	for _, g := range plan.Made {
		for _, id := range shown.Sorted() {
			if e := shown.Elements[id]; e.Group == g {
				text := e.Text("caption") + e.Text("text")
				got = append(got, fmt.Sprintf("%s %g,%g %s", shown.Elements[g].Name, e.X, e.Y, text))
			}
		}
	}
	if got := strings.Join(got, "; "); got != "Fan 2 190,40 Fan 2 of 10, 1.5 kW; Fan 2 190,80 No 2: {Press[2].Fan[2].Speed:0}; "+
		"Fan 3 100,110 Fan 3 of 10, 1.5 kW; Fan 3 100,150 No 3: {Press[2].Fan[3].Speed:0}; "+
		"Fan 4 190,110 Fan 4 of 10, 1.5 kW; Fan 4 190,150 No 4: {Press[2].Fan[4].Speed:0}" {
		t.Error(got)
	}
	// The outer number can step too, and nothing need.
	plan, _, err = p.PlanDuplicates(Duplicates{Screen: "s1", Elements: []string{"a"}, Count: 1, Columns: 2, Of: "Press[2]", Step: -1}, ids)
	if err != nil || plan.Lines[0].Path != "Press[1].Fan[1].Speed" {
		t.Errorf("%+v %v", plan, err)
	}
	plan, ops, err = p.PlanDuplicates(Duplicates{Screen: "s1", Elements: []string{"a"}, Count: 2, Columns: 1, Gap: 8}, ids)
	if err != nil || len(plan.Lines) != 0 || len(ops) != 2 {
		t.Errorf("%+v %v", plan, err)
	}
	if e := edited(t, p, ops...).Screens["s1"].Elements[plan.Made[1]]; e.Y != 40+2*48 || e.Group != "g" ||
		e.Text("caption") != "Fan 1 of 10, 1.5 kW" {
		t.Errorf("%+v", e)
	}
	for _, wrong := range []Duplicates{{Screen: "none", Elements: []string{"a"}, Count: 1, Columns: 1},
		{Screen: "s1", Elements: []string{"gone"}, Count: 1, Columns: 1},
		{Screen: "s1", Elements: []string{"a"}, Count: 1, Columns: 1, Of: "Press"},
		{Screen: "s1", Elements: []string{"g"}, Count: 500 * 4, Columns: 1}} {
		if _, _, err := p.PlanDuplicates(wrong, ids); err == nil {
			t.Errorf("%+v", wrong)
		}
	}
}
