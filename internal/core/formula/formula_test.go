package formula

import (
	"errors"
	"math"
	"strings"
	"testing"

	"readyrail/internal/core/value"
)

// table is a small project: a path, its value, its slot by position.
type entry struct {
	path string
	v    value.Value
}

type fixture struct {
	entries []entry
}

func (x fixture) find(path string) (string, bool) {
	for i, e := range x.entries {
		if strings.EqualFold(e.path, path) {
			return string(rune('a' + i)), true
		}
	}
	return "", false
}

func (x fixture) scope() Scope {
	at := func(id string) int { return int(id[0] - 'a') }
	return Scope{
		Tag: func(id string) (int32, value.Kind, bool) {
			if i := at(id); i < len(x.entries) {
				return int32(i), x.entries[i].v.Kind, true
			}
			return 0, 0, false
		},
		Path: func(id string) (string, bool) {
			if i := at(id); i < len(x.entries) {
				return x.entries[i].path, true
			}
			return "", false
		},
	}
}

func (x fixture) slots() []value.Value {
	var out []value.Value
	for _, e := range x.entries {
		out = append(out, e.v)
	}
	return out
}

func (x fixture) eval(t *testing.T, text string) (value.Value, error) {
	t.Helper()
	stored, err := Store(text, x.find, nil)
	if err != nil {
		return value.Value{}, err
	}
	p, err := Compile(stored, x.scope())
	if err != nil {
		return value.Value{}, err
	}
	return p.Eval(&Frame{Slots: x.slots()}), nil
}

var kiln = fixture{[]entry{
	{"Kiln1.DryBulb", value.Real(value.LREAL, 71.5)},
	{"Kiln1.WetBulb", value.Real(value.LREAL, 58.5)},
	{"Kiln1.Mode", value.Int(value.INT, 2)},
	{"Kiln1.Fan[2].Running", value.Bool(true)},
	{"Kiln1.StatusWord", value.Int(value.UINT, 0b1010)},
	{"Kiln1.Species", value.Str("Larch")},
	{"Total", value.Uint(value.ULINT, math.MaxUint64)},
	{"Big", value.Int(value.LINT, math.MaxInt64)},
	{"Small", value.Int(value.LINT, math.MinInt64)},
	{"Broken", value.Bad(value.LREAL, value.BadNoAnswer)},
	{"Cut", value.Real(value.LREAL, 3).With(value.UncertainClamped)},
	{"Zero", value.Int(value.INT, 0)},
	{"Minus", value.Int(value.INT, -1)},
	{"Gone", value.Bad(value.BOOL, value.BadStale)},
}}

