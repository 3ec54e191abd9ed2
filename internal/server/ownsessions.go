package server

import (
	"context"
	"net/http"
	"slices"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/host"
)

// OwnSession is one sign-in of a person that is not over.
type OwnSession struct {
	ID    string `json:"id" doc:"says nothing of the session's key"`
	Since int64  `json:"since" doc:"when it began, in milliseconds since 1970; 0 where that is not known"`
	Place string `json:"place" doc:"the panel, or the network address"`
	Open  bool   `json:"open" doc:"a page of it is connected now"`
	Here  bool   `json:"here" doc:"it is the one that asks"`
}

// ownSessionRoutes let a person see where they are signed in, and end that.
func (s *Server) ownSessionRoutes() {
	get(s, "/api/session/own", "One's own sessions, the newest first", func(ctx context.Context, in *PanelInput) (*body[[]OwnSession], error) {
		who, err := s.actor(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		out := []OwnSession{}
		err = s.eachSession(ctx, who, func(ctx context.Context, id string, waits *visited) error {
			token := s.sessions.Token(ctx)
			x := OwnSession{id, s.sessions.GetInt64(ctx, sinceKey), s.sessions.GetString(ctx, placeKey), s.live.has(token),
				token == who.Session}
			if waits != nil {
				x = OwnSession{ID: id, Since: waits.Since, Place: waits.Place}
			}
			out = append(out, x)
			return nil
		})
		slices.SortFunc(out, func(a, b OwnSession) int { return int(b.Since - a.Since) })
		return &body[[]OwnSession]{out}, problem(err)
	})
	send(s, http.MethodDelete, "/api/session/own/{id}", "End one of one's own sessions, or all but this one (others)",
		func(ctx context.Context, in *struct {
			PanelInput
			ID string `path:"id" maxLength:"32"`
		}) (*struct{}, error) {
			who, err := s.actor(ctx, in.Panel)
			if err != nil {
				return nil, err
			}
			ended := 0
			err = s.eachSession(ctx, who, func(ctx context.Context, id string, waits *visited) error {
				token := s.sessions.Token(ctx)
				if token == who.Session || in.ID != id && in.ID != "others" {
					return nil
				}
				ended++
				if waits != nil {
					s.sessions.Put(ctx, visitedKey, "")
					_, _, err := s.sessions.Commit(ctx)
					return err
				}
				s.host.EndHolds(func(w door.Who) bool { return w.Session == token }, say.New("signed out"))
				s.live.end(token)
				return s.sessions.Destroy(ctx)
			})
			if err == nil && ended == 0 && in.ID != "others" {
				err = host.ErrNotFound
			}
			if ended > 0 {
				s.recordEverywhere(ctx, who, audit.SignOut, "")
			}
			return nil, problem(err)
		})
}

// eachSession hands over the sessions of a person, each in its own context. One that
// waits for somebody's visit to be over lies in the visitor's, and is told as such.
func (s *Server) eachSession(ctx context.Context, who host.Actor, do func(ctx context.Context, id string, waits *visited) error) error {
	return s.sessions.Iterate(ctx, func(ctx context.Context) error {
		id := host.SessionName(s.sessions.Token(ctx))
		if s.sessions.GetString(ctx, personKey) == who.ID && s.sessions.GetInt64(ctx, epochKey) == who.Epoch {
			return do(ctx, id, nil)
		}
		if was, waits := s.waitsFor(ctx); waits && was.Person == who.ID && was.Epoch == who.Epoch {
			return do(ctx, id, &was)
		}
		return nil
	})
}
