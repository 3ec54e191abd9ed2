package server

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"readyrail/internal/host"
)

// Signing in for one screen: somebody else opens a screen that is closed to who works
// at the panel, and as the screen is left the panel is theirs again.

const (
	visitKey   = "visit"   // the screen that somebody signed in for
	visitedKey = "visited" // whose session it is otherwise, as JSON; empty for nobody's
)

// visited is a session that waits until a visit is over.
type visited struct {
	Person, PIN, Place string
	Epoch              int64
	Since, Waits       int64 // when they signed in, and since when it waits, in milliseconds since 1970
}

// waitsFor is the session that waits until the one of the context is over.
func (s *Server) waitsFor(ctx context.Context) (was visited, waits bool) {
	text := s.sessions.GetString(ctx, visitedKey)
	return was, text != "" && json.Unmarshal([]byte(text), &was) == nil
}

// goesOn tells whether a session that waited is still one: its person may sign in, has
// not rested for too long meanwhile, and signed in less than a session's life ago.
func (s *Server) goesOn(ctx context.Context, was visited, panelKey string) (who host.Actor, ok bool) {
	who, err := s.host.Actor(ctx, was.Person)
	if err != nil || who.Epoch != was.Epoch || time.Since(time.UnixMilli(was.Since)) > s.sessions.Lifetime {
		return who, false
	}
	limit, err := s.host.Rest(ctx, who, s.host.Panel(ctx, panelKey))
	return who, err == nil && (limit == 0 || time.Since(time.UnixMilli(was.Waits)) <= limit)
}

// waiting is what a visit leaves behind: the person who is signed in, or who was before
// the visit that goes on.
func (s *Server) waiting(ctx context.Context) string {
	if s.sessions.GetString(ctx, visitKey) != "" {
		return s.sessions.GetString(ctx, visitedKey)
	}
	person := s.sessions.GetString(ctx, personKey)
	if person == "" || s.sessions.GetBool(ctx, chooseKey) {
		return ""
	}
	text, _ := json.Marshal(visited{person, s.sessions.GetString(ctx, pinKey), s.sessions.GetString(ctx, placeKey),
		s.sessions.GetInt64(ctx, epochKey), s.sessions.GetInt64(ctx, sinceKey), time.Now().UnixMilli()})
	return string(text)
}

func (s *Server) visitRoutes() {
	send(s, http.MethodDelete, "/api/session/visit", "Leave the screen that somebody signed in for: the panel is whose it was",
		func(ctx context.Context, in *PanelInput) (*meOutput, error) {
			who, err := s.signedIn(ctx, in.Panel)
			if err != nil {
				return nil, err
			}
			if s.sessions.GetString(ctx, visitKey) == "" {
				return s.me(ctx, in.Panel)
			}
			was, waits := s.waitsFor(ctx)
			s.signOut(ctx, who, "left the screen that it was for")
			back, ok := s.goesOn(ctx, was, in.Panel)
			if !waits || !ok {
				if err := s.sessions.Destroy(ctx); err != nil {
					return nil, problem(err)
				}
				return s.me(ctx, in.Panel)
			}
			out, err := s.begin(ctx, back, was.PIN, false, in.Panel)
			s.sessions.Put(ctx, sinceKey, was.Since)
			s.sessions.Put(ctx, placeKey, was.Place)
			return out, err
		})
}
