package project

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"sort"
	"strconv"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
)

// Fact is one thing that is to be proved of an element, or of a screen.
type Fact struct {
	// Name says what it is about: area, shows, unit, decimals, limits, step, asks,
	// does, then, while, bound, looks, rows, opens, role.
	Name string `json:"name" enum:"area,shows,unit,decimals,limits,step,asks,does,then,while,bound,looks,rows,opens,role"`
	// About is what of: a property, an action, a role.
	About string `json:"about,omitempty"`
	Text  string `json:"text"`
}

// Point is one thing on a screen to be accepted: an element that shows or does
// something, or with an empty Element who may open and use the screen.
type Point struct {
	Element string `json:"element"` // id in the scene, with those of what it lies in
	Name    string `json:"name"`
	Kind    string `json:"kind,omitempty"`
	Facts   []Fact `json:"facts"`
}

// Definition is what a proof of the point holds for: where it becomes another
// one, the point is open again.
func (pt *Point) Definition() string {
	b, _ := json.Marshal([]any{pt.Kind, pt.Facts})
	return string(b)
}

// What a role may do on a screen.
const (
	MayNothing = "nothing"
	MayLook    = "look"
	MayOperate = "operate"
)

// Acceptance lists what is to be proved of a screen with these parameters, in
// the order of the elements: what shows nothing of the plant and does nothing
// is left out.
func (p *Project) Acceptance(s *screen.Screen, args screen.Args) []Point {
	bound := screen.Bind(s, p, screen.View{Args: args})
	out := []Point{{Name: s.Name, Facts: p.accessFacts(s)}}
	for i := range bound.Scene.Elements {
		se := &bound.Scene.Elements[i]
		control, ok := bound.Controls[se.ID]
		if !ok {
			continue
		}
		if facts := p.elementFacts(control.Element, se, cmp.Or(control.Area, s.Area)); len(facts) > 0 {
			out = append(out, Point{Element: se.ID, Name: control.Name, Kind: se.Kind, Facts: facts})
		}
	}
	return out
}

// accessFacts says what each role may do on a screen.
func (p *Project) accessFacts(s *screen.Screen) []Fact {
	ids := make([]string, 0, len(p.Roles))
	for id := range p.Roles {
		ids = append(ids, id)
	}
	sort.Slice(ids, func(i, j int) bool { return p.Roles[ids[i]].Name < p.Roles[ids[j]].Name })
	var out []Fact
	if s.Area != "" {
		out = append(out, Fact{"area", "", p.AreaName(s.Area)})
	}
	for _, id := range ids {
		r := p.Roles[id]
		may := MayNothing
		if r.Has(access.View) && (len(s.Roles) == 0 || slices.Contains(s.Roles, id)) {
			may = MayLook
			if r.Has(access.Operate) && (len(s.Operators) == 0 || slices.Contains(s.Operators, id)) {
				may = MayOperate
			}
		}
		out = append(out, Fact{"role", r.Name, may})
	}
	return out
}

// RoleNames are what roles are called, in their order; one that is gone is left out.
func (p *Project) RoleNames(ids []string) []string {
	var out []string
	for _, id := range ids {
		if r := p.Roles[id]; r != nil {
			out = append(out, r.Name)
		}
	}
	return out
}

func (p *Project) elementFacts(e *screen.Element, se *screen.SceneElement, area string) []Fact {
	var out []Fact
	fact := func(name, about, text string) {
		if text != "" {
			out = append(out, Fact{name, about, text})
		}
	}
	k, _ := screen.KindOf(e.Kind)
	if t := se.Tag; t != nil {
		fact("shows", "", t.Path)
		fact("unit", "", t.Unit)
		if t.Decimals >= 0 {
			fact("decimals", "", strconv.Itoa(t.Decimals))
		}
		if e.Writes() && (t.Low != "" || t.High != "") {
			fact("limits", "", strings.TrimSpace(t.Low+" … "+t.High))
		}
		if e.Writes() && t.Step != 0 {
			fact("step", "", strconv.FormatFloat(t.Step, 'g', -1, 64))
		}
	}
	for _, ask := range []string{"confirm", "reason", "sign"} {
		if e.Flag(ask) {
			fact("asks", ask, "yes")
		} else if v := e.Text(ask); v != "" && v != "none" {
			fact("asks", ask, v)
		}
	}
	for _, by := range p.AskedByElement(e, area, func(string) []string { return SortedKeys(p.Roles) }).By {
		if by.Rule == "" {
			continue
		}
		if by.Asks.Reason != "" {
			fact("asks", by.Name, "reason-"+by.Asks.Reason)
		}
		if by.Asks.Sign != "" {
			fact("asks", by.Name, "sign-"+by.Asks.Sign)
		}
		if by.Asks.Confirm {
			fact("asks", by.Name, "confirm")
		}
	}
	fact("operators", "", strings.Join(p.RoleNames(e.Operators), ", "))
	actions := e.Actions()
	if len(actions) > 0 {
		fact("does", actions[0].Do, p.effect(actions[0]))
		for _, a := range actions[1:] {
			text := p.effect(a)
			if a.When != "" {
				text += " ⟵ " + formula.Show(a.When, p.Path)
			}
			fact("then", a.Do, text)
		}
	}
	if se.Opens != nil && len(actions) == 0 {
		fact("opens", "", p.screenNamed(se.Opens.Screen))
	}
	for _, name := range slices.Sorted(maps.Keys(e.Bind)) {
		what := "bound"
		if name == "enabled" {
			what = "while"
		}
		fact(what, name, formula.Show(e.Bind[name], p.Path))
	}
	if e.States != nil {
		fact("looks", "", strconv.Itoa(len(e.States.Cases)))
	}
	for _, r := range se.Rows {
		if r.Tag != nil {
			fact("rows", r.Title, r.Tag.Path)
		}
	}
	for _, prop := range k.Props {
		if prop.Type == screen.TypeTemplate && len(actions) == 0 && strings.Contains(e.Text(prop.Name), "{") {
			fact("bound", prop.Name, formula.ShowTemplate(e.Text(prop.Name), p.Path))
		}
	}
	return out
}

// effect says what an action does, in paths and values.
func (p *Project) effect(a screen.Action) string {
	path, _ := p.Path(a.Tag)
	by := strconv.FormatFloat(a.By, 'g', -1, 64)
	switch a.Do {
	case screen.ActionSet, screen.ActionRequest, screen.ActionPulse:
		return path + " = " + a.Value
	case screen.ActionToggle:
		return fmt.Sprintf("%s = NOT %[1]s", path)
	case screen.ActionStep:
		return fmt.Sprintf("%s = %[1]s + %s", path, by)
	case screen.ActionHold:
		return path
	case screen.ActionOpen:
		return p.screenNamed(a.Screen)
	case screen.ActionRecord:
		return formula.ShowTemplate(a.Text, p.Path)
	case screen.ActionLog:
		if l := p.Logs[a.Log]; l != nil {
			return l.Name + ": " + a.LogDoes
		}
	case screen.ActionDiagnose:
		if d := p.Devices[a.Device]; d != nil {
			return d.Name
		}
	case screen.ActionLanguage:
		return a.Language
	case screen.ActionParam:
		if a.Value != "" {
			return a.Value
		}
		return "+ " + by
	}
	return a.Do
}

func (p *Project) screenNamed(id string) string {
	if s := p.Screens[id]; s != nil {
		return s.Name
	}
	return "?"
}
