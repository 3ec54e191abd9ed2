package tag

import "strings"

// Like tells whether a path is like a pattern, in which * stands for anything,
// whatever the case. An empty pattern is like everything.
func Like(pattern, path string) bool {
	if pattern == "" {
		return true
	}
	parts := strings.Split(strings.ToLower(pattern), "*")
	path = strings.ToLower(path)
	rest, begins := strings.CutPrefix(path, parts[0])
	if len(parts) == 1 || !begins {
		return begins && rest == ""
	}
	for _, part := range parts[1 : len(parts)-1] {
		_, after, found := strings.Cut(rest, part)
		if !found {
			return false
		}
		rest = after
	}
	return strings.HasSuffix(rest, parts[len(parts)-1])
}
