package value

import (
	"errors"
	"math"
	"testing"
	"time"
)

func TestParseType(t *testing.T) {
	for _, c := range []struct {
		in, out string
		bad     bool
	}{
		{in: "INT", out: "INT"}, {in: " real ", out: "REAL"}, {in: "string(16)", out: "STRING(16)"},
		{in: "STRING", out: "STRING(80)"}, {in: "STRING(0)", bad: true}, {in: "STRING(251)", bad: true},
		{in: "INT(4)", bad: true}, {in: "STRING(4", bad: true}, {in: "FLOAT", bad: true}, {in: "", bad: true},
	} {
		got, err := ParseType(c.in)
		if c.bad != (err != nil) || (!c.bad && got.String() != c.out) {
			t.Errorf("ParseType(%q) = %v, %v; want %q, refused %v", c.in, got, err, c.out, c.bad)
		}
	}
}

func TestIntRange(t *testing.T) {
	for _, c := range []struct {
		k    Kind
		low  int64
		high uint64
	}{
		{SINT, -128, 127}, {USINT, 0, 255}, {INT, -32768, 32767}, {UINT, 0, 65535},
		{DINT, -2147483648, 2147483647}, {UDINT, 0, 4294967295},
		{LINT, math.MinInt64, math.MaxInt64}, {ULINT, 0, math.MaxUint64},
	} {
		if low, high := c.k.IntRange(); low != c.low || high != c.high {
			t.Errorf("%s: %d to %d; want %d to %d", c.k, low, high, c.low, c.high)
		}
	}
}

func TestFromFloatRoundsAndNeverWraps(t *testing.T) {
	for _, c := range []struct {
		k    Kind
		f    float64
		want string
		bad  bool
	}{
		{INT, 71.5, "72", false}, {INT, -71.5, "-72", false}, {INT, 32767.4, "32767", false},
		{INT, 32768, "", true}, {INT, -32768.4, "-32768", false}, {INT, -32769, "", true},
		{UINT, -1, "", true}, {UINT, -0.4, "0", false}, {USINT, 255, "255", false}, {USINT, 256, "", true},
		{LINT, 9223372036854775808, "", true}, {ULINT, 9223372036854775808, "9223372036854775808", false},
		{ULINT, 18446744073709551616, "", true}, {REAL, 1e39, "", true}, {LREAL, math.NaN(), "", true},
		{REAL, 0.1, "0.1", false}, {BOOL, 2, "true", false},
	} {
		v, err := FromFloat(c.k, c.f)
		if c.bad {
			if !errors.Is(err, ErrRange) {
				t.Errorf("%s from %v: got %v, %v; want a range refusal", c.k, c.f, v.Text(), err)
			}
			continue
		}
		if err != nil || v.Text() != c.want {
			t.Errorf("%s from %v: got %q, %v; want %q", c.k, c.f, v.Text(), err, c.want)
		}
	}
}

func TestParse(t *testing.T) {
	for _, c := range []struct {
		typ, in, want string
		bad           bool
	}{
		{"BOOL", "on", "true", false}, {"BOOL", "0", "false", false}, {"BOOL", "yes", "", true},
		{"INT", "-12", "-12", false}, {"INT", "40000", "", true}, {"INT", "1.5", "", true}, {"INT", "1e3", "1000", false},
		{"ULINT", "18446744073709551615", "18446744073709551615", false}, {"LREAL", "1,5", "", true},
		{"STRING(3)", "abc", "abc", false}, {"STRING(3)", "abcd", "", true},
	} {
		typ, _ := ParseType(c.typ)
		v, err := Parse(typ, c.in)
		if c.bad != (err != nil) || (!c.bad && v.Text() != c.want) {
			t.Errorf("Parse(%s, %q) = %q, %v; want %q, refused %v", c.typ, c.in, v.Text(), err, c.want, c.bad)
		}
	}
}

func TestQualityOrder(t *testing.T) {
	if got := Good.Worse(UncertainClamped); got != UncertainClamped {
		t.Errorf("good with clamped: %v", got)
	}
	if got := BadStale.Worse(BadConfig); got != BadStale {
		t.Errorf("of two bad ones the first stays, got %v", got)
	}
	var v Value
	if !v.Quality.IsBad() {
		t.Error("a zero Value must be bad")
	}
	for q := Quality(0); int(q) < Count; q++ {
		if back := BadFor(string(q.Reason())); q.IsBad() && back != q || !q.IsBad() && back != BadUnrecorded {
			t.Errorf("quality %d: its reason is that of %d", q, back)
		}
		if (q.Reason() == "") != (q == Good) {
			t.Errorf("quality %d: reason %q", q, q.Reason())
		}
	}
}

func TestAppendFixed(t *testing.T) {
	for _, c := range []struct {
		f    float64
		d    int
		want string
	}{
		{71.44, 1, "71.4"}, {-0.04, 1, "0.0"}, {-3.26, 1, "−3.3"}, {12480, 0, "12\u2009480"},
		{1234, 0, "1234"}, {1234567.5, 2, "1\u2009234\u2009567.50"}, {0.1 + 0.2, NoDecimals, "0.3"}, {5, NoDecimals, "5"},
	} {
		if got := string(AppendFixed(nil, c.f, c.d)); got != c.want {
			t.Errorf("%v with %d decimals: %q, want %q", c.f, c.d, got, c.want)
		}
	}
}

func TestAppendWholeIsAppendFixedWithoutDecimals(t *testing.T) {
	for _, n := range []int64{0, 7, -7, 1234, -1234, 12345, -98765432, 1 << 52} {
		if a, b := string(AppendWhole(nil, n)), string(AppendFixed(nil, float64(n), 0)); a != b {
			t.Errorf("%d: %q and %q", n, a, b)
		}
	}
}

func TestValueComparesWithoutItsTime(t *testing.T) {
	a := Int(INT, 5).At(time.Unix(10, 0))
	b := Int(INT, 5).At(time.Unix(20, 0))
	if a == b || !a.Same(b) {
		t.Error("Same must ignore the time, == must not")
	}
	if n := testing.AllocsPerRun(100, func() { _ = a.With(BadStale).Same(b) }); n != 0 {
		t.Errorf("%v allocations", n)
	}
}
