// Package say is how the product says no, in the language of who asked.
//
// A refusal is a rule and its arguments. The rule is the English sentence, as a
// format of package fmt, and stands where it is decided; Errorf and New take the
// place of those of fmt and errors. Error gives the English, for the log and the
// trail. In renders it, and the refusals among its arguments, in another language
// from a list that has every rule: a test walks them.
package say

import (
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
)

// English is the language of the rules themselves.
const English = "en"

//go:embed *.json
var files embed.FS

// lists are the sentences by language and rule.
var lists = read("de")

func read(languages ...string) map[string]map[string]string {
	out := map[string]map[string]string{}
	for _, l := range languages {
		data, err := files.ReadFile(l + ".json")
		if err != nil {
			panic(err)
		}
		list := map[string]string{}
		if err := json.Unmarshal(data, &list); err != nil {
			panic(err)
		}
		out[l] = list
	}
	return out
}

// Lists are the sentences that each language but English has, by rule.
func Lists() map[string]map[string]string { return lists }

// Sayer is what can say itself in a language; an unknown one gives English.
type Sayer interface {
	Say(language string) string
}

// Sentence is a rule with its arguments.
type Sentence struct {
	rule    string
	args    []any
	english error // by package fmt, so that %w keeps what it wraps
}

// Errorf is fmt.Errorf, sayable in every language: %w wraps, and what is an error or
// a Sayer among args is said in that language too.
func Errorf(format string, args ...any) error {
	return &Sentence{format, args, fmt.Errorf(format, args...)}
}

// New is a sentence without arguments. Each is an error of its own, as by
// errors.New.
func New(text string) error { return &Sentence{rule: text, english: errors.New(text)} }

func (s *Sentence) Error() string { return s.english.Error() }

// Unwrap gives what %w wraps, by way of package fmt.
func (s *Sentence) Unwrap() error { return s.english }

// Say renders the sentence in a language.
func (s *Sentence) Say(language string) string {
	if lists[language] == nil {
		return s.Error()
	}
	rule := word(language, s.rule)
	if len(s.args) == 0 {
		return strings.ReplaceAll(rule, "%%", "%")
	}
	args := make([]any, len(s.args))
	for i, a := range s.args {
		args[i] = a
		if said, ok := saying(language, a); ok {
			args[i] = said
		}
	}
	return fmt.Sprintf(strings.ReplaceAll(rule, "%w", "%v"), args...)
}

func saying(language string, a any) (string, bool) {
	switch x := a.(type) {
	case Sayer:
		return x.Say(language), true
	case error:
		return In(language, x), true
	}
	return "", false
}

// Any puts an argument into words in a language.
func Any(language string, a any) string {
	if said, ok := saying(language, a); ok {
		return said
	}
	return fmt.Sprint(a)
}

// word is what a language has for a rule or a term; the English where it has none.
func word(language, rule string) string {
	if own, ok := lists[language][rule]; ok {
		return own
	}
	return rule
}

// Term is a word or a few that come into a sentence from elsewhere, such as why a
// value is bad.
type Term string

// Say renders the term in a language.
func (t Term) Say(language string) string { return word(language, string(t)) }

// Text is a sentence within an answer, such as why a line of a preview cannot be; the
// zero Text says nothing. As JSON it is a text: in English, unless the answer was put
// into a language by Tell.
type Text struct{ Why error }

func (t Text) String() string {
	if t.Why == nil {
		return ""
	}
	return t.Why.Error()
}

// IsZero tells whether the text says nothing.
func (t Text) IsZero() bool { return t.Why == nil }

// MarshalText gives the sentence.
func (t Text) MarshalText() ([]byte, error) { return []byte(t.String()), nil }

// UnmarshalText takes a sentence as it stands.
func (t *Text) UnmarshalText(text []byte) error {
	*t = Text{}
	if len(text) > 0 {
		t.Why = errors.New(string(text))
	}
	return nil
}

// In says an error in a language. One that only says where another arose is said as
// that one; what is joined is said one by one, each on a line; what else is no Sayer
// says itself as it does.
func In(language string, err error) string {
	if s, ok := err.(Sayer); ok {
		return s.Say(language)
	}
	switch x := err.(type) {
	case interface{ Unwrap() error }:
		if inner := x.Unwrap(); inner != nil && inner.Error() == err.Error() {
			return In(language, inner)
		}
	case interface{ Unwrap() []error }:
		var plain, told []string
		for _, e := range x.Unwrap() {
			plain, told = append(plain, e.Error()), append(told, In(language, e))
		}
		if err.Error() == strings.Join(plain, "\n") {
			return strings.Join(told, "\n")
		}
	}
	return err.Error()
}
