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

// Scene is a screen ready to be drawn: elements from the lowest to the
// highest, and the bindings whose values follow in frames.
type Scene struct {
	Screen     string         `json:"screen"`
	Name       string         `json:"name"`
	Title      string         `json:"title"`
	Width      int            `json:"width"`
	Height     int            `json:"height"`
	Background string         `json:"background"`
	Elements   []SceneElement `json:"elements"`
	Bindings   []Target       `json:"bindings"`
}

// SceneElement is an element with every property filled in.
type SceneElement struct {
	ID    string         `json:"id"`
	Kind  string         `json:"kind"`
	Name  string         `json:"name,omitempty"`
	X     float64        `json:"x"`
	Y     float64        `json:"y"`
	W     float64        `json:"w"`
	H     float64        `json:"h"`
	Props map[string]any `json:"props"`
	Tag   *TagInfo       `json:"tag,omitempty"`
}

// TagInfo is what an element's interface needs to know of its tag.
type TagInfo struct {
	ID       string   `json:"id"`
	Path     string   `json:"path"`
	Kind     string   `json:"kind"`
	Unit     string   `json:"unit,omitempty"`
	Low      string   `json:"low,omitempty"` // as people read it
	High     string   `json:"high,omitempty"`
	Step     float64  `json:"step,omitempty"`
	Decimals int      `json:"decimals"` // -1 when none are set
	States   []string `json:"states,omitempty"`
	Writable bool     `json:"writable"`
}

// Target is where a binding's values go.
type Target struct {
	Element string `json:"element"`
	Prop    string `json:"prop"`
}

// Bound is a scene compiled for evaluation. Inputs are the ids of the tags it
// reads; the caller keeps their values in slots of the same order.
type Bound struct {
	Scene    Scene
	Inputs   []string
	bindings []binding
}

// source computes a binding's value: it appends its JSON and returns its
// quality.
type source func(b []byte, f *formula.Frame) ([]byte, value.Quality)

type binding struct {
	slots []int32
	eval  source
}

// Bind expands a document.
func Bind(s *Screen, look Lookup) *Bound {
	x := &expander{look: look, slots: map[string]int32{}, out: &Bound{}}
	x.out.Scene = Scene{Screen: s.ID, Name: s.Name, Title: s.Title, Width: s.Width, Height: s.Height, Background: s.Background,
		Elements: []SceneElement{}, Bindings: []Target{}}
	if x.out.Scene.Background == "" {
		x.out.Scene.Background = "field"
	}
	for _, id := range s.Sorted() {
		x.element(id, s.Elements[id])
	}
	return x.out
}

// Len is the number of bindings.
func (b *Bound) Len() int { return len(b.bindings) }

// Slots are the input slots that a binding reads.
func (b *Bound) Slots(i int) []int32 { return b.bindings[i].slots }

// Append evaluates a binding: it appends the value as JSON (null where the
// element's plain value applies) and returns the quality.
func (b *Bound) Append(out []byte, i int, f *formula.Frame) ([]byte, value.Quality) {
	return b.bindings[i].eval(out, f)
}

type expander struct {
	look  Lookup
	slots map[string]int32
	out   *Bound
}

func (x *expander) slot(id string) int32 {
	if s, ok := x.slots[id]; ok {
		return s
	}
	s := int32(len(x.out.Inputs))
	x.slots[id] = s
	x.out.Inputs = append(x.out.Inputs, id)
	return s
}

func (x *expander) scope() formula.Scope {
	return formula.Scope{
		Tag: func(id string) (int32, value.Kind, bool) {
			t, ok := x.look.Tag(id)
			if !ok {
				return 0, 0, false
			}
			return x.slot(id), t.Kind(), true
		},
		Path: x.look.Path,
	}
}

