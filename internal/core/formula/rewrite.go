package formula

import (
	"sort"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Substitute replaces the references of a stored formula for which change has
// something else: another reference, made by Reference, or a literal.
func Substitute(stored string, change func(id, path string) (text string, ok bool)) string {
	if !strings.Contains(stored, "{") {
		return stored
	}
	var b strings.Builder
	for _, p := range splitStored(stored) {
		if !p.path {
			b.WriteString(p.text)
		} else if text, ok := change(p.id, p.text); ok {
			b.WriteString(text)
		} else {
			b.WriteString(Reference(p.id, p.text))
		}
	}
	return b.String()
}

// SubstituteTemplate is Substitute for a stored template. One that cannot be
// read stays as it is.
func SubstituteTemplate(stored string, change func(id, path string) (string, bool)) string {
	out, err := rewrite(stored, func(f string) (string, error) { return Substitute(f, change), nil })
	if err != nil {
		return stored
	}
	return out
}

// Reference is a reference as stored formulas hold it.
func Reference(id, path string) string { return "{" + id + "|" + path + "}" }

// Constant computes a formula over plain names alone, such as base + 5 * i.
// The error is an *Error with its column.
func Constant(text string, names map[string]value.Value) (value.Value, error) {
	params := map[string]Param{}
	f := &Frame{}
	list := make([]string, 0, len(names))
	for name := range names {
		list = append(list, name)
	}
	sort.Strings(list)
	for i, name := range list {
		params[name] = Param{Slot: int32(i), Kind: names[name].Kind}
		f.Slots = append(f.Slots, names[name])
	}
	unknown := func(path string) (string, bool) { return "", false }
	stored, err := Store(text, unknown, func(s string) bool { _, ok := params[s]; return ok })
	if err != nil {
		if fe, ok := err.(*Error); ok && fe.Length > 0 && fe.Column < len(text) {
			fe.Why = say.Errorf("there is no setting of that name; there are %s", strings.Join(list, ", "))
		}
		return value.Value{}, err
	}
	prog, err := Compile(stored, Scope{Tag: func(string) (int32, value.Kind, bool) { return 0, 0, false },
		Path: func(string) (string, bool) { return "", false }, Params: params})
	if err != nil {
		return value.Value{}, err
	}
	v := prog.Eval(f)
	if v.Quality.IsBad() {
		return value.Value{}, &Error{Length: len(text), Why: say.Errorf("it has no result: %v", v.Quality)}
	}
	return v, nil
}

// FillText replaces each {expression} of a text by its value over plain names:
// "holding:{base + 3}" with base 100 gives "holding:103".
func FillText(text string, names map[string]value.Value) (string, error) {
	if !strings.ContainsAny(text, `{}\`) {
		return text, nil
	}
	spans, err := scanTemplate(text)
	if err != nil {
		return "", err
	}
	var b strings.Builder
	at := 0
	for _, sp := range spans {
		b.WriteString(unescape.Replace(text[at:sp.start]))
		v, err := Constant(sp.formula, names)
		if err != nil {
			if fe, ok := err.(*Error); ok {
				shifted := *fe
				shifted.Column += len([]rune(text[:sp.formulaFrom]))
				return "", &shifted
			}
			return "", err
		}
		format, _ := ParseFormat(sp.format)
		if format.Kind == "" {
			b.WriteString(v.Text())
		} else {
			b.Write(format.Append(nil, v, nil, nil))
		}
		at = sp.end
	}
	b.WriteString(unescape.Replace(text[at:]))
	return b.String(), nil
}
