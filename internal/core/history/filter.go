// Package history holds what is kept of a signal's course, and how: which
// samples are worth keeping.
package history

import (
	"math"
	"time"

	"readyrail/internal/core/value"
)

// Sample is what a tag was at a time, in its own unit; a BOOL is 0 or 1. It
// holds until the next one.
type Sample struct {
	At      int64 // nanoseconds since 1970, UTC
	Value   float64
	Quality value.Quality
}

// Filter keeps a value when the signal has moved by more than a band since the
// last kept one, when its quality or its text changed, or when that is long ago.
// The value right before a move is kept with it, so that a step stays a step.
type Filter struct {
	Band  float64       // in the signal's unit; 0 keeps every change
	Every time.Duration // the longest that nothing is kept; 0 for no such limit

	last, held value.Value
	begun      bool
	holds      bool
}

// Take looks at a value at its own time and appends what is to be kept. After a
// clock was stepped back it begins anew; a second one of the same time is left out.
func (f *Filter) Take(v value.Value, out []value.Value) []value.Value {
	switch {
	case !f.begun:
	case v.Nanos() == f.last.Nanos():
		return out
	case v.Nanos() < f.last.Nanos():
	case f.moved(v):
		if f.holds && f.held.Nanos() > f.last.Nanos() && v.Kind != value.STRING {
			out = append(out, f.held)
		}
	case f.Every == 0 || v.Nanos()-f.last.Nanos() < int64(f.Every):
		f.held, f.holds = v, true
		return out
	}
	f.begun, f.last, f.holds = true, v, false
	return append(out, v)
}

// Last is the time of what was kept last; 0 for nothing.
func (f *Filter) Last() int64 {
	if !f.begun {
		return 0
	}
	return f.last.Nanos()
}

// Due keeps what holds when that is long ago, though nothing comes.
func (f *Filter) Due(now int64, out []value.Value) []value.Value {
	if past := now - f.last.Nanos(); !f.begun || f.Every == 0 || past >= 0 && past < int64(f.Every) {
		return out
	}
	f.last, f.holds = f.last.AtNanos(now), false
	return append(out, f.last)
}

func (f *Filter) moved(v value.Value) bool {
	switch {
	case v.Kind != f.last.Kind || v.Quality != f.last.Quality:
		return true
	case v.Quality.IsBad():
		return false
	case f.Band > 0 && v.Kind.IsNumber():
		return !(math.Abs(v.Float()-f.last.Float()) <= f.Band)
	}
	return !v.Same(f.last)
}

// Back makes a value of a kind of a sample again.
func (s Sample) Back(k value.Kind) value.Value {
	switch {
	case s.Quality.IsBad():
		return value.Bad(k, s.Quality)
	case k == value.BOOL:
		return value.Bool(s.Value != 0).With(s.Quality)
	case k.IsReal():
		return value.Real(k, s.Value).With(s.Quality)
	}
	return value.Int(k, int64(s.Value)).With(s.Quality)
}
