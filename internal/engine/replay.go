package engine

import (
	"fmt"
	"math"
	"slices"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
)

// Course is what tags were over time, by id, oldest first.
type Course map[string][]history.Sample

// Replayed is what an alarm would have done over a recorded time.
type Replayed struct {
	Spells   []alarm.Spell
	Texts    []string // the message as each spell began
	Count    int
	Stood    time.Duration // in all
	Longest  time.Duration
	Chatter  int
	Fleeting int
}

// Replay plays a course through an alarm, with its own condition, delays,
// deadband and suppression. Nobody acknowledges and nobody shelves: it tells
// what the settings do.
func Replay(proj *project.Project, a *alarm.Alarm, course Course, from, to time.Time) (Replayed, error) {
	r, err := newReplay(proj, a, course, from, to)
	if err != nil {
		return Replayed{}, err
	}
	return r.play(a), nil
}

// replay holds a course that several settings are played through.
type replay struct {
	spec     *alarmSpec
	from, to time.Time
	start    []value.Value
	moves    []move
}

// move is a value of a slot at a time.
type move struct {
	at   int64
	slot int32
	v    value.Value
}

func newReplay(proj *project.Project, a *alarm.Alarm, course Course, from, to time.Time) (*replay, error) {
	ids := proj.AlarmInputs(a)
	for _, id := range formula.TemplateReferences(a.Message) {
		if proj.Tags[id] != nil && !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	slots := map[string]int32{}
	r := &replay{from: from, to: to, start: make([]value.Value, len(ids))}
	for i, id := range ids {
		slot, kind := int32(i), proj.Tags[id].Kind()
		slots[id] = slot
		r.start[i] = value.Bad(kind, value.BadWaiting)
		for _, s := range course[id] {
			r.moves = append(r.moves, move{s.At, slot, s.Back(kind).AtNanos(s.At)})
		}
	}
	slices.SortStableFunc(r.moves, func(x, y move) int {
		switch {
		case x.at < y.at:
			return -1
		case x.at > y.at:
			return 1
		}
		return 0
	})
	r.spec = newAlarmSpec(proj, a, formula.Scope{Path: proj.Path, Tag: func(id string) (int32, value.Kind, bool) {
		slot, ok := slots[id]
		if !ok {
			return 0, 0, false
		}
		return slot, proj.Tags[id].Kind(), true
	}})
	if r.spec.broken {
		return nil, fmt.Errorf("the alarm's condition cannot be read: see its findings")
	}
	return r, nil
}

// play runs settings of the same alarm: delays, deadband, and a limit that is
// a number.
func (r *replay) play(a *alarm.Alarm) Replayed {
	c := *a
	c.Off, c.Latch, c.NoAck = false, false, true
	run := &replayRun{replay: r, engine: &Engine{frame: formula.Frame{Slots: slices.Clone(r.start)}},
		alarm: alarm.New(&c, alarm.Kept{}, r.from)}
	for i := 0; i < len(r.moves); {
		m := r.moves[i]
		now := time.Unix(0, m.at)
		run.until(now)
		// What changed at one time is one step.
		for ; i < len(r.moves) && r.moves[i].at == m.at; i++ {
			run.engine.frame.Slots[r.moves[i].slot] = r.moves[i].v
		}
		if now.Before(r.from) {
			now = r.from
		}
		run.step(now)
	}
	run.until(r.to)
	return run.sum()
}

type replayRun struct {
	*replay
	engine *Engine
	alarm  *alarm.Runtime
	due    time.Time
	out    Replayed
	stands bool
}

// until takes the steps that the clock asks for before a time.
func (r *replayRun) until(now time.Time) {
	for !r.due.IsZero() && r.due.Before(now) {
		r.step(r.due)
	}
}

func (r *replayRun) step(now time.Time) {
	changes, due := r.alarm.Step(r.engine.inputs(r.spec), now)
	if !due.After(now) {
		due = time.Time{}
	}
	r.due = due
	for _, c := range changes {
		switch on := c.To.Annunciated(); {
		case on && !r.stands:
			r.out.Spells = append(r.out.Spells, alarm.Spell{From: c.At})
			r.out.Texts = append(r.out.Texts, r.engine.say(r.spec, r.spec.message, now))
		case !on && r.stands:
			r.out.Spells[len(r.out.Spells)-1].To = c.At
		}
		r.stands = c.To.Annunciated()
	}
}

func (r *replayRun) sum() Replayed {
	o := &r.out
	o.Count = len(o.Spells)
	for _, s := range o.Spells {
		end := s.To
		if end.IsZero() {
			end = r.to
		}
		o.Stood += end.Sub(s.From)
		o.Longest = max(o.Longest, end.Sub(s.From))
	}
	o.Chatter, _ = alarm.Chatter(o.Spells)
	o.Fleeting = alarm.FleetingOf(o.Spells)
	return *o
}

// Cure is a setting that would have kept an alarm from being a nuisance.
type Cure struct {
	Setting string  // deadband, onDelay or offDelay
	Value   float64 // in the signal's unit, or seconds
	Count   int     // how often it would have come
	Stood   time.Duration
}

// Seconds that are tried as delays; ISA-18.2 warns of longer ones.
var triedDelays = []float64{1, 2, 5, 10, 15, 20, 30, 60, 120}

// triedSteps is how many deadbands are tried, each by a factor of 1, 2 or 5.
const triedSteps = 12

// Cures tries deadbands and delays on a course and returns the smallest of
// each that would have kept the alarm from chattering and from being fleeting,
// and yet from never coming at all. Without nuisance there is nothing to cure.
func Cures(proj *project.Project, a *alarm.Alarm, course Course, from, to time.Time) ([]Cure, error) {
	r, err := newReplay(proj, a, course, from, to)
	if err != nil {
		return nil, err
	}
	now := r.play(a)
	if now.Chatter == 0 && now.Fleeting == 0 {
		return nil, nil
	}
	var out []Cure
	try := func(setting string, values []float64, set func(*alarm.Alarm, float64)) {
		for _, v := range values {
			c := *a
			set(&c, v)
			got := r.play(&c)
			if got.Chatter == 0 && got.Fleeting == 0 && got.Count > 0 {
				out = append(out, Cure{setting, v, got.Count, got.Stood})
				return
			}
		}
	}
	if a.Kind.Limited() {
		try("deadband", r.bands(a), func(c *alarm.Alarm, v float64) { c.Deadband = v })
	}
	try("offDelay", above(triedDelays, a.OffDelay), func(c *alarm.Alarm, v float64) { c.OffDelay = v })
	try("onDelay", above(triedDelays, a.OnDelay), func(c *alarm.Alarm, v float64) { c.OnDelay = v })
	return out, nil
}

func above(list []float64, than float64) []float64 {
	for i, v := range list {
		if v > than {
			return list[i:]
		}
	}
	return nil
}

// bands are deadbands to try: from a thousandth of what the signal moved in
// all, by 1, 2 and 5.
func (r *replay) bands(a *alarm.Alarm) []float64 {
	low, high := math.Inf(1), math.Inf(-1)
	for _, m := range r.moves {
		if m.slot == r.spec.slot && !m.v.Quality.IsBad() {
			low, high = min(low, m.v.Float()), max(high, m.v.Float())
		}
	}
	if !(high > low) {
		return nil
	}
	var out []float64
	power := math.Pow(10, math.Floor(math.Log10((high-low)/1000)))
	for i := range triedSteps {
		out = append(out, round(power*[]float64{1, 2, 5}[i%3]))
		if i%3 == 2 {
			power *= 10
		}
	}
	return above(out, a.Deadband)
}

// round takes away what binary fractions leave behind.
func round(v float64) float64 {
	scale := math.Pow(10, 6-math.Floor(math.Log10(v)))
	return math.Round(v*scale) / scale
}
