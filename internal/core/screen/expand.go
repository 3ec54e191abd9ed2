package screen

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Lookup is what an expansion asks of the project.
type Lookup interface {
	Tag(id string) (*tag.Tag, bool)
	Path(id string) (string, bool)
	Screen(id string) *Screen
	LookSet(id string) *LookSet
	TextStyle(id string) *TextStyle
	Type(id string) *equipment.Type
	// TypeOf returns the type of a piece of equipment, empty where there is none.
	TypeOf(equipment string) (typ string)
	// OfType lists the equipment of a type below a folder, in the order of paths.
	OfType(typ, below string) []string
	// LimitMarks are the limits of a tag's alarms that are plain numbers.
	LimitMarks(tag string) []LimitMark
	// Array lists what differs from a tag or folder in an index of its path.
	Array(id string, which Index) []string
	// Beside is what stands to the second of two of an array as a thing stands
	// to the first.
	Beside(first, second, id string) (beside string, ok bool)
	// Real returns the id of what lies at a chain below equipment: k.m1 of an
	// instance k; any other id as it is.
	Real(id string) string
	// Pens are those of a view of recorded courses, opened for equipment.
	Pens(view, equipment string) []history.ViewPen
	// Word returns a text in a language.
	Word(language, text string) string
}

// View is how a screen is looked at.
type View struct {
	Args     Args
	Language string         // empty for the project's first
	Zone     *time.Location // of dates and times; nil for that of the server
}

// Control is an element as people meet it, with the parameters of its screen
// replaced by what was given for them.
type Control struct {
	Element *Element
	Name    string // with the names of what it lies in
	Area    string // of the screen it is drawn on
	// Operators are the roles that may operate it, by id: one of each list, as the
	// screens and elements that it lies in, and the element itself, each have one.
	Operators [][]string
}

// Bound is a scene compiled for evaluation, by one goroutine at a time. Inputs
// are the ids of the tags it reads; the caller keeps their values in slots of
// the same order.
type Bound struct {
	Scene    Scene
	Inputs   []string
	Controls map[string]Control // by the id of the scene's element
	bindings []binding
}

// source computes a binding's value: it appends its JSON and returns its
// quality.
type source func(b []byte, f *formula.Frame) ([]byte, value.Quality)

type binding struct {
	slots []int32
	eval  source
}

// Bounds of an expansion.
const (
	maxNesting = 8
	maxScene   = 20_000 // elements
)

// Bind expands a document.
func Bind(s *Screen, look Lookup, view View) *Bound {
	if view.Zone == nil {
		view.Zone = time.Local
	}
	args := view.Args.With(s.Params)
	x := &expander{look: look, view: view, slots: map[string]int32{}, out: &Bound{Controls: map[string]Control{}}}
	x.out.Scene = Scene{Screen: s.ID, Name: x.word(s.Name), Title: x.plain(s.Title, s.Params, args), Role: s.Role, Width: s.Width,
		Height: s.Height, Background: s.Background,
		Args: args, Params: x.params(s), Elements: []SceneElement{}, Bindings: []Target{}}
	if x.out.Scene.Background == "" && s.Role != Symbol {
		x.out.Scene.Background = "field"
	}
	x.screen(s, args, place{area: s.Area, on: []string{s.ID}})
	x.out.Scene.Books = x.opened()
	return x.out
}

// opened are the books of which inputs tell what is open at the page that looks.
func (x *expander) opened() (books []string) {
	for _, id := range x.out.Inputs {
		if t, ok := x.look.Tag(id); ok && t.Book != "" && t.Own() && !slices.Contains(books, t.Book) {
			books = append(books, t.Book)
		}
	}
	return books
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
	view  View
	slots map[string]int32
	out   *Bound
}

// place is where in a nest of screens an element lies.
type place struct {
	prefix string     // of the scene's ids
	in     string     // id of the element that holds it
	name   string     // of what it lies in
	area   string     // of the nearest screen that has one
	on     []string   // ids of the screens around it, the outermost first
	by     [][]string // roles that may operate, of all that it lies in
}

