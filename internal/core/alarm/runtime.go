package alarm

import (
	"time"

	"readyrail/internal/core/value"
)

// Kept is what of an alarm outlives a restart and a release.
type Kept struct {
	Standing   Standing  `json:"standing"`
	Active     bool      `json:"active"` // the condition holds, after delays and deadband
	Since      time.Time `json:"since"`  // when it came into this state
	Raised     time.Time `json:"raised,omitzero"`
	Until      time.Time `json:"until,omitzero"` // end of the shelf
	Suppressed bool      `json:"suppressed,omitempty"`
	Text       string    `json:"text,omitempty"` // the message as it was when it was raised
	// Texts is the same in the project's further languages, by their codes.
	Texts  map[string]string `json:"texts,omitempty"`
	Value  string            `json:"value,omitempty"`
	Bound  string            `json:"bound,omitempty"`  // the limit then
	By     string            `json:"by,omitempty"`     // who brought it into this state
	Reason string            `json:"reason,omitempty"` // why it was set aside
}

// Change is a transition that happened.
type Change struct {
	Alarm string
	On    Event
	From  Standing
	To    Standing
	At    time.Time
}

// Runtime is one alarm in a running program. Its inputs are given with each
// step; it keeps nothing of the outside.
type Runtime struct {
	*Alarm
	Kept
	// Bad says that its condition cannot be told now; it keeps its state.
	Bad bool

	want  bool      // what the condition says, before its delay
	since time.Time // since when it says so; zero where it agrees with Active
	rate  []sample
}

// Inputs are the values of the moment, by the alarm's kind.
type Inputs struct {
	Signal, Limit, Target, Suppress value.Value
}

type sample struct {
	at time.Time
	v  float64
}

// New begins an alarm as it was kept; a zero Kept begins it normal.
func New(a *Alarm, kept Kept, now time.Time) *Runtime {
	r := &Runtime{Alarm: a, Kept: kept}
	if r.Standing == "" {
		r.Standing, r.Since = Normal, now
	}
	return r
}

// Redefine takes another definition of the same alarm over: state,
// acknowledgement and shelf stay.
func (r *Runtime) Redefine(a *Alarm) {
	if a.Kind != r.Kind || a.Tag != r.Tag || a.Window != r.Window {
		r.rate = nil
	}
	r.Alarm = a
}

// Step looks at the condition and at the clock, and returns what happened, in
// order. due is when it has to be looked at again though no input changes, zero
// for never.
func (r *Runtime) Step(in Inputs, now time.Time) (changes []Change, due time.Time) {
	if r.Standing == Shelved && !r.Until.IsZero() && !now.Before(r.Until) {
		r.do(&changes, Unshelve, now, "")
	}
	if !in.Suppress.Quality.IsBad() && in.Suppress.Kind == value.BOOL {
		switch on := in.Suppress.Bool(); {
		case on && !r.Suppressed:
			r.Suppressed = true
			r.do(&changes, Suppress, now, "")
		case !on && r.Suppressed:
			r.Suppressed = false
			r.do(&changes, Unsuppress, now, "")
		}
	}
	if r.Off {
		return changes, r.Until
	}
	want, known := r.condition(in, now)
	r.Bad = !known
	if known {
		due = r.settleDelay(&changes, want, now)
	}
	if r.Kind == Rate && len(r.rate) > 1 {
		due = earlier(due, now.Add(r.window()/rateSamples))
	}
	if r.Standing == Shelved {
		due = earlier(due, r.Until)
	}
	return changes, due
}

// settleDelay lets the condition become the alarm's own after its delay.
func (r *Runtime) settleDelay(changes *[]Change, want bool, now time.Time) (due time.Time) {
	if want == r.Active {
		r.since = time.Time{}
		return time.Time{}
	}
	if r.since.IsZero() || want != r.want || now.Before(r.since) {
		// A clock that went back begins the delay anew, never shortens it.
		r.want, r.since = want, now
	}
	delay := seconds(r.OffDelay)
	if want {
		delay = seconds(r.OnDelay)
		if r.Kind == Discrepancy {
			delay += r.window()
		}
	}
	if end := r.since.Add(delay); now.Before(end) {
		return end
	}
	r.Active, r.since = want, time.Time{}
	if want {
		r.do(changes, Raise, now, "")
	} else {
		r.do(changes, Clear, now, "")
	}
	return time.Time{}
}

// do goes by the table; an event that means nothing in the present state is
// left out.
func (r *Runtime) do(changes *[]Change, on Event, now time.Time, by string) bool {
	t, ok := next(r.Alarm, r.Standing, on)
	if !ok {
		return false
	}
	to := t.To
	if to == "" {
		to = r.settle()
	}
	*changes = append(*changes, Change{r.ID, on, r.Standing, to, now})
	r.Standing, r.Since, r.By = to, now, by
	if !to.Aside() {
		r.Reason = ""
	}
	if to != Shelved {
		r.Until = time.Time{}
	}
	if on == Raise || to == Unacknowledged && on != Raise {
		r.Raised = now
	}
	return true
}

// settle is where an alarm goes that comes back from being set aside.
func (r *Runtime) settle() Standing {
	switch {
	case r.Suppressed:
		return Suppressed
	case r.Active && r.NoAck:
		return Acknowledged
	case r.Active:
		return Unacknowledged
	}
	return Normal
}

// Act is what a person does: Ack, Reset, Shelve with until, Unshelve, Remove or
// Return, with who and why. ok is false where it means nothing now.
func (r *Runtime) Act(on Event, now, until time.Time, by, reason string) (changes []Change, ok bool) {
	ok = r.do(&changes, on, now, by)
	if ok && r.Standing.Aside() {
		r.Reason = reason
	}
	if ok && on == Shelve {
		r.Until = until
	}
	return changes, ok
}

func seconds(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

func (r *Runtime) window() time.Duration { return seconds(r.Window) }

func earlier(a, b time.Time) time.Time {
	if a.IsZero() || !b.IsZero() && b.Before(a) {
		return b
	}
	return a
}
