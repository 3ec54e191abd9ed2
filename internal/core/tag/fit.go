package tag

import "strings"

// FitPath brings a name from elsewhere to our grammar: what is not a letter,
// digit or _ becomes _, a segment that begins otherwise gets an N in front, a
// word of the formula language a _ behind. parts are its segments, each with
// its indices.
func FitPath(parts []string) string {
	out := make([]string, 0, len(parts))
	for _, p := range parts {
		if p = fitSegment(p); p != "" {
			out = append(out, p)
		}
	}
	return strings.Join(out, ".")
}

func fitSegment(s string) string {
	s = strings.TrimSpace(s)
	if s == "" {
		return ""
	}
	name, index := s, ""
	if i := strings.IndexByte(s, '['); i > 0 {
		if rest, ok := fitIndices(s[i:]); ok {
			name, index = s[:i], rest
		}
	}
	var b strings.Builder
	for _, r := range name {
		switch {
		case r < 128 && (isLetter(byte(r)) || r >= '0' && r <= '9' || r == '_'):
			b.WriteRune(r)
		case spelled[r] != "":
			b.WriteString(spelled[r])
		default:
			b.WriteByte('_')
		}
	}
	name = b.String()
	if !isLetter(name[0]) {
		name = "N" + name
	}
	if len(name) > MaxSegment-len(index) {
		name = name[:max(1, MaxSegment-len(index))]
	}
	if Reserved(name) {
		name += "_"
	}
	return name + index
}

// fitIndices turns [1,2] into [1][2]; ok is false when s is no run of indices.
func fitIndices(s string) (string, bool) {
	s = strings.ReplaceAll(strings.ReplaceAll(s, " ", ""), ",", "][")
	probe := "a" + s
	return s, ScanSegment(probe) == len(probe)
}

// spelled are letters that have a usual spelling in ASCII.
var spelled = map[rune]string{'ä': "ae", 'ö': "oe", 'ü': "ue", 'Ä': "Ae", 'Ö': "Oe", 'Ü': "Ue", 'ß': "ss", 'é': "e", 'è': "e", 'à': "a",
	'ç': "c", 'ñ': "n", 'å': "a", 'ø': "o", 'æ': "ae"}
