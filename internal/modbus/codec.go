package modbus

import (
	"fmt"
	"math"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
)

// word returns register i of n in the order "high word first, high byte
// first", whatever order they came in.
func word(regs []uint16, i, n int, o device.Order) uint16 {
	if o.SwapsWords() {
		i = n - 1 - i
	}
	w := regs[i]
	if o.SwapsBytes() {
		w = w>>8 | w<<8
	}
	return w
}

// Decode reads a value of a type from registers. bit is the bit of the first
// register for a BOOL. SINT and USINT take the low byte of one register.
// STRING has two characters a register, the first in the high byte, and ends
// at the first zero byte.
func Decode(regs []uint16, t value.Type, bit int8, o device.Order) value.Value {
	switch t.Kind {
	case value.BOOL:
		return value.Bool(word(regs, 0, 1, o)>>bit&1 == 1)
	case value.STRING:
		b := make([]byte, 0, 2*len(regs))
		for i := range regs {
			w := regs[i]
			if o.SwapsBytes() {
				w = w>>8 | w<<8
			}
			b = append(b, byte(w>>8), byte(w))
		}
		text, _, _ := strings.Cut(string(b[:min(len(b), t.Len)]), "\x00")
		return value.Str(strings.ToValidUTF8(text, "\uFFFD"))
	}
	n := device.Registers(t)
	var u uint64
	for i := range n {
		u = u<<16 | uint64(word(regs, i, n, o))
	}
	switch t.Kind {
	case value.SINT:
		return value.Int(t.Kind, int64(int8(u)))
	case value.USINT:
		return value.Int(t.Kind, int64(uint8(u)))
	case value.INT:
		return value.Int(t.Kind, int64(int16(u)))
	case value.DINT:
		return value.Int(t.Kind, int64(int32(u)))
	case value.REAL:
		return real(t.Kind, float64(math.Float32frombits(uint32(u))))
	case value.LREAL:
		return real(t.Kind, math.Float64frombits(u))
	case value.ULINT:
		return value.Uint(t.Kind, u)
	}
	return value.Int(t.Kind, int64(u))
}

// real keeps what is not a number out of the values people see.
func real(k value.Kind, f float64) value.Value {
	if math.IsNaN(f) || math.IsInf(f, 0) {
		return value.Bad(k, value.BadRange)
	}
	return value.Real(k, f)
}

// Encode writes a value into registers; the inverse of Decode for everything
// but BOOL, whose register holds other bits too.
func Encode(v value.Value, t value.Type, o device.Order) ([]uint16, error) {
	return AppendEncode(nil, v, t, o)
}

// AppendEncode appends what Encode returns.
func AppendEncode(all []uint16, v value.Value, t value.Type, o device.Order) ([]uint16, error) {
	n := device.Registers(t)
	from := len(all)
	for range n {
		all = append(all, 0)
	}
	regs := all[from:]
	var u uint64
	switch {
	case t.Kind == value.STRING:
		s := v.Str()
		if len(s) > t.Len {
			return nil, fmt.Errorf("text has %d bytes, %s holds %d", len(s), t, t.Len)
		}
		for i := range len(s) {
			regs[i/2] |= uint16(s[i]) << (8 - 8*(i%2))
		}
		if o.SwapsBytes() {
			for i, w := range regs {
				regs[i] = w>>8 | w<<8
			}
		}
		return all, nil
	case t.Kind == value.BOOL:
		return nil, fmt.Errorf("a BOOL is written as a bit")
	case t.Kind == value.REAL:
		u = uint64(math.Float32bits(float32(v.Float())))
	case t.Kind == value.LREAL:
		u = math.Float64bits(v.Float())
	case t.Kind == value.ULINT:
		u = v.Uint()
	default:
		u = uint64(v.Int())
	}
	for i := range n {
		j := n - 1 - i
		if o.SwapsWords() {
			j = i
		}
		w := uint16(u)
		if t.Kind == value.SINT || t.Kind == value.USINT {
			w &= 0xFF
		}
		if o.SwapsBytes() {
			w = w>>8 | w<<8
		}
		regs[j] = w
		u >>= 16
	}
	return all, nil
}
