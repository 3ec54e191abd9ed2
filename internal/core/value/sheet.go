package value

import (
	"regexp"
	"strconv"
	"strings"
)

// risky is what a spreadsheet program may take for the beginning of a formula,
// or strip to find one; and the apostrophe, so that Live can tell.
const risky = "=+-@\t\r\n '＝＋－＠\u00a0\ufeff"

// plainNumber is what no program takes for more than a number.
var plainNumber = regexp.MustCompile(`^[+-]?[0-9]+(\.[0-9]+)?([eE][+-]?[0-9]+)?$`)

// PlainNumber is the number that a text is, where no program takes it for more.
func PlainNumber(s string) (float64, bool) {
	if !plainNumber.MatchString(s) {
		return 0, false
	}
	f, err := strconv.ParseFloat(s, 64)
	return f, err == nil
}

// Inert keeps a spreadsheet program from taking a text for a formula: one that
// begins like a formula, or with what is stripped before one, gets an apostrophe
// before it. Plain numbers stay numbers.
func Inert(s string) string {
	if begins(s) && !plainNumber.MatchString(s) {
		return "'" + s
	}
	return s
}

// Live is the inverse of Inert.
func Live(s string) string {
	if rest, ok := strings.CutPrefix(s, "'"); ok && begins(rest) {
		return rest
	}
	return s
}

func begins(s string) bool {
	for _, r := range s {
		return strings.ContainsRune(risky, r)
	}
	return false
}
