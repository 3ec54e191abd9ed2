package alarm

// The states and transitions of ISA-18.2 and IEC 62682, by the letters of
// their alarm state transition diagram. The table below is the whole of it;
// nothing else changes a state.

// Standing is the state of an alarm.
type Standing string

// The states.
const (
	Normal         Standing = "normal"         // A
	Unacknowledged Standing = "unacknowledged" // B
	Acknowledged   Standing = "acknowledged"   // C
	Returned       Standing = "returned"       // D: returned to normal, unacknowledged
	LatchedUnack   Standing = "latched-unack"  // E: returned, latched, unacknowledged
	LatchedAck     Standing = "latched-ack"    // F: returned, latched, acknowledged
	Shelved        Standing = "shelved"        // G
	Suppressed     Standing = "suppressed"     // H: by design
	OutOfService   Standing = "out-of-service" // I
)

// Standings lists the states in the order of the diagram.
var Standings = []Standing{Normal, Unacknowledged, Acknowledged, Returned, LatchedUnack, LatchedAck, Shelved, Suppressed, OutOfService}

// Event is what may happen to an alarm.
type Event string

// The events.
const (
	Raise      Event = "raised"  // the condition holds, after its delay
	Clear      Event = "cleared" // it is gone, after its delay and deadband
	Ack        Event = "acknowledged"
	Reset      Event = "reset" // of a latched one
	Shelve     Event = "shelved"
	Unshelve   Event = "unshelved" // by hand, or as its time is over
	Suppress   Event = "suppressed"
	Unsuppress Event = "unsuppressed"
	Remove     Event = "removed" // from service
	Return     Event = "in-service"
)

// Events lists them.
var Events = []Event{Raise, Clear, Ack, Reset, Shelve, Unshelve, Suppress, Unsuppress, Remove, Return}

// condition says of which alarms a transition is.
type condition uint8

const (
	always   condition = iota
	latching           // the alarm latches
	plain              // it does not
	silent             // it needs no acknowledgement
	told               // it needs one
)

func (w condition) holds(a *Alarm) bool {
	switch w {
	case latching:
		return a.Latch
	case plain:
		return !a.Latch
	case silent:
		return a.NoAck
	case told:
		return !a.NoAck
	}
	return true
}

// Transition is a line of the table. Where To is empty the alarm goes to where
// its condition and what else holds it aside put it: see settle.
type Transition struct {
	From Standing
	On   Event
	To   Standing
	when condition
}

// Table is every transition there is.
var Table = []Transition{
	{Normal, Raise, Unacknowledged, told},           // A → B
	{Normal, Raise, Acknowledged, silent},           // A → C: no acknowledgement is asked for
	{Unacknowledged, Ack, Acknowledged, always},     // B → C
	{Unacknowledged, Clear, Returned, plain},        // B → D
	{Unacknowledged, Clear, LatchedUnack, latching}, // B → E
	{Acknowledged, Clear, Normal, plain},            // C → A
	{Acknowledged, Clear, LatchedAck, latching},     // C → F
	{Returned, Ack, Normal, always},                 // D → A
	{Returned, Raise, Unacknowledged, always},       // D → B: it comes again
	{LatchedUnack, Ack, LatchedAck, always},         // E → F
	{LatchedUnack, Reset, Returned, always},         // E → D
	{LatchedUnack, Raise, Unacknowledged, always},   // E → B
	{LatchedAck, Reset, Normal, always},             // F → A
	{LatchedAck, Raise, Unacknowledged, told},       // F → B
	{LatchedAck, Raise, Acknowledged, silent},       // F → C

	// Any annunciated or normal state may be set aside, and what is set aside
	// may be set aside further; coming back depends on the condition.
	{Normal, Shelve, Shelved, always}, {Unacknowledged, Shelve, Shelved, always}, {Acknowledged, Shelve, Shelved, always},
	{Returned, Shelve, Shelved, always}, {LatchedUnack, Shelve, Shelved, always}, {LatchedAck, Shelve, Shelved, always},
	{Suppressed, Shelve, Shelved, always},
	{Shelved, Unshelve, "", always}, // G → A, B or H

	{Normal, Suppress, Suppressed, always}, {Unacknowledged, Suppress, Suppressed, always}, {Acknowledged, Suppress, Suppressed, always},
	{Returned, Suppress, Suppressed, always}, {LatchedUnack, Suppress, Suppressed, always}, {LatchedAck, Suppress, Suppressed, always},
	{Suppressed, Unsuppress, "", always}, // H → A or B

	{Normal, Remove, OutOfService, always}, {Unacknowledged, Remove, OutOfService, always}, {Acknowledged, Remove, OutOfService, always},
	{Returned, Remove, OutOfService, always}, {LatchedUnack, Remove, OutOfService, always}, {LatchedAck, Remove, OutOfService, always},
	{Shelved, Remove, OutOfService, always}, {Suppressed, Remove, OutOfService, always},
	{OutOfService, Return, "", always}, // I → A, B or H
}

// byFrom finds transitions quickly.
var byFrom = func() map[Standing]map[Event][]Transition {
	out := map[Standing]map[Event][]Transition{}
	for _, t := range Table {
		if out[t.From] == nil {
			out[t.From] = map[Event][]Transition{}
		}
		out[t.From][t.On] = append(out[t.From][t.On], t)
	}
	return out
}()

// next is the line for an event, ok false where the event means nothing now.
func next(a *Alarm, from Standing, on Event) (Transition, bool) {
	for _, t := range byFrom[from][on] {
		if t.when.holds(a) {
			return t, true
		}
	}
	return Transition{}, false
}

// Annunciated tells whether the state is among those that the operator is
// shown as standing: B to F.
func (s Standing) Annunciated() bool {
	switch s {
	case Unacknowledged, Acknowledged, Returned, LatchedUnack, LatchedAck:
		return true
	}
	return false
}

// Unseen tells whether the state waits for acknowledgement: B, D and E.
func (s Standing) Unseen() bool {
	return s == Unacknowledged || s == Returned || s == LatchedUnack
}

// Aside tells whether the alarm is set aside: G, H and I.
func (s Standing) Aside() bool { return s == Shelved || s == Suppressed || s == OutOfService }
