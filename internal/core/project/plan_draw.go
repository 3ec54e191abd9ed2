package project

import (
	"fmt"
	"strings"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
)

// Drawings makes a first symbol and faceplate of a type, to be drawn on.
type Drawings struct {
	Type string `json:"type" maxLength:"64"`
	Kind string `json:"kind,omitempty" maxLength:"40" doc:"of the shelf's equipment; the one of the type's name where none is given"`
}

// meanings are the names that members have when they mean a property of the
// shelf's equipment, in lower case.
var meanings = map[string][]string{
	"running": {"running", "run", "runs", "on", "flame", "active"}, "fault": {"fault", "trip", "tripped", "lockout", "failed"},
	"hand":     {"handmode", "hand", "manual"},
	"position": {"position", "opening", "ventposition"}, "level": {"level"}, "speed": {"speed"}, "open": {"open", "opened"},
	"closed": {"closed"},
	"loaded": {"loaded"}, "output": {"output", "heatvalve"}, "moisture": {"moistureavg", "moisture"},
}

// PlanDrawings says what makes a symbol and a faceplate for a type that lacks
// them. What the members are called says what they move.
func (p *Project) PlanDrawings(d Drawings, newID func(kind string) string) ([]Op, error) {
	t := p.Types[d.Type]
	if t == nil {
		return nil, say.New("there is no such type")
	}
	kind, ok := screen.KindOf(d.Kind)
	if !ok {
		kind = kindNamed(t.Name)
	}
	var ops []Op
	add := func(place string, s *screen.Screen) {
		id := newID(KindScreen)
		s.ID = id
		ops = append(ops, Op{Kind: KindScreen, ID: id, Value: mustJSON(s)}, Op{Kind: KindType, ID: t.ID, Path: place, Value: mustJSON(id)})
	}
	if t.Symbol == "" || p.Screens[t.Symbol] == nil {
		add("/symbol", p.drawSymbol(t, kind))
	}
	if t.Faceplate == "" || p.Screens[t.Faceplate] == nil {
		add("/faceplate", p.drawFaceplate(t))
	}
	if len(ops) == 0 {
		return nil, say.Errorf("%s has a symbol and a faceplate already", t.Name)
	}
	return ops, nil
}

// kindNamed is the shelf's equipment of a name, any machine where there is
// none.
func kindNamed(name string) *screen.Kind {
	name = strings.TrimRight(strings.ToLower(name), "0123456789")
	for _, k := range screen.Catalogue() {
		if k.Stock == "equipment" && (k.Name == name || strings.HasSuffix(strings.ToLower(k.Title), name)) {
			return k
		}
	}
	return screen.Any()
}

// E is what generated drawings call their equipment.
const drawn = "E"

func equipmentParam(t *equipment.Type) []screen.Param {
	return []screen.Param{{ID: "e", Name: drawn, Kind: screen.ParamEquipment, Type: t.ID, Title: t.Name}}
}

func (p *Project) drawSymbol(t *equipment.Type, k *screen.Kind) *screen.Screen {
	e := &screen.Element{Kind: k.Name, Name: t.Name, W: k.W, H: k.H, Y: 16, X: 8, Z: 1, Bind: map[string]string{}}
	for _, prop := range k.Props {
		if !prop.Bindable {
			continue
		}
		for _, name := range meanings[prop.Name] {
			_, m := t.Member(name)
			if m == nil || m.Tag == nil || m.To != 0 {
				continue
			}
			if screen.Accepts(prop.Type, m.Tag.Kind()) {
				e.Bind[prop.Name] = drawn + "." + m.Name
				break
			}
		}
	}
	return &screen.Screen{Name: t.Name + " symbol", Role: screen.Symbol, Width: int(k.W) + 16, Height: int(k.H) + 20,
		Params: equipmentParam(t), Elements: map[string]*screen.Element{"x1": e}}
}

func (p *Project) drawFaceplate(t *equipment.Type) *screen.Screen {
	s := &screen.Screen{Name: t.Name, Title: "{" + drawn + "}", Role: screen.Faceplate, Width: 400, Background: "sheet",
		Params: equipmentParam(t), Elements: map[string]*screen.Element{}}
	const left, right, wide = 16.0, 208.0, 176.0
	y, column, tall := 12.0, left, 0.0
	n := 0
	place := func(kind, caption string, m *equipment.Member, h float64) {
		n++
		e := &screen.Element{Kind: kind, X: column, Y: y, W: wide, H: h, Z: float64(n), Props: map[string]any{"caption": caption, "tag": ""}}
		id := fmt.Sprintf("x%d", n)
		mid, _ := t.Member(m.Name)
		e.Props["tag"] = "$e." + mid
		s.Elements[id] = e
		tall = max(tall, h)
		if column == left {
			column = right
			return
		}
		column, y, tall = left, y+tall+12, 0
	}
	for _, id := range t.Sorted() {
		m := t.Members[id]
		if m.Tag == nil || m.To != 0 || n >= 24 {
			continue
		}
		caption := m.Tag.Description
		if caption == "" || strings.ContainsAny(caption, "{}") || len(caption) > 24 {
			caption = m.Name
		}
		kind, h := screen.Line(m.Tag)
		place(kind.Name, caption, m, h)
	}
	if column == right {
		y += tall + 12
	}
	s.Height = int(max(y+4, 80))
	return s
}
