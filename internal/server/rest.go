package server

import (
	"context"
	"net/http"
	"sync"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/host"
)

// rests knows when the person of each session was last there.
type rests struct {
	mu sync.Mutex
	at map[string]rest // by session
}

type rest struct {
	seen  time.Time     // when the person last did something
	limit time.Duration // how long they may do nothing; 0 for ever
	asked time.Time     // when the limit was asked for
}

const (
	// restGrace is how much later than its page the server ends a session: the page
	// tells of a touch every few seconds only.
	restGrace = 15 * time.Second
	// restForgotten is when a session that nobody asks for is forgotten; it is over
	// by then, as it was idle for longer than any may be.
	restForgotten = 24 * time.Hour
)

// restLimit is how long somebody may do nothing; it is asked for again every ten
// seconds.
func (s *Server) restLimit(ctx context.Context, who host.Actor, panel host.PanelInfo) (rest, error) {
	now := time.Now()
	s.rests.mu.Lock()
	x, known := s.rests.at[who.Session]
	s.rests.mu.Unlock()
	if known && now.Sub(x.asked) < askEvery {
		return x, nil
	}
	limit, err := s.host.Rest(ctx, who, panel)
	if err != nil {
		return x, err
	}
	s.rests.mu.Lock()
	defer s.rests.mu.Unlock()
	if s.rests.at == nil {
		s.rests.at = map[string]rest{}
	}
	for token, old := range s.rests.at {
		if now.Sub(old.asked) > restForgotten {
			delete(s.rests.at, token)
		}
	}
	if x, known = s.rests.at[who.Session]; !known {
		x.seen = now
	}
	x.limit, x.asked = limit, now
	s.rests.at[who.Session] = x
	return x, nil
}

// askAgain has the limit of every session asked for anew.
func (r *rests) askAgain() {
	r.mu.Lock()
	defer r.mu.Unlock()
	for token, x := range r.at {
		x.asked = x.asked.Add(-askEvery)
		r.at[token] = x
	}
}

// touch says that the person of a session is there.
func (s *Server) touch(session string) {
	s.rests.mu.Lock()
	defer s.rests.mu.Unlock()
	if x, known := s.rests.at[session]; known {
		x.seen = time.Now()
		s.rests.at[session] = x
	}
}

// rested ends the session of somebody who did nothing for as long as their panel
// and roles allow, and tells whether it did. What is held or under way is not left
// behind.
func (s *Server) rested(ctx context.Context, who host.Actor, panel host.PanelInfo) (bool, error) {
	x, err := s.restLimit(ctx, who, panel)
	if err != nil || x.limit == 0 || time.Since(x.seen) < x.limit+restGrace {
		return false, err
	}
	if s.host.Busy(who) {
		s.touch(who.Session)
		return false, nil
	}
	s.signOut(ctx, who, restReason(x.limit))
	return true, s.sessions.Destroy(ctx)
}

func restReason(limit time.Duration) string {
	return "after " + itoa(int64(limit.Minutes())) + " min of rest"
}

// signOut ends what a session has open and holds, and keeps that in the trail.
func (s *Server) signOut(ctx context.Context, who host.Actor, why string) {
	s.host.EndHolds(func(w door.Who) bool { return w.Session == who.Session }, say.New("signed out"))
	s.live.end(who.Session)
	s.recordEverywhere(ctx, who, audit.SignOut, why)
	s.rests.mu.Lock()
	defer s.rests.mu.Unlock()
	delete(s.rests.at, who.Session)
}

// Rest is how long the person of a session may do nothing.
type Rest struct {
	Seconds int `json:"seconds" doc:"0 for ever"`
}

func (s *Server) restRoutes() {
	send(s, http.MethodPost, "/api/session/presence", "Say that the person is there",
		func(ctx context.Context, in *PanelInput) (*body[Rest], error) {
			who, err := s.signedIn(ctx, in.Panel)
			if err != nil {
				return nil, err
			}
			s.touch(who.Session)
			x, err := s.restLimit(ctx, who, s.host.Panel(ctx, in.Panel))
			return &body[Rest]{Rest{int(x.limit.Seconds())}}, problem(err)
		})
}
