package project

import (
	"strings"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/say"
)

// KindEquipment are the instances of types.
const KindEquipment = "equipment"

var equipmentKind = &kindOf[equipment.Instance]{
	ThingKind: ThingKind{Name: KindEquipment, Stop: StopEquipment, Opens: true, Paths: true},
	of:        func(p *Project) *map[string]*equipment.Instance { return &p.Equipment },
	read: func(_ *Project, id string, e *equipment.Instance, _ bool) (*equipment.Instance, error) {
		e.ID = id
		return e, at(e.Check())
	},
	name: func(p *Project, _ string, e *equipment.Instance) string { return p.FolderPath(e.Real("")) },
	note: func(e *equipment.Instance) string { return e.Description },
	refers: func(_ *Project, e *equipment.Instance, say func(target, place, within string)) {
		say(e.Type, "/type", "")
		say(e.Device, "/device", "")
		say(e.Area, "/area", "")
		say(e.Folder, "/folder", "")
	},
	gone: (*Project).dismantle,
	check: func(c *checker) {
		for _, id := range SortedKeys(c.p.Equipment) {
			c.instance(c.p.Equipment[id])
		}
	},
	work: func(p *Project) int { return len(p.Equipment) },
	editRules: editRules{
		id: func(id string) error {
			if strings.Contains(id, ".") {
				return say.New("an id of equipment holds no point")
			}
			return nil
		},
		touched: func(t *touchedThings, p *Project, id string) {
			if p.Equipment[id] == nil {
				// Its folders went with it.
				t.folders, t.stalePaths = true, true
			}
			t.stale[[2]string{KindEquipment, id}] = true
		},
	},
}

// instance checks what an instance has become.
func (c *checker) instance(e *equipment.Instance) {
	name := c.p.FolderPath(e.Real(""))
	if e.Device != "" && c.p.Devices[e.Device] == nil {
		c.add("equipment.device", Error, KindEquipment, e.ID, "/device", name)
	}
	for _, problem := range c.p.gear.made[e.ID].problems {
		severity := Error
		if problem.Rule == "difference" {
			severity = Warning
		}
		c.add("equipment."+problem.Rule, severity, KindEquipment, e.ID, "/differs", name, "reason", problem.Why)
	}
}
