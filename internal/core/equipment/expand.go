package equipment

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Expansion is what an instance becomes.
type Expansion struct {
	Folders  []Folder
	Tags     []Tag
	Alarms   []MadeAlarm
	Problems []Problem
}

// Folder is a piece of equipment: the instance, or equipment within it.
type Folder struct {
	tag.Folder
	Type  string // id of its type
	Chain string // members from the instance to it; empty for the instance
}

// Tag is a tag of an instance.
type Tag struct {
	tag.Tag
	Type    string // id of the type that holds the member
	Member  string // id of the member
	Chain   string // members from the instance to it
	Differs []string
}

// Problem is something of an instance that cannot be made.
type Problem struct {
	Chain string // empty where it is about the instance
	Rule  string // type, ring, setting, member, alarm, difference, many
	Why   error
}

// Expand makes the folders and tags of an instance. What cannot be made is
// left out, or left without address, and listed as a problem.
func Expand(e *Instance, types Lookup) Expansion {
	x := &expander{e: e, types: types}
	t := types(e.Type)
	if t == nil {
		x.problem("", "type", say.New("its type no longer exists"))
		x.out.Folders = append(x.out.Folders, Folder{Folder: tag.Folder{ID: e.Real(""), Parent: e.Folder, Name: e.Name,
			Description: e.Description, Area: e.Area}})
		return x.out
	}
	index, _ := tag.Index(e.Name)
	names := map[string]value.Value{"name": value.Str(e.Name), "i": value.Int(value.LINT, int64(index))}
	for _, s := range t.Settings {
		text, ok := e.Settings[s.Name]
		if !ok || text == "" {
			text = s.Default
		}
		if text == "" && !s.Text {
			x.problem("", "setting", say.Errorf("the setting %s has no value", s.Name))
			text = "0"
		}
		v, err := s.parse(text)
		if err != nil {
			x.problem("", "setting", err)
			v = value.Int(value.LINT, 0)
		}
		names[s.Name] = v
	}
	x.equipment(t, "", tag.Folder{ID: e.Real(""), Parent: e.Folder, Name: e.Name, Description: e.Description, Area: e.Area}, names, 0)
	for chain := range e.Differs {
		if !x.made[chain] {
			x.problem(chain, "difference", say.New("this instance has something of its own for a member that the type no longer has"))
		}
	}
	return x.out
}

type expander struct {
	e     *Instance
	types Lookup
	out   Expansion
	made  map[string]bool
	full  bool
}

func (x *expander) problem(chain, rule string, why error) {
	x.out.Problems = append(x.out.Problems, Problem{chain, rule, why})
}

func below(chain, member string) string {
	if chain == "" {
		return member
	}
	return chain + "." + member
}

func (x *expander) equipment(t *Type, chain string, f tag.Folder, names map[string]value.Value, depth int) {
	if depth > MaxDepth {
		x.problem(chain, "ring", say.Errorf("the type %s holds itself, or equipment lies deeper than %d", t.Name, MaxDepth))
		return
	}
	x.out.Folders = append(x.out.Folders, Folder{Folder: f, Type: t.ID, Chain: chain})
	for _, mid := range t.Sorted() {
		m := t.Members[mid]
		if m.To == 0 {
			x.member(t, mid, m, chain, below(chain, mid), m.Name, 0, names, depth)
			continue
		}
		for i := m.From; i <= m.To; i++ {
			n := "." + strconv.Itoa(i)
			x.member(t, mid, m, chain, below(chain, mid)+n, fmt.Sprintf("%s[%d]", m.Name, i), i, names, depth)
		}
	}
	x.alarms(t, chain, names)
}

