package alarm

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/value"
)

var t0 = time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC)

func at(s float64) time.Time { return t0.Add(time.Duration(s * float64(time.Second))) }

func real(f float64) value.Value { return value.Real(value.LREAL, f) }

// play feeds "seconds:value" steps to an alarm and writes what happened as
// "seconds event→state".
func play(a *Alarm, limit, steps string) string {
	r := New(a, Kept{}, t0)
	var out []string
	var lim, v float64
	fmt.Sscan(limit, &lim)
	note := func(changes []Change) {
		for _, c := range changes {
			out = append(out, fmt.Sprintf("%g %s→%s", c.At.Sub(t0).Seconds(), c.On, c.To))
		}
	}
	var due time.Time
	in := Inputs{Limit: real(lim)}
	for _, step := range strings.Fields(steps) {
		var sec float64
		var what string
		fmt.Sscanf(strings.Replace(step, ":", " ", 1), "%g %s", &sec, &what)
		// Time passes: what is due before comes first.
		for n := 0; !due.IsZero() && due.Before(at(sec)) && n < 1000; n++ {
			var changes []Change
			now := due
			changes, due = r.Step(in, now)
			note(changes)
		}
		var changes []Change
		switch what {
		case "ack":
			changes, _ = r.Act(Ack, at(sec), time.Time{}, "tom", "")
		case "reset":
			changes, _ = r.Act(Reset, at(sec), time.Time{}, "tom", "")
		case "shelve":
			changes, _ = r.Act(Shelve, at(sec), at(sec+60), "tom", "noise")
			_, due = r.Step(in, at(sec))
		case "bad":
			in.Signal = value.Bad(value.LREAL, value.BadStale)
			changes, due = r.Step(in, at(sec))
		case "broken":
			in.Signal = value.Bad(value.LREAL, value.BadRange)
			changes, due = r.Step(in, at(sec))
		case "true", "false":
			in.Signal = value.Bool(what == "true")
			changes, due = r.Step(in, at(sec))
		case "on", "off":
			in.Suppress = value.Bool(what == "on")
			changes, due = r.Step(in, at(sec))
		default:
			fmt.Sscan(what, &v)
			in.Signal = real(v)
			changes, due = r.Step(in, at(sec))
		}
		note(changes)
	}
	return strings.Join(out, ", ")
}

