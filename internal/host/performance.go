package host

import (
	"context"
	"slices"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/engine"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// Bounds of what performance is computed of.
const (
	mostPerformance = 366 * 24 * time.Hour
	mostHappenings  = 1_000_000
)

// AlarmPerformance says how the alarms of an area and of those within it did;
// of all that the person may see where none is given.
func (p *Project) AlarmPerformance(ctx context.Context, who Actor, from, to time.Time, area string) (*alarm.Performance, error) {
	version := p.Released()
	if version == nil {
		version = p.Draft()
	}
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	switch {
	case !to.After(from):
		return nil, refused("the time ends before it begins")
	case to.Sub(from) > mostPerformance:
		return nil, refused("performance is computed of a year at most")
	}
	may := areaRights{p: p, ctx: ctx, who: who, known: map[string]bool{}}
	wanted := func(of string) bool {
		return (area == "" || slices.Contains(version.AreaPath(of), area)) && may.has(access.View, of)
	}
	var list []alarm.Happening
	err := p.records.Journal.AlarmEntries(ctx, from.UnixNano(), to.UnixNano(), func(e *store.Entry) bool {
		if e.Priority >= 0 && e.Priority < len(alarm.Priorities) && wanted(e.Area) {
			list = append(list, alarm.Happening{At: time.Unix(0, e.At), Alarm: e.Alarm, Name: e.Name, Area: e.Area,
				Priority: alarm.Priorities[e.Priority], On: alarm.Event(e.What), To: alarm.Standing(e.State)})
		}
		return len(list) <= mostHappenings
	})
	if len(list) > mostHappenings {
		return nil, refused("more than %d entries of alarms lie in this time: choose a shorter one, or an area", mostHappenings)
	}
	if err != nil {
		return nil, err
	}
	standing := map[string]alarm.Happening{}
	if !to.Before(time.Now()) {
		standing = p.standingNow(wanted)
	}
	out := alarm.Performed(list, standing, from, to)
	return &out, nil
}

// standingNow lists the alarms of the release whose condition holds now.
func (p *Project) standingNow(wanted func(area string) bool) map[string]alarm.Happening {
	out := map[string]alarm.Happening{}
	version, runner := p.Released(), p.runs.Runner(run.Release)
	if version == nil || runner == nil {
		return out
	}
	var list []engine.Alarm
	runner.Do(func(e *engine.Engine) { list = e.Alarms() })
	for _, a := range list {
		area := version.AlarmArea(a.Alarm)
		if a.Standing.Annunciated() && a.Active && wanted(area) {
			out[a.Alarm.ID] = alarm.Happening{At: a.Raised, Alarm: a.Alarm.ID, Name: version.AlarmName(a.Alarm), Area: area, Priority: a.Priority,
				To: a.Standing}
		}
	}
	return out
}
