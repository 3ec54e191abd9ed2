// Package alarm holds what an alarm is and how it behaves by ISA-18.2 and
// IEC 62682: its condition, its states and the transitions between them, its
// message with the values of the moment. Time is passed in; nothing here waits.
package alarm

import (
	"math"
	"readyrail/internal/core/say"
	"strings"
)

// Priority says how soon an operator has to act (ISA-18.2, clause on
// prioritization).
type Priority string

// The priorities, the most urgent first.
const (
	Critical Priority = "critical"
	High     Priority = "high"
	Medium   Priority = "medium"
	Low      Priority = "low"
)

// Priorities lists them, the most urgent first.
var Priorities = []Priority{Critical, High, Medium, Low}

// Rank is 0 for the most urgent.
func (p Priority) Rank() int {
	for i, x := range Priorities {
		if x == p {
			return i
		}
	}
	return len(Priorities)
}

// Kind says what the condition looks at (ISA-18.2, alarm types).
type Kind string

// The kinds.
const (
	State       Kind = "state"       // a BOOL is true, or false where Inverted
	HighHigh    Kind = "high-high"   // above a limit
	HighLimit   Kind = "high"        // above a limit
	LowLimit    Kind = "low"         // below a limit
	LowLow      Kind = "low-low"     // below a limit
	Deviation   Kind = "deviation"   // further from Target than the limit, either way
	Rate        Kind = "rate"        // changed by more than the limit within Window
	Quality     Kind = "quality"     // the signal's quality is bad
	Discrepancy Kind = "discrepancy" // the signal differs from Target for longer than Window
	Formula     Kind = "formula"     // a BOOL formula is true
)

// Kinds lists them in the order in which they are offered.
var Kinds = []Kind{HighHigh, HighLimit, LowLimit, LowLow, State, Deviation, Rate, Discrepancy, Quality, Formula}

// Limited tells whether the kind compares a number with a limit.
func (k Kind) Limited() bool {
	switch k {
	case HighHigh, HighLimit, LowLimit, LowLow, Deviation, Rate:
		return true
	}
	return false
}

// Targeted tells whether the kind needs something to compare the signal with.
func (k Kind) Targeted() bool { return k == Deviation || k == Discrepancy }

// Side is a way in which a signal may move away.
type Side string

// The sides.
const (
	Both  Side = ""
	Above Side = "above" // above its target, or rising
	Below Side = "below" // below its target, or falling
)

// of is how far a signal has moved away on a side.
func (s Side) of(by float64) float64 {
	switch s {
	case Above:
		return by
	case Below:
		return -by
	}
	return math.Abs(by)
}

// Alarm is one alarm: a condition of one signal, and what is told of it.
type Alarm struct {
	ID   string `json:"id"`
	Name string `json:"name"` // short, as on a tab: "Dry bulb high"
	Tag  string `json:"tag"`  // id of the signal; empty for a formula
	Kind Kind   `json:"kind" enum:"high-high,high,low,low-low,state,deviation,rate,discrepancy,quality,formula"`
	// Limit is a formula in stored form, most often a number.
	Limit string `json:"limit,omitempty"`
	// Target is a formula in stored form: the set point of a deviation, the
	// feedback of a discrepancy.
	Target string `json:"target,omitempty"`
	// Condition is a BOOL formula in stored form, of kind Formula.
	Condition string `json:"condition,omitempty"`
	Inverted  bool   `json:"inverted,omitempty"` // a state alarm comes when its tag is false

	// Side says which way a deviation or a rate counts: empty for both.
	Side     Side    `json:"side,omitempty"`
	Window   float64 `json:"window,omitempty"`   // seconds, of rate and discrepancy
	Deadband float64 `json:"deadband,omitempty"` // in the signal's unit: how far it has to come back
	OnDelay  float64 `json:"onDelay,omitempty"`  // seconds that the condition has to hold
	OffDelay float64 `json:"offDelay,omitempty"` // seconds that it has to be gone
	Latch    bool    `json:"latch,omitempty"`    // stays until it is reset
	NoAck    bool    `json:"noAck,omitempty"`    // needs no acknowledgement
	OnBad    bool    `json:"onBad,omitempty"`    // comes when its signal is bad too, unless it is so for its link's sake

	Priority Priority `json:"priority" enum:"critical,high,medium,low"`
	Area     string   `json:"area,omitempty"` // id; the signal's where it is empty
	Group    string   `json:"group,omitempty"`
	Class    string   `json:"class,omitempty"`

	// Suppress is a BOOL formula in stored form: while it is true the alarm is
	// suppressed by design (ISA-18.2, designed suppression).
	Suppress    string `json:"suppress,omitempty"`
	SuppressWhy string `json:"suppressWhy,omitempty"`
	Off         bool   `json:"off,omitempty"` // not evaluated at all
	// AtDesk allows its limit, where that is a number, to be changed at the Desk.
	AtDesk bool `json:"atDesk,omitempty"`
	// ShelveMinutes is the longest that it may be shelved; 0 takes the usual
	// eight hours, a negative number forbids it.
	ShelveMinutes int `json:"shelveMinutes,omitempty"`

	Message string `json:"message,omitempty"` // template in stored form
	// Gone is what the journal says when it goes, as the message in stored form;
	// where it is empty the journal says the message again.
	Gone     string   `json:"gone,omitempty"`
	Guidance Guidance `json:"guidance,omitzero"`
	Screen   string   `json:"screen,omitempty"` // id of the screen to open for it
	Reviewed bool     `json:"reviewed,omitempty"`
}