func TestEval(t *testing.T) {
	for _, c := range []struct {
		text, want string
		q          value.Quality
	}{
		{"Kiln1.DryBulb - Kiln1.WetBulb", "13", value.Good},
		{"1 + 2 * 3", "7", value.Good},
		{"7 / 2", "3.5", value.Good}, {"div(7, 2)", "3", value.Good}, {"div(-7, 2)", "-3", value.Good},
		{"7 % 3", "1", value.Good}, {"-7 % 3", "-1", value.Good}, {"2 ** 10", "1024", value.Good},
		{"Kiln1.Fan[2].Running and Kiln1.DryBulb > 70", "true", value.Good},
		{"kiln1.fan[2].running && not false", "true", value.Good},
		{"Kiln1.Mode == 2 ? \"drying\" : \"other\"", "drying", value.Good},
		{"Kiln1.Mode == 2 ? 1 : 0.5", "1", value.Good},
		{"bit(Kiln1.StatusWord, 1) and not bit(Kiln1.StatusWord, 0)", "true", value.Good},
		{"Kiln1.Species == 'Larch'", "true", value.Good}, {"Kiln1.Species + \" 50\"", "Larch 50", value.Good},
		{"max(1, 2.5, 2)", "2.5", value.Good}, {"min(3, 2, 4)", "2", value.Good}, {"max(Big, Small)", "9223372036854775807", value.Good},
		{"clamp(Kiln1.DryBulb, 0, 50)", "50", value.Good}, {"round(2.5)", "3", value.Good}, {"round(-2.5)", "-3", value.Good},
		{"abs(Minus)", "1", value.Good}, {"number(Kiln1.Fan[2].Running) + 1", "2", value.Good}, {"sqrt(16)", "4", value.Good},
		// Overflow, division by zero.
		{"Big + 1", "", value.BadOverflow}, {"Small - 1", "", value.BadOverflow}, {"Big * 2", "", value.BadOverflow},
		{"-Small", "", value.BadOverflow}, {"abs(Small)", "", value.BadOverflow}, {"div(Small, Minus)", "", value.BadOverflow},
		{"Total + Total", "", value.BadOverflow}, {"1 / Zero", "", value.BadDivision}, {"1 % Zero", "", value.BadDivision},
		{"div(1, Zero)", "", value.BadDivision}, {"sqrt(-1)", "", value.BadOverflow}, {"10.0 ** 400", "", value.BadOverflow},
		{"Small + Big", "-1", value.Good}, {"Big - 1 + 1", "9223372036854775807", value.Good},
		// Signed beside unsigned compares by the true value.
		{"Minus < Total", "true", value.Good}, {"Total > Minus", "true", value.Good}, {"Minus == Total", "false", value.Good},
		{"Big < Total", "true", value.Good}, {"Total <= Big", "false", value.Good},
		// Quality comes from what was evaluated.
		{"Broken + 1", "", value.BadInput}, {"Kiln1.Mode == 0 ? Broken : Kiln1.DryBulb", "71.5", value.Good},
		{"Kiln1.Mode == 2 ? Broken : Kiln1.DryBulb", "", value.BadInput},
		{"false and Gone", "false", value.Good}, {"true and Gone", "", value.BadInput}, {"true or Gone", "true", value.Good},
		{"Cut * 2", "6", value.UncertainInput}, {"quality(Broken)", "bad", value.Good}, {"quality(Cut)", "uncertain", value.Good},
		{"orElse(Broken, 5)", "5", value.Good}, {"orElse(Cut, 5)", "3", value.UncertainInput}, {"orElse(1 / Zero, -1)", "-1", value.Good},
	} {
		v, err := kiln.eval(t, c.text)
		if err != nil {
			t.Errorf("%s: %v", c.text, err)
			continue
		}
		if v.Quality != c.q || c.q.Level() != value.LevelBad && v.Text() != c.want {
			t.Errorf("%s = %q (%v); want %q (%v)", c.text, v.Text(), v.Quality.Reason(), c.want, c.q.Reason())
		}
	}
}

func TestRefusalsNameTheColumn(t *testing.T) {
	for _, c := range []struct {
		text   string
		column int
		says   string
	}{
		{"Kiln1.Fan[2].Running + 1", 0, "takes numbers, and this is a BOOL"},
		{"1 + Kiln1.Fan[2].Running", 4, "takes numbers, and this is a BOOL"},
		{"Kiln1.Fan[7].Running", 0, "there is no tag Kiln1.Fan[7].Running"},
		{"1 + Nobody", 4, "there is no tag Nobody"},
		{"Kiln1.Fan[Kiln1.Mode].Running", 0, "needs a whole number as its index"},
		{"Kiln1.DryBulb >", 14, "ends too early"},
		{"Kiln1.Mode ? 1 : 2", 0, "before ? is a BOOL"},
		{"true ? 1 : \"a\"", 11, "both sides of :"},
		{"Kiln1.Species > 3", 14, "cannot compare a text with a whole number"},
		{"[1, 2]", 0, "not part of the formula language"},
		{"map(1..3, # > 1)", 0, "there is no tag map"},
		{"{a: 1}", 0, "braces"},
		{"now()", 0, "there is no tag now"},
		{"abs(1, 2)", 0, "write abs(x)"},
		{"bit(Kiln1.DryBulb, 1)", 0, "write bit(x, n)"},
		{"1; 2", 0, "not part of"},
		{"", 0, "empty"},
	} {
		_, err := kiln.eval(t, c.text)
		var fe *Error
		if !errors.As(err, &fe) {
			t.Errorf("%q: %v; want an *Error", c.text, err)
			continue
		}
		if !strings.Contains(fe.Why.Error(), c.says) {
			t.Errorf("%q: %q; want %q", c.text, fe.Why, c.says)
		}
		if fe.Column != c.column {
			t.Errorf("%q: column %d; want %d (%s)", c.text, fe.Column, c.column, fe.Why)
		}
	}
}

