package project

import (
	"slices"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
)

// ShownType returns a type with its formulas as people read them: members by
// their paths within the type.
func (p *Project) ShownType(t *equipment.Type) *equipment.Type {
	pathOf := func(id string) (string, bool) {
		if chain, ok := strings.CutPrefix(id, "."); ok {
			path, _, _, ok := equipment.Resolve(t, chain, p.Type)
			return path, ok
		}
		if own, ok := strings.CutPrefix(id, equipment.OwnPrefix); ok {
			return own, true
		}
		return p.Path(id)
	}
	show := func(f string) (string, error) { return formula.Show(f, pathOf), nil }
	out, _ := convertType(t, show, show, func(m string) (string, error) { return formula.ShowTemplate(m, pathOf), nil })
	return out
}

// resolveIn finds what a formula of a type names: a member goes before a tag
// of the same path. An alarm's own names and the type's settings are there for
// alarms alone.
func (p *Project) resolveIn(t *equipment.Type, ofAlarm bool) func(path string) (string, bool) {
	return func(path string) (string, bool) {
		if own, ok := alarm.Names[strings.ToLower(path)]; ok && ofAlarm {
			return own, true
		}
		if chain, at, _, ok := equipment.Find(t, path, p.Type); ok && at != nil {
			return "." + chain, true
		}
		given := path == "i" || path == "name" || slices.ContainsFunc(t.Settings, func(s equipment.Setting) bool { return s.Name == path })
		if given && ofAlarm {
			return equipment.OwnPrefix + path, true
		}
		return p.resolve(path)
	}
}

// StoreFormulaOf turns a formula typed at a member of a type into its stored
// form.
func (p *Project) StoreFormulaOf(t *equipment.Type, text string) (string, error) {
	return formula.Store(text, p.resolveIn(t, false), nil)
}

// convertType returns a copy with the formulas of its members and its alarms,
// and the alarms' messages, replaced.
func convertType(t *equipment.Type, ofMember, ofAlarm, ofMessage func(string) (string, error)) (*equipment.Type, error) {
	c := *t
	c.Members = make(map[string]*equipment.Member, len(t.Members))
	for id, m := range t.Members {
		c.Members[id] = m
		if m.Tag == nil || m.Tag.Formula == "" {
			continue
		}
		f, err := ofMember(m.Tag.Formula)
		if err != nil {
			return nil, at("/members/"+id+"/tag/formula", err)
		}
		n, g := *m, *m.Tag
		g.Formula = f
		n.Tag = &g
		c.Members[id] = &n
	}
	if t.Alarms != nil {
		c.Alarms = make(map[string]*equipment.TypeAlarm, len(t.Alarms))
	}
	for id, a := range t.Alarms {
		made, place, err := a.Convert(ofAlarm, ofMessage)
		if err != nil {
			return nil, at("/alarms/"+id+place, err)
		}
		c.Alarms[id] = &equipment.TypeAlarm{Alarm: *made, Differs: a.Differs}
	}
	return &c, nil
}
