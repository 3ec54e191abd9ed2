// Package screen holds screen documents, the catalogue of elements, and the
// expansion of a document into a flat scene with bindings.
package screen

import (
	"fmt"
	"math"
	"regexp"
	"sort"
	"strings"

	"readyrail/internal/core/formula"
)

// Role says what a screen is drawn for.
type Role string

// The roles. The zero Role is a screen of the Desk's navigation.
const (
	Main      Role = ""
	PopUp     Role = "popup"     // opens in a window over the screen
	Faceplate Role = "faceplate" // a pop-up for equipment of a type
	Symbol    Role = "symbol"    // is placed on other screens
	Header    Role = "header"    // lies above every screen
	Footer    Role = "footer"    // lies below every screen
)

// Window tells whether the role's screens open in a window of their own.
func (r Role) Window() bool { return r == PopUp || r == Faceplate }

// Screen is a document. Elements lie in a map by id, each with its own place
// in the order, so that two people's edits collide per element and property.
type Screen struct {
	ID         string              `json:"id"`
	Name       string              `json:"name"`
	Title      string              `json:"title,omitempty"`
	Role       Role                `json:"role,omitempty"`
	Area       string              `json:"area,omitempty"`
	Roles      []string            `json:"roles,omitempty"` // ids of the roles that may open it; all where there are none
	Width      int                 `json:"width"`
	Height     int                 `json:"height"`
	Background string              `json:"background,omitempty"`
	Home       bool                `json:"home,omitempty"`   // opens first at the Desk
	Hidden     bool                `json:"hidden,omitempty"` // not in the Desk's navigation
	Order      float64             `json:"order"`            // place in the navigation
	Params     []Param             `json:"params,omitempty"`
	Entries    []Entry             `json:"entries,omitempty"` // its places in the navigation, where it has more than one
	Elements   map[string]*Element `json:"elements"`
}

// Entry is a place in the navigation, with what it gives the screen.
type Entry struct {
	Name string            `json:"name"`
	Args map[string]string `json:"args,omitempty"`
}

// Element is anything placed on a screen. Place and size are in pixels of the
// panel, from the upper left corner.
type Element struct {
	Kind   string            `json:"kind"`
	Name   string            `json:"name,omitempty"`
	X      float64           `json:"x"`
	Y      float64           `json:"y"`
	W      float64           `json:"w"`
	H      float64           `json:"h"`
	Z      float64           `json:"z"`               // the higher one covers the lower
	Angle  float64           `json:"angle,omitempty"` // degrees clockwise about the centre
	Group  string            `json:"group,omitempty"` // id of the group it belongs to
	Locked bool              `json:"locked,omitempty"`
	Hidden bool              `json:"hidden,omitempty"` // while editing alone
	Points []float64         `json:"points,omitempty"` // x, y, x, y, … as shares of the size
	Tags   []string          `json:"tags,omitempty"`   // ids of a table's tags
	Tabs   []Tab             `json:"tabs,omitempty"`
	Props  map[string]any    `json:"props,omitempty"`  // by the names of the catalogue
	Bind   map[string]string `json:"bind,omitempty"`   // property or place to stored formula
	Args   map[string]string `json:"args,omitempty"`   // parameter to value, for what it holds or opens
	States *States           `json:"states,omitempty"` // looks by state
	Then   []Action          `json:"then,omitempty"`   // what a button does after its first
}

// Tab is one of a set.
type Tab struct {
	Title  string            `json:"title"` // template
	Screen string            `json:"screen,omitempty"`
	Args   map[string]string `json:"args,omitempty"`
}

// Action is a further step of a button, done where its condition holds.
type Action struct {
	Do       string            `json:"do"`
	When     string            `json:"when,omitempty"` // stored formula; empty always holds
	Tag      string            `json:"tag,omitempty"`
	Value    string            `json:"value,omitempty"`
	By       float64           `json:"by,omitempty"`
	Screen   string            `json:"screen,omitempty"`
	Args     map[string]string `json:"args,omitempty"`
	Device   string            `json:"device,omitempty"`
	Text     string            `json:"text,omitempty"` // template
	Language string            `json:"language,omitempty"`
	Param    string            `json:"param,omitempty"`
}

// Bounds of a document.
const (
	MaxElements = 5000
	MaxSize     = 8192 // pixels of either side
	MaxParams   = 32
	MaxThen     = 12
	MaxEntries  = 24
	MaxPoints   = 2000
	MaxTable    = 200
)

var roles = map[Role]bool{Main: true, PopUp: true, Faceplate: true, Symbol: true, Header: true, Footer: true}