func (x *expander) member(t *Type, mid string, m *Member, holder, chain, name string, i int, names map[string]value.Value, depth int) {
	if x.full {
		return
	}
	if len(x.out.Tags) >= MaxTags {
		x.full = true
		x.problem("", "many", say.Errorf("it would have more than %d tags", MaxTags))
		return
	}
	inner := make(map[string]value.Value, len(names))
	for k, v := range names {
		inner[k] = v
	}
	if m.To != 0 {
		inner["i"] = value.Int(value.LINT, int64(i))
	}
	if m.Type != "" {
		x.nested(m, holder, chain, name, inner, depth)
		return
	}
	c := *m.Tag
	c.ID, c.Folder, c.Name = x.e.Real(chain), x.e.Real(holder), name
	for _, text := range []*string{&c.Address, &c.WriteAddress, &c.Description, &c.SourceName} {
		filled, err := formula.FillText(*text, inner)
		if err != nil {
			x.problem(chain, "member", say.Errorf("%s: %q, %v", name, *text, err))
			filled = ""
		}
		*text = filled
	}
	if c.Source == tag.Device && c.Device == "" {
		c.Device = x.e.Device
	}
	c.Formula = x.rooted(c.Formula, holder)
	c.LowTag, c.HighTag = x.root(c.LowTag, holder), x.root(c.HighTag, holder)
	if c.Behaviour != nil {
		b := *c.Behaviour
		b.Formula, b.Tag = x.rooted(b.Formula, holder), x.root(b.Tag, holder)
		c.Behaviour = &b
	}
	if own := x.e.Differs[chain]; len(own) > 0 {
		if err := differ(&c, own); err != nil {
			x.problem(chain, "difference", say.Errorf("%s: %v", name, err))
		}
	}
	x.note(chain)
	x.out.Tags = append(x.out.Tags, Tag{Tag: c, Type: t.ID, Member: mid, Chain: chain, Differs: m.Differs})
}

func (x *expander) note(chain string) {
	if x.made == nil {
		x.made = map[string]bool{}
	}
	x.made[chain] = true
}

func (x *expander) nested(m *Member, holder, chain, name string, outer map[string]value.Value, depth int) {
	t := x.types(m.Type)
	if t == nil {
		x.problem(chain, "type", say.Errorf("the type of %s no longer exists", name))
		return
	}
	names := map[string]value.Value{"name": value.Str(name), "i": outer["i"]}
	for _, s := range t.Settings {
		text, given := m.Settings[s.Name]
		switch {
		case given && text != "":
			v, err := formula.Constant(text, outer)
			if err != nil {
				x.problem(chain, "setting", say.Errorf("%s, setting %s: %v", name, s.Name, err))
				v = value.Int(value.LINT, 0)
			}
			names[s.Name] = v
		case outer[s.Name].Kind != value.None:
			// A setting of the same name goes through.
			names[s.Name] = outer[s.Name]
		default:
			v, err := s.parse(s.Default)
			if err != nil && !s.Text {
				x.problem(chain, "setting", say.Errorf("%s: the setting %s has no value", name, s.Name))
				v = value.Int(value.LINT, 0)
			}
			names[s.Name] = v
		}
	}
	x.equipment(t, chain, tag.Folder{ID: x.e.Real(chain), Parent: x.e.Real(holder), Name: name}, names, depth+1)
}

// rooted turns a type's own references into those of an instance: an id that
// begins with a point is a chain below the equipment that holds the member.
func (x *expander) rooted(stored, holder string) string {
	return formula.Substitute(stored, func(id, path string) (string, bool) {
		return formula.Reference(x.root(id, holder), path), strings.HasPrefix(id, ".")
	})
}

// root is rooted for one id.
func (x *expander) root(id, holder string) string {
	if chain, ok := strings.CutPrefix(id, "."); ok {
		return x.e.Real(below(holder, chain))
	}
	return id
}

// differ lays an instance's own properties over a tag.
func differ(t *tag.Tag, own map[string]json.RawMessage) error {
	var c tag.Tag
	if err := overlay(t, own, &c); err != nil {
		return err
	}
	if _, err := c.Check(); err != nil {
		return err
	}
	*t = c
	return nil
}

// overlay reads into what a document becomes with some of its properties
// replaced; null takes one away.
func overlay(plain any, own map[string]json.RawMessage, into any) error {
	doc, err := json.Marshal(plain)
	if err != nil {
		return err
	}
	all := map[string]json.RawMessage{}
	if err := json.Unmarshal(doc, &all); err != nil {
		return err
	}
	for name, v := range own {
		if string(v) == "null" {
			delete(all, name)
			continue
		}
		all[name] = v
	}
	if doc, err = json.Marshal(all); err != nil {
		return err
	}
	if err := json.Unmarshal(doc, into); err != nil {
		return say.Errorf("what the instance has for itself cannot be read: %w", err)
	}
	return nil
}

