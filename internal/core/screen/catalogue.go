package screen

import (
	"fmt"
	"math"
	"regexp"

	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// PropType says what a property holds.
type PropType string

// The property types.
const (
	TypeText     PropType = "text"
	TypeTemplate PropType = "template" // text with placeholders
	TypeNumber   PropType = "number"
	TypeBool     PropType = "bool"
	TypeColour   PropType = "colour"
	TypeChoice   PropType = "choice"
	TypeTag      PropType = "tag"    // a tag's id
	TypeScreen   PropType = "screen" // a screen's id
	TypeDevice   PropType = "device" // a device's id
)

// Prop describes one property of a kind of element.
type Prop struct {
	Name     string   `json:"name"`
	Title    string   `json:"title"`
	Type     PropType `json:"type"`
	Default  any      `json:"default"`
	Choices  []string `json:"choices,omitempty"`
	Bindable bool     `json:"bindable,omitempty"`
	// When names a choice property and the value it must have for this one to
	// matter, as "action=set" or "action=set|request".
	When string `json:"when,omitempty"`
}

// Live says that a tag property drives a shown property by itself.
type Live struct {
	Prop string   `json:"prop"`
	From string   `json:"from"` // the tag property
	As   PropType `json:"as"`   // text, number or bool
}

// Kind describes one kind of element.
type Kind struct {
	Name  string  `json:"name"`
	Title string  `json:"title"`
	Shelf string  `json:"shelf"` // shapes, values, actions, equipment
	W     float64 `json:"w"`
	H     float64 `json:"h"`
	Props []Prop  `json:"props"`
	Live  []Live  `json:"live,omitempty"`
	// Fits lists the classes of tag that the kind can be dropped for, best
	// class first; see Classes.
	Fits []string `json:"fits,omitempty"`
}

// Prop finds a property by name.
func (k *Kind) Prop(name string) (Prop, bool) {
	for _, p := range k.Props {
		if p.Name == name {
			return p, true
		}
	}
	return Prop{}, false
}

// What a button does.
const (
	ActionSet    = "set"
	ActionToggle = "toggle"
	ActionHold   = "hold"
	ActionOpen   = "open"
	// ActionRequest writes and waits for the controller's answer in another tag.
	ActionRequest = "request"
	// ActionDiagnose opens a device's diagnostics, to look at.
	ActionDiagnose = "diagnose"
)

// Colours are the names that colour properties take beside #rrggbb. What they
// look like is the theme's affair.
var Colours = []string{"none", "ink", "quiet", "line", "paper", "sheet", "field", "spruce", "wood", "metal", "water", "heat", "critical", "high", "medium", "low"}

var hexColour = regexp.MustCompile(`^#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?$`)

// Colour tells whether a text names a colour.
func Colour(s string) bool {
	for _, c := range Colours {
		if c == s {
			return true
		}
	}
	return hexColour.MatchString(s)
}

// Check refuses a value that the property cannot hold.
func (p Prop) Check(v any) error {
	switch p.Type {
	case TypeNumber:
		if f, ok := v.(float64); !ok || math.IsNaN(f) || math.IsInf(f, 0) {
			return fmt.Errorf("a number is needed")
		}
		return nil
	case TypeBool:
		if _, ok := v.(bool); !ok {
			return fmt.Errorf("true or false is needed")
		}
		return nil
	}
	s, ok := v.(string)
	if !ok {
		return fmt.Errorf("a text is needed")
	}
	if len(s) > 2000 {
		return fmt.Errorf("a text has at most 2000 bytes")
	}
	switch p.Type {
	case TypeColour:
		if !Colour(s) {
			return fmt.Errorf("%q is no colour: use #rrggbb or a name of the palette", s)
		}
	case TypeChoice:
		for _, c := range p.Choices {
			if c == s {
				return nil
			}
		}
		return fmt.Errorf("%q is not one of %v", s, p.Choices)
	}
	return nil
}

// Classes of tags, by what can show them.
const (
	ClassBool      = "bool"
	ClassBoolWrite = "bool-write"
	ClassNum       = "number"
	ClassNumWrite  = "number-write"
	ClassText      = "string"
)

// ClassOf returns a tag's class.
func ClassOf(t *tag.Tag) string {
	switch {
	case t.Type.Kind == value.BOOL && t.Writable():
		return ClassBoolWrite
	case t.Type.Kind == value.BOOL:
		return ClassBool
	case t.Type.Kind == value.STRING:
		return ClassText
	case t.Writable():
		return ClassNumWrite
	}
	return ClassNum
}

func visible() Prop {
	return Prop{Name: "visible", Title: "Visible", Type: TypeBool, Default: true, Bindable: true}
}
func enabled() Prop {
	return Prop{Name: "enabled", Title: "Enabled", Type: TypeBool, Default: true, Bindable: true}
}
func fill(d string) Prop {
	return Prop{Name: "fill", Title: "Fill", Type: TypeColour, Default: d, Bindable: true}
}
func stroke(d string, w float64) []Prop {
	return []Prop{{Name: "stroke", Title: "Outline", Type: TypeColour, Default: d, Bindable: true},
		{Name: "strokeWidth", Title: "Outline width", Type: TypeNumber, Default: w}}
}
func tagProp(title string) Prop {
	return Prop{Name: "tag", Title: title, Type: TypeTag, Default: ""}
}
func caption(d string) Prop {
	return Prop{Name: "caption", Title: "Label", Type: TypeTemplate, Default: d}
}
func number(name, title string, d float64, bindable bool) Prop {
	return Prop{Name: name, Title: title, Type: TypeNumber, Default: d, Bindable: bindable}
}
func flag(name, title string, d, bindable bool) Prop {
	return Prop{Name: name, Title: title, Type: TypeBool, Default: d, Bindable: bindable}
}
func choice(name, title, d string, of ...string) Prop {
	return Prop{Name: name, Title: title, Type: TypeChoice, Default: d, Choices: of}
}
func when(p Prop, cond string) Prop { p.When = cond; return p }

func props(lists ...any) []Prop {
	var out []Prop
	for _, l := range lists {
		switch l := l.(type) {
		case Prop:
			out = append(out, l)
		case []Prop:
			out = append(out, l...)
		}
	}
	return append(out, visible())
}

var textLook = []Prop{
	number("size", "Text size", 16, false),
	{Name: "colour", Title: "Text colour", Type: TypeColour, Default: "ink", Bindable: true},
	choice("align", "Alignment", "left", "left", "centre", "right"),
	flag("bold", "Bold", false, false),
}

var catalogue = []*Kind{
	{Name: "rect", Title: "Rectangle", Shelf: "shapes", W: 160, H: 96,
		Props: props(fill("sheet"), stroke("line", 1), number("radius", "Corner radius", 0, false))},
	{Name: "ellipse", Title: "Ellipse", Shelf: "shapes", W: 96, H: 96, Props: props(fill("sheet"), stroke("line", 1))},
	{Name: "line", Title: "Line", Shelf: "shapes", W: 160, H: 0,
		Props: props(stroke("ink", 2), choice("dash", "Dashes", "solid", "solid", "dashed", "dotted"), flag("rising", "From lower left", false, false))},
	{Name: "text", Title: "Text", Shelf: "shapes", W: 160, H: 24,
		Props: props(Prop{Name: "text", Title: "Text", Type: TypeTemplate, Default: "Text"}, textLook)},
	{Name: "readout", Title: "Readout", Shelf: "values", W: 120, H: 32, Fits: []string{ClassNum, ClassNumWrite, ClassText, ClassBool, ClassBoolWrite},
		Props: props(tagProp("Tag"), caption(""), fill("none"), flag("unit", "Show the unit", true, false), number("size", "Text size", 18, false),
			choice("align", "Alignment", "left", "left", "centre", "right"),
			Prop{Name: "colour", Title: "Text colour", Type: TypeColour, Default: "ink", Bindable: true}),
		Live: []Live{{"text", "tag", TypeText}}},
	{Name: "entry", Title: "Entry", Shelf: "values", W: 168, H: 68, Fits: []string{ClassNumWrite, ClassText},
		Props: props(tagProp("Tag"), caption(""), enabled()),
		Live:  []Live{{"text", "tag", TypeText}}},
	{Name: "lamp", Title: "State lamp", Shelf: "values", W: 132, H: 28, Fits: []string{ClassBool, ClassBoolWrite},
		Props: props(tagProp("Tag"), caption(""), Prop{Name: "onColour", Title: "Colour when on", Type: TypeColour, Default: "ink"},
			Prop{Name: "offColour", Title: "Colour when off", Type: TypeColour, Default: "none"}),
		Live: []Live{{"on", "tag", TypeBool}, {"text", "tag", TypeText}}},
	{Name: "bar", Title: "Bar", Shelf: "values", W: 96, H: 320, Fits: []string{ClassNum, ClassNumWrite},
		Props: props(tagProp("Tag"), Prop{Name: "set", Title: "Set point", Type: TypeTag, Default: ""}, caption(""),
			number("low", "Low end", 0, false), number("high", "High end", 100, false),
			number("bandLow", "Normal from", 0, true), number("bandHigh", "Normal to", 0, true)),
		Live: []Live{{"value", "tag", TypeNumber}, {"text", "tag", TypeText}, {"setValue", "set", TypeNumber}}},
	{Name: "button", Title: "Button", Shelf: "actions", W: 144, H: 48, Fits: []string{ClassBoolWrite},
		Props: props(choice("action", "Does", ActionSet, ActionSet, ActionToggle, ActionHold, ActionRequest, ActionOpen, ActionDiagnose), caption("Button"),
			when(tagProp("Tag"), "action=set|toggle|hold|request"),
			when(Prop{Name: "value", Title: "Value it sets", Type: TypeText, Default: "true"}, "action=set|request"),
			when(Prop{Name: "answer", Title: "Tag that answers", Type: TypeTag, Default: ""}, "action=request"),
			when(Prop{Name: "answerValue", Title: "Its answer", Type: TypeText, Default: "true"}, "action=request"),
			when(number("within", "Answer within, s", 5, false), "action=request"),
			when(Prop{Name: "device", Title: "Device", Type: TypeDevice, Default: ""}, "action=diagnose"),
			when(Prop{Name: "release", Title: "Value when let go", Type: TypeText, Default: "false"}, "action=hold"),
			when(Prop{Name: "screen", Title: "Screen it opens", Type: TypeScreen, Default: ""}, "action=open"),
			enabled()),
		Live: []Live{{"on", "tag", TypeBool}}},
	{Name: "fan", Title: "Fan", Shelf: "equipment", W: 56, H: 56,
		Props: props(flag("running", "Running", false, true), flag("fault", "Fault", false, true), flag("hand", "Hand mode", false, true),
			number("speed", "Speed, %", 100, true))},
	{Name: "chamber", Title: "Drying chamber", Shelf: "equipment", W: 600, H: 384,
		Props: props(fill("sheet"), flag("open", "Door open", false, true))},
	{Name: "stack", Title: "Timber stack", Shelf: "equipment", W: 352, H: 208,
		Props: props(number("rows", "Rows", 9, false), number("columns", "Columns", 11, false), number("moisture", "Moisture, %", 20, true))},
	{Name: "damper", Title: "Damper", Shelf: "equipment", W: 56, H: 28, Props: props(number("position", "Open, %", 0, true))},
	{Name: "coil", Title: "Heating coil", Shelf: "equipment", W: 64, H: 48, Props: props(number("output", "Output, %", 0, true))},
	{Name: "spray", Title: "Spray bar", Shelf: "equipment", W: 88, H: 20, Props: props(flag("open", "Open", false, true))},
	{Name: "car", Title: "Rail car", Shelf: "equipment", W: 120, H: 72,
		Props: props(flag("loaded", "Loaded", false, true), flag("fault", "Fault", false, true),
			number("travel", "Travel, pixels", 0, false), number("position", "Along the travel, 0 to 1", 0, true))},
	{Name: "track", Title: "Rail track", Shelf: "equipment", W: 640, H: 20, Props: props(number("sleepers", "Sleepers", 24, false))},
	{Name: "burner", Title: "Burner", Shelf: "equipment", W: 64, H: 48,
		Props: props(flag("running", "Flame", false, true), flag("fault", "Locked out", false, true))},
}

var kinds = func() map[string]*Kind {
	m := map[string]*Kind{}
	for _, k := range catalogue {
		m[k.Name] = k
	}
	return m
}()

// Catalogue lists every kind of element in the order of the shelf.
func Catalogue() []*Kind { return catalogue }

// KindOf finds a kind by name.
func KindOf(name string) (*Kind, bool) { k, ok := kinds[name]; return k, ok }

// Offers lists the kinds that can show a tag, best first.
func Offers(t *tag.Tag) []*Kind {
	class := ClassOf(t)
	first := map[string]string{ClassBool: "lamp", ClassBoolWrite: "button", ClassNum: "readout", ClassNumWrite: "entry", ClassText: "readout"}[class]
	var out []*Kind
	for _, k := range catalogue {
		for _, f := range k.Fits {
			if f == class {
				if k.Name == first {
					out = append([]*Kind{k}, out...)
				} else {
					out = append(out, k)
				}
			}
		}
	}
	return out
}