// Check refuses what cannot be a document; place is a JSON pointer into it.
// What may be mended later (a missing tag, a wrong formula) is a finding, not
// a refusal.
func (s *Screen) Check() (place string, err error) {
	least := 64
	if s.Role != Main {
		least = 8
	}
	switch {
	case s.Name == "" || len(s.Name) > 80:
		return "/name", fmt.Errorf("a screen needs a name of at most 80 characters")
	case !roles[s.Role]:
		return "/role", fmt.Errorf("%q is no role of a screen", s.Role)
	case s.Width < least || s.Height < least || s.Width > MaxSize || s.Height > MaxSize:
		return "/width", fmt.Errorf("a screen is %d to %d pixels wide and high, not %d×%d", least, MaxSize, s.Width, s.Height)
	case len(s.Elements) > MaxElements:
		return "/elements", fmt.Errorf("a screen has at most %d elements", MaxElements)
	}
	if len(s.Entries) > MaxEntries {
		return "/entries", fmt.Errorf("a screen has at most %d places in the navigation", MaxEntries)
	}
	if place, err := checkParams(s.Params); err != nil {
		return place, err
	}
	for id, e := range s.Elements {
		at := "/elements/" + id
		if e == nil {
			return at, fmt.Errorf("an element is missing its description")
		}
		if place, err := e.check(); err != nil {
			return at + place, err
		}
		if e.Group != "" {
			if g := s.Elements[e.Group]; g == nil || g.Kind != "group" {
				return at + "/group", fmt.Errorf("the group of this element does not exist")
			}
			for up, depth := e.Group, 0; up != ""; depth++ {
				if up == id || depth > maxNesting {
					return at + "/group", fmt.Errorf("a group cannot lie in itself")
				}
				if s.Elements[up] == nil {
					break
				}
				up = s.Elements[up].Group
			}
		}
	}
	return "", nil
}

func (e *Element) check() (place string, err error) {
	k, ok := KindOf(e.Kind)
	if !ok {
		return "/kind", fmt.Errorf("element kind %q is not in the catalogue", e.Kind)
	}
	for _, f := range []float64{e.X, e.Y, e.W, e.H, e.Z, e.Angle} {
		if math.IsNaN(f) || math.Abs(f) > 1e6 {
			return "", fmt.Errorf("place, size and turn are numbers")
		}
	}
	if e.W < 0 || e.H < 0 {
		return "", fmt.Errorf("a size is not negative")
	}
	if len(e.Points)%2 != 0 || len(e.Points) > MaxPoints {
		return "/points", fmt.Errorf("points come in pairs, at most %d", MaxPoints/2)
	}
	if len(e.Tags) > MaxTable {
		return "/tags", fmt.Errorf("a table has at most %d tags", MaxTable)
	}
	for name, v := range e.Props {
		p, ok := k.Prop(name)
		if !ok {
			return "/props/" + name, fmt.Errorf("a %s has no property %q", k.Title, name)
		}
		if err := p.Check(v); err != nil {
			return "/props/" + name, fmt.Errorf("%s: %w", p.Title, err)
		}
	}
	for name := range e.Bind {
		if _, ok := k.Bindable(name); !ok && !partName.MatchString(name) {
			return "/bind/" + name, fmt.Errorf("the property %q of a %s cannot be bound", name, k.Title)
		}
	}
	if e.States != nil {
		if place, err := checkCases(e.States.Cases); err != nil {
			return "/states" + place, err
		}
	}
	if len(e.Then) > MaxThen {
		return "/then", fmt.Errorf("a button does at most %d things", MaxThen+1)
	}
	for i, a := range e.Then {
		if !furtherActions[a.Do] {
			return fmt.Sprintf("/then/%d", i), fmt.Errorf("%q is not something a button does after its first", a.Do)
		}
	}
	return "", nil
}

// partName is a binding of a part of a picture by its id: part:motor/fill.
var partName = regexp.MustCompile(`^part:[\w.-]{1,60}/(fill|stroke|opacity|visible)$`)

var furtherActions = map[string]bool{ActionSet: true, ActionToggle: true, ActionStep: true, ActionOpen: true, ActionClose: true, ActionRecord: true, ActionLanguage: true, ActionParam: true, ActionDiagnose: true, ActionSignIn: true}

// Sorted lists the element ids from the lowest to the highest.
func (s *Screen) Sorted() []string {
	ids := make([]string, 0, len(s.Elements))
	for id := range s.Elements {
		ids = append(ids, id)
	}
	sort.Slice(ids, func(i, j int) bool {
		a, b := s.Elements[ids[i]], s.Elements[ids[j]]
		if a.Z != b.Z {
			return a.Z < b.Z
		}
		return ids[i] < ids[j]
	})
	return ids
}

