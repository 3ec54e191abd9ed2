package project

import (
	"fmt"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// equipment checks types and what their instances have become.
func (c *checker) equipment() {
	for _, id := range SortedKeys(c.p.Types) {
		c.gearType(id, c.p.Types[id])
	}
	for _, id := range SortedKeys(c.p.Equipment) {
		e := c.p.Equipment[id]
		name := c.p.FolderPath(e.Real(""))
		if e.Device != "" && c.p.Devices[e.Device] == nil {
			c.add("equipment.device", Error, StopEquipment, KindEquipment, id, "/device", name)
		}
		for _, problem := range c.p.gear.made[id].problems {
			severity := Error
			if problem.Rule == "difference" {
				severity = Warning
			}
			c.add("equipment."+problem.Rule, severity, StopEquipment, KindEquipment, id, "/differs", name, "reason", problem.Reason)
		}
	}
}

func (c *checker) gearType(id string, t *equipment.Type) {
	if equipment.Within(id, c.p.Type) {
		c.add("type.ring", Error, StopEquipment, KindType, id, "", t.Name)
	}
	for place, ref := range map[string]string{"/symbol": t.Symbol, "/faceplate": t.Faceplate} {
		if ref != "" && c.p.Screens[ref] == nil {
			c.add("type.screen", Warning, StopEquipment, KindType, id, place, t.Name)
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
			c.add("type.member", Error, StopEquipment, KindType, id, place+"/type", t.Name+" › "+m.Name)
		case m.Tag != nil && m.Tag.Source == tag.Computed:
			prog, err := formula.Compile(m.Tag.Formula, scope)
			if err != nil {
				c.formula(err, StopEquipment, KindType, id, place+"/tag/formula", fmt.Sprintf("%s › %s", t.Name, m.Name))
			} else if !fitsKind(m.Tag.Type.Kind, prog.Kind()) {
				c.add("tag.formula.type", Error, StopEquipment, KindType, id, place+"/tag/formula", t.Name+" › "+m.Name, "type", m.Tag.Type.String(), "gives", prog.Kind().String())
			}
		}
	}
}
