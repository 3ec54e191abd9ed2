package value

import (
	"math"
	"strconv"
)

// Text writes the content exactly, so that Parse reads it back: integers in
// decimal, reals in their shortest form, BOOL as true or false.
func (v Value) Text() string { return string(v.AppendText(nil)) }

// AppendText appends what Text returns.
func (v Value) AppendText(b []byte) []byte {
	switch {
	case v.Kind == STRING:
		return append(b, v.str...)
	case v.Kind == BOOL:
		return strconv.AppendBool(b, v.bits != 0)
	case v.Kind == ULINT:
		return strconv.AppendUint(b, v.bits, 10)
	case v.Kind == REAL:
		return strconv.AppendFloat(b, v.Float(), 'g', -1, 32)
	case v.Kind == LREAL:
		return strconv.AppendFloat(b, v.Float(), 'g', -1, 64)
	case v.Kind.IsInteger():
		return strconv.AppendInt(b, int64(v.bits), 10)
	}
	return b
}

// NoDecimals asks AppendFixed for the shortest form.
const NoDecimals = -1

// AppendFixed appends a number with a fixed count of decimals, thousands
// parted by a thin space from five digits on, as ISO 80000-1, 7.3.1 has it.
// A result that rounds to zero carries no sign.
func AppendFixed(b []byte, f float64, decimals int) []byte {
	if decimals < 0 {
		// Fifteen significant digits: what a double holds exactly in decimal.
		return strconv.AppendFloat(b, roundSignificant(f, 12), 'f', -1, 64)
	}
	var buf [64]byte
	s := strconv.AppendFloat(buf[:0], f, 'f', decimals, 64)
	if s[0] == '-' {
		zero := true
		for _, c := range s[1:] {
			if c != '0' && c != '.' {
				zero = false
			}
		}
		if zero {
			s = s[1:]
		} else {
			b = append(b, "−"...)
			s = s[1:]
		}
	}
	whole := len(s)
	if decimals > 0 {
		whole = len(s) - decimals - 1
	}
	return appendGrouped(b, s, whole)
}

// AppendWhole appends a whole number as AppendFixed does with no decimals,
// without the way over a float.
func AppendWhole(b []byte, n int64) []byte {
	var buf [24]byte
	s := strconv.AppendInt(buf[:0], n, 10)
	if n < 0 {
		b = append(b, "−"...)
		s = s[1:]
	}
	return appendGrouped(b, s, len(s))
}

// appendGrouped parts the first digits of a number, as many as whole, by
// thousands.
func appendGrouped(b, s []byte, whole int) []byte {
	if whole <= 4 {
		return append(b, s...)
	}
	for i, c := range s {
		if i > 0 && i < whole && (whole-i)%3 == 0 {
			b = append(b, "\u2009"...)
		}
		b = append(b, c)
	}
	return b
}

func roundSignificant(f float64, digits int) float64 {
	if f == 0 || math.IsNaN(f) || math.IsInf(f, 0) {
		return f
	}
	r, err := strconv.ParseFloat(strconv.FormatFloat(f, 'e', digits-1, 64), 64)
	if err != nil {
		return f
	}
	return r
}
