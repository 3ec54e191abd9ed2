// Package formula turns the text of a formula into a typed program over tag
// slots. One language serves computed tags, bindings and the placeholders in
// texts; docs/formulas.md describes it.
//
// A formula has two forms. People read and type paths:
//
//	Kiln1.Fan[2].Running and Kiln1.DryBulb > 80
//
// The project stores ids, so that a rename touches no formula. Each reference
// carries the path it was typed with behind a bar; that is shown only when the
// tag is gone:
//
//	{t7|Kiln1.Fan[2].Running} and {t1|Kiln1.DryBulb} > 80
package formula

import (
	"strings"
	"unicode/utf8"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// Error is a refusal of a formula at a column, counted in characters from 0
// in the text that people see.
type Error struct {
	Column int
	Length int // characters the sentence is about; at least 1
	Why    error
}

func (e *Error) Error() string { return e.sentence().Error() }

func (e *Error) Unwrap() error { return e.Why }

// Say gives the refusal in a language.
func (e *Error) Say(language string) string { return say.In(language, e.sentence()) }

func (e *Error) sentence() error { return say.Errorf("column %d: %v", e.Column+1, e.Why) }

// Unresolved is the id of a reference whose path named nothing when it was
// typed. It is kept, so that nothing typed is lost, and never compiles.
const Unresolved = "?"

// MaxLength bounds the text of a formula, in bytes.
const MaxLength = 4000

// piece is a part of a formula: plain text, or a reference.
type piece struct {
	text string // plain text, or the path
	id   string // set for a stored reference
	path bool   // the piece is a reference
}

// skipString returns the length of the string literal at the start of s, 0
// when there is none. An unfinished literal runs to the end.
func skipString(s string) int {
	if s == "" || (s[0] != '"' && s[0] != '\'' && s[0] != '`') {
		return 0
	}
	for i := 1; i < len(s); i++ {
		switch {
		case s[i] == '\\' && s[0] != '`':
			i++
		case s[i] == s[0]:
			return i + 1
		}
	}
	return len(s)
}

// splitTyped parts text as people type it. Words of the language, function
// names and parameters stay plain text.
func splitTyped(s string, isParam func(string) bool) []piece {
	var out []piece
	plain := 0
	for i := 0; i < len(s); {
		if n := skipString(s[i:]); n > 0 {
			i += n
			continue
		}
		n := tag.ScanPath(s[i:])
		if n == 0 {
			// A letter out of the path grammar begins no path; nor does what follows it.
			_, size := utf8.DecodeRuneInString(s[i:])
			if isDigit(s[i]) {
				size = len(s[i:]) - len(strings.TrimLeft(s[i:], "0123456789abcdefABCDEFxX_"))
			}
			i += max(1, size)
			continue
		}
		word := s[i : i+n]
		rest := strings.TrimLeft(s[i+n:], " \t\n")
		if tag.Reserved(word) || functions[word] != nil && strings.HasPrefix(rest, "(") || isParam != nil && isParam(word) {
			i += n
			continue
		}
		out = append(out, piece{text: s[plain:i]}, piece{text: word, path: true})
		i += n
		plain = i
	}
	return append(out, piece{text: s[plain:]})
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// splitStored parts the stored form.
func splitStored(s string) []piece {
	var out []piece
	plain := 0
	for i := 0; i < len(s); {
		if n := skipString(s[i:]); n > 0 {
			i += n
			continue
		}
		if s[i] == '{' {
			if end := strings.IndexByte(s[i:], '}'); end > 0 {
				id, path, _ := strings.Cut(s[i+1:i+end], "|")
				out = append(out, piece{text: s[plain:i]}, piece{text: path, id: id, path: true})
				i += end + 1
				plain = i
				continue
			}
		}
		i++
	}
	return append(out, piece{text: s[plain:]})
}

// Store turns typed text into the stored form. resolve finds the id of a path;
// isParam (which may be nil) names the parameters in scope, which stay plain.
func Store(text string, resolve func(path string) (id string, ok bool), isParam func(string) bool) (string, error) {
	if len(text) > MaxLength {
		return "", &Error{Column: MaxLength, Length: 1, Why: say.Errorf("a formula has at most %d characters", MaxLength)}
	}
	var b strings.Builder
	column := 0
	for _, p := range splitTyped(text, isParam) {
		if !p.path {
			if i := strings.IndexAny(p.text, "{}"); i >= 0 && !insideString(p.text, i) {
				return "", &Error{Column: column + utf8.RuneCountInString(p.text[:i]), Length: 1,
					Why: say.New("braces are not part of the formula language")}
			}
			b.WriteString(p.text)
		} else {
			id, ok := resolve(p.text)
			if !ok {
				return "", &Error{Column: column, Length: len(p.text), Why: unknownName(p.text, text)}
			}
			b.WriteString("{" + id + "|" + p.text + "}")
		}
		column += utf8.RuneCountInString(p.text)
	}
	return b.String(), nil
}

func insideString(s string, at int) bool {
	for i := 0; i < at; {
		if n := skipString(s[i:]); n > 0 {
			if i+n > at {
				return true
			}
			i += n
			continue
		}
		i++
	}
	return false
}

func unknownName(path, text string) error {
	if strings.Contains(text, path+"[") || strings.Contains(text, path+"}[") {
		return say.Errorf("%s needs a whole number as its index; an index that is computed is not part of the formula language", path)
	}
	if functions[path] != nil {
		return say.Errorf("%s is a function: write %s(…)", path, path)
	}
	return say.Errorf("there is no tag %s", path)
}

// Show turns the stored form into text with today's paths. A reference whose
// tag is gone shows the path it was typed with.
func Show(stored string, pathOf func(id string) (string, bool)) string {
	var b strings.Builder
	for _, p := range splitStored(stored) {
		if p.path {
			if now, ok := pathOf(p.id); ok {
				p.text = now
			}
		}
		b.WriteString(p.text)
	}
	return b.String()
}

// References lists the ids a stored formula refers to, in order, each once.
func References(stored string) []string {
	var out []string
	seen := map[string]bool{}
	for _, p := range splitStored(stored) {
		if p.path && !seen[p.id] {
			seen[p.id] = true
			out = append(out, p.id)
		}
	}
	return out
}
