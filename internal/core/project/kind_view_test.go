package project

import (
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/history"
	"readyrail/internal/core/screen"
)

func rulesOf(p *Project, kind string) string {
	var out []string
	for _, f := range p.Findings() {
		if f.Kind == kind {
			out = append(out, f.Rule+" "+f.Place)
		}
	}
	return strings.Join(out, "; ")
}

// TestAViewServesEveryEquipmentOfItsType makes a view of one chamber's tags, and
// opens it for another.
func TestAViewServesEveryEquipmentOfItsType(t *testing.T) {
	p := kilns(t)
	typ, of, pens := p.ViewOf([]string{"k3.dry", "limit", "k3.fan.2.speed"})
	if typ != "chamber" || of != "k3" || fmt.Sprint(pens) != "[$.dry limit $.fan.2.speed]" {
		t.Fatal(typ, of, pens)
	}
	if typ, _, _ := p.ViewOf([]string{"k3.dry", "k4.dry"}); typ != "" {
		t.Errorf("tags of two chambers are a view of %q", typ)
	}
	view := history.View{Name: "Climate", Type: typ}
	for i, tag := range pens {
		view.Pens = append(view.Pens, history.ViewPen{Tag: tag, Inverted: i == 2})
	}
	p = edited(t, p, put(KindView, "v", "", view))
	if got := fmt.Sprint(p.Pens("v", "k7")); got != "[{k7.dry false <nil> <nil> <nil>} {limit false <nil> <nil> <nil>} {k7.fan.2.speed true <nil> <nil> <nil>}]" {
		t.Error(got)
	}
	if p.Pens("none", "k7") != nil {
		t.Error("a view that there is not has pens")
	}
	if got := rulesOf(p, KindView); got != "" {
		t.Error(got)
	}

	// A screen's trend refers to it, and needs to know for which chamber.
	trend := screen.Screen{Name: "Trends", Width: 1280, Height: 676, Elements: map[string]*screen.Element{
		"a": {Kind: "trend", W: 400, H: 300, Props: map[string]any{"view": "v", "equipment": "k2"}},
		"b": {Kind: "trend", W: 400, H: 300, Props: map[string]any{"view": "v"}},
		"c": {Kind: "trend", W: 400, H: 300, Tags: []string{"k1.dry"}}}}
	p = edited(t, p, put(KindScreen, "s", "", trend))
	if got := rulesOf(p, KindScreen); !strings.Contains(got, "screen.of /elements/b/props/equipment") || strings.Contains(got, "elements/a") {
		t.Error(got)
	}
	bound := screen.Bind(p.Screens["s"], p, screen.View{})
	for id, want := range map[string]string{"a": "k2.dry limit k2.fan.2.speed", "c": "k1.dry"} {
		for _, e := range bound.Scene.Elements {
			if e.ID != id {
				continue
			}
			var got, rows []string
			for i, pen := range e.Pens {
				got, rows = append(got, pen.Tag), append(rows, e.Rows[i].Tag.ID)
			}
			if strings.Join(got, " ") != want || strings.Join(rows, " ") != want {
				t.Errorf("%s: pens %v, rows %v", id, got, rows)
			}
		}
	}

	// What goes is missed.
	if uses := fmt.Sprint(p.Uses("v")); !strings.Contains(uses, "Trends") {
		t.Error(uses)
	}
	if uses := fmt.Sprint(p.Uses("limit")); !strings.Contains(uses, "Climate") {
		t.Error(uses)
	}
	q := edited(t, p, set(KindTag, "limit", "", ""))
	if got := rulesOf(q, KindView); got != "view.tag /pens/1" {
		t.Error(got)
	}
	q = edited(t, p, set(KindType, "chamber", "/members/dry", ""))
	if got := rulesOf(q, KindView); got != "view.member /pens/0" {
		t.Error(got)
	}
	q = edited(t, p, set(KindView, "v", "/pens", "[]"))
	if got := rulesOf(q, KindView); got != "view.empty /pens" {
		t.Error(got)
	}
}
