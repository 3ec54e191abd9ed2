// Package equipment holds types of equipment and the instances made of them.
// An instance becomes folders and tags whose ids are made of the instance's
// own id and those of the type's members, so that whatever refers to them
// holds while types and instances are edited:
//
//	e1            the instance, and the folder of its tags
//	e1.m4         its member m4
//	e1.m9.2       the second of its array m9, when that is equipment a folder
//	e1.m9.2.m7    a member of it
//	e1.m9.2.a1    an alarm of it
package equipment

import (
	"encoding/json"
	"fmt"
	"slices"
	"sort"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Type describes equipment of one make: what belongs to it and where its
// values are found.
type Type struct {
	ID          string                `json:"id"`
	Name        string                `json:"name"`
	Title       string                `json:"title,omitempty"`
	Description string                `json:"description,omitempty"`
	Settings    []Setting             `json:"settings,omitempty"`
	Members     map[string]*Member    `json:"members"`
	Alarms      map[string]*TypeAlarm `json:"alarms,omitempty"`
	Symbol      string                `json:"symbol,omitempty"`    // id of the screen drawn as its symbol
	Faceplate   string                `json:"faceplate,omitempty"` // id of the screen that opens for it
	SourceName  string                `json:"sourceName,omitempty"`
}

// Setting is a number or text that each instance gives, such as the base of
// its addresses.
type Setting struct {
	Name        string `json:"name"`
	Text        bool   `json:"text,omitempty"` // holds a text; else a whole number or a number
	Default     string `json:"default,omitempty"`
	Description string `json:"description,omitempty"`
}

// Member is a tag of the type, or equipment within it; an array where To is
// not 0.
type Member struct {
	Order float64 `json:"order"`
	Name  string  `json:"name"`
	From  int     `json:"from,omitempty"` // first index
	To    int     `json:"to,omitempty"`   // last index; 0 where it is no array
	// Tag is what the tag is. Texts in its addresses and description may hold
	// expressions over the settings in braces, and i, the index. Its formula is
	// in stored form; an id that begins with a point is a member's.
	Tag *tag.Tag `json:"tag,omitempty"`
	// Type is the id of the type of equipment within.
	Type string `json:"type,omitempty"`
	// Settings are expressions over this type's settings and i, by the names of
	// that type's.
	Settings map[string]string `json:"settings,omitempty"`
	// Differs are the properties of the tag that an instance may have for itself.
	Differs []string `json:"differs,omitempty"`
}

// Instance is equipment of a type at a place in the tree of tags.
type Instance struct {
	ID          string            `json:"id"`
	Folder      string            `json:"folder,omitempty"` // id of the folder it lies in
	Name        string            `json:"name"`
	Description string            `json:"description,omitempty"`
	Type        string            `json:"type"`             // id
	Device      string            `json:"device,omitempty"` // id of the device that its tags read
	Area        string            `json:"area,omitempty"`
	Settings    map[string]string `json:"settings,omitempty"` // values, by name
	// Differs holds what this instance has for itself: by the chain of members
	// below it (m4, m9.2.m7), then by the tag's property.
	Differs map[string]map[string]json.RawMessage `json:"differs,omitempty"`
	// IDs are the ids, by chain, of folders and tags that were there before they
	// became part of the instance, so that all that refers to them holds.
	IDs map[string]string `json:"ids,omitempty"`
}

// Real returns the id of the tag or equipment at a chain.
func (e *Instance) Real(chain string) string {
	switch id := e.IDs[chain]; {
	case id != "":
		return id
	case chain == "":
		return e.ID
	}
	return e.ID + "." + chain
}

// Bounds of types and instances.
const (
	MaxMembers = 2000
	MaxArray   = 1000
	MaxDepth   = 6
	MaxTags    = 20_000 // of one instance
)

// Differing are the properties of a tag that a type may leave to its
// instances.
var Differing = []string{"description", "device", "address", "writeAddress", "access", "poll", "group", "order", "scale", "invert",
	"unit", "decimals", "low", "high", "step", "states", "initial", "area", "behaviour", "sourceName"}

func mayDiffer(property string) bool { return slices.Contains(Differing, property) }

// Check refuses what cannot be a type; place is a JSON pointer into it.
func (t *Type) Check() (place string, err error) {
	if err := tag.CheckSegment(t.Name); err != nil {
		return "/name", err
	}
	seen := map[string]bool{"i": true, "name": true}
	for i, s := range t.Settings {
		at := fmt.Sprintf("/settings/%d", i)
		if err := tag.CheckSegment(s.Name); err != nil || strings.Contains(s.Name, "[") {
			return at, say.Errorf("a setting has a plain name, not %q", s.Name)
		}
		if seen[s.Name] {
			return at, say.Errorf("there is already a setting %s; i and name are always there", s.Name)
		}
		seen[s.Name] = true
		if s.Default != "" {
			if _, err := s.parse(s.Default); err != nil {
				return at, err
			}
		}
	}
	if len(t.Members) > MaxMembers {
		return "/members", say.Errorf("a type has at most %d members", MaxMembers)
	}
	names := map[string]bool{}
	for _, id := range t.Sorted() {
		at := "/members/" + id
		if !plainID(id) {
			return at, say.Errorf("a member's id has letters and digits only")
		}
		m := t.Members[id]
		if m == nil {
			return at, say.Errorf("a member is missing its description")
		}
		if place, err := m.check(); err != nil {
			return at + place, err
		}
		key := strings.ToLower(m.Name)
		if names[key] {
			return at + "/name", say.Errorf("there is already a member %s", m.Name)
		}
		names[key] = true
	}
	return t.checkAlarms()
}

func (m *Member) check() (place string, err error) {
	if err := tag.CheckSegment(m.Name); err != nil {
		return "/name", err
	}
	switch {
	case (m.Tag == nil) == (m.Type == ""):
		return "", say.Errorf("a member is either a tag or equipment of a type")
	case m.To != 0 && strings.Contains(m.Name, "["):
		return "/name", say.Errorf("an array is named without an index")
	case m.From < 0 || m.To < 0 || m.To != 0 && m.To < m.From:
		return "/to", say.Errorf("an array runs from its first index up to its last")
	case m.To-m.From >= MaxArray:
		return "/to", say.Errorf("an array has at most %d", MaxArray)
	}
	if m.Tag != nil {
		t := *m.Tag
		t.Name = m.Name
		if field, err := t.Check(); err != nil {
			return "/tag/" + field, err
		}
	}
	for _, d := range m.Differs {
		if !mayDiffer(d) {
			return "/differs", say.Errorf("%q cannot differ from one instance to another", d)
		}
	}
	return "", nil
}

func plainID(id string) bool {
	if id == "" || len(id) > 40 {
		return false
	}
	for _, c := range id {
		if !(c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '-' || c == '_') {
			return false
		}
	}
	return true
}

// Check refuses what cannot be an instance. Members with nothing of their own
// are left out of its differences.
func (e *Instance) Check() (place string, err error) {
	for chain, props := range e.Differs {
		if len(props) == 0 {
			delete(e.Differs, chain)
		}
	}
	if err := tag.CheckSegment(e.Name); err != nil {
		return "/name", err
	}
	if e.Type == "" {
		return "/type", say.Errorf("equipment needs a type")
	}
	for chain, props := range e.Differs {
		for name := range props {
			if !mayDiffer(name) && !slices.Contains(AlarmDiffering, name) {
				return "/differs/" + chain, say.Errorf("%q cannot differ from one instance to another", name)
			}
		}
	}
	return "", nil
}

// Sorted lists the ids of the members in their order.
func (t *Type) Sorted() []string {
	ids := make([]string, 0, len(t.Members))
	for id := range t.Members {
		ids = append(ids, id)
	}
	sort.Slice(ids, func(i, j int) bool {
		a, b := t.Members[ids[i]], t.Members[ids[j]]
		if a != nil && b != nil && a.Order != b.Order {
			return a.Order < b.Order
		}
		return ids[i] < ids[j]
	})
	return ids
}

// Member finds a member by name.
func (t *Type) Member(name string) (id string, m *Member) {
	for id, m := range t.Members {
		if m != nil && strings.EqualFold(m.Name, name) {
			return id, m
		}
	}
	return "", nil
}

func (s Setting) parse(text string) (value.Value, error) {
	if s.Text {
		return value.Str(text), nil
	}
	if v, err := value.Parse(value.Type{Kind: value.LINT}, text); err == nil {
		return v, nil
	}
	v, err := value.Parse(value.Type{Kind: value.LREAL}, text)
	if err != nil {
		return v, say.Errorf("the setting %s is a number, not %q", s.Name, text)
	}
	return v, nil
}

// Lookup finds a type by id.
type Lookup func(id string) *Type

// Uses lists the types that a type is built of, itself among them. A ring ends
// where it comes back.
func Uses(id string, types Lookup) map[string]bool {
	out := map[string]bool{}
	var visit func(string)
	visit = func(id string) {
		t := types(id)
		if t == nil || out[id] {
			return
		}
		out[id] = true
		for _, m := range t.Members {
			if m.Type != "" {
				visit(m.Type)
			}
		}
	}
	visit(id)
	return out
}

// Within tells whether a type holds itself, directly or through others.
func Within(id string, types Lookup) bool {
	t := types(id)
	if t == nil {
		return false
	}
	for _, m := range t.Members {
		if m.Type != "" && Uses(m.Type, types)[id] {
			return true
		}
	}
	return false
}
