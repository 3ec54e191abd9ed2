package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/host"
)

func (s *Server) badgeRoutes() {
	send(s, http.MethodPut, "/api/projects/{project}/people/{id}/badge", "Give an account a badge, or take it away",
		func(ctx context.Context, in *struct {
			ThingInput
			Body struct {
				Number string `json:"number,omitempty" maxLength:"200" doc:"as the reader types it; empty takes the badge away"`
			}
		}) (*body[host.Account], error) {
			who, p, err := s.enter(ctx, in.Scope, access.People)
			if err != nil {
				return nil, err
			}
			if err := p.MayChange(ctx, who, in.ID); err != nil {
				return nil, problem(err)
			}
			out, err := s.host.SetBadge(ctx, in.ID, in.Body.Number)
			if err != nil {
				return nil, problem(err)
			}
			s.endPerson(ctx, in.ID, say.New("the badge was changed"))
			says := "account " + out.Name + ": badge taken away"
			if out.HasBadge {
				says = "account " + out.Name + ": has a badge"
			}
			return &body[host.Account]{out}, problem(p.Record(ctx, who, audit.People, says))
		})
}
