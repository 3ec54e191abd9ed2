package screen

import (
	"encoding/json"
	"math"
	"strconv"
	"unicode/utf8"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Accepts tells whether a formula of a kind can drive a property.
func Accepts(p PropType, k value.Kind) bool {
	switch p {
	case TypeBool:
		return k == value.BOOL
	case TypeNumber:
		return k.IsNumber()
	}
	return k == value.STRING
}

// Wants says in plain words what kind of formula a property takes.
func Wants(p PropType) string {
	switch p {
	case TypeBool:
		return "a BOOL, true or false"
	case TypeNumber:
		return "a number"
	case TypeColour:
		return `a text that names a colour, such as "high" or "#4B6C9E"`
	}
	return "a text"
}

func gone(b []byte, _ *formula.Frame) ([]byte, value.Quality) {
	return append(b, "null"...), value.BadConfig
}

// broken stands for a formula that does not compile: the property keeps its
// plain value, but what is enabled by it is not.
func broken(p Prop) source { return fallback(p, value.BadConfig) }

func fallback(p Prop, q value.Quality) source {
	text := "null"
	if p.Name == "enabled" {
		text = "false"
	}
	return func(b []byte, _ *formula.Frame) ([]byte, value.Quality) { return append(b, text...), q }
}

func formulaSource(p Prop, prog *formula.Program) source {
	return func(b []byte, f *formula.Frame) ([]byte, value.Quality) {
		v := prog.Eval(f)
		if v.Quality.IsBad() || p.Type == TypeColour && !Colour(v.Str()) {
			q := v.Quality
			if !q.IsBad() {
				q = value.BadConfig
			}
			return fallback(p, q)(b, f)
		}
		return appendJSON(b, v), v.Quality
	}
}

func tagSource(t *tag.Tag, slot int32, as PropType, unit bool) source {
	return func(b []byte, f *formula.Frame) ([]byte, value.Quality) {
		v := f.Slots[slot]
		if v.Quality.IsBad() {
			return append(b, "null"...), v.Quality
		}
		switch as {
		case TypeNumber:
			return appendFloat(b, v.Float()), v.Quality
		case TypeBool:
			return strconv.AppendBool(b, v.Bool()), v.Quality
		}
		var buf [96]byte
		return appendJSONString(b, t.AppendShow(buf[:0], v, unit)), v.Quality
	}
}

func appendJSON(b []byte, v value.Value) []byte {
	switch {
	case v.Kind == value.BOOL:
		return strconv.AppendBool(b, v.Bool())
	case v.Kind == value.STRING:
		return appendJSONString(b, []byte(v.Str()))
	}
	return appendFloat(b, v.Float())
}

func appendFloat(b []byte, f float64) []byte {
	if math.IsNaN(f) || math.IsInf(f, 0) {
		return append(b, "null"...)
	}
	return strconv.AppendFloat(b, f, 'g', 9, 64)
}

// appendJSONString quotes text; only what plain text never holds takes the
// slow way.
func appendJSONString(b, s []byte) []byte {
	for _, c := range s {
		if c < 0x20 || c == '"' || c == '\\' || c == '<' || c == '>' || c == '&' {
			q, _ := json.Marshal(string(s))
			return append(b, q...)
		}
	}
	if !utf8.Valid(s) {
		q, _ := json.Marshal(string(s))
		return append(b, q...)
	}
	b = append(b, '"')
	b = append(b, s...)
	return append(b, '"')
}

// constant is a piece of a text that never changes.
func constant(text string) source {
	return func(b []byte, _ *formula.Frame) ([]byte, value.Quality) { return append(b, text...), value.Good }
}

// joined is a text made of pieces.
func joined(pieces []source) source {
	return func(b []byte, f *formula.Frame) ([]byte, value.Quality) {
		q := value.Good
		raw := make([]byte, 0, 64)
		for _, piece := range pieces {
			var pq value.Quality
			raw, pq = piece(raw, f)
			q = q.Worse(pq)
		}
		return appendJSONString(b, raw), q
	}
}

// caseSource sends the number of the case that holds, -1 for none.
func caseSource(prog *formula.Program, m *matcher) source {
	return func(b []byte, f *formula.Frame) ([]byte, value.Quality) {
		v := prog.Eval(f)
		if v.Quality.IsBad() {
			return append(b, "null"...), v.Quality
		}
		return strconv.AppendInt(b, int64(m.match(v)), 10), v.Quality
	}
}
