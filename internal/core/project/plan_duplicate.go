package project

import (
	"slices"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// Duplicates makes copies of elements of a screen, each for the next of a row:
// Fan[2] for Fan[1] in what they refer to and in their texts.
type Duplicates struct {
	Screen   string   `json:"screen" maxLength:"64"`
	Elements []string `json:"elements" minItems:"1" maxItems:"5000" doc:"ids; what lies in a group comes with it"`
	Count    int      `json:"count" minimum:"1" maximum:"500"`
	Columns  int      `json:"columns" minimum:"1" maximum:"500" doc:"in a row, the elements themselves among them"`
	Gap      float64  `json:"gap" minimum:"-8192" maximum:"8192" doc:"pixels between them"`
	Of       string   `json:"of,omitempty" maxLength:"500" doc:"path up to the number that steps; empty where nothing steps"`
	Step     int      `json:"step,omitempty" minimum:"-1000" maximum:"1000" doc:"added to the number with each copy"`
}

// DuplicatePlan is what the copies refer to.
type DuplicatePlan struct {
	Of    []string  `json:"of"` // what can step, the longest first
	Lines []Planned `json:"lines"`
	Made  []string  `json:"made"` // ids of the copies that lie in no group of theirs
}

// PlanDuplicates says what the copies would refer to, with whether there is
// such a thing, and the edit that makes them.
func (p *Project) PlanDuplicates(d Duplicates, newID func(kind string) string) (*DuplicatePlan, []Op, error) {
	s := p.Screens[d.Screen]
	if s == nil {
		return nil, nil, say.New("there is no such screen")
	}
	chosen, err := s.Whole(d.Elements)
	switch {
	case err != nil:
		return nil, nil, err
	case len(s.Elements)+len(chosen)*d.Count > screen.MaxElements:
		return nil, nil, say.Errorf("the screen would have %d elements; %d is the most", len(s.Elements)+len(chosen)*d.Count, screen.MaxElements)
	}
	if _, numbered := tag.LastNumber(d.Of); d.Of != "" && !numbered {
		return nil, nil, say.Errorf("%s has no number that could step", d.Of)
	}
	plan := &DuplicatePlan{Of: p.steppable(s, chosen), Lines: []Planned{}, Made: []string{}}
	var ops []Op
	box, top := s.Around(chosen), 0.0
	for _, e := range s.Elements {
		top = max(top, e.Z)
	}
	for n := 1; n <= d.Count; n++ {
		c := &duplicate{d: d, n: n, sub: p.substituter(s, nil), ids: map[string]string{}}
		c.sub.to = c.path
		elements := map[string]*screen.Element{}
		for i, id := range chosen {
			e := c.element(s.Elements[id])
			e.X += float64(n%d.Columns) * (box.W + d.Gap)
			e.Y += float64(n/d.Columns) * (box.H + d.Gap)
			e.Z = top + float64((n-1)*len(chosen)+i+1)
			c.ids[id] = newID("element")
			if slices.Contains(chosen, e.Group) {
				e.Group = c.ids[e.Group]
			} else {
				plan.Made = append(plan.Made, c.ids[id])
			}
			elements[c.ids[id]] = e
		}
		shown := p.ShownScreen(&screen.Screen{ID: s.ID, Params: s.Params, Elements: elements})
		for _, id := range chosen {
			ops = append(ops, Op{Kind: KindScreen, ID: s.ID, Path: "/elements/" + c.ids[id], Value: mustJSON(shown.Elements[c.ids[id]])})
		}
		plan.Lines = append(plan.Lines, c.sub.list...)
	}
	return plan, ops, nil
}

// duplicate is one copy of the elements.
type duplicate struct {
	d   Duplicates
	n   int
	sub *substituter
	ids map[string]string // of the copies, by those of what they come from
}

// path is a path with the number stepped, where it lies below it.
func (c *duplicate) path(path string) string {
	of := c.d.Of
	if of == "" || path != of && !strings.HasPrefix(path, of+".") {
		return path
	}
	stepped, _ := tag.StepName(of, c.n*c.d.Step)
	return stepped + path[len(of):]
}

func (c *duplicate) element(e *screen.Element) *screen.Element {
	out := e.Replace(c.sub.change)
	was, ok := tag.LastNumber(c.d.Of)
	if !ok {
		return out
	}
	step := func(text string) string { return tag.StepText(text, was, was+c.n*c.d.Step) }
	out.Name = step(out.Name)
	k, _ := screen.KindOf(out.Kind)
	for name, v := range out.Props {
		text, isText := v.(string)
		if prop, ok := k.Prop(name); ok && isText && prop.Type == screen.TypeTemplate {
			out.Props[name] = outsideBraces(text, step)
		}
	}
	return out
}

// steppable lists the paths up to a number that elements refer to: Press[1]
// and Press[1].Fan[2] of Press[1].Fan[2].Speed; those of the most references
// first, and of these the longest.
func (p *Project) steppable(s *screen.Screen, elements []string) []string {
	count := map[string]int{}
	for _, id := range elements {
		s.Elements[id].Replace(func(ref, path string) (string, string) {
			segments := strings.Split(p.pathOf(ref), ".")
			for i, name := range segments {
				last := name != "" && (name[len(name)-1] == ']' || name[len(name)-1] >= '0' && name[len(name)-1] <= '9')
				if _, numbered := tag.LastNumber(name); numbered && last && ref != formula.Unresolved {
					count[strings.Join(segments[:i+1], ".")]++
				}
			}
			return ref, path
		})
	}
	out := SortedKeys(count)
	slices.SortStableFunc(out, func(a, b string) int {
		if count[a] != count[b] {
			return count[b] - count[a]
		}
		return strings.Count(b, ".") - strings.Count(a, ".")
	})
	return out
}
