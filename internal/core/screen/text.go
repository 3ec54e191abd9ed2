package screen

import (
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// template turns placeholders into one binding of the property. The text is
// the property's own unless one is given.
func (x *expander) template(id, name string, se *SceneElement, given ...string) {
	text, _ := se.Props[name].(string)
	if len(given) > 0 {
		text = given[0]
	}
	text = x.word(text)
	parts, err := formula.ParseTemplate(text)
	if err != nil {
		se.Props[name] = text
		return
	}
	plain, live := "", false
	for _, part := range parts {
		live = live || part.Formula != ""
		plain += part.Text
	}
	if !live {
		se.Props[name] = plain
		return
	}
	var slots []int32
	var pieces []source
	for _, part := range parts {
		if part.Formula == "" {
			pieces = append(pieces, constant(part.Text))
			continue
		}
		prog, err := formula.Compile(part.Formula, x.scope())
		if err != nil {
			pieces = append(pieces, x.nameOr(part.Formula))
			continue
		}
		slots = append(slots, prog.Slots()...)
		pieces = append(pieces, x.placeholder(part, prog))
	}
	x.add(id, name, slots, joined(pieces))
}

// nameOr shows the path of equipment for a reference to it, and a dash for
// what does not compile.
func (x *expander) nameOr(text string) source {
	if id, ok := formula.PlainReference(text); ok && x.look.TypeOf(id) != "" {
		return constant(x.named(id))
	}
	return func(b []byte, _ *formula.Frame) ([]byte, value.Quality) {
		return append(b, "—"...), value.BadConfig
	}
}

// placeholder shows a value by its format, or by its tag's own when the
// formula is a tag and nothing else.
func (x *expander) placeholder(part formula.Part, prog *formula.Program) source {
	show := &tag.Tag{}
	if ref, ok := formula.PlainReference(part.Formula); ok {
		if t, ok := x.look.Tag(ref); ok {
			c := *x.spoken(t)
			c.Unit = ""
			show = &c
		}
	}
	format, zone := part.Format, x.view.Zone
	return func(b []byte, f *formula.Frame) ([]byte, value.Quality) {
		v := prog.Eval(f)
		if v.Quality.IsBad() {
			return append(b, "—"...), v.Quality
		}
		return format.Append(b, v, show, zone), v.Quality
	}
}
