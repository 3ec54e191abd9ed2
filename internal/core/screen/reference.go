package screen

import (
	"fmt"
	"sort"
	"strings"

	"readyrail/internal/core/formula"
)

// visitor is called for everything in an element that refers to something: formulas,
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
	case TypeTag, TypeScreen, TypeDevice, TypeType, TypeFolder, TypePicture, TypeStyle, TypeArea, TypeView, TypeLog, TypeBook:
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
	out := s.own()
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
		for _, role := range e.Operators {
			add("operators", role, TypeRole)
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

// own are the references of the screen itself, not of its elements.
func (s *Screen) own() []Reference {
	var out []Reference
	add := func(place, ref string, t PropType) {
		if ref != "" && ref[0] != '$' {
			out = append(out, Reference{"", place, ref, t})
		}
	}
	for _, ref := range formula.TemplateReferences(s.Title) {
		add("title", ref, TypeTag)
	}
	add("area", s.Area, TypeArea)
	for _, role := range s.Roles {
		add("roles", role, TypeRole)
	}
	for _, role := range s.Operators {
		add("operators", role, TypeRole)
	}
	for _, p := range s.Params {
		switch p.Kind {
		case ParamEquipment:
			add("params", p.Type, TypeType)
			add("params", p.Default, TypeFolder)
		case ParamTag:
			add("params", p.Default, TypeTag)
		}
	}
	for i, entry := range s.Entries {
		for _, given := range entry.Args {
			add(fmt.Sprintf("entries/%d", i), given, TypeParameter)
		}
	}
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
// what is there. A text that names parameters is put into the viewer's words
// before, as its wording names them too.
func (e *Element) applied(params []Param, args Args, real, word func(string) string) *Element {
	swap := func(id, path string) (string, bool) {
		if !strings.HasPrefix(id, "$") {
			return "", false
		}
		return args.text(params, id, path, real)
	}
	out, _, _ := e.visit(visitor{
		formula: func(_, text string) (string, error) { return formula.Substitute(text, swap), nil },
		template: func(_, text string) (string, error) {
			if strings.Contains(text, "{$") {
				text = word(text)
			}
			return formula.SubstituteTemplate(text, swap), nil
		},
		id: func(_ string, t PropType, id string) string {
			if strings.HasPrefix(id, "$") {
				return real(args.id(id))
			}
			return id
		},
	})
	return out
}
