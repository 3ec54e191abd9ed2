package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/host"
)

// The one-time codes of accounts: one's own, and another's taken away by who may
// change the account, so that a lost phone keeps nobody out.

// PresentInput is one's present secret as a proof.
type PresentInput struct {
	PanelInput
	Body struct {
		Present string `json:"present" maxLength:"200" doc:"the present password"`
	}
}

func (s *Server) secondRoutes() {
	send(s, http.MethodPost, "/api/session/second", "Offer a secret of one-time codes to one's own account",
		func(ctx context.Context, in *PresentInput) (*body[*host.SecondOffer], error) {
			who, err := s.proved(ctx, in)
			if err != nil {
				return nil, err
			}
			offer, err := s.host.OfferSecond(ctx, who)
			return &body[*host.SecondOffer]{offer}, problem(err)
		})
	send(s, http.MethodPut, "/api/session/second", "Ask for one-time codes from now on, proved by one",
		func(ctx context.Context, in *struct {
			PanelInput
			Body struct {
				Code string `json:"code" maxLength:"20"`
			}
		}) (*meOutput, error) {
			who, err := s.actor(ctx, in.Panel)
			if err != nil {
				return nil, err
			}
			next, err := s.host.ProveSecond(ctx, who, in.Body.Code)
			if err != nil {
				return nil, problem(err)
			}
			return s.secondChanged(ctx, in.Panel, who, next, "asks for one-time codes at sign-in")
		})
	send(s, http.MethodPost, "/api/session/second/end", "Ask for no one-time codes any more",
		func(ctx context.Context, in *PresentInput) (*meOutput, error) {
			who, err := s.proved(ctx, in)
			if err != nil {
				return nil, err
			}
			next, err := s.host.EndSecond(ctx, who.ID)
			if err != nil {
				return nil, problem(err)
			}
			return s.secondChanged(ctx, in.Panel, who, next, "asks for no one-time codes any more")
		})
	send(s, http.MethodDelete, "/api/projects/{project}/people/{id}/second", "Take an account's one-time codes away",
		func(ctx context.Context, in *ThingInput) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.People)
			if err != nil {
				return nil, err
			}
			if err := p.MayChange(ctx, who, in.ID); err != nil {
				return nil, problem(err)
			}
			next, err := s.host.EndSecond(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			s.endPerson(ctx, in.ID, say.New("the one-time codes were taken away"))
			return nil, problem(p.Record(ctx, who, audit.People, "account "+next.Login+": one-time codes taken away"))
		})
}

// proved is who is signed in by password and gives the present one.
func (s *Server) proved(ctx context.Context, in *PresentInput) (host.Actor, error) {
	who, err := s.actor(ctx, in.Panel)
	if err != nil {
		return who, err
	}
	if who.ByPIN || who.Watches != "" {
		return who, because(http.StatusForbidden, say.New("one-time codes are set up after a sign-in by password"))
	}
	return who, problem(s.host.Proves(ctx, who, in.Body.Present))
}

// secondChanged ends the person's other sessions, and has their trails say why.
func (s *Server) secondChanged(ctx context.Context, panel string, who, next host.Actor, what string) (*meOutput, error) {
	s.endPerson(ctx, who.ID, say.New("the one-time codes were changed"))
	s.sessions.Put(ctx, epochKey, next.Epoch)
	s.recordEverywhere(ctx, who, audit.People, what)
	return s.me(ctx, panel)
}