func TestDelaysDeadbandAndQuality(t *testing.T) {
	for name, c := range map[string]struct {
		a                  Alarm
		limit, steps, want string
	}{
		"high comes and goes":            {Alarm{Kind: HighLimit}, "80", "0:70 1:81 2:79", "1 raised→unacknowledged, 2 cleared→returned"},
		"the limit itself is not beyond": {Alarm{Kind: HighLimit}, "80", "0:80 1:80.1", "1 raised→unacknowledged"},
		"low":                            {Alarm{Kind: LowLow}, "10", "0:11 1:9 2:10", "1 raised→unacknowledged, 2 cleared→returned"},
		"deadband": {Alarm{Kind: HighLimit, Deadband: 5}, "80", "0:81 1:79 2:76 3:75 4:79",
			"0 raised→unacknowledged, 3 cleared→returned"},
		"deadband below a low limit": {Alarm{Kind: LowLimit, Deadband: 5}, "10", "0:9 1:14 2:15",
			"0 raised→unacknowledged, 2 cleared→returned"},
		"on-delay": {Alarm{Kind: HighLimit, OnDelay: 10}, "80", "0:81 5:79 6:81 30:81", "16 raised→unacknowledged"},
		"off-delay": {Alarm{Kind: HighLimit, OffDelay: 10}, "80", "0:81 5:79 8:81 9:79 30:79",
			"0 raised→unacknowledged, 19 cleared→returned"},
		"acknowledged, then gone": {Alarm{Kind: HighLimit}, "80", "0:81 1:ack 2:79",
			"0 raised→unacknowledged, 1 acknowledged→acknowledged, 2 cleared→normal"},
		"returned, then acknowledged": {Alarm{Kind: HighLimit}, "80", "0:81 1:79 2:ack",
			"0 raised→unacknowledged, 1 cleared→returned, 2 acknowledged→normal"},
		"latched stays until it is reset": {Alarm{Kind: HighLimit, Latch: true}, "80", "0:81 1:79 2:ack 3:reset",
			"0 raised→unacknowledged, 1 cleared→latched-unack, 2 acknowledged→latched-ack, 3 reset→normal"},
		"without acknowledgement": {Alarm{Kind: HighLimit, NoAck: true}, "80", "0:81 1:79", "0 raised→acknowledged, 1 cleared→normal"},
		"bad quality keeps the state": {Alarm{Kind: HighLimit}, "80", "0:81 1:bad 2:81 3:bad 4:79",
			"0 raised→unacknowledged, 4 cleared→returned"},
		"bad quality as the condition":    {Alarm{Kind: Quality}, "", "0:1 1:broken 2:1", "1 raised→unacknowledged, 2 cleared→returned"},
		"a lost link is the link's alarm": {Alarm{Kind: Quality}, "", "0:1 1:bad 2:1", ""},
		"a BOOL":                          {Alarm{Kind: State}, "", "0:false 1:true 2:false", "1 raised→unacknowledged, 2 cleared→returned"},
		"a BOOL that must be true": {Alarm{Kind: State, Inverted: true}, "", "0:true 1:false 2:true",
			"1 raised→unacknowledged, 2 cleared→returned"},
		"too fast within its window": {Alarm{Kind: Rate, Window: 10}, "5", "0:0 5:2 10:4 12:9 40:9",
			"12 raised→unacknowledged, 20 cleared→returned"},
		"slow enough": {Alarm{Kind: Rate, Window: 10}, "5", "0:0 5:2 10:4 15:6 20:8 25:10", ""},
		"a shelf expires by itself": {Alarm{Kind: HighLimit}, "80", "0:81 10:shelve 100:81",
			"0 raised→unacknowledged, 10 shelved→shelved, 70 unshelved→unacknowledged"},
		"shelved and gone meanwhile": {Alarm{Kind: HighLimit}, "80", "0:81 10:shelve 20:79 100:79",
			"0 raised→unacknowledged, 10 shelved→shelved, 70 unshelved→normal"},
		"suppressed by design": {Alarm{Kind: HighLimit}, "80", "0:on 1:81 2:off",
			"0 suppressed→suppressed, 2 unsuppressed→unacknowledged"},
		"shelved while suppressed": {Alarm{Kind: HighLimit}, "80", "0:on 1:81 2:shelve 100:81",
			"0 suppressed→suppressed, 2 shelved→shelved, 62 unshelved→suppressed"},
		"a clock that goes back": {Alarm{Kind: HighLimit, OnDelay: 10}, "80", "100:81 50:81 55:81 61:81", "60 raised→unacknowledged"},
		"comes again before it is seen": {Alarm{Kind: HighLimit}, "80", "0:81 1:79 2:82",
			"0 raised→unacknowledged, 1 cleared→returned, 2 raised→unacknowledged"},
		"an acknowledged one is not again": {Alarm{Kind: HighLimit}, "80", "0:81 1:ack 2:ack",
			"0 raised→unacknowledged, 1 acknowledged→acknowledged"},
	} {
		c.a.ID, c.a.Name, c.a.Priority = "a", "A", High
		if got := play(&c.a, c.limit, c.steps); got != c.want {
			t.Errorf("%s:\n%s\nwant\n%s", name, got, c.want)
		}
	}
}

