package record

import (
	"context"

	"readyrail/internal/core/alarm"
	"readyrail/internal/store"
)

// Occurrence is one time that an alarm came, from its coming to its going.
type Occurrence struct {
	Seq      int64  `json:"seq" doc:"of its coming in the journal"`
	Alarm    string `json:"alarm"`
	Name     string `json:"name"`
	Area     string `json:"area"`
	Priority int    `json:"priority" doc:"0 critical to 3 low"`
	Text     string `json:"text" doc:"what was said when it came"`
	Gone     string `json:"gone" doc:"what was said when it went"`
	Value    string `json:"value"`
	Came     int64  `json:"came" doc:"milliseconds since 1970"`
	Acked    int64  `json:"acked" doc:"milliseconds since 1970; 0 where nobody did"`
	By       string `json:"by" doc:"who acknowledged it"`
	Went     int64  `json:"went" doc:"milliseconds since 1970; 0 while it stands"`
	Long     int64  `json:"long" doc:"milliseconds that it stood; 0 while it stands"`
	State    string `json:"state" doc:"after the last of these" enum:"normal,unacknowledged,acknowledged,returned,latched-unack,latched-ack,shelved,suppressed,out-of-service"`
}

// mostSteps is how much of what happened to one alarm is looked through for
// the end of one occurrence.
const mostSteps = 200

// Occurrences lists how often alarms came, by a filter of the journal, newest
// first; next is where the next page goes on, 0 at the end.
func (j *Journal) Occurrences(ctx context.Context, f store.JournalFilter, limit int) (list []Occurrence, next int64, err error) {
	f.Kinds, f.Whats = []string{store.AlarmEntry}, []string{string(alarm.Raise)}
	came, next, err := j.List(ctx, f, limit)
	if err != nil {
		return nil, 0, err
	}
	list = make([]Occurrence, len(came))
	for i := range came {
		after, err := j.store.After(ctx, came[i].Alarm, came[i].Seq, mostSteps)
		if err != nil {
			return nil, 0, err
		}
		list[i] = occurrence(&came[i], after)
	}
	return list, next, nil
}

// occurrence puts together what happened to an alarm after it came, until it
// came again.
func occurrence(came *store.Entry, after []store.Entry) Occurrence {
	o := Occurrence{Seq: came.Seq, Alarm: came.Alarm, Name: came.Name, Area: came.Area, Priority: came.Priority, Text: came.Text,
		Value: came.Value, Came: came.At / 1e6, State: came.State}
	for i := range after {
		e := &after[i]
		switch alarm.Event(e.What) {
		case alarm.Raise:
			return o
		case alarm.Ack:
			if o.Acked == 0 {
				o.Acked, o.By, o.State = e.At/1e6, e.Person, e.State
			}
		case alarm.Reset:
			o.State = e.State
		case alarm.Clear:
			if o.Went == 0 {
				o.Went, o.Gone, o.State = e.At/1e6, e.Text, e.State
				o.Long = max(1, o.Went-o.Came)
			}
		}
	}
	return o
}
