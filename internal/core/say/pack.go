package say

import (
	"fmt"
	"io"
	"regexp"
)

// Packed is a sentence on its way to another process, which says it in any language as
// this one would.
type Packed struct {
	Rule string
	Args []Packed // by their verbs where they are plain
	Text string   // of what has no rule
}

// verb is one of a rule that takes an argument.
var verb = regexp.MustCompile(`%[-+# 0]*\d*(?:\.\d+)?[a-zA-Z]`)

// Pack takes a sentence apart. What has no rule goes as it is in English.
func Pack(err error) Packed {
	s, ok := err.(*Sentence)
	if !ok {
		return Packed{Text: err.Error()}
	}
	p := Packed{Rule: s.rule}
	verbs := verb.FindAllString(s.rule, -1)
	if len(verbs) != len(s.args) {
		return Packed{Text: err.Error()}
	}
	for i, a := range s.args {
		switch x := a.(type) {
		case *Sentence:
			p.Args = append(p.Args, Pack(x))
		case Term:
			p.Args = append(p.Args, Packed{Rule: string(x)})
		case error:
			p.Args = append(p.Args, Packed{Text: x.Error()})
		default:
			p.Args = append(p.Args, Packed{Text: fmt.Sprintf(verbs[i], a)})
		}
	}
	return p
}

// plain is a value that was put into words by its verb already.
type plain string

func (p plain) Format(f fmt.State, _ rune) { io.WriteString(f, string(p)) }

// Err puts the sentence together again.
func (p Packed) Err() error {
	if p.Rule == "" {
		return New(p.Text)
	}
	args := make([]any, len(p.Args))
	for i, a := range p.Args {
		if a.Rule != "" {
			args[i] = a.Err()
		} else {
			args[i] = plain(a.Text)
		}
	}
	if len(args) == 0 {
		return New(p.Rule)
	}
	return Errorf(p.Rule, args...)
}
