package device

import (
	"regexp"
	"strconv"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

var located = regexp.MustCompile(`^%?([IQM])([XBWDL]?)(\d+)(?:\.(\d+))?$`)

var prefixes = regexp.MustCompile(`^[IQM][XBWDL]$`)

func (d *Device) checkLocate() (field string, err error) {
	for _, l := range d.Locate {
		if !prefixes.MatchString(l.Prefix) {
			return "locate", say.Errorf("%q is no kind of located variable: write one such as MW, IX or QD", l.Prefix)
		}
		space := l.space()
		if space < 0 {
			return "locate", say.Errorf("%%%s: %q is not a space; use coil, discrete, input or holding", l.Prefix, l.Space)
		}
		if l.Base < 0 || l.Base > 65535 {
			return "locate", say.Errorf("%%%s: a first address is 0 to 65535, not %d", l.Prefix, l.Base)
		}
		if l.Prefix[1] != 'X' && Space(space).IsBits() {
			return "locate", say.Errorf("%%%s holds more than bits: it lies in input or holding registers", l.Prefix)
		}
	}
	return "", nil
}

func (l Location) space() int {
	for i, n := range spaceNames {
		if n == l.Space {
			return i
		}
	}
	return -1
}

// DefaultLocate is the table that most controllers' Modbus servers keep to.
var DefaultLocate = []Location{
	{"IX", "discrete", 0}, {"QX", "coil", 0}, {"MX", "holding", 0},
	{"IW", "input", 0}, {"QW", "holding", 0}, {"MW", "holding", 0},
	{"ID", "input", 0}, {"QD", "holding", 0}, {"MD", "holding", 0},
	{"IL", "input", 0}, {"QL", "holding", 0}, {"ML", "holding", 0},
	{"IB", "input", 0}, {"QB", "holding", 0}, {"MB", "holding", 0},
}

// Located turns a located variable (IEC 61131-3, 6.5.5.2), such as %MW12 or
// %QX3.4, into an address by the device's table. W counts words, D double
// words, L long words, B bytes; the size is that of the address, not of the
// type.
func (d *Device) Located(text string, t value.Type) (string, error) {
	m := located.FindStringSubmatch(strings.ToUpper(strings.ReplaceAll(text, " ", "")))
	if m == nil {
		return "", say.Errorf("%q is not a located variable, such as %%MW12 or %%QX3.4", text)
	}
	size := m[2]
	if size == "" {
		size = "X"
	}
	n, err := strconv.Atoi(m[3])
	if err != nil || n > 1<<20 {
		return "", say.Errorf("%s: its number is too large", text)
	}
	bit := -1
	if m[4] != "" {
		if bit, err = strconv.Atoi(m[4]); err != nil || size != "X" || bit > 15 {
			return "", say.Errorf("%s: only a bit has a number behind the dot", text)
		}
	}
	table := d.Locate
	if len(table) == 0 {
		table = DefaultLocate
	}
	for _, l := range table {
		if l.Prefix == m[1]+size {
			return l.address(text, size, n, bit, t)
		}
	}
	return "", say.Errorf("%s: the device's table has no line for %%%s: add one", text, m[1]+size)
}

func (l Location) address(text, size string, n, bit int, t value.Type) (string, error) {
	a := Address{Space: Space(l.space()), Bit: NoBit}
	at := 0
	switch size {
	case "X":
		switch {
		case a.Space.IsBits() && bit < 0:
			at = n
		case a.Space.IsBits():
			at = 8*n + bit
		case bit < 0:
			at, a.Bit = n/16, int8(n%16)
		case bit > 7:
			at, a.Bit = n, int8(bit)
		default:
			at, a.Bit = n/2, int8(8*(n%2)+bit)
		}
	case "B":
		if n%2 == 1 {
			return "", say.Errorf("%s: an odd byte begins in the middle of a register", text)
		}
		at = n / 2
	case "W":
		at = n
	case "D":
		at = 2 * n
	case "L":
		at = 4 * n
	}
	if at += l.Base; at > 65535 {
		return "", say.Errorf("%s would be register %d, and the last one is 65535", text, at)
	}
	a.Offset = uint16(at)
	if err := a.Fit(t); err != nil {
		return "", say.Errorf("%s: %w", text, err)
	}
	return a.String(), nil
}
