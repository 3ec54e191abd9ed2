package tag

import (
	"readyrail/internal/core/say"
	"strconv"
	"strings"
)

// Ranged is one path of a pattern with the numbers that made it.
type Ranged struct {
	Path    string
	Numbers []int
}

// MaxRanged bounds what one pattern makes.
const MaxRanged = 20_000

// ExpandRanges makes the paths of a pattern. A range in brackets is an index,
// one in braces a number in a name:
//
//	Zone[1..12].Temperature
//	Kiln{1..3}.Fan[1..4].Speed
//
// The last range counts fastest.
func ExpandRanges(pattern string) ([]Ranged, error) {
	out := []Ranged{{}}
	for rest := pattern; rest != ""; {
		i := strings.IndexAny(rest, "[{")
		if i < 0 {
			i = len(rest)
		}
		for k := range out {
			out[k].Path += rest[:i]
		}
		if rest = rest[i:]; rest == "" {
			break
		}
		closing, brace := "]", rest[0] == '{'
		if brace {
			closing = "}"
		}
		inside, after, ok := strings.Cut(rest[1:], closing)
		if !ok {
			return nil, say.Errorf("%q: a range is not closed", pattern)
		}
		from, to, isRange := strings.Cut(inside, "..")
		a, err1 := strconv.Atoi(strings.TrimSpace(from))
		b, err2 := a, error(nil)
		if isRange {
			b, err2 = strconv.Atoi(strings.TrimSpace(to))
		}
		switch {
		case err1 != nil || err2 != nil || a < 0 || b < 0:
			return nil, say.Errorf("%q: write a range as [1..12] or {1..12}", pattern)
		case b < a:
			return nil, say.Errorf("%q: the range from %d to %d runs backwards", pattern, a, b)
		case (b-a+1)*len(out) > MaxRanged:
			return nil, say.Errorf("%q makes more than %d tags: make it in parts", pattern, MaxRanged)
		}
		next := make([]Ranged, 0, len(out)*(b-a+1))
		for _, r := range out {
			for n := a; n <= b; n++ {
				text := strconv.Itoa(n)
				if !brace {
					text = "[" + text + "]"
				}
				numbers := r.Numbers
				if isRange {
					numbers = append(numbers[:len(numbers):len(numbers)], n)
				}
				next = append(next, Ranged{r.Path + text, numbers})
			}
		}
		out, rest = next, after
	}
	return out, nil
}

// Numbered puts a path's numbers into a text: {1} is the first range's number.
func (r Ranged) Numbered(text string) string {
	for i, n := range r.Numbers {
		text = strings.ReplaceAll(text, "{"+strconv.Itoa(i+1)+"}", strconv.Itoa(n))
	}
	return text
}

// lastNumber finds the last number of a text.
func lastNumber(s string) (start, end, n int, ok bool) {
	end = len(s)
	for end > 0 && !isDigit(s[end-1]) {
		end--
	}
	start = end
	for start > 0 && isDigit(s[start-1]) {
		start--
	}
	n, err := strconv.Atoi(s[start:end])
	return start, end, n, err == nil
}

// LastNumber is the last number of a path; ok is false where it has none.
func LastNumber(path string) (n int, ok bool) {
	_, _, n, ok = lastNumber(path)
	return n, ok
}

// StepText replaces a number of a text, wherever it stands by itself: 1 by 2
// makes "Fan 1 of 10" "Fan 2 of 10".
func StepText(text string, from, to int) string {
	var b strings.Builder
	for i := 0; i < len(text); {
		if !isDigit(text[i]) {
			b.WriteByte(text[i])
			i++
			continue
		}
		end := i
		for end < len(text) && isDigit(text[end]) {
			end++
		}
		// A part of a decimal fraction is no number by itself.
		part := i >= 2 && (text[i-1] == '.' || text[i-1] == ',') && isDigit(text[i-2]) ||
			end+1 < len(text) && (text[end] == '.' || text[end] == ',') && isDigit(text[end+1])
		if n, err := strconv.Atoi(text[i:end]); err == nil && n == from && !part {
			b.WriteString(strconv.Itoa(to))
		} else {
			b.WriteString(text[i:end])
		}
		i = end
	}
	return b.String()
}

// StepName counts the last number of a path up by n: Fan[2].Speed by 1 is
// Fan[3].Speed, Kiln1 is Kiln2. ok is false where the path has no number.
func StepName(path string, n int) (stepped string, ok bool) {
	start, end, v, ok := lastNumber(path)
	if !ok || v+n < 0 {
		return path, false
	}
	return path[:start] + strconv.Itoa(v+n) + path[end:], true
}
