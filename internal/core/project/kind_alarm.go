package project

import (
	"encoding/json"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
)

// KindAlarm are the alarms, those of equipment too.
const KindAlarm = "alarm"

var alarmKind = &kindOf[alarm.Alarm]{
	ThingKind: ThingKind{Name: KindAlarm, Stop: StopAlarms, Opens: true, Paths: true},
	of:        func(p *Project) *map[string]*alarm.Alarm { return &p.Alarms },
	read:      (*Project).readAlarm,
	show:      (*Project).ShownAlarm,
	name:      func(p *Project, _ string, a *alarm.Alarm) string { return p.AlarmName(a) },
	note:      func(a *alarm.Alarm) string { return a.Class },
	refers: func(_ *Project, a *alarm.Alarm, say func(target, place, within string)) {
		say(a.Tag, "/tag", "")
		say(a.Screen, "/screen", "")
		say(a.Area, "/area", "")
		for place, text := range a.Formulas() {
			for _, ref := range formula.References(text) {
				say(ref, place, "")
			}
		}
		for _, ref := range formula.TemplateReferences(a.Message + a.Gone) {
			say(ref, "/message", "")
		}
	},
	texts: func(p *Project, _ string, a *alarm.Alarm, say sayText) {
		for _, text := range []string{a.Name, a.Message, a.Guidance.Cause, a.Guidance.Consequence, a.Guidance.Action} {
			say(text, p.AlarmName(a))
		}
	},
	made:  func(p *Project, id string) bool { _, made := p.gear.alarms[id]; return made },
	check: (*checker).alarms,
	work:  func(p *Project) int { return len(p.Alarms) },
	editRules: editRules{
		translate: func(p *Project, op Op) ([]Op, error) {
			g, made := p.gear.alarms[op.ID]
			if !made {
				return nil, nil
			}
			return p.translateMade(op, g, p.AlarmName(p.Alarms[op.ID]))
		},
	},
}

// readAlarm checks an alarm; it alters nothing of the project.
func (p *Project) readAlarm(id string, a *alarm.Alarm, shown bool) (*alarm.Alarm, error) {
	a.ID = id
	if path, err := a.Check(); err != nil {
		return nil, at(path, err)
	}
	if !shown {
		return a, nil
	}
	return p.storedAlarm(a)
}

// typedAlarm reads an alarm's document as people see it.
func (p *Project) typedAlarm(id string, doc json.RawMessage) (*alarm.Alarm, error) {
	a := &alarm.Alarm{}
	if err := decode(doc, a); err != nil {
		return nil, err
	}
	return p.readAlarm(id, a, true)
}

// storedAlarm turns an alarm's formulas and message as typed into their stored
// form.
func (p *Project) storedAlarm(a *alarm.Alarm) (*alarm.Alarm, error) {
	resolve := func(path string) (string, bool) {
		if own, ok := alarm.Names[strings.ToLower(path)]; ok {
			return own, true
		}
		return p.resolve(path)
	}
	out, path, err := a.Convert(
		func(f string) (string, error) { return formula.Store(f, resolve, nil) },
		func(t string) (string, error) { return formula.StoreTemplate(t, resolve, nil) })
	return out, at(path, err)
}

// ShownAlarm returns an alarm with its formulas as people read them.
func (p *Project) ShownAlarm(a *alarm.Alarm) *alarm.Alarm {
	out, _, _ := a.Convert(
		func(f string) (string, error) { return formula.Show(f, p.wordPath), nil },
		func(t string) (string, error) { return formula.ShowTemplate(t, p.wordPath), nil })
	return out
}
