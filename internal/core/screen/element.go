package screen

import (
	"strings"

	"readyrail/internal/core/tag"
)

// MainTag returns the id of the tag an element shows or writes.
func (e *Element) MainTag() string {
	id, _ := e.Props["tag"].(string)
	return id
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

// Effective returns the tag with what the element sets in place of the tag's
// own: limits, step, decimals and unit.
func (e *Element) Effective(t *tag.Tag) *tag.Tag {
	c := *t
	changed := false
	for name, into := range map[string]**float64{"low": &c.Low, "high": &c.High} {
		k, _ := KindOf(e.Kind)
		if p, ok := k.Prop(name); !ok || p.Type != TypeOptional {
			continue
		}
		if f, ok := e.Number(name); ok {
			*into, changed = &f, true
		}
	}
	if f, ok := e.Number("step"); ok {
		c.Step, changed = f, true
	}
	if f, ok := e.Number("decimals"); ok && f >= 0 && f <= 9 {
		d := int(f)
		c.Decimals, changed = &d, true
	}
	if u := e.Text("unit"); u != "" {
		c.Unit, changed = u, true
	}
	if !changed {
		return t
	}
	return &c
}

// Label names an element for people: its own name, or its caption, or its
// kind.
func (e *Element) Label() string {
	if e.Name != "" {
		return e.Name
	}
	if caption, _ := e.Props["caption"].(string); caption != "" && !strings.Contains(caption, "{") {
		return caption
	}
	if k, ok := KindOf(e.Kind); ok {
		return k.Title
	}
	return e.Kind
}

// Texts gives each text that people read of the element and that no formula
// drives, in stored form.
func (e *Element) Texts(do func(text string)) {
	k, ok := KindOf(e.Kind)
	if !ok {
		return
	}
	for _, p := range k.Props {
		if p.Type == TypeTemplate && e.Bind[p.Name] == "" {
			do(e.Text(p.Name))
		}
	}
	for _, t := range e.Tabs {
		do(t.Title)
	}
}
