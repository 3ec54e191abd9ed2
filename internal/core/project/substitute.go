package project

import (
	"encoding/json"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
)

// Substitution replaces names in what a screen refers to: Kiln1 by Kiln2, or
// .X. by .Y.
type Substitution struct {
	Screen   string   `json:"screen" maxLength:"64"`
	Elements []string `json:"elements,omitempty" maxItems:"5000" doc:"ids; the whole screen where there are none"`
	Find     string   `json:"find" minLength:"1" maxLength:"200" doc:"text in paths, names and texts"`
	Replace  string   `json:"replace" maxLength:"200"`
	Copy     bool     `json:"copy" doc:"make a copy instead of altering"`
	Name     string   `json:"name,omitempty" maxLength:"80" doc:"of the copy of a screen"`
}

// PlanSubstitution says what each reference becomes and whether there is such
// a thing, and the edit that does it. A name that is not there is kept in the
// formula as it would read, and is a finding then.
func (p *Project) PlanSubstitution(n Substitution, newID func(kind string) string) (list []Planned, ops []Op, err error) {
	s := p.Screens[n.Screen]
	if s == nil {
		return nil, nil, say.New("there is no such screen")
	}
	chosen := map[string]bool{}
	for _, id := range n.Elements {
		if s.Elements[id] == nil {
			return nil, nil, say.New("somebody deleted an element meanwhile")
		}
		chosen[id] = true
	}
	sub := p.substituter(s, n.replaced)
	elements := map[string]*screen.Element{}
	for _, id := range s.Sorted() {
		if len(chosen) > 0 && !chosen[id] {
			continue
		}
		e := s.Elements[id].Replace(sub.change)
		e.Name = strings.ReplaceAll(e.Name, n.Find, n.Replace)
		for name, v := range e.Props {
			text, ok := v.(string)
			if k, known := screen.KindOf(e.Kind); ok && known {
				if prop, _ := k.Prop(name); prop.Type == screen.TypeTemplate && !strings.ContainsAny(text, "{}") {
					e.Props[name] = strings.ReplaceAll(text, n.Find, n.Replace)
				}
			}
		}
		elements[id] = e
	}
	if len(chosen) == 0 && n.Copy {
		c := *s
		c.Name, c.Title, c.Elements, c.Home = n.Name, strings.ReplaceAll(s.Title, n.Find, n.Replace), elements, false
		if c.Name == "" {
			c.Name = strings.ReplaceAll(s.Name, n.Find, n.Replace)
		}
		c.Order += 0.5
		id := newID(KindScreen)
		c.ID = id
		return sub.list, []Op{{Kind: KindScreen, ID: id, Value: p.shownDoc(&c)}}, nil
	}
	shown := p.ShownScreen(&screen.Screen{ID: s.ID, Params: s.Params, Elements: elements})
	renamed := map[string]string{}
	if n.Copy {
		for id := range elements {
			renamed[id] = newID("element")
		}
	}
	for _, id := range SortedKeys(elements) {
		e := shown.Elements[id]
		to := id
		if n.Copy {
			to = renamed[id]
			e.X, e.Y = e.X+16, e.Y+16
			if g := renamed[e.Group]; g != "" {
				e.Group = g
			}
		}
		ops = append(ops, Op{Kind: KindScreen, ID: s.ID, Path: "/elements/" + to, Value: mustJSON(e)})
	}
	return sub.list, ops, nil
}

func (p *Project) shownDoc(s *screen.Screen) json.RawMessage { return mustJSON(p.ShownScreen(s)) }

// substituter gives elements other tags, screens and equipment by their paths.
type substituter struct {
	p      *Project
	pathOn func(string) (string, bool)
	to     func(path string) string
	list   []Planned // what each changed reference becomes
	seen   map[string]bool
}

func (p *Project) substituter(on *screen.Screen, to func(path string) string) *substituter {
	return &substituter{p: p, pathOn: p.PathOn(on), to: to, seen: map[string]bool{}}
}

func (x *substituter) change(id, path string) (string, string) {
	now, ok := x.pathOn(id)
	if !ok {
		now = path
	}
	to := x.to(now)
	if now == "" || to == now {
		return id, path
	}
	found, there := x.p.FindPath(to)
	if !there {
		found, there = x.p.FindFolder(to)
	}
	if !x.seen[now] {
		x.seen[now] = true
		item := Planned{Path: to, From: now}
		if !there {
			item.Problem.Why = say.Errorf("there is no %s", to)
		}
		x.list = append(x.list, item)
	}
	switch {
	case there:
		return found, to
	case path == "":
		// An id alone cannot hold a name that is not there.
		return id, path
	}
	return formula.Unresolved, to
}

// replaced is a path with the text replaced; a text that begins and ends with
// a point is a whole segment, which may also be the first or the last.
func (n Substitution) replaced(path string) string {
	find, replace := n.Find, n.Replace
	if strings.HasPrefix(find, ".") && strings.HasSuffix(find, ".") {
		return strings.Trim(strings.ReplaceAll("."+path+".", find, replace), ".")
	}
	return strings.ReplaceAll(path, find, replace)
}
