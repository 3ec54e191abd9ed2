package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/edit"
	"readyrail/internal/host"
)

// ReleaseAnswer is what a release came to, or what is asked first.
type ReleaseAnswer struct {
	Made *host.ReleaseMade `json:"made,omitempty" doc:"absent where something is asked first"`
	Asks *host.Asks        `json:"asks,omitempty" doc:"what is asked first; nothing was released"`
}

func (s *Server) releaseRoutes() {
	get(s, "/api/projects/{project}/releases", "The releases, newest first",
		func(ctx context.Context, in *Scope) (*body[[]edit.ReleaseInfo], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			list, err := p.Releases(ctx)
			return &body[[]edit.ReleaseInfo]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/releases/open", "What is open before the draft is released",
		func(ctx context.Context, in *Scope) (*body[host.BeforeRelease], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			open, err := p.BeforeRelease(ctx)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.BeforeRelease]{*open}, nil
		})
	send(s, http.MethodPost, "/api/projects/{project}/releases", "Release the draft", func(ctx context.Context, in *struct {
		Scope
		Body host.ReleaseOrder
	}) (*body[ReleaseAnswer], error) {
		who, p, err := s.enter(ctx, in.Scope, access.Release)
		if err != nil {
			return nil, err
		}
		return released(p.Publish(ctx, who, in.Body))
	})
	send(s, http.MethodPost, "/api/projects/{project}/releases/{number}/return", "Make an earlier release what the Desk runs",
		func(ctx context.Context, in *struct {
			Scope
			Number int64 `path:"number" minimum:"1"`
			Body   host.ReleaseOrder
		}) (*body[ReleaseAnswer], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Release)
			if err != nil {
				return nil, err
			}
			return released(p.Return(ctx, who, in.Number, in.Body))
		})
}

func released(made *host.ReleaseMade, err error) (*body[ReleaseAnswer], error) {
	asks, err := askedFirst(err)
	return &body[ReleaseAnswer]{ReleaseAnswer{made, asks}}, problem(err)
}
