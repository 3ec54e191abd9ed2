package project

import (
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
)

// KindScreen are the screens, windows and symbols.
const KindScreen = "screen"

var screenKind = &kindOf[screen.Screen]{
	ThingKind: ThingKind{Name: KindScreen, Stop: StopScreens, Opens: true, Within: "/elements/"},
	of:        func(p *Project) *map[string]*screen.Screen { return &p.Screens },
	read:      (*Project).readScreen,
	show:      (*Project).ShownScreen,
	name:      func(_ *Project, _ string, s *screen.Screen) string { return s.Name },
	note:      func(s *screen.Screen) string { return s.Title },
	refers: func(_ *Project, s *screen.Screen, say func(target, place, within string)) {
		for _, r := range s.References() {
			if r.Element == "" {
				say(r.ID, "/"+r.Place, "")
			} else {
				say(r.ID, "/elements/"+r.Element+"/"+r.Place, ElementName(s, r.Element))
			}
		}
	},
	texts: func(_ *Project, _ string, s *screen.Screen, say sayText) {
		say(s.Name, s.Name)
		say(s.Title, s.Name)
		for _, entry := range s.Entries {
			say(entry.Name, s.Name)
		}
		for _, param := range s.Params {
			say(param.Title, s.Name)
		}
		for _, id := range s.Sorted() {
			e := s.Elements[id]
			e.Texts(func(text string) { say(text, s.Name+" › "+e.Label()) })
		}
	},
	check: (*checker).screens,
	work: func(p *Project) int {
		n := 0
		for _, s := range p.Screens {
			n += 1 + len(s.Elements)
		}
		return n
	},
	editRules: editRules{
		paths: func(Op) bool { return true },
		names: func(op Op) bool { return op.Path == "/params" || strings.HasPrefix(op.Path, "/params/") },
	},
}

func (p *Project) readScreen(id string, s *screen.Screen, shown bool) (*screen.Screen, error) {
	s.ID = id
	if s.Elements == nil {
		s.Elements = map[string]*screen.Element{}
	}
	if path, err := s.Check(); err != nil {
		return nil, at(path, err)
	}
	if !shown {
		return s, nil
	}
	resolve := p.resolveOn(s)
	out, path, err := s.Convert(
		func(text string) (string, error) { return formula.Store(text, resolve, nil) },
		func(text string) (string, error) { return formula.StoreTemplate(text, resolve, nil) })
	return out, at(path, err)
}

// ShownScreen returns a screen with its formulas and texts as people read them.
func (p *Project) ShownScreen(s *screen.Screen) *screen.Screen {
	path := p.PathOn(s)
	out, _, _ := s.Convert(
		func(f string) (string, error) { return formula.Show(f, path), nil },
		func(f string) (string, error) { return formula.ShowTemplate(f, path), nil })
	return out
}