func TestDeviationAndDiscrepancy(t *testing.T) {
	r := New(&Alarm{ID: "a", Kind: Deviation, Deadband: 1}, Kept{}, t0)
	step := func(sec, v, target float64) string {
		changes, _ := r.Step(Inputs{Signal: real(v), Target: real(target), Limit: real(5)}, at(sec))
		if len(changes) == 0 {
			return ""
		}
		return string(changes[0].On)
	}
	if got := step(0, 60, 62) + step(1, 60, 66) + step(2, 61, 66) + step(3, 62, 66); got != "raisedcleared" {
		t.Error(got)
	}
	d := New(&Alarm{ID: "d", Kind: Discrepancy, Window: 3}, Kept{}, t0)
	in := Inputs{Signal: value.Bool(true), Target: value.Bool(false)}
	if changes, due := d.Step(in, t0); len(changes) != 0 || !due.Equal(at(3)) {
		t.Errorf("%v %v", changes, due)
	}
	if changes, _ := d.Step(in, at(3)); len(changes) != 1 || changes[0].On != Raise {
		t.Errorf("no feedback: %v", changes)
	}
	in.Target = value.Bool(true)
	if changes, _ := d.Step(in, at(4)); len(changes) != 1 || changes[0].On != Clear {
		t.Errorf("feedback: %v", changes)
	}
}

// Every line of the table, from every state by every event: what is not in it
// changes nothing.
func TestTheTableIsWhole(t *testing.T) {
	for _, a := range []*Alarm{{ID: "a"}, {ID: "a", Latch: true}, {ID: "a", NoAck: true}, {ID: "a", Latch: true, NoAck: true}} {
		for _, from := range Standings {
			for _, on := range Events {
				var hits []Transition
				for _, tr := range Table {
					if tr.From == from && tr.On == on && tr.when.holds(a) {
						hits = append(hits, tr)
					}
				}
				if len(hits) > 1 {
					t.Errorf("%s by %s: %d lines", from, on, len(hits))
				}
				r := New(a, Kept{Standing: from}, t0)
				var changes []Change
				moved := r.do(&changes, on, at(1), "")
				switch {
				case len(hits) == 0 && (moved || r.Standing != from):
					t.Errorf("%s by %s went to %s without a line", from, on, r.Standing)
				case len(hits) == 1 && hits[0].To != "" && r.Standing != hits[0].To:
					t.Errorf("%s by %s went to %s, not %s", from, on, r.Standing, hits[0].To)
				case len(hits) == 1 && !moved:
					t.Errorf("%s by %s did nothing", from, on)
				}
			}
		}
	}
	// The diagram's own arrows, by hand: the table cannot be right by itself.
	for _, arrow := range []string{"normal raised unacknowledged", "unacknowledged acknowledged acknowledged",
		"unacknowledged cleared returned", "acknowledged cleared normal",
		"returned acknowledged normal", "returned raised unacknowledged", "latched-unack acknowledged latched-ack", "latched-ack reset normal",
		"latched-unack reset returned", "normal shelved shelved", "suppressed removed out-of-service"} {
		var from Standing
		var on Event
		var to Standing
		fmt.Sscan(arrow, &from, &on, &to)
		if tr, ok := next(&Alarm{}, from, on); !ok || tr.To != to {
			t.Errorf("%s: %v %v", arrow, tr, ok)
		}
	}
}

