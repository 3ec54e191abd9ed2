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
	p.recordedOnce.Do(p.findRecorded)
	return p.recorded
}

// RecordedDays are the tags that are kept for a time of their own, in days. Nobody
// alters the map.
func (p *Project) RecordedDays() map[string]int {
	p.recordedOnce.Do(p.findRecorded)
	return p.recordedDays
}

func (p *Project) findRecorded() {
	p.recorded, p.recordedDays = make(map[string]float64, len(p.Tags)), map[string]int{}
	said := false // by some folder
	for _, f := range p.Folders {
		said = said || f.Record != nil
	}
	chosen := map[string]bool{} // tags whose bands are
	for id, t := range p.Tags {
		if s, ok := tag.SystemValueOf(t.System); t.Source == tag.System && (!ok || s.Own || s.Time) {
			continue
		}
		var r tag.Recording
		if said || t.Record != nil {
			r, _ = p.Recording(t)
		}
		switch {
		case r.Off:
			continue
		case r.Band != nil:
			p.recorded[id], chosen[id] = *r.Band, true
		default:
			p.recorded[id] = p.band(id)
		}
		if r.Days > 0 {
			p.recordedDays[id] = r.Days
		}
	}
	for _, a := range p.Alarms {
		if band, kept := p.recorded[a.Tag]; kept && a.Deadband > 0 && !chosen[a.Tag] {
			p.recorded[a.Tag] = math.Min(band, a.Deadband/8)
		}
	}
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
