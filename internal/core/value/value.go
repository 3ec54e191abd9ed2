package value

import (
	"math"
	"readyrail/internal/core/say"
	"strconv"
	"strings"
	"time"
)

// Value is one value of a tag. Numbers and booleans live in bits, so that two
// Values compare with == and copy without allocating.
type Value struct {
	Kind    Kind
	Quality Quality
	bits    uint64
	str     string
	nanos   int64
}

// Bool makes a good BOOL.
func Bool(b bool) Value {
	v := Value{Kind: BOOL, Quality: Good}
	if b {
		v.bits = 1
	}
	return v
}

// Int makes a good value of a signed or unsigned integer kind; n must lie
// within the kind's range (see FromFloat and Parse for checked ways).
func Int(k Kind, n int64) Value { return Value{Kind: k, Quality: Good, bits: uint64(n)} }

// Uint makes a good value of an unsigned kind.
func Uint(k Kind, n uint64) Value { return Value{Kind: k, Quality: Good, bits: n} }

// Real makes a good REAL or LREAL. A REAL is rounded to single precision.
func Real(k Kind, f float64) Value {
	if k == REAL {
		f = float64(float32(f))
	}
	return Value{Kind: k, Quality: Good, bits: math.Float64bits(f)}
}

// Str makes a good STRING.
func Str(s string) Value { return Value{Kind: STRING, Quality: Good, str: s} }

// Bad makes a value of a kind that has only a quality.
func Bad(k Kind, q Quality) Value { return Value{Kind: k, Quality: q} }

// With returns v with another quality.
func (v Value) With(q Quality) Value { v.Quality = q; return v }

// At returns v with its source timestamp.
func (v Value) At(t time.Time) Value { v.nanos = t.UnixNano(); return v }

// AtNanos returns v with its source timestamp in nanoseconds since 1970, UTC.
func (v Value) AtNanos(n int64) Value { v.nanos = n; return v }

// Time returns the source timestamp; the zero time when there is none.
func (v Value) Time() time.Time {
	if v.nanos == 0 {
		return time.Time{}
	}
	return time.Unix(0, v.nanos)
}

// Nanos returns the source timestamp in nanoseconds since 1970, 0 for none.
func (v Value) Nanos() int64 { return v.nanos }

// Same tells whether two values show the same: kind, quality and content,
// whatever their times.
func (v Value) Same(o Value) bool {
	return v.Kind == o.Kind && v.Quality == o.Quality && v.bits == o.bits && v.str == o.str
}

// Bool returns the truth of a BOOL, or whether a number is not zero.
func (v Value) Bool() bool {
	if v.Kind.IsReal() {
		return math.Float64frombits(v.bits) != 0
	}
	return v.bits != 0
}

// Int returns an integer's number; a real is cut towards zero. A ULINT above
// 2^63-1 comes back negative: ask Uint for those.
func (v Value) Int() int64 {
	if v.Kind.IsReal() {
		return int64(math.Float64frombits(v.bits))
	}
	return int64(v.bits)
}

// Uint returns an unsigned integer's number.
func (v Value) Uint() uint64 { return v.bits }

// Float returns the number as float64; BOOL gives 0 or 1, STRING 0.
func (v Value) Float() float64 {
	switch {
	case v.Kind.IsReal():
		return math.Float64frombits(v.bits)
	case v.Kind == ULINT:
		return float64(v.bits)
	}
	return float64(int64(v.bits))
}

// Str returns the text of a STRING.
func (v Value) Str() string { return v.str }

// Put makes v a value of a kind by its raw bits, in place: the hot paths copy no
// whole Values. It leaves the time alone.
func (v *Value) Put(k Kind, q Quality, bits uint64) {
	v.Kind, v.Quality, v.bits = k, q, bits
	if v.str != "" {
		v.str = ""
	}
}

// PutText makes v a STRING, in place.
func (v *Value) PutText(q Quality, s string) { v.Kind, v.Quality, v.bits, v.str = STRING, q, 0, s }

// PutNanos sets the source timestamp in place.
func (v *Value) PutNanos(n int64) { v.nanos = n }

// Bits returns the raw bits: the integer, or the float64's pattern.
func (v Value) Bits() uint64 { return v.bits }

// ErrRange is wrapped by every refusal of a number that its type cannot hold.
var ErrRange = say.New("out of the type's range")

// FromFloat converts an engineering or raw number to a kind. Integers are
// rounded to the nearest (halves away from zero) and refused, never wrapped,
// when the kind cannot hold them.
func FromFloat(k Kind, f float64) (Value, error) {
	switch {
	case math.IsNaN(f) || math.IsInf(f, 0):
		return Value{}, say.Errorf("%v is not a number a %s can hold: %w", f, k, ErrRange)
	case k == BOOL:
		return Bool(f != 0), nil
	case k == REAL && math.Abs(f) > math.MaxFloat32:
		return Value{}, say.Errorf("%v is too large for a REAL: %w", f, ErrRange)
	case k.IsReal():
		return Real(k, f), nil
	case k.IsInteger():
		r := math.Round(f)
		low, high := k.IntRange()
		// The float64 just above the top: 2^n is exact where 2^n-1 may not be.
		if r < float64(low) || r >= float64(high/2+1)*2 {
			return Value{}, say.Errorf("%s is outside %s, %d to %d: %w", strconv.FormatFloat(r, 'f', -1, 64), k, low, high, ErrRange)
		}
		if k == ULINT {
			return Uint(k, uint64(r)), nil
		}
		return Int(k, int64(r)), nil
	}
	return Value{}, say.Errorf("a %s takes text, not a number", k)
}

// Parse reads what a person or a file gives for a type: decimal point always;
// true, false, on, off, 1 and 0 for BOOL.
func Parse(t Type, s string) (Value, error) {
	switch {
	case t.Kind == STRING:
		if len(s) > t.Len {
			return Value{}, say.Errorf("text has %d bytes, %s holds %d: %w", len(s), t, t.Len, ErrRange)
		}
		return Str(s), nil
	case t.Kind == BOOL:
		switch strings.ToLower(strings.TrimSpace(s)) {
		case "true", "on", "1":
			return Bool(true), nil
		case "false", "off", "0":
			return Bool(false), nil
		}
		return Value{}, say.Errorf("%q is neither true nor false", s)
	case t.Kind.IsInteger():
		return parseInt(t.Kind, strings.TrimSpace(s))
	case t.Kind.IsReal():
		f, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
		if err != nil {
			return Value{}, say.Errorf("%q is not a number: write it with a decimal point", s)
		}
		return FromFloat(t.Kind, f)
	}
	return Value{}, say.New("no type given")
}

func parseInt(k Kind, s string) (Value, error) {
	low, high := k.IntRange()
	if n, err := strconv.ParseInt(s, 10, 64); err == nil {
		if n < low || (n > 0 && uint64(n) > high) {
			return Value{}, say.Errorf("%s is outside %s, %d to %d: %w", s, k, low, high, ErrRange)
		}
		return Int(k, n), nil
	}
	if n, err := strconv.ParseUint(s, 10, 64); err == nil && n <= high {
		return Uint(k, n), nil
	}
	f, err := strconv.ParseFloat(s, 64)
	if err != nil {
		return Value{}, say.Errorf("%q is not a whole number", s)
	}
	if f != math.Trunc(f) {
		return Value{}, say.Errorf("%s is not a whole number, and %s holds whole numbers only", s, k)
	}
	return FromFloat(k, f)
}