// Random lives of alarms: what must hold whatever happens.
func TestWhatMustHoldAlways(t *testing.T) {
	for seed := range 300 {
		rnd := rand.New(rand.NewSource(int64(seed)))
		a := &Alarm{ID: "a", Kind: HighLimit, Latch: rnd.Intn(2) == 0, NoAck: rnd.Intn(4) == 0, OnDelay: float64(rnd.Intn(3)),
			OffDelay: float64(rnd.Intn(3)), Deadband: float64(rnd.Intn(3))}
		r := New(a, Kept{}, t0)
		in := Inputs{Limit: real(50), Signal: real(0), Suppress: value.Bool(false)}
		var path []Change
		raisedSeen, was := true, Normal
		for i := range 400 {
			now := at(float64(i))
			var changes []Change
			switch rnd.Intn(9) {
			case 0:
				changes, _ = r.Act(Ack, now, time.Time{}, "p", "")
				raisedSeen = true
			case 1:
				changes, _ = r.Act(Reset, now, time.Time{}, "p", "")
			case 2:
				changes, _ = r.Act(Shelve, now, now.Add(20*time.Second), "p", "why")
			case 3:
				if rnd.Intn(4) == 0 {
					changes, _ = r.Act(Remove, now, time.Time{}, "p", "why")
				} else {
					changes, _ = r.Act(Return, now, time.Time{}, "p", "")
				}
			case 4:
				in.Suppress = value.Bool(rnd.Intn(3) == 0)
			case 5:
				in.Signal = value.Bad(value.LREAL, value.BadStale)
			default:
				in.Signal = real(float64(rnd.Intn(100)))
			}
			path = append(path, changes...)
			changes, due := r.Step(in, now)
			path = append(path, changes...)
			for _, c := range changes {
				if c.On == Raise && c.To == Unacknowledged {
					raisedSeen = false
				}
			}
			// No annunciation is lost: an alarm that came and asks for
			// acknowledgement is not normal before somebody saw it or set it aside.
			if r.Standing == Normal && !raisedSeen && !was.Aside() && !hasAside(path) {
				t.Fatalf("seed %d: gone unseen: %v", seed, path)
			}
			// A shelf always ends.
			if r.Standing == Shelved && (r.Until.IsZero() || due.IsZero() || due.After(r.Until)) {
				t.Fatalf("seed %d: a shelf without end", seed)
			}
			was = r.Standing
		}
		for i, c := range path {
			if i > 0 && path[i-1].To != c.From {
				t.Fatalf("seed %d: %v does not follow %v", seed, c, path[i-1])
			}
			if _, ok := next(a, c.From, c.On); !ok {
				t.Fatalf("seed %d: %v is no line of the table", seed, c)
			}
			if a.Latch && (c.From == LatchedAck || c.From == LatchedUnack) && c.To == Normal && c.On != Reset {
				t.Fatalf("seed %d: a latched alarm left alone: %v", seed, c)
			}
		}
	}
}

func hasAside(path []Change) bool {
	for _, c := range path {
		if c.To.Aside() {
			return true
		}
	}
	return false
}

// In each state a restart keeps everything: state, acknowledgement, shelf.
func TestARestartInEachState(t *testing.T) {
	a := &Alarm{ID: "a", Kind: HighLimit, Latch: true}
	hot := Inputs{Limit: real(50), Signal: real(60)}
	for _, s := range Standings {
		kept := Kept{Standing: s, Active: true, Since: t0, Raised: t0, Suppressed: s == Suppressed, Text: "at 60"}
		if s == Shelved {
			kept.Until = at(100)
		}
		in := hot
		if s == Returned || s == LatchedAck || s == LatchedUnack || s == Normal {
			kept.Active, in.Signal = false, real(40)
		}
		if s == Suppressed {
			in.Suppress = value.Bool(true)
		}
		r := New(a, kept, at(10))
		if changes, _ := r.Step(in, at(10)); len(changes) != 0 || r.Standing != s || r.Since != t0 || r.Text != "at 60" {
			t.Errorf("%s: %v, now %s since %v", s, changes, r.Standing, r.Since)
		}
	}
	r := New(a, Kept{Standing: Shelved, Active: true, Until: at(5)}, at(10))
	if changes, _ := r.Step(hot, at(10)); len(changes) != 1 || changes[0].To != Unacknowledged {
		t.Errorf("a shelf that ended while we were gone: %v", changes)
	}
}

