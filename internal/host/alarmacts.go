package host

import (
	"context"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/engine"
	"readyrail/internal/run"
)

// AlarmAct is what a person asks of alarms, and what is answered to what that
// asks.
type AlarmAct struct {
	Alarms   []string    `json:"alarms" maxItems:"5000" minItems:"1"`
	Act      alarm.Event `json:"act" enum:"acknowledged,reset,shelved,unshelved,removed,in-service"`
	Minutes  int         `json:"minutes,omitempty" doc:"of a shelf"`
	Language string      `json:"language,omitempty" maxLength:"12" doc:"of what is asked; empty for the project's first"`
	Given
}

// setsAside tells whether the act takes alarms away from who watches.
func (act *AlarmAct) setsAside() bool { return act.Act == alarm.Shelve || act.Act == alarm.Remove }

// right is the one that the act takes in each alarm's area.
func (act *AlarmAct) right() access.Right {
	if act.Act == alarm.Ack || act.Act == alarm.Reset {
		return access.Acknowledge
	}
	return access.Shelve
}

// ActOnAlarms does it for the alarms of the release. Alarms that it means
// nothing for in their present state, as another desk was quicker, are left
// alone; done counts the others. Where something is asked that the act doesn't
// answer nothing is done, and the error is an *Asks.
//
// It returns once the acts are on disk. Where the disk does not take them they
// stand all the same, recorded is false, and they are recorded as soon as it
// does: nobody is kept from acknowledging an alarm.
func (p *Project) ActOnAlarms(ctx context.Context, who Actor, act AlarmAct) (done int, recorded bool, err error) {
	version, runner := p.Released(), p.runs.Runner(run.Release)
	if version == nil || runner == nil {
		return 0, false, refused("nothing is released yet")
	}
	if err := p.Somewhere(ctx, who, act.right()); err != nil {
		return 0, false, err
	}
	if act.Reason, err = tidyReason(act.Reason); err != nil {
		return 0, false, err
	}
	if err := p.mayAct(ctx, version, who, &act); err != nil {
		return 0, false, err
	}
	signed, err := p.askedToSetAside(ctx, version, who, &act)
	if err != nil {
		return 0, false, err
	}
	now := time.Now()
	until := now.Add(time.Duration(act.Minutes) * time.Minute)
	var acted []audit.Record
	runner.Do(func(e *engine.Engine) {
		for _, id := range act.Alarms {
			if e.ActOnAlarm(id, act.Act, now, until, who.Name, act.Reason) {
				acted = append(acted, alarmRecord(version, version.Alarms[id], who, &act, now, until, signed))
			}
		}
	})
	kept := p.runs.Door().NoteAll(ctx, acted)
	return len(acted), p.records.Journal.Flush(true) == nil && kept, nil
}

// mayAct refuses what may not be done to one of the alarms.
func (p *Project) mayAct(ctx context.Context, version *project.Project, who Actor, act *AlarmAct) error {
	may := areaRights{p: p, ctx: ctx, who: who, known: map[string]bool{}}
	for _, id := range act.Alarms {
		a := version.Alarms[id]
		switch {
		case a == nil:
			return refused("one of the alarms is no longer in the release: load the list again")
		case !may.has(act.right(), version.AlarmArea(a)):
			return p.Require(ctx, who, act.right(), version.AlarmArea(a))
		case act.Act == alarm.Shelve && (act.Minutes < 1 || act.Minutes > a.Longest()):
			return refused("%s may be shelved for 1 to %d minutes", version.AlarmName(a), a.Longest())
		}
	}
	return nil
}

// askedToSetAside asks what the rules ask before alarms are set aside, of all of
// them together; a second person has to have the right for each.
func (p *Project) askedToSetAside(ctx context.Context, version *project.Project, who Actor, act *AlarmAct) (by audit.Witness, err error) {
	if !act.setsAside() {
		return by, nil
	}
	roles := p.rolesOf(ctx, who, act.right())
	var asked []project.Asked
	areas := map[string]bool{}
	for _, id := range act.Alarms {
		asked = append(asked, version.AskedOfAlarm(version.Alarms[id], access.DoesShelve, roles))
		areas[version.AlarmArea(version.Alarms[id])] = true
	}
	first := version.Alarms[act.Alarms[0]]
	all, name := project.Together(asked...), version.AlarmName(first)
	sign := &undersigned{p, version, who, all, act.Given, act.right(), project.SortedKeys(areas), name}
	return sign.ask(ctx, act.Language)
}

// alarmRecord is an act on one alarm as the trail has it.
func alarmRecord(version *project.Project, a *alarm.Alarm, who Actor, act *AlarmAct, now, until time.Time,
	by audit.Witness) audit.Record {
	path, _ := version.Path(a.Tag)
	told := string(act.Act)
	if act.Act == alarm.Shelve {
		told += ", until " + until.Format("2006-01-02 15:04")
	}
	return audit.Record{At: now.UnixNano(), What: audit.AlarmAct, Person: who.ID, Name: who.Name, Panel: who.Panel, Tag: a.Tag, Path: path,
		Element: a.Name, New: told, Reason: act.Reason, Sign: by.Sign, Captured: by.Captured}
}
