package demo

import (
	"testing"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/plant"
)

// The week has something of everything that performance finds, and ends before
// the demo begins.
func TestTheWeekHasNuisancesToFind(t *testing.T) {
	p, err := Project(plant.Addresses{Modbus: "127.0.0.1:1", OPCUA: "127.0.0.1:1", MQTT: "127.0.0.1:1"})
	if err != nil {
		t.Fatal(err)
	}
	now := time.Date(2026, 3, 9, 12, 0, 0, 0, time.UTC)
	made, err := past(p, now)
	if err != nil {
		t.Fatal(err)
	}
	var list []alarm.Happening
	last := int64(0)
	standing := map[string]bool{}
	for _, e := range made.Entries {
		if e.At < last {
			t.Fatal("entries are not in order")
		}
		last = e.At
		if e.Alarm == "" {
			continue
		}
		on := alarm.Event(e.What)
		if on == alarm.Raise && (e.Text == "" || standing[e.Alarm]) {
			t.Errorf("%s came with the text %q, standing %t", e.Name, e.Text, standing[e.Alarm])
		}
		if on == alarm.Raise || on == alarm.Clear {
			standing[e.Alarm] = on == alarm.Raise
		}
		list = append(list, alarm.Happening{At: time.Unix(0, e.At), Alarm: e.Alarm, Name: e.Name, Area: e.Area,
			Priority: alarm.Priorities[e.Priority], On: on, To: alarm.Standing(e.State)})
	}
	if last >= now.UnixNano() {
		t.Error("the week reaches into the future")
	}
	got := alarm.Performed(list, nil, now.AddDate(0, 0, -7), now)
	if got.Alarms < 100 || len(got.Chatter) == 0 || len(got.Fleeting) == 0 || len(got.Stale) == 0 || len(got.Floods) == 0 ||
		got.Waited[0].Acked == 0 {
		t.Errorf("%d alarms, %d chattering, %d fleeting, %d stale, %d floods, %+v", got.Alarms, len(got.Chatter), len(got.Fleeting),
			len(got.Stale), len(got.Floods), got.Waited)
	}
	if n := len(made.Samples); n < 10_000 || n > 250_000 {
		t.Errorf("%d samples", n)
	}
	again, err := past(p, now)
	if err != nil || len(again.Entries) != len(made.Entries) || again.Entries[100] != made.Entries[100] {
		t.Errorf("another week the second time: %v", err)
	}
	t.Logf("%d entries, %d samples", len(made.Entries), len(made.Samples))
}
