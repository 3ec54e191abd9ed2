// Package tag holds the definitions of named values: where they come from, how
// they are scaled and limited, and the grammar of their paths.
package tag

import (
	"cmp"
	"readyrail/internal/core/say"
	"strconv"
	"strings"
)

// A path names a tag: segments joined by dots, each a letter followed by
// letters, digits or underscores, then any number of indices in brackets:
//
//	Kiln1.Fan[2].Running
//
// Letters are those of ASCII, so that every controller and every keyboard can
// write them. Two paths that differ only in case are the same path.

// MaxSegment and MaxPath bound a segment and a path, in bytes.
const (
	MaxSegment = 64
	MaxPath    = 250
)

// reserved are the words of the formula language that no segment may be.
var reserved = map[string]bool{
	"true": true, "false": true, "nil": true, "and": true, "or": true, "not": true, "in": true,
	"let": true, "if": true, "else": true, "matches": true, "contains": true,
	"startswith": true, "endswith": true,
}

// Reserved tells whether a word belongs to the formula language.
func Reserved(word string) bool { return reserved[strings.ToLower(word)] }

// PathError says what is wrong with a path and at which byte, counted from 0.
type PathError struct {
	Path   string
	Offset int
	Why    error
}

func (e *PathError) Error() string {
	return e.sentence().Error()
}

func (e *PathError) Unwrap() error { return e.Why }

// Say gives the refusal in a language.
func (e *PathError) Say(language string) string { return say.In(language, e.sentence()) }

func (e *PathError) sentence() error {
	return say.Errorf("%q, character %d: %v", e.Path, e.Offset+1, e.Why)
}

// ScanSegment returns the length of the segment, indices included, at the
// start of s; 0 when there is none. An index that is not a plain number, as in
// Fan[i], ends the segment before its bracket.
func ScanSegment(s string) int {
	if s == "" || !isLetter(s[0]) {
		return 0
	}
	n := 1
	for n < len(s) && (isLetter(s[n]) || isDigit(s[n]) || s[n] == '_') {
		n++
	}
	for n < len(s) && s[n] == '[' {
		end := n + 1
		for end < len(s) && isDigit(s[end]) {
			end++
		}
		if end == n+1 || end >= len(s) || s[end] != ']' {
			break
		}
		n = end + 1
	}
	return n
}

// ScanPath returns the length of the path at the start of s.
func ScanPath(s string) int {
	n := ScanSegment(s)
	for n > 0 && n < len(s) && s[n] == '.' {
		m := ScanSegment(s[n+1:])
		if m == 0 {
			break
		}
		n += 1 + m
	}
	return n
}

// CheckSegment refuses what is not one segment.
func CheckSegment(s string) error {
	if strings.Contains(s, ".") {
		return &PathError{s, strings.Index(s, "."), say.New("a name has no dot: dots part folders")}
	}
	return CheckPath(s)
}

// CheckPath refuses what is not a path. The error is a *PathError.
func CheckPath(s string) error {
	if s == "" {
		return &PathError{s, 0, say.New("a path needs at least one letter")}
	}
	if len(s) > MaxPath {
		return &PathError{s, MaxPath, say.Errorf("a path has at most %d characters", MaxPath)}
	}
	for at := 0; ; {
		n := ScanSegment(s[at:])
		switch {
		case n == 0:
			return &PathError{s, at, say.New("a name starts with a letter")}
		case n > MaxSegment:
			return &PathError{s, at, say.Errorf("a name has at most %d characters", MaxSegment)}
		case Reserved(s[at : at+n]):
			return &PathError{s, at, say.Errorf("%q is a word of the formula language", s[at:at+n])}
		}
		at += n
		if at == len(s) {
			return nil
		}
		if s[at] == '[' {
			return &PathError{s, at, say.New("an index is a whole number in brackets")}
		}
		if s[at] != '.' {
			return &PathError{s, at, say.Errorf("%q is not allowed: use letters, digits, _ and [n]", rune(s[at]))}
		}
		at++
	}
}

// Index is the number that a name carries: its last index, or else the digits it
// ends with. Fan[3] and Kiln3 have 3; ok is false for a name without one.
func Index(name string) (n int, ok bool) {
	end := len(name)
	if strings.HasSuffix(name, "]") {
		end--
	}
	start := end
	for start > 0 && isDigit(name[start-1]) {
		start--
	}
	n, err := strconv.Atoi(name[start:end])
	return n, err == nil
}

// Split parts a path into its segments.
func Split(path string) []string { return strings.Split(path, ".") }

// Key is the form in which two equal paths are equal as text.
func Key(path string) string { return strings.ToLower(path) }

// Less orders paths as people do: Fan[2] before Fan[10].
func Less(a, b string) bool { return Compare(a, b) < 0 }

// Compare is below 0 where a comes before b as people order paths, above 0
// where b does.
func Compare(a, b string) int {
	i, j := 0, 0
	for i < len(a) && j < len(b) {
		if isDigit(a[i]) && isDigit(b[j]) {
			ni, nj := i, j
			for ni < len(a) && isDigit(a[ni]) {
				ni++
			}
			for nj < len(b) && isDigit(b[nj]) {
				nj++
			}
			x, _ := strconv.ParseUint(a[i:ni], 10, 64)
			y, _ := strconv.ParseUint(b[j:nj], 10, 64)
			if x != y {
				return cmp.Compare(x, y)
			}
			i, j = ni, nj
			continue
		}
		x, y := lower(a[i]), lower(b[j])
		if x != y {
			return cmp.Compare(x, y)
		}
		i++
		j++
	}
	return cmp.Compare(len(a)-i, len(b)-j)
}

// OrderKey is a text whose bytes order paths as Compare does, for sorting many.
func OrderKey(path string) string {
	out := make([]byte, 0, len(path)+4)
	for i := 0; i < len(path); {
		if !isDigit(path[i]) {
			out = append(out, lower(path[i]))
			i++
			continue
		}
		for i+1 < len(path) && path[i] == '0' && isDigit(path[i+1]) {
			i++
		}
		from := i
		for i < len(path) && isDigit(path[i]) {
			i++
		}
		// A longer number is the larger one. Its length stands where a digit would,
		// below letters and brackets and above the point.
		out = append(out, '0'+byte(min(i-from, maxDigits)))
		out = append(out, path[from:i]...)
	}
	return string(out)
}

// maxDigits is the longest number that OrderKey tells from longer ones.
const maxDigits = 40

func lower(c byte) byte {
	if c >= 'A' && c <= 'Z' {
		return c + 'a' - 'A'
	}
	return c
}

func isLetter(c byte) bool { return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' }
func isDigit(c byte) bool  { return c >= '0' && c <= '9' }
