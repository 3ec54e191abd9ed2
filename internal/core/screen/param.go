package screen

import (
	"fmt"
	"strconv"
	"strings"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Param is a parameter of a screen. Formulas and texts name it as they name a
// tag, and members of equipment behind a point: K.Fan[2].Running. Stored, its
// id stands behind a $, and a member's chain behind that: $k.m9.2.m7.
type Param struct {
	ID      string    `json:"id"`
	Name    string    `json:"name"`
	Kind    ParamKind `json:"kind" enum:"equipment,tag,number,text,colour"`
	Type    string    `json:"type,omitempty"`    // id of the type of equipment, or the IEC type of a tag
	Default string    `json:"default,omitempty"` // an id, or the value
	Title   string    `json:"title,omitempty"`
}

// ParamKind says what a parameter holds.
type ParamKind string

// The kinds of parameter.
const (
	ParamEquipment ParamKind = "equipment"
	ParamTag       ParamKind = "tag"
	ParamNumber    ParamKind = "number"
	ParamText      ParamKind = "text"
	ParamColour    ParamKind = "colour"
)

func checkParams(list []Param) (place string, err error) {
	if len(list) > MaxParams {
		return "/params", say.Errorf("a screen has at most %d parameters", MaxParams)
	}
	for i, p := range list {
		at := fmt.Sprintf("/params/%d", i)
		if p.ID == "" || strings.ContainsAny(p.ID, ".$|{}/ ") {
			return at, say.Errorf("a parameter needs an id of plain characters")
		}
		if err := tag.CheckSegment(p.Name); err != nil {
			return at, err
		}
		for _, o := range list[:i] {
			if strings.EqualFold(o.Name, p.Name) || o.ID == p.ID {
				return at, say.Errorf("there is already a parameter %s", p.Name)
			}
		}
		switch p.Kind {
		case ParamEquipment, ParamText:
		case ParamTag:
			if p.Type != "" {
				if _, err := value.ParseType(p.Type); err != nil {
					return at, err
				}
			}
		case ParamNumber:
			if p.Default != "" {
				if _, err := strconv.ParseFloat(p.Default, 64); err != nil {
					return at, say.Errorf("the parameter %s is a number, not %q", p.Name, p.Default)
				}
			}
		case ParamColour:
			if p.Default != "" && !Colour(p.Default) {
				return at, say.Errorf("%q is no colour", p.Default)
			}
		default:
			return at, say.Errorf("%q is no kind of parameter: use equipment, tag, number, text or colour", p.Kind)
		}
	}
	return "", nil
}

// Args are what is given for the parameters of a screen, by their ids: the id
// of equipment or of a tag, or the value.
type Args map[string]string

// With returns the args with the defaults of the parameters that have none.
func (a Args) With(params []Param) Args {
	if len(params) == 0 {
		return nil
	}
	out := make(Args, len(params))
	for _, p := range params {
		v, ok := a[p.ID]
		if !ok || v == "" {
			v = p.Default
		}
		if v != "" {
			out[p.ID] = v
		}
	}
	return out
}

// Key writes the args so that equal ones are written the same.
func (a Args) Key(params []Param) string {
	var b strings.Builder
	for _, p := range params {
		if v, ok := a[p.ID]; ok {
			fmt.Fprintf(&b, "%s=%q;", p.ID, v)
		}
	}
	return b.String()
}

// id turns $k.m1 into the id of what is given for k with the chain behind it.
func (a Args) id(ref string) string {
	name, chain, nested := strings.Cut(ref[1:], ".")
	v, ok := a[name]
	switch {
	case !ok:
		return ref
	case nested:
		return v + "." + chain
	}
	return v
}

// text is what stands for a parameter in a formula: a reference, or a literal.
func (a Args) text(params []Param, ref, path string, real func(string) string) (string, bool) {
	name, _, nested := strings.Cut(ref[1:], ".")
	v, ok := a[name]
	if !ok {
		return "", false
	}
	for _, p := range params {
		if p.ID != name || nested {
			continue
		}
		switch p.Kind {
		case ParamNumber:
			if _, err := strconv.ParseFloat(v, 64); err != nil {
				return "", false
			}
			return "(" + v + ")", true
		case ParamText, ParamColour:
			return strconv.Quote(v), true
		}
	}
	return formula.Reference(real(a.id(ref)), path), true
}

// Applied is a stored formula with the parameters of a screen replaced.
func (a Args) Applied(stored string, params []Param, real func(string) string) string {
	return formula.Substitute(stored, func(id, path string) (string, bool) {
		if !strings.HasPrefix(id, "$") {
			return "", false
		}
		return a.text(params, id, path, real)
	})
}

// Param finds a parameter by id.
func (s *Screen) Param(id string) (Param, bool) {
	for _, p := range s.Params {
		if p.ID == id {
			return p, true
		}
	}
	return Param{}, false
}

// FindParam resolves a path whose first segment names a parameter to the
// stored id of what it names. taken is true where the first segment is a
// parameter's, whatever follows.
func (s *Screen) FindParam(path string, types equipment.Lookup) (id string, taken, ok bool) {
	if s == nil || len(s.Params) == 0 {
		return "", false, false
	}
	first, rest, nested := strings.Cut(path, ".")
	for _, p := range s.Params {
		if !strings.EqualFold(p.Name, first) {
			continue
		}
		if !nested {
			return "$" + p.ID, true, true
		}
		t := types(p.Type)
		if p.Kind != ParamEquipment || t == nil {
			return "", true, false
		}
		chain, _, _, ok := equipment.Find(t, rest, types)
		return "$" + p.ID + "." + chain, true, ok
	}
	return "", false, false
}

// ResolveParam follows a stored id such as $k.m1: path is how people write it,
// at the tag behind it as its type has it, nil for other parameters, whose
// kind is given.
func (s *Screen) ResolveParam(id string, types equipment.Lookup) (path string, at *tag.Tag, kind value.Kind, ok bool) {
	if s == nil || !strings.HasPrefix(id, "$") {
		return "", nil, 0, false
	}
	name, chain, nested := strings.Cut(id[1:], ".")
	p, ok := s.Param(name)
	if !ok {
		return "", nil, 0, false
	}
	if nested {
		t := types(p.Type)
		if t == nil {
			return p.Name + ".?", nil, 0, false
		}
		rest, at, _, ok := equipment.Resolve(t, chain, types)
		if at != nil {
			kind = at.Kind()
		}
		return p.Name + "." + rest, at, kind, ok
	}
	switch p.Kind {
	case ParamNumber:
		kind = value.LREAL
	case ParamText, ParamColour:
		kind = value.STRING
	case ParamTag:
		if t, err := value.ParseType(p.Type); err == nil {
			kind = t.Kind
			at = &tag.Tag{ID: id, Name: p.Name, Type: t, Source: tag.Device, Access: tag.ReadWrite}
		}
	}
	return p.Name, at, kind, true
}

// ParamType returns the type of the equipment that a stored id such as $k or
// $k.m9.2 stands for, empty where it is none.
func (s *Screen) ParamType(id string, types equipment.Lookup) string {
	if s == nil || !strings.HasPrefix(id, "$") {
		return ""
	}
	name, chain, _ := strings.Cut(id[1:], ".")
	p, ok := s.Param(name)
	if !ok || p.Kind != ParamEquipment {
		return ""
	}
	t := types(p.Type)
	if t == nil {
		return ""
	}
	_, _, typ, ok := equipment.Resolve(t, chain, types)
	if !ok {
		return ""
	}
	return typ
}
