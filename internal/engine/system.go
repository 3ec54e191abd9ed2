package engine

import (
	"time"

	"readyrail/internal/core/value"
)

// tellTime sets the system tags that tell date and time.
func (e *Engine) tellTime(now time.Time) {
	for _, slot := range e.prog.systems {
		s := e.prog.specs[slot]
		var v value.Value
		switch s.tag.System {
		case "clock":
			v = value.Str(now.Format("2006-01-02 15:04:05"))
		case "clock.unix":
			v = value.Int(s.kind, now.Unix())
		case "clock.year":
			v = value.Int(s.kind, int64(now.Year()))
		case "clock.month":
			v = value.Int(s.kind, int64(now.Month()))
		case "clock.day":
			v = value.Int(s.kind, int64(now.Day()))
		case "clock.weekday":
			v = value.Int(s.kind, int64((now.Weekday()+6)%7+1))
		case "clock.hour":
			v = value.Int(s.kind, int64(now.Hour()))
		case "clock.minute":
			v = value.Int(s.kind, int64(now.Minute()))
		case "clock.second":
			v = value.Int(s.kind, int64(now.Second()))
		default:
			continue
		}
		e.set(slot, v.At(now))
	}
	e.runComputed(now)
}

// SetSystem sets a system tag by its slot; a value of another kind, or a slot
// that holds no system tag any more, is left alone.
func (e *Engine) SetSystem(slot int32, v value.Value, now time.Time) {
	if int(slot) >= len(e.prog.specs) {
		return
	}
	if s := e.prog.specs[slot]; s != nil && s.tag.System != "" && s.kind == v.Kind {
		e.set(slot, v.At(now))
		e.runComputed(now)
	}
}

// Retained lists the values of the internal tags that outlive a restart.
func (e *Engine) Retained() map[string]value.Value {
	out := map[string]value.Value{}
	for i, s := range e.prog.specs {
		if s == nil || !s.tag.Retain || s.tag.Source != "internal" {
			continue
		}
		v := e.frame.Slots[i]
		if under := e.shadow[int32(i)]; under != nil {
			v = *under
		}
		if !v.Quality.IsBad() {
			out[s.tag.ID] = v
		}
	}
	return out
}
