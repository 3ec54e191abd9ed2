package server

import (
	"context"
	"encoding/json"
	"time"

	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
)

// ReplayQuery is a screen at a recorded moment.
type ReplayQuery struct {
	Scope
	ID       string `path:"id" maxLength:"64"`
	At       int64  `query:"at" minimum:"0" doc:"milliseconds since 1970"`
	Args     string `query:"args" maxLength:"2000" doc:"what the screen's parameters stand for, as a JSON object of texts"`
	Language string `query:"language" maxLength:"16"`
	Program  string `query:"program" enum:"draft,release" default:"release" doc:"whose screen it is"`
}

// replayed is what is played.
func (q *ReplayQuery) replayed() (host.Replayed, error) {
	r := host.Replayed{Screen: q.ID, View: screen.View{Language: q.Language}, Draft: q.Program == "draft"}
	if q.Args != "" {
		if err := json.Unmarshal([]byte(q.Args), &r.View.Args); err != nil {
			return r, &host.Refused{Why: say.New("args is no JSON object of texts")}
		}
	}
	return r, nil
}

// ReplayMoment is where a step leads.
type ReplayMoment struct {
	At int64 `json:"at" doc:"milliseconds since 1970; the moment itself where there is no further change"`
}

func (s *Server) replayRoutes() {
	get(s, "/api/projects/{project}/replay/{id}", "A screen as it stood at a recorded moment",
		func(ctx context.Context, in *struct {
			ReplayQuery
			Scene bool `query:"scene" doc:"with the drawing, not its values alone"`
		}) (*body[host.ReplayFrame], error) {
			who, p, err := s.enter(ctx, in.Scope, readsOf(in.Program))
			if err != nil {
				return nil, err
			}
			replayed, err := in.replayed()
			if err != nil {
				return nil, problem(err)
			}
			frame, err := p.Replay(ctx, who, replayed, time.UnixMilli(in.At), in.Scene)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.ReplayFrame]{*frame}, nil
		})
	get(s, "/api/projects/{project}/replay/{id}/step", "When something that a screen shows changed next, or last before",
		func(ctx context.Context, in *struct {
			ReplayQuery
			Back bool `query:"back"`
		}) (*body[ReplayMoment], error) {
			who, p, err := s.enter(ctx, in.Scope, readsOf(in.Program))
			if err != nil {
				return nil, err
			}
			replayed, err := in.replayed()
			if err != nil {
				return nil, problem(err)
			}
			// A step looks beyond the whole millisecond that it is asked from.
			at := time.UnixMilli(in.At)
			if !in.Back {
				at = at.Add(time.Millisecond - time.Nanosecond)
			}
			when, err := p.ReplayStep(ctx, who, replayed, at, !in.Back)
			if err != nil {
				return nil, problem(err)
			}
			return &body[ReplayMoment]{ReplayMoment{when.UnixMilli()}}, nil
		})
}
