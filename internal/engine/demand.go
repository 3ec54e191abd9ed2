package engine

import (
	"time"

	"readyrail/internal/core/value"
)

// Demand tells which of the tags that are read only while they are needed are
// needed now: watched by somebody, read by a formula or an alarm, or captured
// by an alarm's message. It returns the slots
// that rest, and whether they differ from the last time.
func (e *Engine) Demand(now time.Time) (resting map[int32]bool, changed bool) {
	before := e.resting
	e.rest(now)
	if len(before) != len(e.resting) {
		return e.resting, true
	}
	for slot := range e.resting {
		if !before[slot] {
			return e.resting, true
		}
	}
	return e.resting, false
}

func (e *Engine) rest(now time.Time) {
	before := e.resting
	e.resting = make(map[int32]bool, len(e.prog.sparing))
	for _, slot := range e.prog.sparing {
		if e.prog.hot[slot].deps || e.prog.captured[slot] || e.needed(slot) {
			if before[slot] && e.frame.Slots[slot].Quality == value.BadResting {
				e.set(slot, value.Bad(e.prog.specs[slot].kind, value.BadWaiting).At(now))
				e.seen[slot] = e.mono(now)
			}
			continue
		}
		e.resting[slot] = true
		if e.frame.Slots[slot].Quality != value.BadResting {
			e.set(slot, value.Bad(e.prog.specs[slot].kind, value.BadResting).At(now))
		}
	}
}
