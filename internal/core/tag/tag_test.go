package tag

import (
	"errors"
	"math"
	"strings"
	"testing"

	"readyrail/internal/core/value"
)

func TestCheckPath(t *testing.T) {
	for _, c := range []struct {
		path   string
		offset int // -1: good
	}{
		{"Kiln1.Fan[2].Running", -1}, {"A", -1}, {"a_1[10][2]", -1}, {"Kiln1.Moisture[4]", -1},
		{"", 0}, {"1st", 0}, {"_x", 0}, {"Kiln-1.X", 4}, {"Kiln1..X", 6}, {"Kiln1.", 6},
		{"A.and", 2}, {"A.AND", 2}, {"true", 0}, {"Fan[i]", 3}, {"Fan[2", 3}, {"Fan[]", 3}, {"Fän", 1},
		{strings.Repeat("a", 65), 0}, {strings.Repeat("a.", 130) + "b", 250},
	} {
		err := CheckPath(c.path)
		var pe *PathError
		switch {
		case c.offset < 0 && err != nil:
			t.Errorf("%q refused: %v", c.path, err)
		case c.offset >= 0 && (!errors.As(err, &pe) || pe.Offset != c.offset):
			t.Errorf("%q: %v; want a refusal at %d", c.path, err, c.offset)
		}
	}
	if err := CheckSegment("A.B"); err == nil {
		t.Error("a dot in a name must be refused")
	}
}

func FuzzPath(f *testing.F) {
	for _, s := range []string{"Kiln1.Fan[2].Running", "a..b", "x[", "[1]", "A.and"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if CheckPath(s) == nil && ScanPath(s) != len(s) {
			t.Errorf("%q is a path, but only %d bytes of it scan", s, ScanPath(s))
		}
		if n := ScanPath(s); n > 0 && n <= MaxPath {
			if err := CheckPath(s[:n]); err != nil && !strings.Contains(err.Error(), "formula") && !strings.Contains(err.Error(), "at most") {
				t.Errorf("%q scans as a path but is refused: %v", s[:n], err)
			}
		}
	})
}

func TestLess(t *testing.T) {
	ordered := []string{"Car.Position", "Fan", "Fan[1].Run", "Fan[2].Run", "Fan[10].Run", "fan[10].Speed", "Kiln1"}
	for i := range ordered {
		for j := range ordered {
			if got := Less(ordered[i], ordered[j]); got != (i < j) {
				t.Errorf("Less(%q, %q) = %v", ordered[i], ordered[j], got)
			}
		}
	}
}

func ptr[T any](v T) *T { return &v }

func TestScale(t *testing.T) {
	// A 12-bit converter for 0 to 120 °C, and one that runs the other way.
	for _, c := range []struct {
		s        Scale
		raw, eng float64
		cut      bool
	}{
		{Scale{RawLow: 0, RawHigh: 1200, EngLow: 0, EngHigh: 120}, 714, 71.4, false},
		{Scale{RawLow: 0, RawHigh: 1200, EngLow: 0, EngHigh: 120}, 1300, 130, false},
		{Scale{RawLow: 0, RawHigh: 1200, EngLow: 0, EngHigh: 120, Clamp: true}, 1300, 120, true},
		{Scale{RawLow: 4000, RawHigh: 20000, EngLow: -50, EngHigh: 150}, 12000, 50, false},
		{Scale{RawLow: 0, RawHigh: 100, EngLow: 100, EngHigh: 0, Clamp: true}, 25, 75, false},
		{Scale{RawLow: 0, RawHigh: 100, EngLow: 100, EngHigh: 0, Clamp: true}, -5, 100, true},
	} {
		eng, cut := c.s.Linear().Read(c.raw)
		if math.Abs(eng-c.eng) > 1e-9 || cut != c.cut {
			t.Errorf("%+v reads %v as %v, cut %v; want %v, %v", c.s, c.raw, eng, cut, c.eng, c.cut)
		}
		if !cut {
			if raw := c.s.Linear().Write(eng); math.Abs(raw-c.raw) > 1e-9 {
				t.Errorf("%+v writes %v back as %v; want %v", c.s, eng, raw, c.raw)
			}
		}
	}
}

