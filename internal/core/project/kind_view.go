package project

import (
	"fmt"
	"strings"

	"readyrail/internal/core/history"
)

// KindView are the views of recorded courses.
const KindView = "view"

var viewKind = &kindOf[history.View]{
	ThingKind: ThingKind{Name: KindView, Stop: StopHistory, Opens: true},
	of:        func(p *Project) *map[string]*history.View { return &p.Views },
	read: func(_ *Project, id string, v *history.View, _ bool) (*history.View, error) {
		v.ID = id
		place, err := v.Check()
		return v, at(place, err)
	},
	name: func(_ *Project, _ string, v *history.View) string { return v.Name },
	note: func(v *history.View) string { return v.Note },
	refers: func(_ *Project, v *history.View, say func(target, place, within string)) {
		say(v.Type, "/type", "")
		for i, pen := range v.Pens {
			if !strings.HasPrefix(pen.Tag, history.Own) {
				say(pen.Tag, fmt.Sprintf("/pens/%d/tag", i), "")
			}
		}
	},
	texts: func(_ *Project, _ string, v *history.View, say sayText) { say(v.Name, v.Name) },
	check: func(c *checker) {
		for _, id := range SortedKeys(c.p.Views) {
			c.view(c.p.Views[id])
		}
	},
}

// view checks one view.
func (c *checker) view(v *history.View) {
	say := func(rule, place string, args ...any) { c.add(rule, Warning, KindView, v.ID, place, v.Name, args...) }
	if len(v.Pens) == 0 {
		say("view.empty", "/pens")
	}
	var all []string // equipment that it can be opened for
	if v.Type != "" {
		if c.p.Types[v.Type] == nil {
			say("view.type", "/type")
			return
		}
		all = c.p.OfType(v.Type, "")
	}
	for i, pen := range v.Pens {
		place := fmt.Sprintf("/pens/%d", i)
		if !strings.HasPrefix(pen.Tag, history.Own) {
			if c.p.Tags[pen.Tag] == nil {
				say("view.tag", place)
			}
			continue
		}
		for _, of := range all {
			if c.p.Tags[c.p.Real(pen.Of(of))] == nil {
				say("view.member", place, "equipment", c.p.FolderPath(of))
				break
			}
		}
	}
}

// Pens are those of a view that is opened for equipment, each with the id of
// its tag; those whose tag there is not are left out.
func (p *Project) Pens(view, equipment string) []history.ViewPen {
	if v := p.Views[view]; v != nil {
		return p.PensOf(v, equipment)
	}
	return nil
}

// PensOf is Pens of a view that need not be the project's.
func (p *Project) PensOf(v *history.View, equipment string) []history.ViewPen {
	out := make([]history.ViewPen, 0, len(v.Pens))
	for _, pen := range v.Pens {
		if pen.Tag = p.Real(pen.Of(equipment)); p.Tags[pen.Tag] != nil {
			out = append(out, pen)
		}
	}
	return out
}

// ViewOf turns tags into the pens of a view that serves all equipment of a type:
// those of one instance become its members, others stay themselves. The type is
// empty where none of the tags is of equipment, or they are of several.
func (p *Project) ViewOf(tags []string) (typ, equipment string, pens []string) {
	for _, id := range tags {
		g, made := p.gear.tags[id]
		switch {
		case !made:
			pens = append(pens, id)
			continue
		case equipment != "" && equipment != g.Instance:
			return "", "", nil
		}
		equipment = g.Instance
		pens = append(pens, history.Own+g.Chain)
	}
	if e := p.Equipment[equipment]; e != nil {
		return e.Type, equipment, pens
	}
	return "", "", nil
}
