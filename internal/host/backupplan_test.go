package host

import (
	"testing"
	"time"
)

// TestWhenABackupIsDue: the last moment of a plan that is not after now.
func TestWhenABackupIsDue(t *testing.T) {
	at := func(text string) time.Time {
		when, err := time.ParseInLocation("2006-01-02 15:04", text, time.Local)
		if err != nil {
			t.Fatal(err)
		}
		return when
	}
	for _, c := range []struct {
		every     int
		from      string
		now, want string
	}{
		{24, "02:30", "2026-12-02 02:30", "2026-12-02 02:30"},
		{24, "02:30", "2026-12-02 02:29", "2026-12-01 02:30"},
		{24, "02:30", "2026-12-02 23:59", "2026-12-02 02:30"},
		{4, "02:30", "2026-12-02 02:29", "2026-12-01 22:30"},
		{4, "02:30", "2026-12-02 11:00", "2026-12-02 10:30"},
		{1, "00:00", "2026-12-02 00:00", "2026-12-02 00:00"},
		{0, "02:30", "2026-12-02 11:00", ""},
		{24, "half past two", "2026-12-02 11:00", ""},
	} {
		got := BackupPlan{Every: c.every, At: c.from}.due(at(c.now))
		if c.want == "" && !got.IsZero() || c.want != "" && !got.Equal(at(c.want)) {
			t.Errorf("every %d h from %s at %s: %v, want %s", c.every, c.from, c.now, got, c.want)
		}
	}
	// Every week it is the same day, and never one ahead.
	week := BackupPlan{Every: 7 * 24, At: "02:30"}
	days := map[time.Weekday]bool{}
	for day := range 30 {
		now := at("2026-12-01 12:00").AddDate(0, 0, day)
		due := week.due(now)
		days[due.Weekday()] = true
		if due.After(now) || now.Sub(due) > 8*24*time.Hour {
			t.Errorf("at %v it was due %v", now, due)
		}
	}
	if len(days) != 1 {
		t.Errorf("on %v", days)
	}
}

func TestWhatIsDueIsTakenOnce(t *testing.T) {
	now := time.Date(2026, 12, 2, 3, 0, 0, 0, time.Local)
	plan := keptPlan{BackupPlan{Every: 24, At: "02:30"}, now.AddDate(0, 0, -9)}
	ended := func(ago time.Duration, good bool) *BackupOutcome {
		return &BackupOutcome{Begun: now.Add(-ago), Good: good}
	}
	later := plan
	later.Since = now.Add(-time.Minute)
	for name, c := range map[string]struct {
		b    *backups
		want bool
	}{
		"none ever":                     {&backups{plan: plan}, true},
		"planned after it was due":      {&backups{plan: later}, false},
		"taken since":                   {&backups{plan: plan, last: ended(20*time.Minute, true)}, false},
		"taken the day before":          {&backups{plan: plan, last: ended(25*time.Hour, true)}, true},
		"failed just now":               {&backups{plan: plan, last: ended(10*time.Minute, false)}, false},
		"failed a while ago":            {&backups{plan: plan, last: ended(40*time.Minute, false)}, true},
		"failed, and none is planned":   {&backups{last: ended(40*time.Minute, false)}, false},
		"taken by hand before the plan": {&backups{plan: later, last: ended(30*time.Hour, true)}, false},
	} {
		if got := c.b.isDue(now); got != c.want {
			t.Errorf("%s: %v", name, got)
		}
	}
}
