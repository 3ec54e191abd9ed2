package value

import "readyrail/internal/core/say"

// Quality says how far a value can be trusted, and why not. Its three levels
// are those of OPC UA Part 8, 7.2: good, uncertain, bad. The zero Quality is
// the bad one of a value that has not come yet.
type Quality uint8

// The qualities. The bad ones come first, the good one last, so that the worse
// of two is the smaller.
const (
	BadWaiting      Quality = iota // no value has come yet
	BadConfig                      // the definition has a mistake
	BadNotConnected                // the link to the device is down
	BadNoAnswer                    // the device did not answer in time
	BadRefused                     // the device refused the address
	BadStale                       // no fresh value for longer than three polls
	BadRange                       // the raw value lies outside what the tag allows
	BadDivision                    // a formula divided by zero
	BadOverflow                    // a formula left the range of its type
	BadInput                       // a value that a formula needs is bad
	BadOff                         // the device is switched off in the project
	BadResting                     // read only while needed, and nobody needs it now
	BadReported                    // the device itself says that the value is bad
	BadGone                        // the device said that it leaves, or its broker did
	BadUnrecorded                  // nobody recorded it then

	UncertainClamped // the value was cut to the end of its scale
	UncertainInput   // a value that a formula needs is uncertain
	UncertainDevice  // the device itself calls the value uncertain

	Held // good because a person holds the tag at this value, whatever its source says
	Good
)

// Level is the coarse answer that a look depends on.
type Level uint8

// The levels, worst first.
const (
	LevelBad Level = iota
	LevelUncertain
	LevelGood
)

// Level returns bad, uncertain or good.
func (q Quality) Level() Level {
	switch {
	case q < UncertainClamped:
		return LevelBad
	case q < Held:
		return LevelUncertain
	}
	return LevelGood
}

// IsBad is short for Level() == LevelBad.
func (q Quality) IsBad() bool { return q < UncertainClamped }

// Worse returns the worse of two qualities; of two on one level, the first.
func (q Quality) Worse(o Quality) Quality {
	if o.Level() < q.Level() {
		return o
	}
	return q
}

// String returns "good", "uncertain" or "bad".
func (l Level) String() string { return [...]string{"bad", "uncertain", "good"}[l] }

var reasons = [...]say.Term{
	BadWaiting:       "no value has come yet",
	BadConfig:        "its definition has a mistake",
	BadNotConnected:  "no connection to the device",
	BadNoAnswer:      "the device does not answer",
	BadRefused:       "the device refuses this address",
	BadStale:         "no fresh value for three polls",
	BadRange:         "out of range",
	BadDivision:      "division by zero",
	BadOverflow:      "the result is too large for its type",
	BadInput:         "a value it needs is bad",
	BadOff:           "the device is switched off",
	BadResting:       "it is read only while it is needed",
	BadReported:      "the device says that it is bad",
	BadGone:          "the device said that it is gone",
	BadUnrecorded:    "it was not recorded",
	UncertainClamped: "cut to the end of its scale",
	UncertainInput:   "a value it needs is uncertain",
	UncertainDevice:  "the device says that it is uncertain",
	Held:             "a person holds it at this value",
	Good:             "",
}

// Reason says in plain words why the quality is not good; empty when it is.
func (q Quality) Reason() say.Term {
	if int(q) < len(reasons) {
		return reasons[q]
	}
	return ""
}

// BadFor is the bad quality that has a reason; BadUnrecorded where none has it.
func BadFor(reason string) Quality {
	for q := BadWaiting; q.IsBad(); q++ {
		if string(reasons[q]) == reason {
			return q
		}
	}
	return BadUnrecorded
}

// Count is the number of qualities; a Quality is smaller.
const Count = int(Good) + 1
