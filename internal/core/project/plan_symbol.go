package project

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
)

// SymbolOf says of which elements a symbol is made.
type SymbolOf struct {
	Screen   string       `json:"screen" maxLength:"64"`
	Elements []string     `json:"elements" minItems:"1" maxItems:"5000" doc:"ids; what lies in a group comes with it"`
	Name     string       `json:"name" minLength:"1" maxLength:"80" doc:"of the symbol"`
	Repeat   screen.Index `json:"repeat,omitempty" enum:"last,first,every" doc:"the index that the symbol is repeated over; empty for once"`
}

// SymbolPlan is what becomes of the elements.
type SymbolPlan struct {
	Screen  string       `json:"screen"` // id of the symbol
	Element string       `json:"element"`
	Params  []GivenParam `json:"params"`
	Indices int          `json:"indices"` // of the path that can be repeated; 0 where there is none
	Cells   []string     `json:"cells"`   // paths of what it is repeated over
}

// GivenParam is a parameter with what it is given in the elements' place.
type GivenParam struct {
	Name  string           `json:"name"`
	Kind  screen.ParamKind `json:"kind"`
	Type  string           `json:"type" doc:"IEC type, or name of the type of equipment"`
	Given string           `json:"given" doc:"path"`
}

// PlanSymbol makes a symbol of elements, which it takes the place of. Their
// tags become its parameters: equipment of a type one for all its members, and
// each other tag one. With an index the symbol is repeated for everything that
// differs in it.
func (p *Project) PlanSymbol(n SymbolOf, newID func(kind string) string) (*SymbolPlan, []Op, error) {
	s := p.Screens[n.Screen]
	if s == nil {
		return nil, nil, say.New("there is no such screen")
	}
	chosen, err := s.Whole(n.Elements)
	if err != nil {
		return nil, nil, err
	}
	m := &symbolMaker{p: p, s: s, newID: newID, roots: map[string]string{}, params: map[string]*screen.Param{}, args: map[string]string{}}
	m.gather(chosen)
	box := s.Around(chosen)
	made := &screen.Screen{ID: newID(KindScreen), Name: n.Name, Role: screen.Symbol, Elements: map[string]*screen.Element{},
		Order: m.last() + 1,
		Width: int(math.Ceil(box.W)), Height: int(math.Ceil(box.H))}
	group, top := "", math.Inf(-1)
	for _, id := range chosen {
		old := s.Elements[id]
		e := old.Replace(m.change)
		e.X, e.Y = e.X-box.X, e.Y-box.Y
		if !slices.Contains(chosen, e.Group) {
			group, e.Group = e.Group, ""
		}
		top = max(top, old.Z)
		made.Elements[id] = e
	}
	first := m.sort()
	made.Params = m.list
	holder := screen.NewSymbol(made.ID, m.args)
	holder.Name, holder.Z, holder.Group = n.Name, top, group
	holder.X, holder.Y, holder.W, holder.H = box.X, box.Y, float64(made.Width), float64(made.Height)
	plan := &SymbolPlan{Screen: made.ID, Element: newID("element"), Params: m.given(), Cells: []string{}}
	if first != "" {
		plan.Indices = p.Indices(m.args[first])
	}
	if n.Repeat != "" {
		if first == "" {
			return nil, nil, say.New("nothing in the selection has an index, such as Fan[1]: choose elements whose tags are those of one of an array")
		}
		cells := p.Array(m.args[first], n.Repeat)
		for _, c := range cells {
			plan.Cells = append(plan.Cells, p.pathOf(c))
		}
		holder.RepeatOver(first, n.Repeat, len(cells))
	}
	ops := []Op{{Kind: KindScreen, ID: made.ID, Value: p.shownDoc(made)}}
	for _, id := range slices.Backward(chosen) {
		ops = append(ops, Op{Kind: KindScreen, ID: s.ID, Path: "/elements/" + id})
	}
	ops = append(ops, Op{Kind: KindScreen, ID: s.ID, Path: "/elements/" + plan.Element, Value: mustJSON(holder)})
	return plan, ops, nil
}

// symbolMaker turns what elements refer to into parameters.
type symbolMaker struct {
	p      *Project
	s      *screen.Screen
	newID  func(string) string
	roots  map[string]string        // equipment that is used to the equipment whose parameter it goes by
	params map[string]*screen.Param // by what is given for them
	list   []screen.Param
	args   map[string]string
}

