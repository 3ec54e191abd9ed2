// Package screen holds screen documents, the catalogue of elements, and the
// expansion of a document into a flat scene with bindings.
package screen

import (
	"fmt"
	"math"
	"readyrail/internal/core/say"
	"regexp"
	"sort"
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
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Title string   `json:"title,omitempty"`
	Role  Role     `json:"role,omitempty" enum:",main,popup,faceplate,symbol,header,footer"`
	Area  string   `json:"area,omitempty"`
	Roles []string `json:"roles,omitempty"` // ids of the roles that may open it; all where there are none
	// Operators are the ids of the roles that may operate what lies on it; all where
	// there are none.
	Operators  []string            `json:"operators,omitempty"`
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
	// Operators are the ids of the roles that may operate it and what lies in it; all
	// where there are none.
	Operators []string `json:"operators,omitempty"`
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
	Log      string            `json:"log,omitempty"`     // id
	LogDoes  string            `json:"logDoes,omitempty"` // to the log
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
		return "/name", say.Errorf("a screen needs a name of at most 80 characters")
	case !roles[s.Role]:
		return "/role", say.Errorf("%q is no role of a screen", s.Role)
	case s.Width < least || s.Height < least || s.Width > MaxSize || s.Height > MaxSize:
		return "/width", say.Errorf("a screen is %d to %d pixels wide and high, not %d×%d", least, MaxSize, s.Width, s.Height)
	case s.Background != "" && !Colour(s.Background):
		return "/background", say.Errorf("%q is no colour", s.Background)
	case len(s.Elements) > MaxElements:
		return "/elements", say.Errorf("a screen has at most %d elements", MaxElements)
	}
	if len(s.Entries) > MaxEntries {
		return "/entries", say.Errorf("a screen has at most %d places in the navigation", MaxEntries)
	}
	if place, err := checkParams(s.Params); err != nil {
		return place, err
	}
	for id, e := range s.Elements {
		at := "/elements/" + id
		if e == nil {
			return at, say.Errorf("an element is missing its description")
		}
		if place, err := e.check(); err != nil {
			return at + place, err
		}
		if e.Group != "" {
			if g := s.Elements[e.Group]; g == nil || !g.gathers() {
				return at + "/group", say.Errorf("the group of this element does not exist")
			}
			for up, depth := e.Group, 0; up != ""; depth++ {
				if up == id || depth > maxNesting {
					return at + "/group", say.Errorf("a group cannot lie in itself")
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
		return "/kind", say.Errorf("element kind %q is not in the catalogue", e.Kind)
	}
	for _, f := range []float64{e.X, e.Y, e.W, e.H, e.Z, e.Angle} {
		if math.IsNaN(f) || math.Abs(f) > 1e6 {
			return "", say.Errorf("place, size and turn are numbers")
		}
	}
	if e.W < 0 || e.H < 0 {
		return "", say.Errorf("a size is not negative")
	}
	if len(e.Points)%2 != 0 || len(e.Points) > MaxPoints {
		return "/points", say.Errorf("points come in pairs, at most %d", MaxPoints/2)
	}
	if len(e.Tags) > MaxTable {
		return "/tags", say.Errorf("a table has at most %d tags", MaxTable)
	}
	for name, v := range e.Props {
		p, ok := k.Prop(name)
		if !ok {
			return "/props/" + name, say.Errorf("a %s has no property %q", k.Title, name)
		}
		if err := p.Check(v); err != nil {
			return "/props/" + name, say.Errorf("%s: %w", p.Title, err)
		}
	}
	for name := range e.Bind {
		if _, ok := k.Bindable(name); !ok && !partName.MatchString(name) {
			return "/bind/" + name, say.Errorf("the property %q of a %s cannot be bound", name, k.Title)
		}
	}
	if e.States != nil {
		if place, err := checkCases(e.States.Cases); err != nil {
			return "/states" + place, err
		}
	}
	if len(e.Then) > MaxThen {
		return "/then", say.Errorf("a button does at most %d things", MaxThen+1)
	}
	for i, a := range e.Then {
		if !furtherActions[a.Do] {
			return fmt.Sprintf("/then/%d", i), say.Errorf("%q is not something a button does after its first", a.Do)
		}
	}
	return "", nil
}

// partName is a binding of a part of a picture by its id: part:motor/fill.
var partName = regexp.MustCompile(`^part:[\w.-]{1,60}/(fill|stroke|opacity|visible)$`)

var furtherActions = map[string]bool{ActionSet: true, ActionToggle: true, ActionStep: true, ActionOpen: true, ActionClose: true,
	ActionRecord: true, ActionLog: true, ActionLanguage: true, ActionParam: true, ActionDiagnose: true, ActionSignIn: true}

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
