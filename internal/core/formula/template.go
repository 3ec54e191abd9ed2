package formula

import (
	"readyrail/internal/core/say"
	"strings"
	"unicode/utf8"
)

// A template is a text with placeholders in braces, each a formula with an
// optional format behind a colon:
//
//	Chamber at {Kiln1.DryBulb:0.0} °C
//
// The format says how to show it; see Format. A
// backslash before a brace makes it part of the text. Like a formula it has a
// typed and a stored form; in the stored form the references stand in braces
// of their own inside the placeholder.

// Part is a piece of a template: plain text, or a stored formula.
type Part struct {
	Text    string
	Formula string // stored form; empty for plain text
	Format  Format
}

// templateSpan is a placeholder's place in a template, in bytes.
type templateSpan struct {
	start, end  int // the braces, end behind the closing one
	formula     string
	formulaFrom int
	format      string
}

// scanTemplate finds the placeholders of either form.
func scanTemplate(s string) ([]templateSpan, error) {
	var out []templateSpan
	for i := 0; i < len(s); i++ {
		switch s[i] {
		case '\\':
			i++
		case '}':
			return nil, templateError(s, i, say.New("this brace closes nothing: write \\} for a plain brace"))
		case '{':
			depth, colon, j := 1, -1, i+1
			for ; j < len(s) && depth > 0; j++ {
				if n := skipString(s[j:]); n > 0 {
					j += n - 1
					continue
				}
				switch s[j] {
				case '{':
					depth++
				case '}':
					depth--
				case ':':
					if depth == 1 {
						colon = j
					}
				case '?':
					// A conditional has a colon of its own.
					if depth == 1 {
						if k := strings.IndexByte(s[j:], ':'); k > 0 {
							j += k
						}
					}
				}
			}
			if depth > 0 {
				return nil, templateError(s, i, say.New("this brace is not closed: write \\{ for a plain brace"))
			}
			span := templateSpan{start: i, end: j, formulaFrom: i + 1, formula: s[i+1 : j-1]}
			if colon >= 0 {
				span.formula, span.format = s[i+1:colon], s[colon+1:j-1]
				if _, err := ParseFormat(span.format); err != nil {
					return nil, templateError(s, colon+1, err)
				}
			}
			out = append(out, span)
			i = j - 1
		}
	}
	return out, nil
}

func templateError(s string, at int, why error) error {
	return &Error{Column: utf8.RuneCountInString(s[:at]), Length: 1, Why: why}
}

// rewrite replaces each placeholder's formula.
func rewrite(s string, change func(formula string) (string, error)) (string, error) {
	spans, err := scanTemplate(s)
	if err != nil {
		return "", err
	}
	var b strings.Builder
	at := 0
	for _, sp := range spans {
		b.WriteString(s[at : sp.start+1])
		f, err := change(sp.formula)
		if err != nil {
			if fe, ok := err.(*Error); ok {
				shifted := *fe
				shifted.Column += utf8.RuneCountInString(s[:sp.formulaFrom])
				return "", &shifted
			}
			return "", err
		}
		b.WriteString(f)
		at = sp.formulaFrom + len(sp.formula)
	}
	b.WriteString(s[at:])
	return b.String(), nil
}

// StoreTemplate turns a typed template into its stored form.
func StoreTemplate(text string, resolve func(path string) (string, bool), isParam func(string) bool) (string, error) {
	return rewrite(text, func(f string) (string, error) { return Store(f, resolve, isParam) })
}

// ShowTemplate turns a stored template into text with today's paths. A
// template that cannot be read is shown as it is.
func ShowTemplate(stored string, pathOf func(id string) (string, bool)) string {
	out, err := rewrite(stored, func(f string) (string, error) { return Show(f, pathOf), nil })
	if err != nil {
		return stored
	}
	return out
}

// TemplateReferences lists the ids a stored template refers to, each once.
func TemplateReferences(stored string) []string {
	spans, err := scanTemplate(stored)
	if err != nil {
		return nil
	}
	var out []string
	seen := map[string]bool{}
	for _, sp := range spans {
		for _, id := range References(sp.formula) {
			if !seen[id] {
				seen[id] = true
				out = append(out, id)
			}
		}
	}
	return out
}

var unescape = strings.NewReplacer(`\{`, "{", `\}`, "}", `\\`, `\`)

// ParseTemplate takes a stored template apart.
func ParseTemplate(stored string) ([]Part, error) {
	spans, err := scanTemplate(stored)
	if err != nil {
		return nil, err
	}
	var out []Part
	text := func(s string) {
		if s != "" {
			out = append(out, Part{Text: unescape.Replace(s)})
		}
	}
	at := 0
	for _, sp := range spans {
		text(stored[at:sp.start])
		p := Part{Formula: sp.formula}
		p.Format, _ = ParseFormat(sp.format)
		out = append(out, p)
		at = sp.end
	}
	text(stored[at:])
	return out, nil
}

// PlainReference returns the id when a stored formula is a reference and
// nothing else.
func PlainReference(stored string) (string, bool) {
	var id string
	for _, p := range splitStored(strings.TrimSpace(stored)) {
		switch {
		case p.path && id == "":
			id = p.id
		case p.path || strings.TrimSpace(p.text) != "":
			return "", false
		}
	}
	return id, id != ""
}
