package server

import (
	"context"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
)

// RuleRow is a rule of what a write asks, with how much it is about.
type RuleRow struct {
	access.Rule
	Path    string        `json:"path" doc:"of the tag that it names; empty for none"`
	Asks    access.Asking `json:"asks" doc:"what it asks, without what has no sense by itself"`
	Applies int           `json:"applies" doc:"tags, alarms and books at which it asks"`
}

func (s *Server) ruleRoutes() {
	get(s, "/api/projects/{project}/rules", "The rules of what a write asks, of the draft",
		func(ctx context.Context, in *Scope) (*body[[]RuleRow], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			draft, out := p.Draft(), []RuleRow{}
			for _, id := range project.SortedKeys(draft.Rules) {
				r := draft.Rules[id]
				path, _ := draft.Path(draft.Real(r.Tag))
				out = append(out, RuleRow{*r, path, r.Asks(), draft.Applies(r, 0)})
			}
			return &body[[]RuleRow]{out}, nil
		})
	get(s, "/api/projects/{project}/asked", "What is asked before something is done at a tag or with a recipe, and by which rules, in the draft",
		func(ctx context.Context, in *struct {
			Scope
			Tag    string   `query:"tag" maxLength:"200" doc:"id; or a book"`
			Book   string   `query:"book" maxLength:"60" doc:"id"`
			Target string   `query:"target" maxLength:"200" doc:"of the book: id of the equipment; empty for a book of single tags"`
			Does   string   `query:"does" enum:"write,limit,shelve,hold,deliver,approve" default:"write" doc:"at a tag; with a book all but approve is deliver"`
			Roles  []string `query:"roles" maxItems:"20" doc:"ids, of who acts"`
		}) (*body[project.Asked], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			draft, roles := p.Draft(), func(string) []string { return in.Roles }
			if t, ok := draft.Tag(in.Tag); ok {
				return &body[project.Asked]{draft.AskedAt(t, in.Does, "", roles)}, nil
			}
			switch b := draft.Books[in.Book]; {
			case b == nil:
			case in.Does == access.DoesApprove:
				return &body[project.Asked]{draft.AskedToApprove(b, roles)}, nil
			default:
				return &body[project.Asked]{draft.AskedToSend(b, in.Target, roles)}, nil
			}
			return nil, problem(host.ErrNotFound)
		})
}