// gather finds the equipment that the elements' tags belong to; what lies in
// other equipment that is used goes by that.
func (m *symbolMaker) gather(elements []string) {
	for _, id := range elements {
		m.s.Elements[id].Replace(func(ref, path string) (string, string) {
			if piece := m.pieceOf(ref); piece != "" {
				m.roots[piece] = piece
			}
			return ref, path
		})
	}
	for piece := range m.roots {
		for other := range m.roots {
			if strings.HasPrefix(m.p.pathOf(piece), m.p.pathOf(other)+".") && len(m.p.pathOf(other)) < len(m.p.pathOf(m.roots[piece])) {
				m.roots[piece] = other
			}
		}
	}
}

// pieceOf is the equipment that a tag is a member of, or that an id is.
func (m *symbolMaker) pieceOf(ref string) string {
	if _, ok := m.p.Piece(ref); ok {
		return ref
	}
	if _, ok := m.p.GearTag(ref); !ok {
		return ""
	}
	for folder := m.p.Tags[ref].Folder; folder != ""; folder = m.p.Folders[folder].Parent {
		if _, ok := m.p.Piece(folder); ok {
			return folder
		}
	}
	return ""
}

// change gives a tag or equipment by a parameter.
func (m *symbolMaker) change(ref, path string) (string, string) {
	if strings.HasPrefix(ref, "$") {
		return m.passOn(ref, path)
	}
	if piece := m.pieceOf(ref); piece != "" {
		root := m.roots[piece]
		at, _ := m.p.Piece(root)
		id := "$" + m.param(root, screen.ParamEquipment, at.Type)
		if ref == root {
			return id, path
		}
		chain := m.chain(ref)
		if at.Chain != "" {
			chain = strings.TrimPrefix(chain, at.Chain+".")
		}
		return id + "." + chain, path
	}
	if t := m.p.Tags[ref]; t != nil {
		return "$" + m.param(ref, screen.ParamTag, t.Type.String()), path
	}
	return ref, path
}

func (m *symbolMaker) chain(ref string) string {
	if piece, ok := m.p.Piece(ref); ok {
		return piece.Chain
	}
	g, _ := m.p.GearTag(ref)
	return g.Chain
}

// passOn gives the symbol a parameter of the screen that it is made on.
func (m *symbolMaker) passOn(ref, path string) (string, string) {
	name, _, _ := strings.Cut(ref[1:], ".")
	param, ok := m.s.Param(name)
	if ok && m.params["$"+name] == nil {
		param.Default = ""
		m.params["$"+name] = &param
		m.args[param.ID] = "$" + name
	}
	return ref, path
}

// param is the id of the parameter that something is given by.
func (m *symbolMaker) param(given string, kind screen.ParamKind, typ string) string {
	if made := m.params[given]; made != nil {
		return made.ID
	}
	path := m.p.pathOf(given)
	name, _ := unindexed(path[strings.LastIndexByte(path, '.')+1:])
	made := &screen.Param{ID: m.newID("param"), Name: name, Kind: kind, Type: typ}
	for n := 2; m.named(made.Name); n++ {
		made.Name = fmt.Sprintf("%s%d", name, n)
	}
	m.params[given] = made
	m.args[made.ID] = given
	return made.ID
}

func (m *symbolMaker) named(name string) bool {
	for _, p := range m.params {
		if strings.EqualFold(p.Name, name) {
			return true
		}
	}
	return false
}

// sort brings the parameters into an order, what can be repeated first, and
// returns the id of that; empty where nothing has an index.
func (m *symbolMaker) sort() (first string) {
	for _, param := range m.params {
		m.list = append(m.list, *param)
	}
	slices.SortFunc(m.list, func(a, b screen.Param) int {
		if x, y := min(1, m.p.Indices(m.args[a.ID])), min(1, m.p.Indices(m.args[b.ID])); x != y {
			return y - x
		}
		return strings.Compare(a.Name, b.Name)
	})
	if len(m.list) > 0 && m.p.Indices(m.args[m.list[0].ID]) > 0 {
		return m.list[0].ID
	}
	return ""
}

func (m *symbolMaker) given() []GivenParam {
	out := []GivenParam{}
	pathOn := m.p.PathOn(m.s)
	for _, param := range m.list {
		path, _ := pathOn(m.args[param.ID])
		g := GivenParam{param.Name, param.Kind, param.Type, path}
		if param.Kind == screen.ParamEquipment {
			g.Type = m.p.typeName(param.Type)
		}
		out = append(out, g)
	}
	return out
}

// last is the highest place that a screen has.
func (m *symbolMaker) last() float64 {
	top := 0.0
	for _, s := range m.p.Screens {
		top = max(top, s.Order)
	}
	return math.Floor(top)
}