func TestStoredFormSurvivesRename(t *testing.T) {
	text := `Kiln1.DryBulb > 80 and Kiln1.Species != "Kiln1.DryBulb"`
	stored, err := Store(text, kiln.find, nil)
	if err != nil {
		t.Fatal(err)
	}
	if want := `{a|Kiln1.DryBulb} > 80 and {f|Kiln1.Species} != "Kiln1.DryBulb"`; stored != want {
		t.Fatalf("stored %q, want %q", stored, want)
	}
	renamed := func(id string) (string, bool) { return map[string]string{"a": "Kiln1.Air.Temp"}[id], id == "a" }
	if got, want := Show(stored, renamed), `Kiln1.Air.Temp > 80 and Kiln1.Species != "Kiln1.DryBulb"`; got != want {
		t.Errorf("shown %q, want %q", got, want)
	}
	if refs := References(stored); len(refs) != 2 || refs[0] != "a" || refs[1] != "f" {
		t.Errorf("references %v", refs)
	}
}

func TestCompileSaysWhichTagIsGone(t *testing.T) {
	_, err := Compile("1 + {z|Kiln1.Old}", kiln.scope())
	var fe *Error
	if !errors.As(err, &fe) || fe.Column != 4 || !strings.Contains(fe.Why.Error(), "Kiln1.Old no longer exists") {
		t.Errorf("%v", err)
	}
}

func TestTemplate(t *testing.T) {
	typed := `Chamber at {Kiln1.DryBulb:0.0} °C \{not this\} {Kiln1.Mode == 2 ? "on" : "off"}`
	stored, err := StoreTemplate(typed, kiln.find, nil)
	if err != nil {
		t.Fatal(err)
	}
	if got := ShowTemplate(stored, kiln.scope().Path); got != typed {
		t.Errorf("shown %q, want %q", got, typed)
	}
	parts, err := ParseTemplate(stored)
	if err != nil || len(parts) != 4 {
		t.Fatalf("%+v, %v", parts, err)
	}
	if parts[1].Format.Digits != 1 || parts[2].Text != " °C {not this} " || parts[3].Format != (Format{}) {
		t.Errorf("%+v", parts)
	}
	if id, ok := PlainReference(parts[1].Formula); !ok || id != "a" {
		t.Errorf("plain reference %q, %v", id, ok)
	}
	if _, ok := PlainReference(parts[3].Formula); ok {
		t.Error("a conditional is no plain reference")
	}
	for _, c := range []struct {
		text   string
		column int
	}{{"a } b", 2}, {"a { b", 2}, {"°{Kiln1.DryBulb:x}", 16}, {"°C {Nobody}", 4}} {
		_, err := StoreTemplate(c.text, kiln.find, nil)
		var fe *Error
		if !errors.As(err, &fe) || fe.Column != c.column {
			t.Errorf("%q: %v; want column %d", c.text, err, c.column)
		}
	}
}

func FuzzFormula(f *testing.F) {
	for _, s := range []string{"Kiln1.DryBulb > 80", "1+", "{a}", "'", "Kiln1.Fan[2].Running ? 1 : 2", "abs(-1) ?? 3", "a.b?.c"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		stored, err := Store(text, kiln.find, nil)
		if err != nil {
			return
		}
		if p, err := Compile(stored, kiln.scope()); err == nil {
			p.Eval(&Frame{Slots: kiln.slots()})
		} else if fe := new(Error); errors.As(err, &fe) && (fe.Column < 0 || fe.Column > len(text)+1) {
			t.Errorf("%q: column %d lies outside", text, fe.Column)
		}
		again, err := Store(Show(stored, kiln.scope().Path), kiln.find, nil)
		if err != nil {
			t.Errorf("%q shows as %q, which is refused: %v", text, Show(stored, kiln.scope().Path), err)
		} else if len(References(again)) != len(References(stored)) {
			t.Errorf("%q loses references: %q, %q", text, stored, again)
		}
	})
}

func TestEvalDoesNotAllocate(t *testing.T) {
	stored, _ := Store("Kiln1.Fan[2].Running and Kiln1.DryBulb - Kiln1.WetBulb > 10 ? Kiln1.Mode * 2 : 0", kiln.find, nil)
	p, err := Compile(stored, kiln.scope())
	if err != nil {
		t.Fatal(err)
	}
	f := &Frame{Slots: kiln.slots()}
	if n := testing.AllocsPerRun(100, func() { p.Eval(f) }); n != 0 {
		t.Errorf("%v allocations", n)
	}
}
