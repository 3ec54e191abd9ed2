// Package device holds the definitions of controllers and the grammar of the
// addresses in them.
package device

import (
	"fmt"
	"strconv"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Space is one of the four tables of the Modbus data model (Modbus Application
// Protocol 1.1b3, 4.3).
type Space uint8

// The spaces.
const (
	Coil     Space = iota // single bits, read and write
	Discrete              // single bits, read only
	Input                 // 16-bit registers, read only
	Holding               // 16-bit registers, read and write
)

var spaceNames = [...]string{"coil", "discrete", "input", "holding"}

// String returns the name used in addresses.
func (s Space) String() string { return spaceNames[s] }

// IsBits tells whether the space holds single bits.
func (s Space) IsBits() bool { return s == Coil || s == Discrete }

// Writable tells whether the protocol can write to the space.
func (s Space) Writable() bool { return s == Coil || s == Holding }

// NoBit marks an address of a whole register or of a bit space.
const NoBit = -1

// Address is a place in a device: "coil:7", "discrete:3", "input:12",
// "holding:40", and "holding:40.3" for bit 3 of a register (0 is the least
// significant). Offsets are the protocol's own, from 0 to 65535.
type Address struct {
	Space  Space
	Offset uint16
	Bit    int8
}

// ParseAddress reads the text form. It understands trade references too
// (400041 is holding:40, 30013 is input:12, 1 is coil:0), which count from 1
// and carry the space in front; String never writes them.
func ParseAddress(s string) (Address, error) {
	t := strings.ToLower(strings.TrimSpace(s))
	name, rest, ok := strings.Cut(t, ":")
	if !ok {
		return parseReference(t)
	}
	a := Address{Bit: NoBit}
	found := false
	for i, n := range spaceNames {
		if n == strings.TrimSpace(name) {
			a.Space, found = Space(i), true
		}
	}
	if !found {
		return a, say.Errorf("address %q: %q is not a space; use coil, discrete, input or holding", s, name)
	}
	offset, bit, hasBit := strings.Cut(strings.TrimSpace(rest), ".")
	n, err := strconv.ParseUint(offset, 10, 16)
	if err != nil {
		return a, say.Errorf("address %q: %q is not a register number; use 0 to 65535", s, offset)
	}
	a.Offset = uint16(n)
	if hasBit {
		b, err := strconv.ParseUint(bit, 10, 8)
		switch {
		case a.Space.IsBits():
			return a, say.Errorf("address %q: a %s is a bit already and has no bits of its own", s, a.Space)
		case err != nil || b > 15:
			return a, say.Errorf("address %q: bit %q; a register has bits 0 to 15", s, bit)
		}
		a.Bit = int8(b)
	}
	return a, nil
}

// parseReference reads a trade reference of five or six digits.
func parseReference(s string) (Address, error) {
	fail := say.Errorf("address %q: write space:number, as in holding:40 or holding:40.3, or a reference such as 400041", s)
	if len(s) != 5 && len(s) != 6 {
		return Address{}, fail
	}
	n, err := strconv.ParseUint(s[1:], 10, 32)
	if err != nil || n < 1 || n > 65536 {
		return Address{}, fail
	}
	spaces := map[byte]Space{'0': Coil, '1': Discrete, '3': Input, '4': Holding}
	space, ok := spaces[s[0]]
	if !ok {
		return Address{}, fail
	}
	return Address{Space: space, Offset: uint16(n - 1), Bit: NoBit}, nil
}

// String returns the canonical text form.
func (a Address) String() string {
	s := a.Space.String() + ":" + strconv.Itoa(int(a.Offset))
	if a.Bit >= 0 {
		s += "." + strconv.Itoa(int(a.Bit))
	}
	return s
}

// Reference returns the trade reference, which counts from 1: 400041 for
// holding:40.
func (a Address) Reference() string {
	lead := [...]string{"0", "1", "3", "4"}[a.Space]
	s := fmt.Sprintf("%s%05d", lead, int(a.Offset)+1)
	if a.Bit >= 0 {
		s += "." + strconv.Itoa(int(a.Bit))
	}
	return s
}

// Registers is how many registers (or, in a bit space, bits) a value of the
// type takes.
func Registers(t value.Type) int {
	switch {
	case t.Kind == value.STRING:
		return (t.Len + 1) / 2
	case t.Kind == value.BOOL:
		return 1
	}
	return max(1, t.Kind.Bits()/16)
}

// Fit refuses a type at an address where it cannot lie.
func (a Address) Fit(t value.Type) error {
	switch {
	case a.Space.IsBits() && t.Kind != value.BOOL:
		return say.Errorf("%s holds single bits: only a BOOL fits, not %s", a, t)
	case !a.Space.IsBits() && a.Bit < 0 && t.Kind == value.BOOL:
		return say.Errorf("%s is a whole register: a BOOL needs its bit, as in %s.0", a, a)
	case a.Bit >= 0 && t.Kind != value.BOOL:
		return say.Errorf("%s is one bit: only a BOOL fits, not %s", a, t)
	case int(a.Offset)+Registers(t) > 65536:
		return say.Errorf("%s: a %s takes %d registers and would run past the end, 65535", a, t, Registers(t))
	}
	return nil
}
