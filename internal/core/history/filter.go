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

// Filter keeps a sample when the signal has moved by more than a band since
// the last kept one, when its quality changed, or when that is long ago. The
// sample right before a move is kept with it, so that a step stays a step.
type Filter struct {
	Band  float64       // in the signal's unit; 0 keeps every change
	Every time.Duration // the longest that nothing is kept; 0 for no such limit

	last, held Sample
	begun      bool
	holds      bool
}

// Take looks at a sample and appends what is to be kept. One that is not later
// than the last is left out: a clock that was stepped back tells nothing.
func (f *Filter) Take(s Sample, out []Sample) []Sample {
	if s.Quality.IsBad() || math.IsNaN(s.Value) || math.IsInf(s.Value, 0) {
		s.Value = 0
	}
	switch {
	case !f.begun:
	case s.At <= f.last.At:
		return out
	case s.Quality != f.last.Quality, math.Abs(s.Value-f.last.Value) > f.Band:
		if f.holds && f.held.At > f.last.At {
			out = append(out, f.held)
		}
	case f.Every == 0 || s.At-f.last.At < int64(f.Every):
		f.held, f.holds = s, true
		return out
	}
	f.begun, f.last, f.holds = true, s, false
	return append(out, s)
}

// Of makes a sample of a value; ok is false for texts, which have no course.
func Of(v value.Value, at time.Time) (s Sample, ok bool) {
	s = Sample{At: at.UnixNano(), Quality: v.Quality}
	switch {
	case v.Quality.IsBad():
	case v.Kind == value.BOOL:
		if v.Bool() {
			s.Value = 1
		}
	case v.Kind.IsNumber():
		s.Value = v.Float()
	default:
		return s, false
	}
	return s, v.Kind != value.STRING
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