func TestToRawRefusesWhatTheTypeCannotHold(t *testing.T) {
	tg := &Tag{Name: "T", Type: value.Type{Kind: value.INT}, Scale: &Scale{RawHigh: 1200, EngHigh: 120}}
	if raw, err := tg.ToRaw(value.Real(value.LREAL, 71.44)); err != nil || raw.Int() != 714 {
		t.Errorf("71.44 became %d, %v; want 714", raw.Int(), err)
	}
	if _, err := tg.ToRaw(value.Real(value.LREAL, 3277)); !errors.Is(err, value.ErrRange) {
		t.Errorf("3277 °C is raw 32770: %v", err)
	}
	door := &Tag{Name: "D", Type: value.Type{Kind: value.BOOL}, Invert: true}
	if raw, _ := door.ToRaw(value.Bool(true)); raw.Bool() {
		t.Error("an inverted BOOL must be turned on its way out")
	}
	if !door.ToEngineering(value.Bool(false)).Bool() {
		t.Error("an inverted BOOL must be turned on its way in")
	}
}

func TestCheckEntry(t *testing.T) {
	sp := &Tag{Name: "SP", Type: value.Type{Kind: value.INT}, Scale: &Scale{RawHigh: 1200, EngHigh: 120},
		Low: ptr(20.0), High: ptr(95.0), Step: 0.5, Decimals: ptr(1), Unit: "°C"}
	for _, c := range []struct {
		in   float64
		want string
	}{
		{72, ""}, {20, ""}, {95, ""}, {72.5, ""},
		{96, "96.0\u00a0°C is outside 20.0\u00a0°C to 95.0\u00a0°C; the limits are set at the tag"},
		{19.5, "19.5\u00a0°C is outside 20.0\u00a0°C to 95.0\u00a0°C; the limits are set at the tag"},
		{72.3, "72.3\u00a0°C is not a whole number of steps of 0.5\u00a0°C from 20.0\u00a0°C; the step is set at the tag"},
	} {
		err := sp.CheckEntry(value.Real(value.LREAL, c.in))
		if got := errText(err); got != c.want {
			t.Errorf("%v: %q, want %q", c.in, got, c.want)
		}
	}
	free := &Tag{Name: "N", Type: value.Type{Kind: value.UINT}}
	if err := free.CheckEntry(value.Int(value.DINT, -1)); err == nil || !strings.Contains(err.Error(), "its type UINT") {
		t.Errorf("below a UINT: %v", err)
	}
}

func errText(err error) string {
	if err == nil {
		return ""
	}
	return err.Error()
}

func TestShow(t *testing.T) {
	mode := &Tag{Type: value.Type{Kind: value.INT}, States: []State{{Value: 0, Text: "idle"}, {Value: 2, Text: "drying"}}}
	temp := &Tag{Type: value.Type{Kind: value.REAL}, Decimals: ptr(1), Unit: "°C"}
	for _, c := range []struct {
		tag  *Tag
		v    value.Value
		want string
	}{
		{mode, value.Int(value.INT, 2), "drying"}, {mode, value.Int(value.INT, 7), "7"},
		{temp, value.Real(value.REAL, 71.44), "71.4\u00a0°C"},
		{&Tag{Type: value.Type{Kind: value.BOOL}}, value.Bool(true), "on"},
		{&Tag{Type: value.Type{Kind: value.ULINT}}, value.Uint(value.ULINT, math.MaxUint64), "18446744073709551615"},
	} {
		if got := c.tag.Show(c.v, true); got != c.want {
			t.Errorf("%v: %q, want %q", c.v.Text(), got, c.want)
		}
	}
	if v, err := mode.ParseEntry(" Drying "); err != nil || v.Int() != 2 {
		t.Errorf("a state name as entry: %v, %v", v.Int(), err)
	}
}

func TestCheckNamesTheField(t *testing.T) {
	good := Tag{Name: "A", Type: value.Type{Kind: value.INT}, Source: Device, Address: "holding:1"}
	for _, c := range []struct {
		field string
		mend  func(*Tag)
	}{
		{"", func(*Tag) {}},
		{"name", func(t *Tag) { t.Name = "1st" }},
		{"type", func(t *Tag) { t.Type = value.Type{} }},
		{"source", func(t *Tag) { t.Source = "moon" }},
		{"address", func(t *Tag) { t.Address = "" }},
		{"scale", func(t *Tag) { t.Scale = &Scale{RawLow: 1, RawHigh: 1, EngHigh: 2} }},
		{"scale", func(t *Tag) { t.Type.Kind = value.BOOL; t.Scale = &Scale{RawHigh: 1, EngHigh: 1} }},
		{"invert", func(t *Tag) { t.Invert = true }},
		{"low", func(t *Tag) { t.Low, t.High = ptr(5.0), ptr(4.0) }},
		{"poll", func(t *Tag) { t.Poll = 10 }},
		{"initial", func(t *Tag) { t.Source, t.Initial = Internal, "x" }},
	} {
		tg := good
		c.mend(&tg)
		if field, err := tg.Check(); field != c.field || (err == nil) != (c.field == "") {
			t.Errorf("want field %q, got %q, %v", c.field, field, err)
		}
	}
}
