package history

import (
	"strings"
	"testing"
	"time"
	_ "time/tzdata"
)

func berlin(t *testing.T) *time.Location {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Fatal(err)
	}
	return zone
}

func TestLogsThatCannotBe(t *testing.T) {
	minus := -1.0
	for place, change := range map[string]func(*Log){
		"/name":        func(l *Log) { l.Name = " " },
		"/note":        func(l *Log) { l.Note = strings.Repeat("x", 501) },
		"/picks/0":     func(l *Log) { l.Picks[0].Folder = "f" },
		"/picks/1":     func(l *Log) { l.Picks = append(l.Picks, Pick{Type: "chamber"}) },
		"/how/way":     func(l *Log) { l.How.Way = "sometimes" },
		"/how/every":   func(l *Log) { l.How = LogHow{Way: AtIntervals, Every: 99} },
		"/how/band":    func(l *Log) { l.How.Band = &minus },
		"/how/longest": func(l *Log) { l.How.Least, l.How.Longest = 2000, 1000 },
		"/how/at/0":    func(l *Log) { l.How.At = []string{"24:00"} },
		"/while/days/1": func(l *Log) {
			l.While.Days = []int{1, 1}
		},
		"/while/until": func(l *Log) { l.While.From = "06:00" },
		"/keep/days":   func(l *Log) { l.Keep.Days = 0 },
		"/keep/stops":  func(l *Log) { l.Keep.Stops = true },
		"/out/at":      func(l *Log) { l.Out.At = "06:00" },
		"/out/format":  func(l *Log) { l.Out = LogOut{Folder: "stick", Format: "pdf"} },
		"/spans":       func(l *Log) { l.Spans = LogSpans{Tag: "a", Holds: "b"} },
	} {
		l := &Log{Name: "Climate", Picks: []Pick{{Tag: "t"}}, How: LogHow{Way: AtChanges}, Keep: LogKeep{Days: 30}}
		if place, err := l.Check(); err != nil {
			t.Fatalf("%s: %v", place, err)
		}
		change(l)
		if got, err := l.Check(); got != place || err == nil {
			t.Errorf("%s: refused at %q: %v", place, got, err)
		}
	}
}

// The marks of an interval are those of the clock, and begin anew at midnight;
// also on the two days of the year that are no 24 hours long.
func TestMarksOfTheClock(t *testing.T) {
	zone := berlin(t)
	for _, c := range []struct {
		how         LogHow
		after, want string
	}{
		{LogHow{Way: AtIntervals, Every: 100}, "2026-11-23 14:05:09.05", "2026-11-23 14:05:09.1"},
		{LogHow{Way: AtIntervals, Every: 100}, "2026-11-23 14:05:09.1", "2026-11-23 14:05:09.2"},
		{LogHow{Way: AtIntervals, Every: 60_000}, "2026-11-23 14:05:09", "2026-11-23 14:06:00"},
		{LogHow{Way: AtIntervals, Every: 7 * 3600_000}, "2026-11-23 22:00:00", "2026-11-24 00:00:00"},
		{LogHow{Way: AtIntervals, Every: 86400_000}, "2026-10-25 12:00:00", "2026-10-26 00:00:00"}, // 25 hours long
		{LogHow{Way: AtIntervals, Every: 86400_000}, "2026-03-29 00:00:00", "2026-03-30 00:00:00"}, // 23 hours long
		{LogHow{Way: AtMoments, At: []string{"14:00", "06:00"}}, "2026-11-23 06:00:00", "2026-11-23 14:00:00"},
		{LogHow{Way: AtMoments, At: []string{"06:00"}}, "2026-10-24 06:00:00", "2026-10-25 06:00:00"},
		{LogHow{Way: AtMoments, At: []string{"06:00"}}, "2026-10-25 05:59:00", "2026-10-25 06:00:00"},
	} {
		form := "2006-01-02 15:04:05"
		after, err := time.ParseInLocation(form, c.after, zone)
		if err != nil {
			t.Fatal(err)
		}
		want, err := time.ParseInLocation(form, c.want, zone)
		if err != nil {
			t.Fatal(err)
		}
		if got := c.how.Next(after); !got.Equal(want) {
			t.Errorf("%+v after %s: %s, not %s", c.how, c.after, got, c.want)
		}
	}
	if next := (&LogHow{Way: AtChanges}).Next(time.Now()); !next.IsZero() {
		t.Errorf("changes have a mark at %s", next)
	}
	two := LogHow{Way: AtIntervals, Every: 2 * 86400_000}
	first := two.Next(time.Date(2026, 11, 23, 5, 0, 0, 0, zone))
	if second := two.Next(first); second.Sub(first) != 48*time.Hour || first.Hour() != 0 {
		t.Errorf("two days: %s, then %s", first, second)
	}
}

func TestHoursOfALog(t *testing.T) {
	night := LogWhile{Days: []int{1, 5}, From: "22:00", Until: "06:00"}
	day := LogWhile{From: "06:00", Until: "14:00"}
	weekend := LogWhile{Days: []int{6, 7}}
	for _, c := range []struct {
		w    LogWhile
		at   string
		want bool
	}{
		{LogWhile{}, "2026-11-23 03:00", true},
		{day, "2026-11-23 05:59", false}, {day, "2026-11-23 06:00", true}, {day, "2026-11-23 14:00", false},
		{night, "2026-11-23 23:00", true},  // Monday
		{night, "2026-11-24 05:59", true},  // Tuesday morning, begun on Monday
		{night, "2026-11-24 22:30", false}, // Tuesday
		{night, "2026-11-23 03:00", false}, // begun on Sunday
		{night, "2026-11-23 12:00", false},
		{weekend, "2026-11-28 12:00", true}, {weekend, "2026-11-27 12:00", false},
	} {
		at, err := time.ParseInLocation("2006-01-02 15:04", c.at, berlin(t))
		if err != nil {
			t.Fatal(err)
		}
		if got := c.w.Open(at); got != c.want {
			t.Errorf("%+v at %s: %v", c.w, c.at, got)
		}
	}
}