func TestWhatIsNoAlarmIsRefused(t *testing.T) {
	good := Alarm{Name: "High", Kind: HighLimit, Priority: High, Limit: "80"}
	for place, change := range map[string]func(*Alarm){
		"/name": func(a *Alarm) { a.Name = " " }, "/priority": func(a *Alarm) { a.Priority = "urgent" },
		"/kind": func(a *Alarm) { a.Kind = "odd" }, "/deadband": func(a *Alarm) { a.Deadband = -1 },
		"/onDelay": func(a *Alarm) { a.OnDelay = 1e6 }, "/window": func(a *Alarm) { a.Kind = Rate },
		"/shelveMinutes": func(a *Alarm) { a.ShelveMinutes = 1e6 }, "/message": func(a *Alarm) { a.Message = strings.Repeat("x", 3000) },
	} {
		a := good
		change(&a)
		if at, err := a.Check(); err == nil || at != place {
			t.Errorf("%s: %q %v", place, at, err)
		}
	}
	if at, err := good.Check(); err != nil {
		t.Error(at, err)
	}
}

// A threshold that is not crossed means that a step would change nothing.
func TestAThresholdIsRight(t *testing.T) {
	for seed := range 200 {
		rnd := rand.New(rand.NewSource(int64(seed)))
		a := &Alarm{ID: "a", Kind: []Kind{HighLimit, LowLow, Rate}[rnd.Intn(3)], Window: 5, OnDelay: float64(rnd.Intn(3)),
			Deadband: float64(rnd.Intn(9))}
		r := New(a, Kept{}, t0)
		said := 0
		for i := range 300 {
			v := real(float64(rnd.Intn(100)))
			if rnd.Intn(9) == 0 {
				v = value.Bad(value.LREAL, value.BadRefused)
			}
			if rnd.Intn(20) == 0 {
				r.Act(Shelve, at(float64(i)), at(float64(i+5)), "p", "why")
			}
			threshold, calm := r.Threshold(50)
			still, was := calm && !v.Quality.IsBad() && !threshold.Crossed(v.Float()), r.Standing
			changes, _ := r.Step(Inputs{Signal: v, Limit: real(50)}, at(float64(i)))
			if still {
				said++
				if len(changes) > 0 || r.Standing != was || r.Bad {
					t.Fatalf("seed %d: %v though it was still", seed, changes)
				}
			}
		}
		if said == 0 && a.Kind != Rate {
			t.Fatalf("seed %d: never still", seed)
		}
	}
}

// A release brings a definition that is the same or another one; the alarm
// stays where it is until its condition says otherwise.
func TestAReleaseInEachState(t *testing.T) {
	for _, s := range Standings {
		a := &Alarm{ID: "a", Kind: HighLimit, Latch: true, Deadband: 1, Priority: Low}
		kept := Kept{Standing: s, Active: s != Returned && s != LatchedAck && s != LatchedUnack &&
			s != Normal, Since: t0, Raised: t0, By: "tom", Suppressed: s == Suppressed, Text: "at 60"}
		if s == Shelved {
			kept.Until, kept.Reason = at(100), "noise"
		}
		in := Inputs{Limit: real(50), Signal: real(60)}
		if !kept.Active {
			in.Signal = real(40)
		}
		if s == Suppressed {
			in.Suppress = value.Bool(true)
		}
		r := New(a, kept, t0)
		r.Step(in, t0)
		for n, change := range []func(*Alarm){func(*Alarm) {}, func(b *Alarm) { b.Name = "other" }, func(b *Alarm) { b.Priority = High },
			func(b *Alarm) { b.Deadband = 2 }, func(b *Alarm) { b.OnDelay = 9 }} {
			b := *a
			change(&b)
			r.Redefine(&b)
			if changes, _ := r.Step(in, at(float64(n+1))); len(changes) != 0 || r.Standing != s || r.Since != t0 || r.By != "tom" ||
				r.Until != kept.Until || r.Reason != kept.Reason {
				t.Errorf("%s, change %d: %v, now %+v", s, n, changes, r.Kept)
			}
		}
	}
}
