package screen

import (
	"fmt"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// States gives an element looks by the state of a value: the cases are tried
// in order and the first that matches holds. Where a set is named, its cases
// are used in place of the element's own.
type States struct {
	Of    string `json:"of"` // stored formula
	Set   string `json:"set,omitempty"`
	Cases []Case `json:"cases,omitempty"`
}

// Case is a condition and its look. All that is given of from, to and when
// must hold; nothing given always holds.
type Case struct {
	Name string         `json:"name,omitempty"`
	From *float64       `json:"from,omitempty"` // the value is at least this
	To   *float64       `json:"to,omitempty"`   // and less than this
	Is   *string        `json:"is,omitempty"`   // the value as it is written: true, 3, drying
	When string         `json:"when,omitempty"` // formula over value, and over nothing else
	Look map[string]any `json:"look"`           // properties, by the names of the catalogue
}

// LookSet is a list of cases kept by name, for many elements.
type LookSet struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Cases []Case `json:"cases"`
}

// TextStyle is a look of text kept by name.
type TextStyle struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Size   float64 `json:"size"`
	Colour string  `json:"colour"`
	Align  string  `json:"align,omitempty"`
	Bold   bool    `json:"bold,omitempty"`
	// Weight is 200 to 800, in place of what Bold says.
	Weight   *float64 `json:"weight,omitempty"`
	Italic   bool     `json:"italic,omitempty"`
	Font     string   `json:"font,omitempty"`     // FontText or FontFigures
	Leading  float64  `json:"leading,omitempty"`  // height of a line, in sizes of the text
	Vertical string   `json:"vertical,omitempty"` // top, middle or bottom
}

// MaxCases bounds a list of cases.
const MaxCases = 64

// LookProps lists the properties that a case may set: everything of some kind
// that a formula could drive too.
func LookProps() map[string]Prop { return lookProps }

func checkCases(list []Case) (place string, err error) {
	if len(list) > MaxCases {
		return "/cases", say.Errorf("there are at most %d cases", MaxCases)
	}
	for i, c := range list {
		at := fmt.Sprintf("/cases/%d", i)
		for name, v := range c.Look {
			p, ok := lookProps[name]
			if !ok {
				return at, say.Errorf("a look has no property %q", name)
			}
			if err := p.Check(v); err != nil {
				return at, say.Errorf("%s: %w", p.Title, err)
			}
		}
		if c.When != "" {
			if _, err := c.condition(0, value.LREAL); err != nil {
				if _, text := c.condition(0, value.STRING); text != nil {
					if _, flag := c.condition(0, value.BOOL); flag != nil {
						return at, say.Errorf("%s: %w", c.When, err)
					}
				}
			}
		}
	}
	return "", nil
}

// Check refuses what cannot be a set.
func (l *LookSet) Check() (place string, err error) {
	if l.Name == "" || len(l.Name) > 80 {
		return "/name", say.Errorf("state looks need a name of at most 80 characters")
	}
	return checkCases(l.Cases)
}

// Check refuses what cannot be a style.
func (t *TextStyle) Check() (place string, err error) {
	switch {
	case t.Name == "" || len(t.Name) > 80:
		return "/name", say.Errorf("a text style needs a name of at most 80 characters")
	case t.Size < 6 || t.Size > 400:
		return "/size", say.Errorf("a text is 6 to 400 pixels high, not %v", t.Size)
	case !Colour(t.Colour):
		return "/colour", say.Errorf("%q is no colour", t.Colour)
	case t.Weight != nil && (*t.Weight < 200 || *t.Weight > 800):
		return "/weight", say.Errorf("a weight is 200 to 800, not %v", *t.Weight)
	case t.Font != "" && t.Font != FontText && t.Font != FontFigures:
		return "/font", say.Errorf("%q is no font: use %s or %s", t.Font, FontText, FontFigures)
	case t.Leading != 0 && (t.Leading < 0.5 || t.Leading > 4):
		return "/leading", say.Errorf("a line is 0.5 to 4 sizes high, not %v", t.Leading)
	case t.Vertical != "" && t.Vertical != "top" && t.Vertical != "middle" && t.Vertical != "bottom":
		return "/vertical", say.Errorf("%q is no vertical place: use top, middle or bottom", t.Vertical)
	}
	return "", nil
}

func (s *States) visit(at string, v visitor) (out *States, place string, err error) {
	c := *s
	if c.Of != "" {
		if c.Of, err = v.formula(at+"/of", s.Of); err != nil {
			return nil, at + "/of", err
		}
	}
	return &c, "", nil
}

// condition compiles the formula of a case; value stands in a slot.
func (c Case) condition(slot int32, k value.Kind) (*formula.Program, error) {
	isValue := func(s string) bool { return s == "value" }
	stored, err := formula.Store(c.When, func(string) (string, bool) { return "", false }, isValue)
	if err != nil {
		return nil, err
	}
	prog, err := formula.Compile(stored, formula.Scope{Tag: func(string) (int32, value.Kind, bool) { return 0, 0, false },
		Path:   func(string) (string, bool) { return "", false },
		Params: map[string]formula.Param{"value": {Slot: slot, Kind: k}}})
	if err != nil {
		return nil, err
	}
	if prog.Kind() != value.BOOL {
		return nil, say.Errorf("a condition is a BOOL, true or false")
	}
	return prog, nil
}

// matcher tells which case holds for a value, -1 for none.
type matcher struct {
	cases []Case
	whens []*formula.Program // nil where a case has none, or one that does not fit
	frame formula.Frame      // of the conditions: the value alone
}

func newMatcher(cases []Case, k value.Kind) *matcher {
	m := &matcher{cases: cases, whens: make([]*formula.Program, len(cases)), frame: formula.Frame{Slots: make([]value.Value, 1)}}
	for i, c := range cases {
		if c.When != "" {
			m.whens[i], _ = c.condition(0, k)
		}
	}
	return m
}

func (m *matcher) match(v value.Value) int {
	m.frame.Slots[0] = v
	for i, c := range m.cases {
		switch {
		case c.From != nil && (!numeric(v) || v.Float() < *c.From):
		case c.To != nil && (!numeric(v) || v.Float() >= *c.To):
		case c.Is != nil && v.Text() != *c.Is:
		case c.When != "" && m.whens[i] == nil:
		case c.When != "" && !m.whens[i].Eval(&m.frame).Bool():
		default:
			return i
		}
	}
	return -1
}

func numeric(v value.Value) bool { return v.Kind.IsNumber() || v.Kind == value.BOOL }

// prop is what a style gives a property of that name.
func (t *TextStyle) prop(name string) (any, bool) {
	switch name {
	case "size":
		return t.Size, true
	case "colour":
		return t.Colour, true
	case "bold":
		return t.Bold, true
	case "align":
		return t.Align, t.Align != ""
	case "weight":
		if t.Weight != nil {
			return *t.Weight, true
		}
	case "italic":
		return t.Italic, true
	case "font":
		return t.Font, t.Font != ""
	case "leading":
		return t.Leading, t.Leading > 0
	case "vertical":
		return t.Vertical, t.Vertical != ""
	}
	return nil, false
}
