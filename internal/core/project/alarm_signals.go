package project

import (
	"math"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
)

// AlarmInputs lists the ids of the tags that an alarm's condition looks at, its
// signal first.
func (p *Project) AlarmInputs(a *alarm.Alarm) []string {
	var out []string
	seen := map[string]bool{}
	add := func(id string) {
		if p.Tags[id] != nil && !seen[id] {
			seen[id] = true
			out = append(out, id)
		}
	}
	if a.Kind != alarm.Formula {
		add(a.Tag)
	}
	formulas := a.Formulas()
	for _, place := range SortedKeys(formulas) {
		for _, id := range formula.References(p.AlarmFormula(a, formulas[place])) {
			add(id)
		}
	}
	add(a.Tag)
	return out
}

// Recorded are the tags whose course is kept, each with the band within which a
// move is not worth keeping, in its unit: all but those that only tell the time,
// and those that differ from desk to desk. Of an alarm's signal the band lies
// well within the alarm's own. Nobody alters the map.
func (p *Project) Recorded() map[string]float64 {
	p.recordedOnce.Do(func() { p.recorded = p.findRecorded() })
	return p.recorded
}

func (p *Project) findRecorded() map[string]float64 {
	out := make(map[string]float64, len(p.Tags))
	for id, t := range p.Tags {
		if s, ok := tag.SystemValueOf(t.System); t.Source == tag.System && (!ok || s.Own || s.Time) {
			continue
		}
		out[id] = p.band(id)
	}
	for _, a := range p.Alarms {
		if band, kept := out[a.Tag]; kept && a.Deadband > 0 {
			out[a.Tag] = math.Min(band, a.Deadband/8)
		}
	}
	return out
}

// bandShare is the part of a signal's range that a move has to exceed.
const bandShare = 1.0 / 1000

func (p *Project) band(id string) float64 {
	t := p.Tags[id]
	low, high, ranged := t.Range()
	switch {
	case !t.Kind().IsReal():
		return 0
	case ranged:
		return (high - low) * bandShare
	case t.Decimals != nil:
		return math.Pow10(-*t.Decimals) / 2
	}
	return 0
}
