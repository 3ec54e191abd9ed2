package exchange

import "strings"

// splitPath parts a path from elsewhere at its separators, outside brackets.
func splitPath(s, separators string) []string {
	var out []string
	depth, start := 0, 0
	for i, r := range s {
		switch {
		case r == '[':
			depth++
		case r == ']':
			depth--
		case depth == 0 && strings.ContainsRune(separators, r):
			out, start = append(out, s[start:i]), i+1
		}
	}
	return append(out, s[start:])
}
