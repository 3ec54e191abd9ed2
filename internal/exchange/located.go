package exchange

import (
	"strconv"
	"strings"
)

// stepLocated moves a located address by some words; a bit address of a BOOL
// (0 words) by one bit for each step.
func stepLocated(address string, words int) string {
	if address == "" || words == 0 {
		return address
	}
	i := strings.IndexAny(address, "0123456789")
	if i < 2 {
		return ""
	}
	number, bit, hasBit := strings.Cut(address[i:], ".")
	n, err := strconv.Atoi(number)
	if err != nil {
		return ""
	}
	switch address[i-1] {
	case 'X', 'x':
		if hasBit {
			return ""
		}
		n += words
	case 'B', 'b':
		n += 2 * words
	case 'D', 'd':
		if words%2 != 0 {
			return ""
		}
		n += words / 2
	case 'L', 'l':
		if words%4 != 0 {
			return ""
		}
		n += words / 4
	default:
		n += words
	}
	out := address[:i] + strconv.Itoa(n)
	if hasBit {
		out += "." + bit
	}
	return out
}

// stepBit moves the address of a bit by some bits: %QX1.6 by 3 is %QX2.1.
func stepBit(address string, bits int) string {
	i := strings.IndexAny(address, "0123456789")
	if i < 2 {
		return ""
	}
	number, bit, hasBit := strings.Cut(address[i:], ".")
	n, err := strconv.Atoi(number)
	if err != nil {
		return ""
	}
	if !hasBit {
		return address[:i] + strconv.Itoa(n+bits)
	}
	b, err := strconv.Atoi(bit)
	if err != nil || b > 7 {
		return ""
	}
	n = 8*n + b + bits
	return address[:i] + strconv.Itoa(n/8) + "." + strconv.Itoa(n%8)
}
