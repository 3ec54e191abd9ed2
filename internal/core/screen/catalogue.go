package screen

import (
	"math"
	"regexp"
	"slices"
	"strings"

	"readyrail/internal/core/say"
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
	TypePart     PropType = "part"   // the name of a part of a controller that tells how it is
	// TypeOptional is a number, or nothing: then the tag's own applies.
	TypeOptional  PropType = "optional"
	TypeType      PropType = "type"      // the id of a type of equipment
	TypeFolder    PropType = "folder"    // a folder's or an equipment's id
	TypePicture   PropType = "picture"   // a picture's id
	TypeStyle     PropType = "style"     // a text style's id
	TypeArea      PropType = "area"      // an area's id; empty is every one
	TypeView      PropType = "view"      // the id of a view of recorded courses
	TypeLog       PropType = "log"       // the id of a log
	TypeBook      PropType = "book"      // the id of a book of recipes
	TypeField     PropType = "field"     // the id of a field of the element's book
	TypeParameter PropType = "parameter" // the id of one of the screen's parameters
	// Types of references that no property holds.
	TypeLook PropType = "look" // state looks kept by name
	TypeRole PropType = "role"
)

// Prop describes one property of a kind of element.
type Prop struct {
	Name     string   `json:"name"`
	Title    string   `json:"title"`
	Type     PropType `json:"type"`
	Default  any      `json:"default"`
	Choices  []string `json:"choices,omitempty"`
	Bindable bool     `json:"bindable,omitempty"`
	// MayBeEmpty says that it is well without a thing that it could name.
	MayBeEmpty bool `json:"mayBeEmpty,omitempty"`
	// Folder says that the id of a folder will do in place of a tag's.
	Folder bool `json:"folder,omitempty"`
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
	Stock string  `json:"stock"` // shapes, values, actions, parts, equipment
	W     float64 `json:"w"`
	H     float64 `json:"h"`
	Props []Prop  `json:"props"`
	Live  []Live  `json:"live,omitempty"`
	// Holds says that other elements lie in it: the client nests them.
	Holds bool `json:"holds,omitempty"`
	// Points says that its shape is given by the element's points.
	Points bool `json:"points,omitempty"`
	// Level says that it can be filled to a height.
	Level bool `json:"level,omitempty"`
	// Gathers says that elements lie in it which name it as their group.
	Gathers bool `json:"gathers,omitempty"`
	// Repeats says that it gives the screen in it the first parameter for a tag
	// or equipment, once for each of many.
	Repeats bool `json:"repeats,omitempty"`
	// Page says that it is no drawing: a page of its own is mounted in its place.
	Page bool `json:"page,omitempty"`
	// Fields are what an element has beside its properties: FieldTags, FieldTabs,
	// FieldThen or FieldOperators.
	Fields []string `json:"fields,omitempty"`
	// Seeds are what a tag that is dropped on a screen gives to the element that
	// is made for it; Taller is how much higher it is made with its label, in
	// pixels.
	Seeds  []Seed  `json:"seeds,omitempty"`
	Taller float64 `json:"taller,omitempty"`

	// fits ranks the classes of tag that it can show.
	fits Fits
	// line is how high it is in a list of many, in pixels; 0 where it is no line
	// of a list.
	line float64
	// any says that it stands for equipment of which nothing more is known.
	any  bool
	does does
}

// What an element has beside its properties.
const (
	FieldTags = "tags" // of a table
	FieldTabs = "tabs"
	FieldThen = "then" // further actions
	// FieldOperators are the roles that may operate it: of what acts, and of what
	// others lie in.
	FieldOperators = "operators"
)

// Seed is a property that a new element takes from its tag, or a value.
type Seed struct {
	Prop  string `json:"prop"`
	From  string `json:"from,omitempty"` // one of the places below
	Value any    `json:"value,omitempty"`
}

// Where a seed is taken from.
const (
	SeedName  = "name"  // the tag's name
	SeedTitle = "title" // its description, or its name
	SeedLow   = "low"   // the low end of its range
	SeedHigh  = "high"
)