// within is the place in an element, which whatever holds at its own holds in too.
func (p place) within(id, name string) place {
	p.prefix, p.in, p.name = id+"/", id, name
	return p
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

func (x *expander) word(text string) string {
	if x.view.Language == "" || text == "" {
		return text
	}
	return x.look.Word(x.view.Language, text)
}

// plain is a template without live values: those in it read as a dash, but for
// what is given for a parameter.
func (x *expander) plain(text string, params []Param, args Args) string {
	text = x.word(text)
	if len(params) > 0 {
		text = formula.SubstituteTemplate(text, func(id, path string) (string, bool) {
			if p, ok := args[strings.TrimPrefix(id, "$")]; ok && strings.HasPrefix(id, "$") && !strings.Contains(id, ".") {
				return fmt.Sprintf("%q", x.named(p)), true
			}
			return "", false
		})
	}
	parts, err := formula.ParseTemplate(text)
	if err != nil {
		return text
	}
	var b strings.Builder
	for _, p := range parts {
		if p.Formula == "" {
			b.WriteString(p.Text)
		} else if v, err := formula.Constant(p.Formula, nil); err == nil {
			b.WriteString(v.Text())
		} else {
			b.WriteString("—")
		}
	}
	return b.String()
}

// named is how people read an argument: the path of equipment or of a tag, or
// the value itself.
func (x *expander) named(arg string) string {
	if path, ok := x.look.Path(arg); ok {
		return path
	}
	return arg
}

func (x *expander) params(s *Screen) []SceneParam {
	var out []SceneParam
	for _, p := range s.Params {
		sp := SceneParam{ID: p.ID, Title: x.word(p.Title)}
		if sp.Title == "" {
			sp.Title = p.Name
		}
		if p.Kind == ParamEquipment {
			for _, id := range x.look.OfType(p.Type, "") {
				sp.Choices = append(sp.Choices, ParamChoice{id, x.named(id)})
			}
		}
		out = append(out, sp)
	}
	return out
}

func (x *expander) screen(s *Screen, args Args, at place) {
	at.by = narrowed(at.by, s.Operators)
	for _, id := range s.Sorted() {
		e := s.Elements[id]
		if len(s.Params) > 0 {
			e = e.applied(s.Params, args, x.look.Real, x.word)
		}
		x.element(id, e, s, at)
	}
}

func (x *expander) element(id string, e *Element, s *Screen, at place) {
	k, ok := KindOf(e.Kind)
	if !ok || len(x.out.Scene.Elements) >= maxScene {
		return
	}
	se := SceneElement{ID: at.prefix + id, Kind: e.Kind, Name: e.Name, In: at.in, X: e.X, Y: e.Y, W: e.W, H: e.H, Angle: e.Angle,
		Points: e.Points, Props: map[string]any{}}
	if e.Group != "" {
		se.In = at.prefix + e.Group
	}
	style := x.look.TextStyle(e.Text("style"))
	for _, p := range k.Props {
		se.Props[p.Name] = p.Default
		if style != nil {
			if v, ok := style.prop(p.Name); ok {
				se.Props[p.Name] = v
			}
		}
		if v, ok := e.Props[p.Name]; ok {
			se.Props[p.Name] = v
		}
	}
	if t, ok := x.look.Tag(e.MainTag()); ok {
		se.Tag = x.info(e.Effective(t))
	}
	x.lives(k, e, &se)
	for _, p := range k.Props {
		if p.Type == TypeTemplate && e.Bind[p.Name] == "" {
			x.template(se.ID, p.Name, &se)
		}
	}
	x.binds(k, e, se.ID)
	x.states(e, &se)
	x.rows(e, &se)
	x.acts(e, &se)
	name := e.Label()
	if at.name != "" {
		name = at.name + " › " + name
	}
	for group := e.Group; group != "" && s.Elements[group] != nil; group = s.Elements[group].Group {
		at.by = narrowed(at.by, s.Elements[group].Operators)
	}
	at.by = narrowed(at.by, e.Operators)
	x.out.Controls[se.ID] = Control{Element: e, Name: name, Area: at.area, Operators: at.by}
	x.hold(e, &se, at)
}

// narrowed are the lists of roles with one more, where that names any.
func narrowed(by [][]string, roles []string) [][]string {
	if len(roles) == 0 {
		return by
	}
	return append(slices.Clip(by), roles)
}

// put appends a finished element.
func (x *expander) put(se SceneElement) { x.out.Scene.Elements = append(x.out.Scene.Elements, se) }

// hold appends an element with everything that lies in it.
func (x *expander) hold(e *Element, se *SceneElement, at place) {
	inner := at.within(se.ID, e.Name)
	if at.name != "" && e.Name != "" {
		inner.name = at.name + " › " + e.Name
	} else if e.Name == "" {
		inner.name = at.name
	}
	if k, _ := KindOf(e.Kind); k.does.put != nil {
		k.does.put(x, e, se, inner)
		return
	}
	x.put(*se)
}

// nested puts an element and the screen within it.
func (x *expander) nested(se *SceneElement, ref string, args Args, at place) {
	inner := x.look.Screen(ref)
	var why error
	switch {
	case ref == "":
	case inner == nil:
		why = say.New("what it shows no longer exists")
	case slices.Contains(at.on, ref):
		why = say.Errorf("%s contains itself", inner.Name)
	case len(at.on) > maxNesting:
		why = say.Errorf("screens lie more than %d deep in each other", maxNesting)
	}
	if why != nil {
		se.Problem = say.In(x.view.Language, why)
	}
	if inner == nil || why != nil {
		x.put(*se)
		return
	}
	se.Content = &Size{float64(inner.Width), float64(inner.Height)}
	x.put(*se)
	at.on = append(slices.Clone(at.on), ref)
	if inner.Area != "" {
		at.area = inner.Area
	}
	x.screen(inner, args.With(inner.Params), at)
}

// openFace lets an element open the faceplate of equipment, where its type has
// one.
func (x *expander) openFace(id string, se *SceneElement) {
	t := x.look.Type(x.look.TypeOf(id))
	if t == nil || t.Faceplate == "" {
		return
	}
	plate := x.look.Screen(t.Faceplate)
	if plate == nil {
		return
	}
	for _, p := range plate.Params {
		if p.Kind == ParamEquipment {
			se.Opens = &Opens{plate.ID, Args{p.ID: id}}
			return
		}
	}
	se.Opens = &Opens{Screen: plate.ID}
}

// acts says what an element opens when it is pressed, and does further.
func (x *expander) acts(e *Element, se *SceneElement) {
	actions := e.Actions()
	if len(actions) == 0 {
		return
	}
	switch own := actions[0]; own.Do {
	case ActionOpen:
		if own.Screen != "" {
			se.Opens = &Opens{own.Screen, Args(own.Args)}
		}
	case ActionFace:
		x.openFace(e.Text("equipment"), se)
	}
	for i, a := range actions[1:] {
		sa := SceneAction{Do: a.Do, Device: a.Device, Language: a.Language, Param: a.Param, Value: a.Value, By: a.By}
		if a.Screen != "" {
			sa.Opens = &Opens{a.Screen, Args(a.Args)}
		}
		se.Then = append(se.Then, sa)
		if a.When != "" {
			x.formula(se.ID, fmt.Sprintf("then%d", i), Prop{Name: "enabled", Type: TypeBool}, a.When)
		}
	}
}

// rows fills a table of tags.
func (x *expander) rows(e *Element, se *SceneElement) {
	tags := e.Tags
	if own := e.does().tags; own != nil {
		tags = own(x, e, se)
	}
	for i, id := range tags {
		t, ok := x.look.Tag(id)
		prop := fmt.Sprintf("row%d", i)
		if !ok {
			se.Rows = append(se.Rows, Row{Title: "—"})
			x.add(se.ID, prop, nil, gone)
			continue
		}
		r := Row{Title: x.word(t.Description), Tag: x.info(t)}
		if r.Title == "" || !e.Flag("descriptions") {
			r.Title = r.Tag.Path
		}
		se.Rows = append(se.Rows, r)
		x.add(se.ID, prop, []int32{x.slot(id)}, tagSource(x.spoken(t), x.slot(id), TypeText, true))
	}
}

// lives binds what tags drive by themselves.
func (x *expander) lives(k *Kind, e *Element, se *SceneElement) {
	for _, l := range k.Live {
		ref, _ := e.Props[l.From].(string)
		if ref == "" {
			continue
		}
		t, ok := x.look.Tag(ref)
		if !ok {
			x.add(se.ID, l.Prop, nil, gone)
			continue
		}
		if l.As == TypeNumber && !t.Kind().IsNumber() && t.Kind() != value.BOOL || l.As == TypeBool && t.Kind() == value.STRING {
			continue
		}
		if l.From == "tag" {
			t = e.Effective(t)
		}
		unit, set := se.Props["unit"].(bool)
		x.add(se.ID, l.Prop, []int32{x.slot(ref)}, tagSource(x.spoken(t), x.slot(ref), l.As, unit || !set))
	}
}

// binds binds properties, places and parts of pictures to formulas.
func (x *expander) binds(k *Kind, e *Element, id string) {
	names := make([]string, 0, len(e.Bind))
	for name := range e.Bind {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		if p, ok := k.Bindable(name); ok {
			x.formula(id, name, p, e.Bind[name])
		} else if p, ok := PartProp(name); ok {
			x.formula(id, name, p, e.Bind[name])
		}
	}
}

// PartProp describes a binding of a part of a picture.
func PartProp(name string) (Prop, bool) {
	m := partName.FindStringSubmatch(name)
	if m == nil {
		return Prop{}, false
	}
	return Prop{Name: m[1], Title: name, Type: map[string]PropType{"fill": TypeColour, "stroke": TypeColour, "opacity": TypeNumber,
		"visible": TypeBool}[m[1]], Bindable: true}, true
}

func (x *expander) formula(id, name string, p Prop, text string) {
	prog, err := formula.Compile(text, x.scope())
	if err != nil || !Accepts(p.Type, prog.Kind()) {
		x.add(id, name, nil, broken(p))
		return
	}
	x.add(id, name, prog.Slots(), formulaSource(p, prog))
}

// states binds the case that holds: its number is sent, its look is drawn.
func (x *expander) states(e *Element, se *SceneElement) {
	if e.States == nil || e.States.Of == "" {
		return
	}
	cases := e.States.Cases
	if e.States.Set != "" {
		set := x.look.LookSet(e.States.Set)
		if set == nil {
			x.add(se.ID, "look", nil, gone)
			return
		}
		cases = set.Cases
	}
	prog, err := formula.Compile(e.States.Of, x.scope())
	if err != nil {
		x.add(se.ID, "look", nil, gone)
		return
	}
	for _, c := range cases {
		look := c.Look
		if look == nil {
			look = map[string]any{}
		}
		se.Looks = append(se.Looks, look)
	}
	x.add(se.ID, "look", prog.Slots(), caseSource(prog, newMatcher(cases, prog.Kind())))
}

func (x *expander) add(element, prop string, slots []int32, eval source) {
	x.out.Scene.Bindings = append(x.out.Scene.Bindings, Target{element, prop})
	x.out.bindings = append(x.out.bindings, binding{slots, eval})
}

// localised is a tag whose states are named in the view's language.
func (x *expander) localised(t *tag.Tag) *tag.Tag {
	if x.view.Language == "" || len(t.States) == 0 {
		return t
	}
	c := *t
	c.States = slices.Clone(t.States)
	for i := range c.States {
		if text := c.States[i].Texts[x.view.Language]; text != "" {
			c.States[i].Text = text
		}
	}
	return &c
}

// switched names the two values of a BOOL that has no names of its own, where
// its formatting is in another language than the values' own.
var switched = map[string][2]string{"de": {"aus", "ein"}}

// choices are the states that a person can choose of a tag: those with a name,
// and both values of a BOOL.
func (x *expander) choices(t *tag.Tag) []tag.State {
	if t.Kind() != value.BOOL || len(t.States) > 0 {
		return x.localised(t).States
	}
	if t = x.spoken(t); len(t.States) > 0 {
		return t.States
	}
	return []tag.State{{Value: 0, Text: "off"}, {Value: 1, Text: "on"}}
}

// spoken is a tag whose values read as the view's language has them.
func (x *expander) spoken(t *tag.Tag) *tag.Tag {
	names, ok := switched[x.view.Language]
	if !ok || t.Kind() != value.BOOL || len(t.States) > 0 {
		return x.localised(t)
	}
	c := *t
	c.States = []tag.State{{Value: 0, Text: names[0]}, {Value: 1, Text: names[1]}}
	return &c
}

func (x *expander) info(t *tag.Tag) *TagInfo {
	path, _ := x.look.Path(t.ID)
	i := &TagInfo{ID: t.ID, Path: path, Kind: t.Kind().String(), Unit: t.Unit, Step: t.Step, Decimals: -1, Writable: t.Enterable()}
	if t.OfField() {
		i.Edits = &RecipeField{t.Book, t.Field}
	}
	if t.Decimals != nil {
		i.Decimals = *t.Decimals
	}
	if t.Kind().IsNumber() {
		i.Low, i.High = t.ShowLimits()
		i.From, i.To = t.Low, t.High
		i.Marks = x.look.LimitMarks(t.ID)
	}
	for _, s := range x.choices(t) {
		i.States = append(i.States, StateInfo{s.Value, s.Text})
	}
	return i
}
