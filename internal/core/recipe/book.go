// Package recipe holds the rules of recipes: books of fields, the values that
// recipes give them, the checks over them, what becomes of them as a book
// changes, and in which order they go to a device.
//
// A recipe's values are the parameters of ISA-88.01, 5.3.1: what a product asks
// of the equipment that makes it. Its fields are called by names that formulas
// use, and known by ids that never change.
package recipe

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Own begins the id by which formulas of a book refer to one of its fields.
const Own = "$."

// Book is a set of fields, and where their values go.
type Book struct {
	ID   string `json:"-"`
	Name string `json:"name"`
	Note string `json:"note,omitempty"`
	// Type is the type of equipment that the book is for: each piece of it is a
	// target. A book without one goes to the tags that its fields name.
	Type string `json:"type,omitempty"`
	// Area is where one needs the right to send, for a book of single tags; empty
	// for the whole plant.
	Area   string  `json:"area,omitempty"`
	Fields []Field `json:"fields"`
	Checks []Check `json:"checks,omitempty"`

	// Approved lets only approved versions be sent.
	Approved bool `json:"approved,omitempty"`
	// Two has a version approved by somebody who did not write it.
	Two bool `json:"two,omitempty"`
	// Quantity is what scaled fields grow with; nil where none does.
	Quantity *Quantity `json:"quantity,omitempty"`
	Sending  Sending   `json:"sending"`
	// Begin are the recipes that a release adds where their names are free.
	Begin []Beginning `json:"begin,omitempty"`
}

// Field is one value of a recipe.
type Field struct {
	ID string `json:"id"`
	// Name is what formulas call it, by the grammar of paths: Step[1].DryBulb.
	Name string `json:"name"`
	// Title is what people read; the name where it is empty.
	Title    string      `json:"title,omitempty"`
	Group    string      `json:"group,omitempty"`
	Type     value.Type  `json:"type"`
	Unit     string      `json:"unit,omitempty"`
	Decimals *int        `json:"decimals,omitempty"`
	Step     float64     `json:"step,omitempty"`
	States   []tag.State `json:"states,omitempty"`
	Help     string      `json:"help,omitempty"`
	Default  string      `json:"default,omitempty"`
	// Low and High are formulas in stored form over other fields and tags; a
	// number is the simplest.
	Low  string `json:"low,omitempty"`
	High string `json:"high,omitempty"`
	// Formula computes the field from others, in stored form; nobody enters it.
	Formula string `json:"formula,omitempty"`
	// Scales has the value grow with the quantity (ISA-88.01, 5.3.1).
	Scales bool `json:"scales,omitempty"`

	// Where it goes: a tag's id, or for a book of a type the chain of members. A
	// field with neither stays here.
	Tag    string `json:"tag,omitempty"`
	Member string `json:"member,omitempty"`
	// Turn is when it is written: with the others, before or after them.
	Turn Turn `json:"turn,omitempty"`
}

// Turn is when a field is written.
type Turn string

// The turns.
const (
	Among Turn = ""
	First Turn = "first"
	Last  Turn = "last"
)

// Check is a condition over several fields, in stored form, with the sentence
// that is said where it does not hold.
type Check struct {
	Formula string `json:"formula"`
	Says    string `json:"says"`
}

