package alarm

import (
	"testing"

	"readyrail/internal/core/value"
)

func TestTheMatrixGivesAPriority(t *testing.T) {
	for _, c := range []struct {
		severity Severity
		respond  int
		want     Priority
	}{{Severe, 3, Critical}, {Severe, 4, Critical}, {Severe, 31, Medium}, {Major, 10, High}, {Major, 11, Medium}, {Minor, 1, High},
		{Minor, 600, Low}, {Minor, 0, ""}, {"", 5, ""}} {
		got, ok := Guidance{Severity: c.severity, Respond: c.respond}.Suggested()
		if got != c.want || ok != (c.want != "") {
			t.Errorf("%s within %d min: %s", c.severity, c.respond, got)
		}
	}
	// More time or less harm never makes it more urgent.
	for s, row := range Matrix {
		for i := 1; i < len(row); i++ {
			if row[i].Rank() < row[i-1].Rank() {
				t.Errorf("%s: more time makes it more urgent", s)
			}
		}
	}
	for i := range Minutes {
		if Matrix[Minor][i].Rank() < Matrix[Major][i].Rank() || Matrix[Major][i].Rank() < Matrix[Severe][i].Rank() {
			t.Errorf("column %d: less harm makes it more urgent", i)
		}
	}
}

func TestADeviationCountsOnItsSide(t *testing.T) {
	for _, c := range []struct {
		side Side
		v    float64
		want bool
	}{{Both, 75, true}, {Both, 65, true}, {Above, 75, true}, {Above, 65, false}, {Below, 75, false}, {Below, 65, true}, {Below, 69, false}} {
		r := New(&Alarm{ID: "a", Kind: Deviation, Side: c.side}, Kept{}, t0)
		r.Step(Inputs{Signal: real(c.v), Target: real(70), Limit: real(3)}, t0)
		if r.Active != c.want {
			t.Errorf("%q at %v: %t", c.side, c.v, r.Active)
		}
	}
	r := New(&Alarm{ID: "a", Kind: Rate, Side: Below, Window: 10}, Kept{}, t0)
	for i, v := range []float64{50, 60, 70, 66} {
		r.Step(Inputs{Signal: real(v), Limit: real(3)}, at(float64(i)))
	}
	if r.Active {
		t.Error("it rose by 16 and counts as falling")
	}
	r.Step(Inputs{Signal: real(40), Limit: real(3)}, at(4))
	if !r.Active {
		t.Error("it fell by 10 and does not count")
	}
}

func TestABadSignalRaisesWhereChosen(t *testing.T) {
	a := &Alarm{ID: "a", Kind: HighLimit, OnBad: true}
	r := New(a, Kept{}, t0)
	step := func(in Inputs, sec float64) Standing { r.Step(in, at(sec)); return r.Standing }
	limit := real(80)
	if s := step(Inputs{Signal: real(70), Limit: limit}, 0); s != Normal {
		t.Error(s)
	}
	if s := step(Inputs{Signal: value.Bad(value.LREAL, value.BadRange), Limit: limit}, 1); s != Unacknowledged {
		t.Errorf("a broken signal: %s", s)
	}
	if s := step(Inputs{Signal: real(70), Limit: limit}, 2); s != Returned {
		t.Errorf("mended: %s", s)
	}
	if s := step(Inputs{Signal: value.Bad(value.LREAL, value.BadNoAnswer), Limit: limit}, 3); s != Returned || !r.Bad {
		t.Errorf("a lost link: %s", s)
	}
}