func (x *expander) element(id string, e *Element) {
	k, ok := KindOf(e.Kind)
	if !ok {
		return
	}
	se := SceneElement{ID: id, Kind: e.Kind, Name: e.Name, X: e.X, Y: e.Y, W: e.W, H: e.H, Props: map[string]any{}}
	for _, p := range k.Props {
		se.Props[p.Name] = p.Default
		if v, ok := e.Props[p.Name]; ok {
			se.Props[p.Name] = v
		}
	}
	if t, ok := x.look.Tag(e.MainTag()); ok {
		se.Tag = x.info(t)
	}
	for _, l := range k.Live {
		ref, _ := e.Props[l.From].(string)
		if ref == "" {
			continue
		}
		t, ok := x.look.Tag(ref)
		if !ok {
			x.add(id, l.Prop, nil, gone)
			continue
		}
		unit, _ := se.Props["unit"].(bool)
		x.add(id, l.Prop, []int32{x.slot(ref)}, tagSource(t, x.slot(ref), l.As, unit || e.Kind != "readout"))
	}
	for _, p := range k.Props {
		if p.Type == TypeTemplate {
			x.template(id, p, &se)
		}
		if f, ok := e.Bind[p.Name]; ok {
			prog, err := formula.Compile(f, x.scope())
			if err != nil || !Accepts(p.Type, prog.Kind()) {
				x.add(id, p.Name, nil, broken(p))
				continue
			}
			x.add(id, p.Name, prog.Slots(), formulaSource(p, prog))
		}
	}
	x.out.Scene.Elements = append(x.out.Scene.Elements, se)
}

func (x *expander) add(element, prop string, slots []int32, eval source) {
	x.out.Scene.Bindings = append(x.out.Scene.Bindings, Target{element, prop})
	x.out.bindings = append(x.out.bindings, binding{slots, eval})
}

func (x *expander) info(t *tag.Tag) *TagInfo {
	path, _ := x.look.Path(t.ID)
	i := &TagInfo{ID: t.ID, Path: path, Kind: t.Kind().String(), Unit: t.Unit, Step: t.Step, Decimals: -1, Writable: t.Writable()}
	if t.Decimals != nil {
		i.Decimals = *t.Decimals
	}
	if t.Kind().IsNumber() {
		i.Low, i.High = t.ShowLimits()
	}
	for _, s := range t.States {
		i.States = append(i.States, s.Text)
	}
	return i
}

// template turns placeholders into one binding of the property.
func (x *expander) template(id string, p Prop, se *SceneElement) {
	text, _ := se.Props[p.Name].(string)
	parts, err := formula.ParseTemplate(text)
	if err != nil {
		return
	}
	plain, live := "", false
	for _, part := range parts {
		if part.Formula != "" {
			live = true
		}
		plain += part.Text
	}
	if !live {
		se.Props[p.Name] = plain
		return
	}
	var slots []int32
	var pieces []source
	for _, part := range parts {
		if part.Formula == "" {
			text := part.Text
			pieces = append(pieces, func(b []byte, _ *formula.Frame) ([]byte, value.Quality) {
				return append(b, text...), value.Good
			})
			continue
		}
		prog, err := formula.Compile(part.Formula, x.scope())
		if err != nil {
			pieces = append(pieces, func(b []byte, _ *formula.Frame) ([]byte, value.Quality) {
				return append(b, "—"...), value.BadConfig
			})
			continue
		}
		slots = append(slots, prog.Slots()...)
		pieces = append(pieces, x.placeholder(part, prog))
	}
	x.add(id, p.Name, slots, func(b []byte, f *formula.Frame) ([]byte, value.Quality) {
		q := value.Good
		raw := make([]byte, 0, 64)
		for _, piece := range pieces {
			var pq value.Quality
			raw, pq = piece(raw, f)
			q = q.Worse(pq)
		}
		return appendJSONString(b, raw), q
	})
}

// placeholder shows a value by its format, or by its tag's own when the
// formula is a tag and nothing else.
func (x *expander) placeholder(part formula.Part, prog *formula.Program) source {
	show := &tag.Tag{}
	if ref, ok := formula.PlainReference(part.Formula); ok {
		if t, ok := x.look.Tag(ref); ok {
			c := *t
			c.Unit = ""
			show = &c
		}
	}
	if part.Decimals >= 0 {
		c := *show
		d := part.Decimals
		c.Decimals = &d
		show = &c
	}
	return func(b []byte, f *formula.Frame) ([]byte, value.Quality) {
		v := prog.Eval(f)
		if v.Quality.IsBad() {
			return append(b, "—"...), v.Quality
		}
		return show.AppendShow(b, v, false), v.Quality
	}
}

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
