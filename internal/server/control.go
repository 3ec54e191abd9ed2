package server

import (
	"context"
	"net/http"

	"readyrail/internal/host"
)

func (s *Server) controlRoutes() {
	get(s, "/api/projects/{project}/control", "The areas in which one place at a time acts, and which has them",
		func(ctx context.Context, in *Scope) (*body[[]host.AreaControl], error) {
			who, p, err := s.enter(ctx, *in, "")
			if err != nil {
				return nil, err
			}
			list, err := p.Controls(ctx, who)
			return &body[[]host.AreaControl]{list}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/control/{area}", "Take control of an area, ask for it, hand it over or give it up",
		func(ctx context.Context, in *struct {
			Scope
			Area string `path:"area"`
			Body host.ControlOrder
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.OrderControl(ctx, who, in.Area, in.Body))
		})
}
