// Package screen holds screen documents, the catalogue of elements, and the
// expansion of a document into a flat scene with bindings.
package screen

import (
	"fmt"
	"math"
	"sort"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
)

// Screen is a document. Elements lie in a map by id, each with its own place
// in the order, so that two people's edits collide per element and property.
type Screen struct {
	ID         string              `json:"id"`
	Name       string              `json:"name"`
	Title      string              `json:"title,omitempty"`
	Area       string              `json:"area,omitempty"`
	Width      int                 `json:"width"`
	Height     int                 `json:"height"`
	Background string              `json:"background,omitempty"`
	Home       bool                `json:"home,omitempty"`   // opens first at the Desk
	Hidden     bool                `json:"hidden,omitempty"` // not in the Desk's navigation
	Order      float64             `json:"order"`            // place in the navigation
	Elements   map[string]*Element `json:"elements"`
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
	Z      float64           `json:"z"` // the higher one covers the lower
	Group  string            `json:"group,omitempty"`
	Locked bool              `json:"locked,omitempty"`
	Props  map[string]any    `json:"props,omitempty"` // by the names of the catalogue
	Bind   map[string]string `json:"bind,omitempty"`  // property to stored formula
}

// Bounds of a document.
const (
	MaxElements = 5000
	MaxSize     = 8192 // pixels of either side
)

// Check refuses what cannot be a document; place is a JSON pointer into it.
// What may be mended later (a missing tag, a wrong formula) is a finding, not
// a refusal.
func (s *Screen) Check() (place string, err error) {
	if s.Name == "" || len(s.Name) > 80 {
		return "/name", fmt.Errorf("a screen needs a name of at most 80 characters")
	}
	if s.Width < 64 || s.Height < 64 || s.Width > MaxSize || s.Height > MaxSize {
		return "/width", fmt.Errorf("a screen is 64 to %d pixels wide and high, not %d×%d", MaxSize, s.Width, s.Height)
	}
	if len(s.Elements) > MaxElements {
		return "/elements", fmt.Errorf("a screen has at most %d elements", MaxElements)
	}
	for id, e := range s.Elements {
		at := "/elements/" + id
		if e == nil {
			return at, fmt.Errorf("an element is missing its description")
		}
		k, ok := KindOf(e.Kind)
		if !ok {
			return at + "/kind", fmt.Errorf("element kind %q is not in the catalogue", e.Kind)
		}
		for _, f := range []float64{e.X, e.Y, e.W, e.H, e.Z} {
			if math.IsNaN(f) || math.Abs(f) > 1e6 {
				return at, fmt.Errorf("place and size are numbers of pixels")
			}
		}
		if e.W < 0 || e.H < 0 {
			return at, fmt.Errorf("a size is not negative")
		}
		for name, v := range e.Props {
			p, ok := k.Prop(name)
			if !ok {
				return at + "/props/" + name, fmt.Errorf("a %s has no property %q", k.Title, name)
			}
			if err := p.Check(v); err != nil {
				return at + "/props/" + name, fmt.Errorf("%s: %w", p.Title, err)
			}
		}
		for name := range e.Bind {
			if p, ok := k.Prop(name); !ok || !p.Bindable {
				return at + "/bind/" + name, fmt.Errorf("the property %q of a %s cannot be bound", name, k.Title)
			}
		}
	}
	return "", nil
}

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

// Reference is one use of a tag or a screen by an element.
type Reference struct {
	Element string
	Place   string // "props/tag", "bind/fill"
	ID      string
	Screen  bool // the id is a screen's
}

// References lists every use, sorted by element and place.
func (s *Screen) References() []Reference {
	var out []Reference
	for id, e := range s.Elements {
		k, ok := KindOf(e.Kind)
		if !ok {
			continue
		}
		for name, v := range e.Props {
			p, _ := k.Prop(name)
			text, _ := v.(string)
			switch {
			case text == "":
			case p.Type == TypeTag:
				out = append(out, Reference{id, "props/" + name, text, false})
			case p.Type == TypeScreen, p.Type == TypeDevice:
				out = append(out, Reference{id, "props/" + name, text, true})
			case p.Type == TypeTemplate:
				for _, ref := range formula.TemplateReferences(text) {
					out = append(out, Reference{id, "props/" + name, ref, false})
				}
			}
		}
		for name, f := range e.Bind {
			for _, ref := range formula.References(f) {
				out = append(out, Reference{id, "bind/" + name, ref, false})
			}
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
	for id, e := range s.Elements {
		d := *e
		if k, ok := KindOf(e.Kind); ok && len(e.Props) > 0 {
			d.Props = make(map[string]any, len(e.Props))
			for name, v := range e.Props {
				d.Props[name] = v
				if p, _ := k.Prop(name); p.Type == TypeTemplate {
					if text, ok := v.(string); ok {
						if d.Props[name], err = templates(text); err != nil {
							return nil, "/elements/" + id + "/props/" + name, err
						}
					}
				}
			}
		}
		if len(e.Bind) > 0 {
			d.Bind = make(map[string]string, len(e.Bind))
			for name, f := range e.Bind {
				if d.Bind[name], err = formulas(f); err != nil {
					return nil, "/elements/" + id + "/bind/" + name, err
				}
			}
		}
		c.Elements[id] = &d
	}
	return &c, "", nil
}

// MainTag returns the id of the tag an element shows or writes.
func (e *Element) MainTag() string {
	id, _ := e.Props["tag"].(string)
	return id
}

// Writes tells whether an element writes its tag, and so needs a writable one.
func (e *Element) Writes() bool {
	switch e.Kind {
	case "entry":
		return true
	case "button":
		action := e.Text("action")
		return action != ActionOpen && action != ActionDiagnose
	}
	return false
}

// Text returns a text property, or its default.
func (e *Element) Text(name string) string {
	if v, ok := e.Props[name].(string); ok {
		return v
	}
	if k, ok := KindOf(e.Kind); ok {
		if p, ok := k.Prop(name); ok {
			d, _ := p.Default.(string)
			return d
		}
	}
	return ""
}

// Lookup is what an expansion asks of the project.
type Lookup interface {
	Tag(id string) (*tag.Tag, bool)
	Path(id string) (string, bool)
}