// Fits ranks classes of tag: 1 shows a class best.
type Fits map[string]int

// Prop finds a property by name.
func (k *Kind) Prop(name string) (Prop, bool) {
	for _, p := range k.Props {
		if p.Name == name {
			return p, true
		}
	}
	return Prop{}, false
}

// Places are what every element has beside its properties and what a formula
// may drive: its place, size and turn.
var Places = []Prop{
	{Name: "x", Title: "X", Type: TypeNumber, Default: 0.0, Bindable: true},
	{Name: "y", Title: "Y", Type: TypeNumber, Default: 0.0, Bindable: true},
	{Name: "w", Title: "Width", Type: TypeNumber, Default: 0.0, Bindable: true},
	{Name: "h", Title: "Height", Type: TypeNumber, Default: 0.0, Bindable: true},
	{Name: "angle", Title: "Turn", Type: TypeNumber, Default: 0.0, Bindable: true},
}

// Bindable finds what a formula may drive: a property, or a place.
func (k *Kind) Bindable(name string) (Prop, bool) {
	for _, p := range Places {
		if p.Name == name {
			return p, true
		}
	}
	p, ok := k.Prop(name)
	return p, ok && p.Bindable
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
	ActionPulse    = "pulse"    // writes, and after a time writes back
	ActionStep     = "step"     // adds to what the tag has
	ActionClose    = "close"    // closes the window it stands in
	ActionFace     = "face"     // opens the faceplate of an equipment
	ActionRecord   = "record"   // keeps an event with a text of its own
	ActionLog      = "log"      // starts, stops, marks or clears a log, or has it take values
	ActionSignIn   = "signin"   // asks for a person
	ActionLanguage = "language" // shows the Desk in a language
	ActionParam    = "param"    // gives a parameter of the screen another value
)

// writing are the actions that write the tag.
var writing = map[string]bool{ActionSet: true, ActionToggle: true, ActionHold: true, ActionRequest: true, ActionPulse: true,
	ActionStep: true}

// ActionWrites tells whether an action writes a tag.
func ActionWrites(action string) bool { return writing[action] }

// ActionServed tells whether the server carries an action out: it writes a tag,
// or it keeps something.
func ActionServed(action string) bool {
	return writing[action] || action == ActionRecord || action == ActionLog
}

// What a button does to a log.
const (
	LogStart  = "start"
	LogStop   = "stop"
	LogTake   = "take"
	LogMark   = "mark"
	LogFinish = "finish" // with the medium that it is written out to
	LogClear  = "clear"
	// LogExport writes out what the log has since the last time, to its folder.
	LogExport = "export"
)

// Colours are the names that colour properties take beside #rrggbb. What they
// look like is the theme's affair.
var Colours = []string{"none", "ink", "quiet", "line", "paper", "sheet", "field", "spruce", "wood", "metal", "water", "heat", "critical",
	"high", "medium", "low"}

var hexColour = regexp.MustCompile(`^#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?$`)

var share = regexp.MustCompile(`^[1-9][0-9]?%$`)

// Colour tells whether a text names a colour: one of Colours, alone or with
// how much of it covers what lies below, as in "ink 40%"; or #rrggbb, or
// #rrggbbaa, whose last two digits are the same share.
func Colour(s string) bool {
	name, part, parted := strings.Cut(s, " ")
	if parted && (name == "none" || !share.MatchString(part)) {
		return false
	}
	return slices.Contains(Colours, name) || !parted && hexColour.MatchString(s)
}