// MainTag returns the id of the tag an element shows or writes.
func (e *Element) MainTag() string {
	id, _ := e.Props["tag"].(string)
	return id
}

// Writes tells whether an element writes its tag, and so needs a writable one.
func (e *Element) Writes() bool {
	switch e.Kind {
	case "entry", "textentry", "switch", "slider":
		return true
	case "selector":
		return e.Text("of") == "states"
	case "button":
		return ActionWrites(e.Text("action"))
	}
	return false
}

// Prop returns a property, or its default.
func (e *Element) Prop(name string) any {
	if v, ok := e.Props[name]; ok {
		return v
	}
	if k, ok := KindOf(e.Kind); ok {
		if p, ok := k.Prop(name); ok {
			return p.Default
		}
	}
	return nil
}

// Text returns a text property, or its default.
func (e *Element) Text(name string) string {
	s, _ := e.Prop(name).(string)
	return s
}

// Number returns a number property; ok is false where it has none.
func (e *Element) Number(name string) (f float64, ok bool) {
	f, ok = e.Prop(name).(float64)
	return f, ok
}

// Flag returns a BOOL property.
func (e *Element) Flag(name string) bool {
	b, _ := e.Prop(name).(bool)
	return b
}

// texts visits everything in an element that refers to something: formulas,
// templates and ids. Each visitor returns what is to stand there.
type visitor struct {
	formula  func(place, text string) (string, error)
	template func(place, text string) (string, error)
	id       func(place string, t PropType, id string) string
}

// visit returns a copy of the element with everything replaced that the
// visitor changes. place is where it stopped.
func (e *Element) visit(v visitor) (out *Element, place string, err error) {
	d := *e
	k, ok := KindOf(e.Kind)
	if !ok {
		return &d, "", nil
	}
	if len(e.Props) > 0 {
		d.Props = make(map[string]any, len(e.Props))
		for name, value := range e.Props {
			d.Props[name] = value
			text, isText := value.(string)
			if !isText || text == "" {
				continue
			}
			p, _ := k.Prop(name)
			switch {
			case p.Type == TypeTemplate:
				if d.Props[name], err = v.template("props/"+name, text); err != nil {
					return nil, "props/" + name, err
				}
			case p.refers():
				d.Props[name] = v.id("props/"+name, p.Type, text)
			}
		}
	}
	if len(e.Bind) > 0 {
		d.Bind = make(map[string]string, len(e.Bind))
		for name, f := range e.Bind {
			if d.Bind[name], err = v.formula("bind/"+name, f); err != nil {
				return nil, "bind/" + name, err
			}
		}
	}
	if len(e.Tags) > 0 {
		d.Tags = make([]string, len(e.Tags))
		for i, id := range e.Tags {
			d.Tags[i] = v.id(fmt.Sprintf("tags/%d", i), TypeTag, id)
		}
	}
	d.Args = v.args("args", e.Args)
	if len(e.Tabs) > 0 {
		d.Tabs = make([]Tab, len(e.Tabs))
		for i, t := range e.Tabs {
			at := fmt.Sprintf("tabs/%d", i)
			if t.Title, err = v.template(at, t.Title); err != nil {
				return nil, at, err
			}
			if t.Screen != "" {
				t.Screen = v.id(at, TypeScreen, t.Screen)
			}
			t.Args = v.args(at+"/args", t.Args)
			d.Tabs[i] = t
		}
	}
	if e.States != nil {
		if d.States, place, err = e.States.visit("states", v); err != nil {
			return nil, place, err
		}
	}
	if len(e.Then) > 0 {
		d.Then = make([]Action, len(e.Then))
		for i, a := range e.Then {
			at := fmt.Sprintf("then/%d", i)
			if d.Then[i], err = a.visit(at, v); err != nil {
				return nil, at, err
			}
		}
	}
	return &d, "", nil
}

func (a Action) visit(at string, v visitor) (Action, error) {
	var err error
	if a.When != "" {
		if a.When, err = v.formula(at, a.When); err != nil {
			return a, err
		}
	}
	if a.Text != "" {
		if a.Text, err = v.template(at, a.Text); err != nil {
			return a, err
		}
	}
	for into, t := range map[*string]PropType{&a.Tag: TypeTag, &a.Screen: TypeScreen, &a.Device: TypeDevice} {
		if *into != "" {
			*into = v.id(at, t, *into)
		}
	}
	a.Args = v.args(at+"/args", a.Args)
	return a, nil
}