// Root returns the instance that a tag or a piece of equipment belongs to,
// and the chain below it.
func Root(id string) (instance, chain string) {
	instance, chain, _ = strings.Cut(id, ".")
	return instance, chain
}

// Find resolves a path relative to a type, such as Fan[2].Running, to a chain.
// tagAt is nil where the path ends at equipment, whose type is given.
func Find(t *Type, path string, types Lookup) (chain string, tagAt *tag.Tag, typ string, ok bool) {
	typ = t.ID
	for depth := 0; path != ""; depth++ {
		if t == nil || depth > MaxDepth {
			return "", nil, "", false
		}
		n := tag.ScanSegment(path)
		if n == 0 {
			return "", nil, "", false
		}
		segment := path[:n]
		path = strings.TrimPrefix(path[n:], ".")
		name, index := segment, ""
		if i := strings.LastIndexByte(segment, '['); i > 0 {
			name, index = segment[:i], segment[i+1:len(segment)-1]
		}
		id, m := t.Member(segment)
		if m == nil && index != "" {
			if id, m = t.Member(name); m != nil {
				i, err := strconv.Atoi(index)
				if err != nil || m.To == 0 || i < m.From || i > m.To {
					return "", nil, "", false
				}
				id += "." + strconv.Itoa(i)
			}
		} else if m != nil && m.To != 0 {
			return "", nil, "", false
		}
		if m == nil {
			return "", nil, "", false
		}
		chain = below(chain, id)
		if m.Tag != nil {
			if path != "" {
				return "", nil, "", false
			}
			return chain, m.Tag, "", true
		}
		typ = m.Type
		t = types(m.Type)
	}
	return chain, nil, typ, true
}

// Resolve follows a chain below a type to its member: the tag, or the type of
// the equipment there. path is how people write it.
func Resolve(t *Type, chain string, types Lookup) (path string, tagAt *tag.Tag, typ string, ok bool) {
	typ = t.ID
	if chain == "" {
		return "", nil, typ, true
	}
	parts := strings.Split(chain, ".")
	for at := 0; at < len(parts); at++ {
		if t == nil {
			return "", nil, "", false
		}
		m := t.Members[parts[at]]
		if m == nil {
			return "", nil, "", false
		}
		if path != "" {
			path += "."
		}
		path += m.Name
		if m.To != 0 {
			at++
			if at >= len(parts) {
				return "", nil, "", false
			}
			i, err := strconv.Atoi(parts[at])
			if err != nil || i < m.From || i > m.To {
				return "", nil, "", false
			}
			path += "[" + parts[at] + "]"
		}
		if m.Tag != nil {
			return path, m.Tag, "", at == len(parts)-1
		}
		typ = m.Type
		t = types(m.Type)
	}
	return path, nil, typ, true
}

// Chains lists every tag of a type with its path, in order; equipment within
// is followed, arrays in full.
func Chains(t *Type, types Lookup) []Point {
	var out []Point
	var walk func(t *Type, chain, path string, depth int)
	walk = func(t *Type, chain, path string, depth int) {
		if t == nil || depth > MaxDepth {
			return
		}
		if path != "" {
			path += "."
		}
		for _, id := range t.Sorted() {
			m := t.Members[id]
			each := func(id, name string) {
				if len(out) >= MaxTags {
					return
				}
				p := Point{Chain: below(chain, id), Path: path + name, Tag: m.Tag, Type: m.Type}
				out = append(out, p)
				if m.Type != "" {
					walk(types(m.Type), p.Chain, p.Path, depth+1)
				}
			}
			if m.To == 0 {
				each(id, m.Name)
				continue
			}
			for i := m.From; i <= m.To; i++ {
				each(id+"."+strconv.Itoa(i), fmt.Sprintf("%s[%d]", m.Name, i))
			}
		}
	}
	walk(t, "", "", 0)
	return out
}

// Point is a tag or piece of equipment of a type.
type Point struct {
	Chain string
	Path  string
	Tag   *tag.Tag
	Type  string // of a piece of equipment
}
