package project

import (
	"sort"

	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// Use is one place that refers to a thing.
type Use struct {
	Kind  string `json:"kind"`  // of the thing that refers
	ID    string `json:"id"`    // its id
	Place string `json:"place"` // JSON pointer into it
	Name  string `json:"name"`  // the place in words: "Chamber 1 › Readout"
}

// Uses lists where a thing is used, or an area.
func (p *Project) Uses(id string) []Use {
	p.usesOnce.Do(p.collectUses)
	return p.uses[id]
}

func (p *Project) collectUses() {
	p.uses = map[string][]Use{}
	for _, k := range kinds {
		k.refersTo(p, func(target string, u Use) { p.uses[target] = append(p.uses[target], u) })
	}
	for _, list := range p.uses {
		sortUses(list)
	}
}

func sortUses(list []Use) {
	sort.Slice(list, func(i, j int) bool {
		a, b := list[i], list[j]
		if a.Name != b.Name {
			return tag.Less(a.Name, b.Name)
		}
		return a.Place < b.Place
	})
}

// ElementName names an element for people: its own name, or its kind.
func ElementName(s *screen.Screen, id string) string {
	if e := s.Elements[id]; e != nil {
		return e.Label()
	}
	return id
}