func (v visitor) args(at string, args map[string]string) map[string]string {
	if len(args) == 0 {
		return nil
	}
	out := make(map[string]string, len(args))
	for name, value := range args {
		out[name] = v.id(at+"/"+name, TypeParameter, value)
	}
	return out
}

func (t PropType) reference() bool {
	switch t {
	case TypeTag, TypeScreen, TypeDevice, TypeType, TypeFolder, TypePicture:
		return true
	}
	return false
}

func (p Prop) refers() bool { return p.Type.reference() }

// Reference is one use of a thing by an element.
type Reference struct {
	Element string
	Place   string // "props/tag", "bind/fill"
	ID      string
	Type    PropType // what kind of thing the id is of
}

// References lists every use, sorted by element and place. Those of the
// screen's own parameters are left out; an argument may be the id of anything
// or a plain value, and is given with TypeParameter.
func (s *Screen) References() []Reference {
	var out []Reference
	for _, ref := range formula.TemplateReferences(s.Title) {
		if ref[0] != '$' {
			out = append(out, Reference{"", "title", ref, TypeTag})
		}
	}
	for id, e := range s.Elements {
		add := func(place, ref string, t PropType) {
			if ref != "" && ref[0] != '$' {
				out = append(out, Reference{id, place, ref, t})
			}
		}
		each := func(list func(string) []string) func(place, text string) (string, error) {
			return func(place, text string) (string, error) {
				for _, ref := range list(text) {
					add(place, ref, TypeTag)
				}
				return text, nil
			}
		}
		_, _, _ = e.visit(visitor{formula: each(formula.References), template: each(formula.TemplateReferences),
			id: func(place string, t PropType, ref string) string { add(place, ref, t); return ref }})
		if e.States != nil && e.States.Set != "" {
			add("states/set", e.States.Set, TypeLook)
		}
	}
	sort.Slice(out, func(i, j int) bool {
		if out[i].Element != out[j].Element {
			return out[i].Element < out[j].Element
		}
		return out[i].Place < out[j].Place
	})
	return out
}

// Convert returns a copy of the document with every formula and template
// replaced; it is how the edge turns stored into shown text and back. Place
// names the text in refusals.
func (s *Screen) Convert(formulas, templates func(text string) (string, error)) (out *Screen, place string, err error) {
	c := *s
	c.Elements = make(map[string]*Element, len(s.Elements))
	v := visitor{
		formula:  func(_, text string) (string, error) { return formulas(text) },
		template: func(_, text string) (string, error) { return templates(text) },
		id:       func(_ string, _ PropType, id string) string { return id },
	}
	if c.Title, err = templates(s.Title); err != nil {
		return nil, "/title", err
	}
	for id, e := range s.Elements {
		d, place, err := e.visit(v)
		if err != nil {
			return nil, "/elements/" + id + "/" + place, err
		}
		c.Elements[id] = d
	}
	return &c, "", nil
}

// Replace returns a copy of an element with what it refers to replaced, in
// formulas and texts too. change gets an id with the path that is remembered
// beside it, empty where none is, and returns both anew.
func (e *Element) Replace(change func(id, path string) (string, string)) *Element {
	swap := func(id, path string) (string, bool) {
		toID, toPath := change(id, path)
		return formula.Reference(toID, toPath), toID != id || toPath != path
	}
	out, _, _ := e.visit(visitor{
		formula:  func(_, text string) (string, error) { return formula.Substitute(text, swap), nil },
		template: func(_, text string) (string, error) { return formula.SubstituteTemplate(text, swap), nil },
		id:       func(_ string, _ PropType, id string) string { to, _ := change(id, ""); return to },
	})
	return out
}

// applied returns the element with the parameters of its screen replaced by
// what was given for them. real turns a chain below equipment into the id of
// what is there.
func (e *Element) applied(params []Param, args Args, real func(id string) string) *Element {
	swap := func(id, path string) (string, bool) {
		if !strings.HasPrefix(id, "$") {
			return "", false
		}
		return args.text(params, id, path, real)
	}
	out, _, _ := e.visit(visitor{
		formula:  func(_, text string) (string, error) { return formula.Substitute(text, swap), nil },
		template: func(_, text string) (string, error) { return formula.SubstituteTemplate(text, swap), nil },
		id: func(_ string, t PropType, id string) string {
			if strings.HasPrefix(id, "$") {
				return real(args.id(id))
			}
			return id
		},
	})
	return out
}
