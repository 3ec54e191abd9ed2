package server

import (
	"context"
	"net/http"

	"readyrail/internal/host"
)

func (s *Server) handoverRoutes() {
	get(s, "/api/projects/{project}/handovers", "The newest notes that shifts left to the next one",
		func(ctx context.Context, in *Scope) (*body[[]host.Handover], error) {
			who, p, err := s.enter(ctx, *in, "")
			if err != nil {
				return nil, err
			}
			list, err := p.Handovers(ctx, who)
			return &body[[]host.Handover]{list}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/handovers", "Leave a note to the next shift",
		func(ctx context.Context, in *struct {
			Scope
			Body struct {
				Text string `json:"text" maxLength:"8000"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.HandOver(ctx, who, in.Body.Text))
		})
	send(s, http.MethodPost, "/api/projects/{project}/handovers/{seq}/taken", "Take a note of a shift over",
		func(ctx context.Context, in *struct {
			Scope
			Seq int64 `path:"seq"`
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.TakeOver(ctx, who, in.Seq))
		})
}
