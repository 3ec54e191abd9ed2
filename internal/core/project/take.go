package project

import (
	"cmp"
	"slices"

	"readyrail/internal/core/say"
)

// Thing names a thing of a project.
type Thing struct {
	Kind string `json:"kind"`
	ID   string `json:"id"`
}

// NameOf is what a thing is called; empty where there is none of it.
func (p *Project) NameOf(t Thing) string {
	if k := kindByName[t.Kind]; k != nil {
		return k.called(p, t.ID)
	}
	return ""
}

// StopOf is the stop at which things of a kind are built.
func StopOf(kind string) Stop {
	if k := kindByName[kind]; k != nil {
		return k.told().Stop
	}
	return ""
}

// Take gives things the form that they have in another version of the project; those that
// it does not have go. What they refer to there and is missing here comes along. It
// returns the new version with what changed, as Edit does; the error is a *Refusal.
func (p *Project) Take(other *Project, things []Thing) (*Project, []Change, error) {
	changes := []Change{}
	for _, t := range p.withNeeds(other, things) {
		k := kindByName[t.Kind]
		if k == nil {
			return nil, nil, refuse(t.Kind, t.ID, "", noKind(t.Kind))
		}
		if k.comesOf(p, t.ID) || k.comesOf(other, t.ID) {
			return nil, nil, refuse(t.Kind, t.ID, "", say.New("this is made of equipment: take the equipment or its type instead"))
		}
		now, here := p.Doc(t.Kind, t.ID)
		then, there := other.Doc(t.Kind, t.ID)
		switch {
		case !here && !there:
			return nil, nil, refuse(t.Kind, t.ID, "", say.New("neither version has this"))
		case !there && k.edits().stays != nil:
			return nil, nil, refuse(t.Kind, t.ID, "", k.edits().stays())
		case sameJSON(now, then):
			continue
		}
		changes = append(changes, Change{Kind: t.Kind, ID: t.ID, Before: then, After: now})
	}
	// They are taken back from the last to the first: what others need comes first then,
	// and what goes comes last.
	slices.SortStableFunc(changes, func(a, b Change) int { return cmp.Compare(takeOrder(b), takeOrder(a)) })
	return p.Revert(changes)
}

// takeOrder is when a change is made: kinds in their order, and what goes after all.
func takeOrder(c Change) int {
	at := slices.IndexFunc(kinds, func(k kind) bool { return k.told().Name == c.Kind })
	if c.Before == nil {
		return 2*len(kinds) - at
	}
	return at
}

// withNeeds adds to things of another version what they refer to there and is missing
// here, and what that refers to.
func (p *Project) withNeeds(other *Project, things []Thing) []Thing {
	needs := map[Thing][]string{}
	kindOf := map[string]string{}
	for _, k := range kinds {
		for _, id := range k.ids(other) {
			kindOf[id] = k.told().Name
		}
		k.refersTo(other, func(target string, u Use) {
			user := Thing{u.Kind, u.ID}
			needs[user] = append(needs[user], target)
		})
	}
	out := []Thing{}
	taken := map[Thing]bool{}
	var take func(t Thing)
	take = func(t Thing) {
		if taken[t] {
			return
		}
		taken[t] = true
		out = append(out, t)
		for _, target := range needs[t] {
			need := Thing{kindOf[target], target}
			if need.Kind == "" || kindByName[need.Kind].comesOf(other, target) {
				continue
			}
			if _, here := p.Doc(need.Kind, target); !here {
				take(need)
			}
		}
	}
	for _, t := range things {
		take(t)
	}
	return out
}
