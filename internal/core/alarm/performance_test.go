package alarm

import (
	"testing"
	"time"
)

var monday = time.Date(2026, 3, 2, 6, 0, 0, 0, time.UTC)

// course writes happenings in short: seconds from monday, alarm, and r for
// raised, c for cleared, a for acknowledged, s for shelved, o for out of the
// shelf while it is active.
func course(t *testing.T, text []struct {
	at    float64
	alarm string
	on    byte
}) []Happening {
	t.Helper()
	var out []Happening
	for _, x := range text {
		h := Happening{At: monday.Add(time.Duration(x.at * float64(time.Second))), Alarm: x.alarm, Name: x.alarm, Area: "kilns", Priority: Low}
		if x.alarm == "hot" {
			h.Priority, h.Area = Critical, "car"
		}
		switch x.on {
		case 'r':
			h.On, h.To = Raise, Unacknowledged
		case 'c':
			h.On, h.To = Clear, Returned
		case 'a':
			h.On, h.To = Ack, Acknowledged
		case 's':
			h.On, h.To = Shelve, Shelved
		case 'o':
			h.On, h.To = Unshelve, Unacknowledged
		}
		out = append(out, h)
	}
	return out
}

type happens = []struct {
	at    float64
	alarm string
	on    byte
}

func figure(p Performance, name string) Figure {
	for _, f := range p.Figures {
		if f.Name == name {
			return f
		}
	}
	return Figure{Value: -1}
}

func TestPerformanceOfAShift(t *testing.T) {
	var list happens
	add := func(at float64, alarm, on string) {
		for _, c := range []byte(on) {
			list = append(list, struct {
				at    float64
				alarm string
				on    byte
			}{at, alarm, c})
		}
	}
	// Four times within a minute, 5 s each: chattering, and fleeting.
	for i := range 4 {
		add(float64(i)*15, "door", "r")
		add(float64(i)*15+5, "door", "c")
	}
	add(200, "hot", "r")
	add(230, "hot", "a")
	add(400, "hot", "c")
	// A flood in the second ten minutes.
	for i := range 12 {
		add(600+float64(i), string(rune('b'+i)), "r")
	}
	add(1300, "b", "s")
	add(1400, "b", "o")
	p := Performed(course(t, list), nil, monday, monday.Add(time.Hour))
	if p.Alarms != 18 {
		t.Errorf("%d alarms", p.Alarms)
	}
	for name, want := range map[string]float64{"average": 3, "peak": 12, "flood": 100.0 / 6, "chattering": 1, "fleeting": 1, "stale": 0} {
		if got := figure(p, name); got.Value != want {
			t.Errorf("%s is %v, not %v", name, got.Value, want)
		}
	}
	if figure(p, "peak").Met || !figure(p, "stale").Met {
		t.Errorf("%+v", p.Figures)
	}
	if f := p.Frequent[0]; f.Name != "door" || f.Count != 4 || f.Chatter != 1 || f.Worst != 4 || f.Fleeting != 4 || f.Longest != 5 {
		t.Errorf("%+v", f)
	}
	if f := p.Frequent[1]; f.Name != "b" || f.Count != 2 {
		t.Errorf("an alarm that comes back from its shelf is annunciated again: %+v", f)
	}
	if len(p.Floods) != 1 || p.Floods[0].Count != 12 || p.Floods[0].From != monday.Add(10*time.Minute).UnixMilli() ||
		p.Floods[0].To != monday.Add(20*time.Minute).UnixMilli() {
		t.Errorf("%+v", p.Floods)
	}
	if w := p.Waited[0]; w.Priority != Critical || w.Count != 1 || w.Acked != 1 || w.Median != 30 || w.Most != 30 {
		t.Errorf("%+v", w)
	}
	if len(p.Areas) != 2 || p.Areas[0].Area != "kilns" || p.Areas[0].Count != 17 || p.Areas[1].Peak != 1 {
		t.Errorf("%+v", p.Areas)
	}
}

func TestStaleAlarms(t *testing.T) {
	day := float64(24 * 3600)
	list := course(t, happens{{10, "a", 'r'}, {20, "b", 'r'}, {day + 30, "b", 'c'}, {40, "c", 'r'}, {50, "c", 'c'}})
	standing := map[string]Happening{"a": list[0],
		"old": {At: monday.Add(-48 * time.Hour), Alarm: "old", Name: "old", Priority: Low, To: Acknowledged}}
	p := Performed(list, standing, monday, monday.Add(36*time.Hour))
	names := ""
	for _, f := range p.Stale {
		names += f.Name + " "
	}
	if names != "old a b " {
		t.Errorf("stale: %s", names)
	}
	if p.Stale[0].Since == 0 || p.Stale[2].Since != 0 || p.Alarms != 3 {
		t.Errorf("%+v", p.Stale)
	}
}

func TestNothingHappened(t *testing.T) {
	p := Performed(nil, nil, monday, monday)
	if p.Alarms != 0 || len(p.Slices) != 1 || figure(p, "average").Value != 0 || !figure(p, "top").Met {
		t.Errorf("%+v", p)
	}
}

func TestChatterByHand(t *testing.T) {
	for _, c := range []struct {
		at             []int // seconds
		episodes, most int
	}{
		{[]int{0, 30, 60}, 1, 3}, {[]int{0, 30, 61}, 0, 2}, {[]int{0, 1, 2, 3, 4}, 1, 5}, {[]int{0, 1, 2, 200, 201, 202}, 2, 3},
		{[]int{5}, 0, 1}, {nil, 0, 0},
		{[]int{0, 20, 40, 60, 80, 100}, 1, 4},
	} {
		var spells []Spell
		for _, s := range c.at {
			at := monday.Add(time.Duration(s) * time.Second)
			spells = append(spells, Spell{at, at.Add(time.Second / 2)})
		}
		if n, worst := Chatter(spells); n != c.episodes || worst != c.most {
			t.Errorf("%v: %d episodes, %d in the worst minute", c.at, n, worst)
		}
	}
}