// Quantity is what scaled fields grow with: their values are those for Base of
// it.
type Quantity struct {
	Name string  `json:"name"`
	Unit string  `json:"unit,omitempty"`
	Base float64 `json:"base"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Sending is how a book's recipes are sent.
type Sending struct {
	// When is the condition for it, in stored form; Own begins what is of the
	// target. Why is said where it does not hold.
	When string `json:"when,omitempty"`
	Why  string `json:"why,omitempty"`
	// Confirm asks once more, Reason asks why, Sign asks for a password.
	Confirm bool `json:"confirm,omitempty"`
	Reason  bool `json:"reason,omitempty"`
	Sign    bool `json:"sign,omitempty"`
	// PutBack puts back what was there when a delivery fails; otherwise it stops
	// and says which fields are changed.
	PutBack bool `json:"putBack,omitempty"`
	// Hand is the request and the answer that end a delivery; nil for none.
	Hand *Handshake `json:"hand,omitempty"`
	// Drive are the tags by which a controller asks for recipes; nil for none.
	Drive *Drive `json:"drive,omitempty"`
}

// Handshake is a BOOL that is set once every field is read back, and another by
// which the controller says within some time that it has taken them over.
type Handshake struct {
	Ready   string  `json:"ready"` // a tag's id, or a chain of members
	Taken   string  `json:"taken"`
	Seconds float64 `json:"seconds,omitempty"`
}

// Beginning is a recipe that a release adds: values by the ids of the fields.
type Beginning struct {
	Name   string `json:"name"`
	Values Values `json:"values"`
}

// Values are what a recipe gives its fields, by their ids, as value.Value.Text
// has them. What a formula computes is not among them.
type Values map[string]string

// Bounds of a book and its recipes.
const (
	MostFields    = 1000
	MostChecks    = 200
	MostBeginning = 500
	LongestName   = 80
	LongestWait   = 600 // seconds, of a handshake
)

// FindField finds a field by its id.
func (b *Book) FindField(id string) (*Field, bool) {
	for i := range b.Fields {
		if f := &b.Fields[i]; f.ID == id {
			return f, true
		}
	}
	return nil, false
}

// Named finds a field by its name, as paths are compared.
func (b *Book) Named(name string) (*Field, bool) {
	key := tag.Key(name)
	for i := range b.Fields {
		if f := &b.Fields[i]; tag.Key(f.Name) == key {
			return f, true
		}
	}
	return nil, false
}

// Called is what people read of a field.
func (f *Field) Called() string {
	if f.Title != "" {
		return f.Title
	}
	return f.Name
}

// Goes tells whether the field goes anywhere.
func (f *Field) Goes() bool { return f.Tag != "" || f.Member != "" }

// Shown is the field as what shows values and reads entries knows it.
func (f *Field) Shown() *tag.Tag {
	return &tag.Tag{Name: f.Name, Type: f.Type, Source: tag.Internal, Unit: f.Unit, Decimals: f.Decimals, States: f.States, Step: f.Step}
}

// CheckName refuses a name that a recipe or a book cannot have; it returns it
// without spaces around.
func CheckName(name string) (string, error) {
	name = strings.TrimSpace(name)
	switch n := utf8.RuneCountInString(name); {
	case n == 0:
		return "", say.Errorf("it needs a name")
	case n > LongestName:
		return "", say.Errorf("a name has at most %d characters", LongestName)
	case strings.ContainsFunc(name, func(r rune) bool { return r < ' ' }):
		return "", say.Errorf("a name is one line")
	}
	return name, nil
}

// Check refuses a book that cannot be; place is where, as a JSON pointer.
func (b *Book) Check() (place string, err error) {
	if b.Name, err = CheckName(b.Name); err != nil {
		return "/name", err
	}
	switch {
	case utf8.RuneCountInString(b.Note) > 500:
		return "/note", say.Errorf("a note has at most 500 characters")
	case len(b.Fields) > MostFields:
		return "/fields", say.Errorf("a book has at most %d fields", MostFields)
	case len(b.Checks) > MostChecks:
		return "/checks", say.Errorf("a book has at most %d checks", MostChecks)
	case len(b.Begin) > MostBeginning:
		return "/begin", say.Errorf("a book begins with at most %d recipes", MostBeginning)
	}
	ids, names := map[string]bool{}, map[string]bool{}
	for i := range b.Fields {
		f := &b.Fields[i]
		at := fmt.Sprintf("/fields/%d", i)
		if where, err := f.check(); err != nil {
			return at + where, err
		}
		if key := tag.Key(f.Name); ids[f.ID] || names[key] {
			return at + "/name", say.Errorf("the book has a field %s already", f.Name)
		} else {
			ids[f.ID], names[key] = true, true
		}
		if b.Type == "" && f.Member != "" {
			return at + "/member", say.Errorf("only a book of a type of equipment has fields at members")
		}
	}
	for i, c := range b.Checks {
		if n := utf8.RuneCountInString(strings.TrimSpace(c.Says)); n == 0 || n > 200 {
			return fmt.Sprintf("/checks/%d/says", i), say.Errorf("a check has a sentence of at most 200 characters")
		}
	}
	return b.checkRest()
}

func (b *Book) checkRest() (place string, err error) {
	if q := b.Quantity; q != nil {
		switch {
		case strings.TrimSpace(q.Name) == "":
			return "/quantity/name", say.Errorf("the quantity needs a name")
		case !(q.Base > 0):
			return "/quantity/base", say.Errorf("the values are for a quantity above 0")
		case !(q.Low > 0) || !(q.High >= q.Low):
			return "/quantity/low", say.Errorf("a quantity lies between two limits above 0")
		}
	}
	if h := b.Sending.Hand; h != nil {
		switch {
		case h.Ready == "" || h.Taken == "":
			return "/sending/hand", say.Errorf("a handshake has a tag that asks and one that answers")
		case h.Ready == h.Taken:
			return "/sending/hand/taken", say.Errorf("the answer comes by another tag than the request")
		case h.Seconds < 0 || h.Seconds > LongestWait:
			return "/sending/hand/seconds", say.Errorf("an answer is waited for 0 to %d seconds", LongestWait)
		}
	}
	if place, err := b.Sending.checkDrive(); err != nil {
		return place, err
	}
	names := map[string]bool{}
	for i := range b.Begin {
		at := fmt.Sprintf("/begin/%d", i)
		if b.Begin[i].Name, err = CheckName(b.Begin[i].Name); err != nil {
			return at + "/name", err
		}
		if key := NameKey(b.Begin[i].Name); names[key] {
			return at + "/name", say.Errorf("the book begins with a recipe %s already", b.Begin[i].Name)
		} else {
			names[key] = true
		}
	}
	return "", nil
}

// NameKey is what two names are compared by.
func NameKey(name string) string { return strings.ToLower(strings.TrimSpace(name)) }

func (f *Field) check() (place string, err error) {
	if f.ID == "" || len(f.ID) > 60 || strings.ContainsAny(f.ID, "{}|./ ") {
		return "/id", say.Errorf("a field needs an id of letters, digits and dashes")
	}
	if err := tag.CheckPath(f.Name); err != nil {
		return "/name", err
	}
	switch {
	case f.Type.Kind == value.None:
		return "/type", say.Errorf("a field needs a type, such as REAL or STRING(12)")
	case f.Decimals != nil && (*f.Decimals < 0 || *f.Decimals > 9):
		return "/decimals", say.Errorf("%d decimals: use 0 to 9", *f.Decimals)
	case !(f.Step >= 0):
		return "/step", say.Errorf("a step is not negative")
	case f.Turn != Among && f.Turn != First && f.Turn != Last:
		return "/turn", say.Errorf("a field is written first, last, or with the others")
	case f.Tag != "" && f.Member != "":
		return "/tag", say.Errorf("a field goes to a tag or to a member, not to both")
	case f.Scales && !f.Type.Kind.IsNumber():
		return "/scales", say.Errorf("only a number grows with a quantity")
	case (f.Low != "" || f.High != "") && !f.Type.Kind.IsNumber():
		return "/low", say.Errorf("only a number has limits")
	case f.Formula != "" && f.Default != "":
		return "/default", say.Errorf("what is computed has no default")
	case utf8.RuneCountInString(f.Title) > 80 || utf8.RuneCountInString(f.Group) > 80:
		return "/title", say.Errorf("a title has at most 80 characters")
	case utf8.RuneCountInString(f.Help) > 500:
		return "/help", say.Errorf("a help text has at most 500 characters")
	}
	if f.Default != "" {
		if _, err := f.Parse(f.Default); err != nil {
			return "/default", err
		}
	}
	return "", nil
}

// Parse reads what a person, a file or a store has for a field: a number with a
// decimal point, a text, the name of a state.
func (f *Field) Parse(text string) (value.Value, error) {
	if len(f.States) == 0 {
		if v, err := value.Parse(f.Type, text); err == nil {
			return v, nil
		}
	}
	return f.Shown().ParseEntry(text)
}

// Formulas are the formulas of a book by their places; they may be altered
// there. What is empty is left out.
func (b *Book) Formulas() map[string]*string {
	out := map[string]*string{}
	add := func(place string, text *string) {
		if *text != "" {
			out[place] = text
		}
	}
	for i := range b.Fields {
		at := fmt.Sprintf("/fields/%d", i)
		add(at+"/low", &b.Fields[i].Low)
		add(at+"/high", &b.Fields[i].High)
		add(at+"/formula", &b.Fields[i].Formula)
	}
	for i := range b.Checks {
		add(fmt.Sprintf("/checks/%d/formula", i), &b.Checks[i].Formula)
	}
	add("/sending/when", &b.Sending.When)
	return out
}

// Convert returns a copy whose formulas are replaced; place is where one could
// not be.
func (b *Book) Convert(formula func(place, text string) (string, error)) (out *Book, place string, err error) {
	c := *b
	c.Fields, c.Checks = slices.Clone(b.Fields), slices.Clone(b.Checks)
	for place, text := range c.Formulas() {
		if *text, err = formula(place, *text); err != nil {
			return nil, place, err
		}
	}
	return &c, "", nil
}
