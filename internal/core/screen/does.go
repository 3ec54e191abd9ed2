package screen

import (
	"slices"
	"strings"
)

// does is what elements of a kind do beyond being drawn; what is nil they do
// not do. The check, the acceptance, the expansion, the rights and the Desk ask
// these facts and not for the name of a kind.
type does struct {
	// writes tells whether an element writes its tag.
	writes func(e *Element) bool
	// needs says what the tag has to be that it writes; NeedAny where it is nil.
	needs func(e *Element) Need
	// actions are what pressing it does, in order.
	actions func(e *Element) []Action
	// mounts are the screens that lie in it.
	mounts func(e *Element) []Mount
	// tags are those of its rows; its own where it is nil.
	tags func(x *expander, e *Element, se *SceneElement) []string
	// put appends it to the scene with everything that lies in it.
	put func(x *expander, e *Element, se *SceneElement, inner place)
}

func always(*Element) bool { return true }

// Need is what a tag has to be for an element to write it.
type Need int

// The needs.
const (
	NeedAny    Need = iota
	NeedBool        // a BOOL
	NeedNumber      // a number
	NeedStates      // states to choose from, or a BOOL
	NeedValue       // to take the element's own value
)

// Mount is a screen that lies in an element.
type Mount struct {
	Screen string
	Args   map[string]string
	Place  string // JSON pointer into the element
	// MayBeEmpty says that it is whole without a screen.
	MayBeEmpty bool
	// Repeats says that the screen's first parameter for a tag or equipment is
	// given to it once for each of many.
	Repeats bool
	// Array is any one of those that it runs over, by the index; empty where it
	// runs over equipment of a type.
	Array string
	Index Index
}

func (e *Element) does() does {
	if k, ok := KindOf(e.Kind); ok {
		return k.does
	}
	return does{}
}

func (e *Element) gathers() bool {
	k, ok := KindOf(e.Kind)
	return ok && k.Gathers
}

// Writes tells whether an element writes its tag, and so needs a writable one.
func (e *Element) Writes() bool {
	d := e.does()
	return d.writes != nil && d.writes(e)
}

// Needs says what the tag has to be that the element writes.
func (e *Element) Needs() Need {
	if d := e.does(); d.needs != nil {
		return d.needs(e)
	}
	return NeedAny
}

// Actions are what pressing the element does: its own, then the further ones.
// An element that only shows or takes an entry has none.
func (e *Element) Actions() []Action {
	if d := e.does(); d.actions != nil {
		return d.actions(e)
	}
	return nil
}

// Action is the element's own action, empty where it has none.
func (e *Element) Action() string {
	if list := e.Actions(); len(list) > 0 {
		return list[0].Do
	}
	return ""
}

// Mounts are the screens that lie in the element.
func (e *Element) Mounts() []Mount {
	if d := e.does(); d.mounts != nil {
		return d.mounts(e)
	}
	return nil
}

// Matters tells whether a property matters to the element as its choices are.
func (e *Element) Matters(p Prop) bool {
	name, values, conditional := strings.Cut(p.When, "=")
	return !conditional || slices.Contains(strings.Split(values, "|"), e.Text(name))
}
