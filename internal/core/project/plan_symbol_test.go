package project

import (
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// presses are two presses of three fans each, plain folders with plain tags;
// the last fan of the second has no Speed.
func presses(t *testing.T) *Project {
	p := New("Yard")
	for press := 1; press <= 2; press++ {
		root := fmt.Sprintf("p%d", press)
		p = edited(t, p, put(KindFolder, root, "", tag.Folder{Name: fmt.Sprintf("Press[%d]", press)}))
		for fan := 1; fan <= 3; fan++ {
			id := fmt.Sprintf("%sf%d", root, fan)
			p = edited(t, p, put(KindFolder, id, "", tag.Folder{Name: fmt.Sprintf("Fan[%d]", fan), Parent: root}),
				put(KindTag, id+"run", "", tag.Tag{Name: "Run", Folder: id, Type: value.Type{Kind: value.BOOL}, Source: tag.Internal}))
			if id != "p2f3" {
				p = edited(t, p, put(KindTag, id+"speed", "",
					tag.Tag{Name: "Speed", Folder: id, Type: value.Type{Kind: value.REAL}, Source: tag.Internal}))
			}
		}
	}
	return p
}

func TestAnyIndexRepeats(t *testing.T) {
	p := presses(t)
	for _, c := range []struct {
		id    string
		which screen.Index
		want  string
	}{
		{"p1f2speed", screen.LastIndex, "Press[1].Fan[1].Speed Press[1].Fan[2].Speed Press[1].Fan[3].Speed"},
		{"p1f2speed", "", "Press[1].Fan[1].Speed Press[1].Fan[2].Speed Press[1].Fan[3].Speed"},
		{"p1f2speed", screen.FirstIndex, "Press[1].Fan[2].Speed Press[2].Fan[2].Speed"},
		{"p2f1speed", screen.EveryIndex, "Press[1].Fan[1].Speed Press[1].Fan[2].Speed Press[1].Fan[3].Speed Press[2].Fan[1].Speed Press[2].Fan[2].Speed"},
		{"p1f3", screen.LastIndex, "Press[1].Fan[1] Press[1].Fan[2] Press[1].Fan[3]"},
		{"p1f3", screen.FirstIndex, "Press[1].Fan[3] Press[2].Fan[3]"},
		{"nothing", screen.LastIndex, ""},
	} {
		var got []string
		for _, id := range p.Array(c.id, c.which) {
			got = append(got, p.pathOf(id))
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s %s: %v", c.id, c.which, got)
		}
	}
	for _, c := range []struct{ first, second, id, want string }{
		{"p1f1speed", "p1f3speed", "p1f1run", "p1f3run"},
		{"p1f1speed", "p2f1speed", "p1f1run", "p2f1run"},
		{"p1f1", "p2f2", "p1f1run", "p2f2run"},
		{"p1f1speed", "p1f3speed", "p1f2run", "p1f2run"}, // lies beside it: itself
		{"p2f1run", "p2f3run", "p2f1speed", ""},          // is not there
		{"p1f1speed", "p1f1speed", "p1f1run", "p1f1run"},
		{"", "p1", "5", "5"}, // over a type there is no first, and 5 is a value
		{"p1", "p2", "5", "5"},
	} {
		if got, ok := p.Beside(c.first, c.second, c.id); got != c.want && ok || ok != (c.want != "") {
			t.Errorf("%+v: %s %v", c, got, ok)
		}
	}
}

func TestASymbolOfTheSelection(t *testing.T) {
	p := presses(t)
	n := 0
	ids := func(kind string) string { n++; return fmt.Sprintf("%s%d", kind, n) }
	p = edited(t, p, put(KindScreen, "s1", "", map[string]any{"name": "Presses", "width": 800, "height": 400, "home": true,
		"elements": map[string]any{
			"g": map[string]any{"kind": "group", "x": 100, "y": 40, "w": 10, "h": 10, "z": 1},
			"a": map[string]any{"kind": "readout", "x": 100, "y": 40, "w": 80, "h": 40, "z": 2, "group": "g",
				"props": map[string]any{"tag": "p1f2speed"}},
			"b": map[string]any{"kind": "lamp", "x": 190, "y": 40, "w": 20, "h": 20, "z": 3, "group": "g",
				"props": map[string]any{"tag": "p1f2run"}, "bind": map[string]any{"visible": "Press[1].Fan[2].Speed > 1"}},
			"c": map[string]any{"kind": "text", "x": 100, "y": 100, "w": 80, "h": 20, "z": 4,
				"props": map[string]any{"text": "{Press[1].Fan[2].Speed:0}"}}}}))
	plan, ops, err := p.PlanSymbol(SymbolOf{Screen: "s1", Elements: []string{"g"}, Name: "Fan", Repeat: screen.LastIndex}, ids)
	if err != nil || plan.Indices != 2 || len(plan.Params) != 2 || plan.Params[0].Name != "Run" ||
		plan.Params[0].Given != "Press[1].Fan[2].Run" ||
		strings.Join(plan.Cells, " ") != "Press[1].Fan[1].Run Press[1].Fan[2].Run Press[1].Fan[3].Run" {
		t.Fatalf("%+v %v", plan, err)
	}
	q := edited(t, p, ops...)
	made, left := q.Screens[plan.Screen], q.Screens["s1"]
	if len(made.Elements) != 3 || made.Width != 110 || made.Height != 40 || made.Role != screen.Symbol || made.Elements["a"].X != 0 ||
		made.Elements["b"].Group != "g" {
		t.Errorf("%+v %+v", made, made.Elements["a"])
	}
	if got := q.ShownScreen(made).Elements["b"].Bind["visible"]; got != "Speed > 1" {
		t.Error(got)
	}
	holder := left.Elements[plan.Element]
	if len(left.Elements) != 2 || holder.Kind != "repeat" || holder.X != 100 || holder.W != 3*118-8 || holder.Text("array") != "p1f2run" {
		t.Errorf("%+v", holder)
	}
	for _, f := range q.Findings() {
		if f.Stop == StopScreens {
			t.Errorf("%+v", f)
		}
	}
	// Each cell has its own of every parameter.
	var cells []string
	for _, e := range screen.Bind(left, q, screen.View{}).Scene.Elements {
		if e.Tag != nil {
			cells = append(cells, e.Tag.Path)
		}
	}
	if got := strings.Join(cells, " "); got != "Press[1].Fan[1].Speed Press[1].Fan[1].Run Press[1].Fan[2].Speed Press[1].Fan[2].Run Press[1].Fan[3].Speed Press[1].Fan[3].Run" {
		t.Error(got)
	}
	// Over both indices one fan lacks its Speed, which is said.
	plan, ops, err = p.PlanSymbol(SymbolOf{Screen: "s1", Elements: []string{"c", "b"}, Name: "Fan", Repeat: screen.EveryIndex}, ids)
	if err != nil || len(plan.Cells) != 6 {
		t.Fatalf("%+v %v", plan, err)
	}
	q = edited(t, p, ops...)
	if got := rules(q); !strings.Contains(got, "screen.beside") {
		t.Error(got)
	}
	// Without a repeat it stands where the elements stood.
	plan, ops, err = p.PlanSymbol(SymbolOf{Screen: "s1", Elements: []string{"a"}, Name: "Fan"}, ids)
	if err != nil || len(plan.Params) != 1 {
		t.Fatalf("%+v %v", plan, err)
	}
	if q = edited(t, p, ops...); q.Screens["s1"].Elements[plan.Element].Group != "g" ||
		q.Screens["s1"].Elements[plan.Element].Args[q.Screens[plan.Screen].Params[0].ID] != "p1f2speed" {
		t.Errorf("%+v", q.Screens["s1"].Elements[plan.Element])
	}
	for _, wrong := range []SymbolOf{{Screen: "none", Elements: []string{"a"}}, {Screen: "s1", Elements: []string{"gone"}}} {
		if _, _, err := p.PlanSymbol(wrong, ids); err == nil {
			t.Errorf("%+v", wrong)
		}
	}
}

func TestASymbolOfEquipment(t *testing.T) {
	p := kilns(t)
	n := 0
	ids := func(kind string) string { n++; return fmt.Sprintf("%s%d", kind, n) }
	p = edited(t, p, put(KindScreen, "s1", "", map[string]any{"name": "Kilns", "width": 800, "height": 400, "home": true,
		"elements": map[string]any{
			"a": map[string]any{"kind": "readout", "x": 0, "y": 0, "w": 80, "h": 40, "z": 1, "props": map[string]any{"tag": "k3.dry"}},
			"b": map[string]any{"kind": "text", "x": 0, "y": 50, "w": 80, "h": 20, "z": 2,
				"props": map[string]any{"text": "{North.Kiln3.Fan[2].Speed:0} of {Limit}"}}}}))
	plan, ops, err := p.PlanSymbol(SymbolOf{Screen: "s1", Elements: []string{"a", "b"}, Name: "Kiln"}, ids)
	if err != nil || len(plan.Params) != 2 || plan.Params[0].Type != "Chamber" && plan.Params[1].Type != "Chamber" {
		t.Fatalf("%+v %v", plan, err)
	}
	q := edited(t, p, ops...)
	if got := q.ShownScreen(q.Screens[plan.Screen]).Elements["b"].Props["text"]; got != "{Kiln3.Fan[2].Speed:0} of {Limit}" {
		t.Error(got)
	}
	// A fan alone is given as the fan, which has an index.
	plan, ops, err = p.PlanSymbol(SymbolOf{Screen: "s1", Elements: []string{"b"}, Name: "Fan", Repeat: screen.LastIndex}, ids)
	if err != nil || len(plan.Cells) != 2 || plan.Params[0].Given != "North.Kiln3.Fan[2]" {
		t.Fatalf("%+v %v", plan, err)
	}
	q = edited(t, p, ops...)
	var texts []string
	for _, in := range screen.Bind(q.Screens["s1"], q, screen.View{}).Inputs {
		texts = append(texts, q.pathOf(in))
	}
	if got := strings.Join(texts, " "); !strings.Contains(got, "Kiln3.Fan[1].Speed") || !strings.Contains(got, "Kiln3.Fan[2].Speed") {
		t.Error(got)
	}
}
