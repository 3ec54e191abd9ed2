package project

import (
	"strconv"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/say"
)

// AdjustableLimit is the limit of an alarm that may be changed at the Desk; ok
// is false for one that may not, or whose limit is no plain number.
func AdjustableLimit(a *alarm.Alarm) (limit float64, ok bool) {
	limit, ok = FixedLimit(a)
	return limit, ok && a.AtDesk
}

// FixedLimit is the limit of an alarm that has one, where it is a number.
func FixedLimit(a *alarm.Alarm) (limit float64, ok bool) {
	limit, err := strconv.ParseFloat(a.Limit, 64)
	return limit, a.Kind.Limited() && err == nil
}

// WithLimits is the project with other limits for alarms that allow it, by the
// alarm's id; the rest is shared.
func (p *Project) WithLimits(limits map[string]string) *Project {
	next := p.fork()
	for id, text := range limits {
		a := p.Alarms[id]
		if a == nil {
			continue
		}
		if _, ok := AdjustableLimit(a); !ok || a.Limit == text {
			continue
		}
		next.take(KindAlarm)
		c := *a
		c.Limit = text
		next.Alarms[id] = &c
	}
	return next
}

// CheckLimit refuses a limit that an alarm cannot have: one that it may not
// change, that its signal never reaches, or that would stand in the wrong order
// among the limits of its signal.
func (p *Project) CheckLimit(id string, limit float64) error {
	a := p.Alarms[id]
	if a == nil {
		return say.Errorf("there is no such alarm")
	}
	if _, ok := AdjustableLimit(a); !ok {
		return say.Errorf("the limit of %s may not be changed at the Desk", p.AlarmName(a))
	}
	next := p.WithLimits(map[string]string{id: strconv.FormatFloat(limit, 'f', -1, 64)})
	before := map[string]bool{}
	for _, f := range p.alarmFindings(a.Tag) {
		before[f.Rule+f.ID+f.Place] = true
	}
	for _, f := range next.alarmFindings(a.Tag) {
		if !before[f.Rule+f.ID+f.Place] {
			return say.Errorf("%v", f)
		}
	}
	return nil
}

// alarmFindings are the findings about the limits of a signal.
func (p *Project) alarmFindings(signal string) []Finding {
	c := &checker{p: p}
	limits := map[alarm.Kind]float64{}
	for _, a := range p.AlarmsOf(signal) {
		(&alarmCheck{checker: c, a: a}).inRange(p.Tags[signal])
		if f, err := strconv.ParseFloat(a.Limit, 64); err == nil {
			limits[a.Kind] = f
		}
	}
	for _, a := range p.AlarmsOf(signal) {
		c.order(a, limits)
	}
	return c.findings
}
