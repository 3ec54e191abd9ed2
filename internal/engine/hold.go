package engine

import (
	"time"

	"readyrail/internal/core/value"
)

// Hold shows a tag at a value, in engineering units, whatever its source says,
// until GiveBack. A held value is of quality Held. It outlives new programs;
// while a program has no such tag, or one of another kind, it waits.
func (e *Engine) Hold(id string, v value.Value, now time.Time) {
	e.held[id] = v.With(value.Held)
	e.rehold(now)
	e.runComputed(now)
}

// GiveBack shows the source's value again.
func (e *Engine) GiveBack(id string, now time.Time) {
	delete(e.held, id)
	slot, ok := e.prog.slots[id]
	if !ok || e.shadow[slot] == nil {
		return
	}
	e.scratch = *e.shadow[slot]
	delete(e.shadow, slot)
	e.expose(slot, true)
	e.runComputed(now)
}

// Held tells what a tag is held at.
func (e *Engine) Held(id string) (value.Value, bool) { v, ok := e.held[id]; return v, ok }

// rehold brings the held values into their slots. A slot that is not shadowed
// yet keeps its present value as what its source says.
func (e *Engine) rehold(now time.Time) {
	old := e.shadow
	e.shadow = map[int32]*value.Value{}
	for id, v := range e.held {
		slot, ok := e.prog.slots[id]
		if !ok || e.prog.specs[slot].kind != v.Kind {
			continue
		}
		under := e.frame.Slots[slot]
		if was := old[slot]; was != nil && under.Quality == value.Held {
			under = *was
		}
		e.shadow[slot] = &under
		e.scratch = v.At(now)
		e.expose(slot, true)
	}
}
