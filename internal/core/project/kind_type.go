package project

import (
	"fmt"
	"strings"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// KindType are the types of equipment.
const KindType = "type"

var typeKind = &kindOf[equipment.Type]{
	ThingKind: ThingKind{Name: KindType, Stop: StopEquipment, Opens: true},
	of:        func(p *Project) *map[string]*equipment.Type { return &p.Types },
	read:      (*Project).readType,
	show:      (*Project).ShownType,
	name:      func(_ *Project, _ string, t *equipment.Type) string { return t.Name },
	note:      func(t *equipment.Type) string { return t.Description },
	refers: func(_ *Project, t *equipment.Type, say func(target, place, within string)) {
		say(t.Symbol, "/symbol", "")
		say(t.Faceplate, "/faceplate", "")
		for id, m := range t.Members {
			say(m.Type, "/members/"+id+"/type", m.Name)
			if m.Tag != nil {
				say(m.Tag.Device, "/members/"+id+"/tag/device", m.Name)
				say(m.Tag.Area, "/members/"+id+"/tag/area", m.Name)
				say(m.Tag.Log, "/members/"+id+"/tag/log", m.Name)
				say(m.Tag.Book, "/members/"+id+"/tag/book", m.Name)
				eachOutside(formula.References(m.Tag.Formula), func(ref string) { say(ref, "/members/"+id+"/tag/formula", m.Name) })
			}
		}
		for id, a := range t.Alarms {
			at := "/alarms/" + id
			say(a.Screen, at+"/screen", a.Name)
			say(a.Area, at+"/area", a.Name)
			for place, text := range a.Formulas() {
				eachOutside(formula.References(text), func(ref string) { say(ref, at+place, a.Name) })
			}
			eachOutside(formula.TemplateReferences(a.Message+a.Gone), func(ref string) { say(ref, at+"/message", a.Name) })
		}
	},
	check: func(c *checker) {
		for _, id := range SortedKeys(c.p.Types) {
			c.gearType(id, c.p.Types[id])
		}
	},
	work: func(p *Project) int { return len(p.Types) },
	editRules: editRules{
		paths: func(Op) bool { return true },
		names: func(op Op) bool {
			text := op.Path + string(op.Value)
			return !strings.Contains(text, "formula") && !strings.Contains(text, "alarms")
		},
		touched: func(t *touchedThings, _ *Project, id string) { t.stale[[2]string{KindType, id}] = true },
	},
}

// eachOutside gives the references of a type's formula that are neither its
// members nor what it has for its own.
func eachOutside(refs []string, do func(ref string)) {
	for _, ref := range refs {
		if ref != "" && ref[0] != '.' && ref[0] != '$' {
			do(ref)
		}
	}
}

func (p *Project) readType(id string, t *equipment.Type, shown bool) (*equipment.Type, error) {
	t.ID = id
	if t.Members == nil {
		t.Members = map[string]*equipment.Member{}
	}
	if place, err := t.Check(); err != nil {
		return nil, at(place, err)
	}
	if !shown {
		return t, nil
	}
	return convertType(t,
		func(f string) (string, error) { return p.StoreFormulaOf(t, f) },
		func(f string) (string, error) { return formula.Store(f, p.resolveIn(t, true), nil) },
		func(m string) (string, error) { return formula.StoreTemplate(m, p.resolveIn(t, true), nil) })
}

// gearType checks one type.
func (c *checker) gearType(id string, t *equipment.Type) {
	if equipment.Within(id, c.p.Type) {
		c.add("type.ring", Error, KindType, id, "", t.Name)
	}
	for place, ref := range map[string]string{"/symbol": t.Symbol, "/faceplate": t.Faceplate} {
		if ref != "" && c.p.Screens[ref] == nil {
			c.add("type.screen", Warning, KindType, id, place, t.Name)
		}
	}
	scope := c.p.Scope()
	scope.Tag = func(ref string) (int32, value.Kind, bool) {
		if len(ref) > 1 && ref[0] == '.' {
			_, at, _, ok := equipment.Resolve(t, ref[1:], c.p.Type)
			if !ok || at == nil {
				return 0, 0, false
			}
			return 0, at.Kind(), true
		}
		m, ok := c.p.Tags[ref]
		if !ok {
			return 0, 0, false
		}
		return 0, m.Kind(), true
	}
	for _, mid := range t.Sorted() {
		m := t.Members[mid]
		place := "/members/" + mid
		switch {
		case m.Type != "" && c.p.Types[m.Type] == nil:
			c.add("type.member", Error, KindType, id, place+"/type", t.Name+" › "+m.Name)
		case m.Tag != nil && m.Tag.Source == tag.Computed:
			prog, err := formula.Compile(m.Tag.Formula, scope)
			if err != nil {
				c.formula(err, KindType, id, place+"/tag/formula", fmt.Sprintf("%s › %s", t.Name, m.Name))
			} else if !fitsKind(m.Tag.Type.Kind, prog.Kind()) {
				c.add("tag.formula.type", Error, KindType, id, place+"/tag/formula", t.Name+" › "+m.Name, "type", m.Tag.Type.String(), "gives",
					prog.Kind().String())
			}
		}
	}
}
