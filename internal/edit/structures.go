package edit

import (
	"context"
	"fmt"
	"slices"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/store"
)

// A list may say which of its variables are structures of a derived type:
// these become equipment, and the derived types become types.

// structures are the variables of one derived type that lie in no other.
type structures struct {
	Type  string
	Paths []string
}

// structuresOf gathers the outermost structures of rows by their types, in the
// order of the list; names are those of the types of all structures, by path.
func structuresOf(rows []exchange.Row) (list []structures, names map[string]string) {
	names = map[string]string{}
	for _, r := range rows {
		for i, s := range r.Within {
			if _, known := names[s.Path]; known {
				continue
			}
			names[s.Path] = s.Type
			if i > 0 {
				continue
			}
			at := slices.IndexFunc(list, func(l structures) bool { return l.Type == s.Type })
			if at < 0 {
				at = len(list)
				list = append(list, structures{Type: s.Type})
			}
			list[at].Paths = append(list[at].Paths, s.Path)
		}
	}
	return list, names
}

// makeTypes makes types of the structures of an import that is applied, each
// as an edit of its own; what cannot become one stays as folders, and is said.
func (e *Edits) makeTypes(ctx context.Context, who access.Actor, rows []exchange.Row) (made, problems []string) {
	list, names := structuresOf(rows)
	made, problems = []string{}, []string{}
	for _, s := range list {
		draft := e.Draft()
		plan := project.TypeOf{Name: s.Type, Names: map[string]string{}}
		for path, name := range names {
			if id, ok := draft.FindFolder(path); ok {
				plan.Names[id] = name
			}
		}
		for _, path := range s.Paths {
			id, ok := draft.FindFolder(path)
			if piece, _ := draft.Piece(id); !ok || piece.Instance != "" {
				continue
			}
			if plan.Folder == "" {
				plan.Folder = id
			}
			plan.Others = append(plan.Others, id)
		}
		if plan.Folder == "" {
			continue
		}
		planned, ops, err := draft.PlanType(plan, store.NewID)
		if err == nil {
			_, err = e.Edit(ctx, who, fmt.Sprintf("make the type %s of %d structures", s.Type, len(planned)), ops)
		}
		if err != nil {
			problems = append(problems, s.Type+": "+err.Error())
			continue
		}
		made = append(made, s.Type)
	}
	return made, problems
}
