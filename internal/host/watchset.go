package host

import (
	"context"
	"sort"
	"strings"
)

// WatchSet is a set of tags on a person's watch strip, by name.
type WatchSet struct {
	Name string   `json:"name" minLength:"1" maxLength:"40"`
	Tags []string `json:"tags" maxItems:"60" doc:"ids"`
}

// maxSets bounds a person's sets.
const maxSets = 50

// WatchSets lists a person's sets by name.
func (p *Project) WatchSets(ctx context.Context, who Actor) ([]WatchSet, error) {
	sets, err := p.state.WatchSets(ctx, who.ID)
	out := []WatchSet{}
	for name, tags := range sets {
		out = append(out, WatchSet{name, tags})
	}
	sort.Slice(out, func(i, j int) bool { return strings.ToLower(out[i].Name) < strings.ToLower(out[j].Name) })
	return out, err
}

// PutWatchSet keeps a person's set.
func (p *Project) PutWatchSet(ctx context.Context, who Actor, s WatchSet) error {
	s.Name = strings.TrimSpace(s.Name)
	if s.Name == "" {
		return refused("a set needs a name")
	}
	sets, err := p.state.WatchSets(ctx, who.ID)
	if err != nil {
		return err
	}
	if _, ok := sets[s.Name]; !ok && len(sets) >= maxSets {
		return refused("a person has at most %d sets: delete one", maxSets)
	}
	if s.Tags == nil {
		s.Tags = []string{}
	}
	return p.state.PutWatchSet(ctx, who.ID, s.Name, s.Tags)
}

// DropWatchSet forgets a person's set.
func (p *Project) DropWatchSet(ctx context.Context, who Actor, name string) error {
	return p.state.PutWatchSet(ctx, who.ID, name, nil)
}
