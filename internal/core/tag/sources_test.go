package tag

import (
	"math"
	"strings"
	"testing"

	"readyrail/internal/core/value"
)

func TestGainAndOffset(t *testing.T) {
	tg := &Tag{Type: value.Type{Kind: value.INT}, Scale: &Scale{Gain: 0.1, Offset: -40}}
	if v := tg.ToEngineering(value.Int(value.INT, 650)); v.Float() != 25 || v.Kind != value.LREAL {
		t.Errorf("650 raw is %v", v.Float())
	}
	if raw, err := tg.ToRaw(value.Real(value.LREAL, 25)); err != nil || raw.Int() != 650 {
		t.Errorf("25 is raw %v, %v", raw.Int(), err)
	}
	if _, err := tg.ToRaw(value.Real(value.LREAL, 9999)); err == nil || !strings.Contains(err.Error(), "outside INT") {
		t.Errorf("too large for an INT: %v", err)
	}
	for _, bad := range []Scale{{Gain: 2, Clamp: true}, {Offset: 3}, {Gain: math.Inf(1)}} {
		if bad.Check() == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
}

func TestLimitsFromTags(t *testing.T) {
	high := 90.0
	tg := &Tag{Type: value.Type{Kind: value.REAL}, LowTag: "low", High: &high}
	low := value.Real(value.REAL, 40)
	read := func(string) value.Value { return low }
	now, err := tg.WithLimits(read)
	if err != nil || now.CheckEntry(value.Real(value.REAL, 39)) == nil || now.CheckEntry(value.Real(value.REAL, 50)) != nil {
		t.Errorf("40 to 90: %v", err)
	}
	low = value.Bad(value.REAL, value.BadStale)
	if _, err := tg.WithLimits(read); err == nil {
		t.Error("a bad limit let an entry through")
	}
}

func TestStateNamesInEveryLanguage(t *testing.T) {
	tg := &Tag{Type: value.Type{Kind: value.INT}, States: []State{{Value: 2, Text: "drying", Texts: map[string]string{"de": "trocknen"}}}}
	if v, err := tg.ParseEntry("Trocknen"); err != nil || v.Int() != 2 {
		t.Errorf("%v, %v", v.Int(), err)
	}
}

func TestMotions(t *testing.T) {
	run := func(b Behaviour, seconds float64, input float64) float64 {
		m := NewMotion(b, 1)
		v := 0.0
		for range int(math.Round(seconds * 10)) {
			v = m.Advance(0.1, input)
		}
		return math.Round(v*100) / 100
	}
	for _, c := range []struct {
		b    Behaviour
		s    float64
		want float64
	}{
		{Behaviour{Kind: Hold, Low: 5}, 9, 5},
		{Behaviour{Kind: Ramp, Low: 10, High: 20, Period: 10}, 5, 15},
		{Behaviour{Kind: Ramp, Low: 10, High: 20, Period: 10}, 12.5, 12.5},
		{Behaviour{Kind: Sine, Low: -1, High: 1, Period: 4}, 1, 1},
		{Behaviour{Kind: Square, Low: 2, High: 3, Period: 4}, 1, 2},
		{Behaviour{Kind: Square, Low: 2, High: 3, Period: 4}, 3, 3},
		{Behaviour{Kind: Counter, Low: 0, High: 2, Step: 1, Period: 1}, 1.5, 1},
		{Behaviour{Kind: Counter, Low: 0, High: 2, Step: 1, Period: 1}, 3.5, 0},
		{Behaviour{Kind: Follow, Tag: "x", Lag: 0, Low: 0, High: 50}, 1, 50},
		{Behaviour{Kind: Playback, Recording: "s,v\n0,1\n2,7\n4,9\n"}, 3, 7},
		{Behaviour{Kind: Playback, Recording: "0;1\n2;7\n4;9"}, 5, 1},
	} {
		if err := c.b.Check(); err != nil {
			t.Errorf("%+v: %v", c.b, err)
		}
		if got := run(c.b, c.s, 80); got != c.want {
			t.Errorf("%+v after %v s: %v, want %v", c.b, c.s, got, c.want)
		}
	}
	walk := Behaviour{Kind: Walk, Low: 10, High: 12, Step: 1}
	if a, b := run(walk, 60, 0), run(walk, 60, 0); a != b || a < 10 || a > 12 {
		t.Errorf("a walk is repeatable and stays inside: %v, %v", a, b)
	}
	for _, bad := range []Behaviour{{Kind: "jump"}, {Kind: Follow}, {Kind: Sine}, {Kind: Ramp, Low: 2, High: 1, Period: 1}, {Kind: Playback},
		{Kind: Playback, Recording: "0,1\nx,2"}, {Kind: Playback, Recording: "5,1\n1,2"}} {
		if bad.Check() == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
}

func TestSuggestions(t *testing.T) {
	find := func(path string) (string, bool) { return "sp", path == "Kiln1.DryBulbSP" }
	low, high := 20.0, 95.0
	for want, tg := range map[string]*Tag{
		Hold:    {Type: value.Type{Kind: value.REAL}, Source: Device, Access: ReadWrite, Low: &low, High: &high},
		Follow:  {Name: "DryBulb", Type: value.Type{Kind: value.REAL}, Source: Device},
		Square:  {Type: value.Type{Kind: value.BOOL}, Source: Device},
		Counter: {Type: value.Type{Kind: value.INT}, Source: Device, States: []State{{Value: 0}, {Value: 4}}},
	} {
		b := Suggest(tg, "Kiln1."+tg.Name, find)
		if b.Kind != want || b.Check() != nil {
			t.Errorf("%+v: %+v, %v; want %s", tg, b, b.Check(), want)
		}
	}
}

func TestRangesAndSteps(t *testing.T) {
	got, err := ExpandRanges("K{1..2}.Z[3..4]")
	if err != nil || len(got) != 4 || got[3].Path != "K2.Z[4]" || got[2].Numbered("{1}/{2}") != "2/3" {
		t.Errorf("%v, %v", got, err)
	}
	for in, want := range map[string]string{"Fan[2].Speed": "Fan[3].Speed", "Kiln1": "Kiln2", "Fan[9]": "Fan[10]"} {
		if s, ok := StepName(in, 1); !ok || s != want {
			t.Errorf("%s: %s", in, s)
		}
	}
	if _, ok := StepName("Speed", 1); ok {
		t.Error("a name without a number cannot step")
	}
}
