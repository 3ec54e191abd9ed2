package value

import "strings"

const risky = "=+-@\t\r'"

// Inert keeps a spreadsheet program from taking a text for a formula: one that
// begins like a formula gets an apostrophe before it.
func Inert(s string) string {
	if s != "" && strings.ContainsRune(risky, rune(s[0])) {
		return "'" + s
	}
	return s
}

// Live is the inverse of Inert.
func Live(s string) string {
	if len(s) > 1 && s[0] == '\'' && strings.ContainsRune(risky, rune(s[1])) {
		return s[1:]
	}
	return s
}