// Check refuses a value that the property cannot hold.
func (p Prop) Check(v any) error {
	switch p.Type {
	case TypeNumber:
		if f, ok := v.(float64); !ok || math.IsNaN(f) || math.IsInf(f, 0) {
			return say.Errorf("a number is needed")
		}
		return nil
	case TypeOptional:
		if f, ok := v.(float64); v != nil && (!ok || math.IsNaN(f) || math.IsInf(f, 0)) {
			return say.Errorf("a number is needed, or nothing")
		}
		return nil
	case TypeBool:
		if _, ok := v.(bool); !ok {
			return say.Errorf("true or false is needed")
		}
		return nil
	}
	s, ok := v.(string)
	if !ok {
		return say.Errorf("a text is needed")
	}
	if limit := p.limit(); len(s) > limit {
		return say.Errorf("a text has at most %d bytes", limit)
	}
	switch p.Type {
	case TypeColour:
		if !Colour(s) {
			return say.Errorf("%q is no colour: use #rrggbb or a name of the palette", s)
		}
	case TypeChoice:
		for _, c := range p.Choices {
			if c == s {
				return nil
			}
		}
		return say.Errorf("%q is not one of %v", s, p.Choices)
	}
	return nil
}

func (p Prop) limit() int {
	if p.Name == "path" {
		return 20_000
	}
	return 2000
}

// Classes of tags, by what can show them.
const (
	ClassBool       = "bool"
	ClassBoolWrite  = "bool-write"
	ClassNum        = "number"
	ClassNumWrite   = "number-write"
	ClassState      = "state"
	ClassStateWrite = "state-write"
	ClassText       = "string"
	ClassTextWrite  = "string-write"
)

// ClassOf returns a tag's class.
func ClassOf(t *tag.Tag) string {
	class := ClassNum
	switch {
	case t.Type.Kind == value.BOOL:
		class = ClassBool
	case t.Type.Kind == value.STRING:
		class = ClassText
	case len(t.States) > 0 && t.Kind().IsInteger():
		class = ClassState
	}
	if t.Enterable() {
		class += "-write"
	}
	return class
}

// The catalogue, in the order of the stock, and what follows from it.
var (
	catalogue []*Kind
	kinds     = map[string]*Kind{}
	offers    = map[string][]*Kind{} // by the class of a tag, best first
	lookProps = map[string]Prop{}
)

func init() {
	catalogue = slices.Concat(shapeKinds, valueKinds, alarmKinds, []*Kind{trendKind}, logKinds, trailKinds, recipeKinds,
		[]*Kind{entryKind, textEntryKind, buttonKind, switchKind, selectorKind, sliderKind, navKind},
		[]*Kind{groupKind, frameKind, symbolKind, embedKind, tabsKind, repeatKind}, equipmentKinds)
	for _, k := range catalogue {
		kinds[k.Name] = k
		for class := range k.fits {
			offers[class] = append(offers[class], k)
		}
		for _, p := range k.Props {
			if p.Bindable && p.Name != "enabled" {
				lookProps[p.Name] = p
			}
		}
		k.seed()
		if d := k.does; d.writes != nil || d.actions != nil || d.mounts != nil || k.Gathers {
			k.Fields = append(slices.Clip(k.Fields), FieldOperators)
		}
	}
	for class, list := range offers {
		slices.SortFunc(list, func(a, b *Kind) int { return a.fits[class] - b.fits[class] })
	}
}

// seed gives a kind that shows a tag and has a label the usual seed.
func (k *Kind) seed() {
	_, shows := k.Prop("tag")
	if _, labelled := k.Prop("caption"); shows && labelled && k.Seeds == nil {
		k.Seeds = []Seed{{Prop: "caption", From: SeedTitle}}
	}
}

// Catalogue lists every kind of element in the order of the stock.
func Catalogue() []*Kind { return catalogue }

// KindOf finds a kind by name.
func KindOf(name string) (*Kind, bool) { k, ok := kinds[name]; return k, ok }

// Offers lists the kinds that can show a tag, best first.
func Offers(t *tag.Tag) []*Kind { return offers[ClassOf(t)] }

// Line is the kind that shows a tag best as one line of a list, and its height
// in pixels.
func Line(t *tag.Tag) (k *Kind, h float64) {
	for _, k := range Offers(t) {
		if k.line > 0 {
			return k, k.line
		}
	}
	return nil, 0
}

// Any is the kind that stands for equipment of which nothing more is known.
func Any() *Kind {
	return catalogue[slices.IndexFunc(catalogue, func(k *Kind) bool { return k.any })]
}
