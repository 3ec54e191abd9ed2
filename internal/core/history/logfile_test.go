package history

import (
	"testing"
	"time"
)

func TestNamesOfFiles(t *testing.T) {
	f := LogFile{Log: "Drying", From: time.Date(2026, 11, 24, 9, 5, 0, 0, time.UTC), To: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC),
		Span: "L-2611-03", Of: "Kiln3"}
	for _, c := range []struct{ per, name, want string }{
		{OneFile, "", "Drying 2026-11-24 0905 to 2026-11-25 0000"}, {FileADay, "", "Drying 2026-11-24"},
		{FileForSpan, "", "Drying Kiln3 L-2611-03 2026-11-24 0905"}, {FileForSpan, "{span}_{of}", "L-2611-03_Kiln3"},
		{OneFile, "always", "always"},
	} {
		if got := (&LogOut{Per: c.per, Name: c.name}).FileName(f); got != c.want {
			t.Errorf("%q of %q: %s", c.name, c.per, got)
		}
	}
	// Of a span of no equipment no gap is left.
	f.Of = ""
	if got := (&LogOut{Per: FileForSpan}).FileName(f); got != "Drying L-2611-03 2026-11-24 0905" {
		t.Error(got)
	}
	for name, right := range map[string]bool{"{log} {day}": true, "{lot}": false, "{log": false, "": true, "}": true} {
		if err := (&LogOut{Name: name}).checkName(); (err == nil) != right {
			t.Errorf("%q: %v", name, err)
		}
	}
}

// TestDaysThatAreOver, in a zone in which one of them has 25 hours.
func TestDaysThatAreOver(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		t.Skip("no zones here")
	}
	from := time.Date(2026, 10, 24, 18, 0, 0, 0, zone)
	days := Days(from, time.Date(2026, 10, 26, 23, 59, 0, 0, zone))
	if len(days) != 2 || !days[0][0].Equal(from) || days[1][1].Sub(days[1][0]) != 25*time.Hour {
		t.Error(days)
	}
	if days := Days(from, from.Add(6*time.Hour)); len(days) != 1 || days[0][1].Sub(from) != 6*time.Hour {
		t.Error(days)
	}
	if days := Days(from, from.Add(5*time.Hour)); days != nil {
		t.Error(days)
	}
}
