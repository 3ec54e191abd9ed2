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
		r, _ := p.Recording(t)
		switch {
		case r.Off:
		case r.Band != nil:
			out[id] = *r.Band
		default:
			out[id] = p.band(id)
		}
	}
	for _, a := range p.Alarms {
		// What somebody chose for a signal stands.
		if t := p.Tags[a.Tag]; t != nil && a.Deadband > 0 {
			if r, _ := p.Recording(t); r.Band != nil {
				continue
			}
		}
		if band, kept := out[a.Tag]; kept && a.Deadband > 0 {
			out[a.Tag] = math.Min(band, a.Deadband/8)
		}
	}
	return out
}

// Recording is what the recorder does with a tag: as it says itself, or the nearest
// folder above it that says something. From is the id of that folder, or of the
// tag; empty where it is the usual.
func (p *Project) Recording(t *tag.Tag) (r tag.Recording, from string) {
	if t.Record != nil {
		return *t.Record, t.ID
	}
	for id := t.Folder; id != ""; {
		f := p.Folders[id]
		if f == nil {
			break
		}
		if f.Record != nil {
			return *f.Record, id
		}
		id = f.Parent
	}
	return tag.Recording{}, ""
}

// RecordedDays are the tags that are kept for a time of their own, in days.
func (p *Project) RecordedDays() map[string]int {
	out := map[string]int{}
	for id, t := range p.Tags {
		if r, _ := p.Recording(t); r.Days > 0 && !r.Off {
			out[id] = r.Days
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
