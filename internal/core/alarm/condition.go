package alarm

import (
	"time"

	"readyrail/internal/core/value"
)

// condition tells what the alarm's condition says; known is false where bad
// quality leaves it open, and the alarm keeps its state.
func (r *Runtime) condition(in Inputs, now time.Time) (holds, known bool) {
	s := in.Signal
	if r.Kind == Quality {
		return s.Quality.IsBad(), !ofTheLink(s.Quality)
	}
	if s.Quality.IsBad() {
		broken := r.OnBad && !ofTheLink(s.Quality)
		return broken, broken
	}
	switch r.Kind {
	case State, Formula:
		return s.Bool() != (r.Inverted && r.Kind == State), s.Kind == value.BOOL
	case Discrepancy:
		t := in.Target
		return !same(s, t), !t.Quality.IsBad() && t.Kind != value.None
	}
	limit := in.Limit
	if limit.Quality.IsBad() || !limit.Kind.IsNumber() || !s.Kind.IsNumber() {
		return false, false
	}
	v, at := s.Float(), limit.Float()
	switch r.Kind {
	case Deviation:
		t := in.Target
		if t.Quality.IsBad() || !t.Kind.IsNumber() {
			return false, false
		}
		return r.beyond(r.Side.of(v-t.Float()), at), true
	case Rate:
		return r.beyond(r.Side.of(r.moved(v, now)), at), true
	case LowLimit, LowLow:
		return r.beyond(-v, -at), true
	}
	return r.beyond(v, at), true
}

// ofTheLink tells whether a value is bad for its device's sake and not its own:
// the link has an alarm for all its points, and a flood of theirs would hide it.
func ofTheLink(q value.Quality) bool {
	switch q {
	case value.BadWaiting, value.BadNotConnected, value.BadNoAnswer, value.BadStale, value.BadOff, value.BadResting, value.BadGone,
		value.BadUnrecorded:
		return true
	}
	return false
}

// Threshold is where the signal of a usual alarm, one whose limit is a number,
// would have to go for a step to change anything.
type Threshold struct {
	sign, at float64
	on       bool
}

// Threshold returns it while nothing else is under way: no delay, no shelf, no
// bad quality. ok is false where every change needs a step.
func (r *Runtime) Threshold(limit float64) (t Threshold, ok bool) {
	t = Threshold{1, limit, r.Active}
	switch r.Kind {
	case HighLimit, HighHigh:
	case LowLimit, LowLow:
		t.sign, t.at = -1, -limit
	default:
		return t, false
	}
	if r.Active {
		t.at -= r.Deadband
	}
	return t, !r.Bad && !r.Off && !r.Suppressed && r.Standing != Shelved && r.since.IsZero()
}

// Crossed tells whether a good value needs a step.
func (t *Threshold) Crossed(v float64) bool { return (v*t.sign > t.at) != t.on }

// beyond compares with a limit; one that has come has to go back by the
// deadband.
func (r *Runtime) beyond(v, limit float64) bool {
	if r.Active {
		return v > limit-r.Deadband
	}
	return v > limit
}

func same(a, b value.Value) bool {
	switch {
	case a.Kind == value.BOOL || b.Kind == value.BOOL:
		return a.Kind == b.Kind && a.Bool() == b.Bool()
	case a.Kind.IsNumber() && b.Kind.IsNumber():
		return a.Float() == b.Float()
	}
	return a.Text() == b.Text()
}

// rateSamples is into how many parts the window of a rate is cut.
const rateSamples = 20

// moved keeps the signal's course and returns how far it went within the
// window.
func (r *Runtime) moved(v float64, now time.Time) float64 {
	if n := len(r.rate); n > 0 && now.Before(r.rate[n-1].at) {
		r.rate = nil // the clock went back: what was before tells nothing
	}
	step := r.window() / rateSamples
	if n := len(r.rate); n == 0 || now.Sub(r.rate[n-1].at) >= step {
		r.rate = append(r.rate, sample{now, v})
	}
	from := now.Add(-r.window())
	for len(r.rate) > 1 && !r.rate[1].at.After(from) {
		r.rate = r.rate[1:]
	}
	return v - r.rate[0].v
}