// Names are the names that an alarm's formulas and message have for its own,
// with the ids that stand for them: what it watches, what that is compared
// with, and its set point or feedback.
var Names = map[string]string{"value": "$value", "limit": "$limit", "target": "$target"}

// Guidance is what the rationalization of an alarm says (ISA-18.2, alarm
// rationalization).
type Guidance struct {
	Cause       string `json:"cause,omitempty"`
	Consequence string `json:"consequence,omitempty"`
	Action      string `json:"action,omitempty"`
	Respond     int    `json:"respond,omitempty"` // minutes until it is too late
	// Severity is how bad the consequence is.
	Severity Severity `json:"severity,omitempty" enum:"minor,major,severe"`
}

// Bounds.
const (
	usualShelf = 8 * 60 // minutes
	MaxShelf   = 7 * 24 * 60
	maxDelay   = 24 * 3600 // seconds
	maxText    = 2000
)

// Longest is the longest that the alarm may be shelved, in minutes; 0 forbids
// it.
func (a *Alarm) Longest() int {
	switch {
	case a.ShelveMinutes < 0:
		return 0
	case a.ShelveMinutes == 0:
		return usualShelf
	}
	return a.ShelveMinutes
}

// Check refuses what cannot be an alarm; place is a JSON pointer into it.
func (a *Alarm) Check() (place string, err error) {
	if strings.TrimSpace(a.Name) == "" || len(a.Name) > 80 {
		return "/name", say.Errorf("an alarm needs a name of at most 80 characters")
	}
	if a.Priority.Rank() == len(Priorities) {
		return "/priority", say.Errorf("%q is no priority: use critical, high, medium or low", a.Priority)
	}
	known := false
	for _, k := range Kinds {
		known = known || k == a.Kind
	}
	if !known {
		return "/kind", say.Errorf("%q is no kind of alarm", a.Kind)
	}
	for place, f := range map[string]float64{"/window": a.Window, "/deadband": a.Deadband, "/onDelay": a.OnDelay, "/offDelay": a.OffDelay} {
		if math.IsNaN(f) || f < 0 {
			return place, say.Errorf("this is 0 or more, not %v", f)
		}
		if place != "/deadband" && f > maxDelay {
			return place, say.Errorf("a time is at most a day, not %v s", f)
		}
	}
	switch {
	case a.Side != Both && a.Side != Above && a.Side != Below:
		return "/side", say.Errorf("%q is no side: use above or below, or leave it empty for both", a.Side)
	case a.Kind == Rate && a.Window == 0:
		return "/window", say.Errorf("a rate needs the time in which the signal changes")
	case a.Kind == Discrepancy && a.Window == 0:
		return "/window", say.Errorf("a discrepancy needs the time in which the feedback has to come")
	case a.ShelveMinutes > MaxShelf:
		return "/shelveMinutes", say.Errorf("an alarm is shelved for at most a week")
	case a.Guidance.Severity != "" && a.Guidance.Severity.rank() < 0:
		return "/guidance/severity", say.Errorf("%q is no severity: use minor, major or severe", a.Guidance.Severity)
	case a.Guidance.Respond < 0:
		return "/guidance/respond", say.Errorf("the time to respond is 0 or more minutes")
	}
	for place, s := range map[string]string{"/message": a.Message, "/gone": a.Gone, "/guidance/cause": a.Guidance.Cause,
		"/guidance/consequence": a.Guidance.Consequence, "/guidance/action": a.Guidance.Action, "/suppressWhy": a.SuppressWhy,
		"/group": a.Group, "/class": a.Class} {
		if len(s) > maxText {
			return place, say.Errorf("a text has at most %d characters", maxText)
		}
	}
	return "", nil
}

// Convert returns a copy with its formulas and its messages passed through
// functions, as from the typed to the stored form; place is a JSON pointer to
// the one that failed.
func (a *Alarm) Convert(formula, template func(string) (string, error)) (out *Alarm, place string, err error) {
	c := *a
	for _, f := range c.formulas() {
		if *f.text == "" {
			continue
		}
		if *f.text, err = formula(*f.text); err != nil {
			return nil, f.place, err
		}
	}
	if c.Message, err = template(c.Message); err != nil {
		return nil, "/message", err
	}
	if c.Gone, err = template(c.Gone); err != nil {
		return nil, "/gone", err
	}
	return &c, "", nil
}

// Prose is what an alarm says, each to be read or changed in its place.
func (a *Alarm) Prose() []*string {
	g := &a.Guidance
	return []*string{&a.Name, &a.Message, &a.Gone, &a.SuppressWhy, &g.Cause, &g.Consequence, &g.Action}
}

type placed struct {
	place string
	text  *string
}

func (a *Alarm) formulas() []placed {
	return []placed{{"/limit", &a.Limit}, {"/target", &a.Target}, {"/condition", &a.Condition}, {"/suppress", &a.Suppress}}
}

// Formulas lists the stored formulas by their places.
func (a *Alarm) Formulas() map[string]string {
	out := map[string]string{}
	for _, f := range a.formulas() {
		if *f.text != "" {
			out[f.place] = *f.text
		}
	}
	return out
}
