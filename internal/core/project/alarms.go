package project

import (
	"encoding/json"
	"slices"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// AlarmName is what an alarm is called in lists: its signal's path and its own
// name.
func (p *Project) AlarmName(a *alarm.Alarm) string {
	if path, ok := p.Path(a.Tag); ok {
		return path + " · " + a.Name
	}
	return a.Name
}

// AlarmArea is the area of an alarm: its own, or that of its signal.
func (p *Project) AlarmArea(a *alarm.Alarm) string {
	if t := p.Tags[a.Tag]; a.Area == "" && t != nil {
		return p.AreaOf(t)
	}
	return a.Area
}

// AlarmAreas lists the areas that alarms lie in, sorted; the empty one is the whole
// plant.
func (p *Project) AlarmAreas() []string {
	p.alarmAreasOnce.Do(func() {
		areas := map[string]bool{}
		for _, a := range p.Alarms {
			areas[p.AlarmArea(a)] = true
		}
		p.alarmAreas = SortedKeys(areas)
	})
	return p.alarmAreas
}

// SortedAlarms lists the ids of the alarms by name.
func (p *Project) SortedAlarms() []string {
	names := make(map[string]string, len(p.Alarms))
	for id, a := range p.Alarms {
		names[id] = p.AlarmName(a)
	}
	ids := SortedKeys(p.Alarms)
	slices.SortFunc(ids, func(a, b string) int { return tag.Compare(names[a], names[b]) })
	return ids
}

// AlarmFormula is a stored formula of an alarm with its own names replaced by
// what they stand for, ready to be compiled.
func (p *Project) AlarmFormula(a *alarm.Alarm, stored string) string {
	return formula.Substitute(stored, func(id, _ string) (string, bool) {
		switch id {
		case "$value":
			path, _ := p.Path(a.Tag)
			return formula.Reference(a.Tag, path), true
		case "$limit":
			return "(" + a.Limit + ")", a.Limit != ""
		case "$target":
			return "(" + a.Target + ")", a.Target != ""
		}
		return "", false
	})
}

// AlarmsOf lists the alarms of a tag, the most urgent first.
func (p *Project) AlarmsOf(id string) []*alarm.Alarm {
	p.alarmsOnce.Do(func() {
		p.alarmsOf = map[string][]*alarm.Alarm{}
		for _, aid := range p.SortedAlarms() {
			a := p.Alarms[aid]
			p.alarmsOf[a.Tag] = append(p.alarmsOf[a.Tag], a)
		}
	})
	return p.alarmsOf[id]
}

// AlarmWith is an alarm with some of its properties as somebody proposes them,
// in shown form; nothing is altered.
func (p *Project) AlarmWith(id string, set map[string]json.RawMessage) (*alarm.Alarm, error) {
	a := p.Alarms[id]
	if a == nil {
		return nil, say.New("there is no such alarm")
	}
	doc := mustJSON(p.ShownAlarm(a))
	for _, name := range SortedKeys(set) {
		var err error
		if doc, err = setValue(doc, "/"+name, set[name]); err != nil {
			return nil, err
		}
	}
	return p.typedAlarm(id, doc)
}
