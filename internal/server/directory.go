package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/host"
)

// The company's directory: its settings, by who manages the server, and the visits to its
// provider, which leave our pages and come back.

// DirectoryTryInput are settings that are tried before they are kept.
type DirectoryTryInput struct {
	Directory access.Directory `json:"directory"`
	Name      string           `json:"name,omitempty" maxLength:"60" doc:"whom to look for; by LDAP"`
}

// VisitOutcome tells what came of a visit; everything is empty while nobody came back.
type VisitOutcome struct {
	Name     string `json:"name,omitempty" doc:"that who was there signs in with"`
	FullName string `json:"fullName,omitempty"`
	Refused  string `json:"refused,omitempty" doc:"why nothing came of it"`
}

// redirect sends a browser elsewhere.
type redirect struct {
	Status   int
	Location string      `header:"Location"`
	Cookie   http.Cookie `header:"Set-Cookie"`
}

// visitCookie ties a way back to the browser that went. It is sent along from the
// provider's page, as the session's is not.
const visitCookie = "rr_visit"

const (
	visitPath = "/api/directory/visit"
	backPath  = "/api/directory/back"
)

func (s *Server) directoryRoutes() {
	get(s, "/api/directory", "The company's directory", func(ctx context.Context, in *PanelInput) (*body[*host.DirectoryShown], error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		shown, err := s.host.Directory(ctx, who)
		return &body[*host.DirectoryShown]{shown}, problem(err)
	})
	send(s, http.MethodPut, "/api/directory", "Choose the company's directory", func(ctx context.Context, in *struct {
		PanelInput
		Body access.Directory
	}) (*body[*host.DirectoryShown], error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		if err := s.host.SetDirectory(ctx, who, in.Body); err != nil {
			return nil, problem(err)
		}
		shown, err := s.host.Directory(ctx, who)
		return &body[*host.DirectoryShown]{shown}, problem(err)
	})
	send(s, http.MethodPost, "/api/directory/try", "Ask a directory by settings that are not kept yet", func(ctx context.Context, in *struct {
		PanelInput
		Body DirectoryTryInput
	}) (*body[*host.DirectoryTry], error) {
		who, err := s.manages(ctx, in.Panel)
		if err != nil {
			return nil, err
		}
		out, err := s.host.TryDirectory(ctx, who, in.Body.Directory, in.Body.Name)
		return &body[*host.DirectoryTry]{out}, problem(err)
	})
	send(s, http.MethodPost, "/api/directory/ask", "Ask the directory for its people now",
		func(ctx context.Context, in *PanelInput) (*struct{}, error) {
			if _, err := s.manages(ctx, in.Panel); err != nil {
				return nil, err
			}
			return nil, problem(s.host.AskDirectory(ctx))
		})
	get(s, "/api/directory/outcome", "What came of a visit", func(ctx context.Context, in *struct {
		Ticket string `query:"ticket" minLength:"16" maxLength:"64" doc:"of the signature; of a visit to sign in, what the way back named"`
	}) (*body[VisitOutcome], error) {
		by, why := s.host.VisitOutcome(s.sessions.Token(ctx), in.Ticket)
		return &body[VisitOutcome]{VisitOutcome{by.Login, by.Name, said(ctx, why)}}, nil
	})
	get(s, visitPath, "Visit the directory's provider, to sign in or for a signature", s.beginVisit)
	get(s, backPath, "Come back from the directory's provider", s.endVisit)
}

func (s *Server) beginVisit(ctx context.Context, in *struct {
	PanelInput
	Ticket string `query:"ticket" maxLength:"64" doc:"of a signature; none for signing in"`
}) (*redirect, error) {
	wish := host.Wish{Back: s.ownAddress(ctx) + backPath, Panel: in.Panel, From: from(ctx), Ticket: in.Ticket, Session: s.sessions.Token(ctx)}
	if in.Ticket != "" {
		if _, err := s.actor(ctx, in.Panel); err != nil {
			return nil, err
		}
	}
	address, state, err := s.host.BeginVisit(ctx, wish)
	if err != nil {
		return s.backTo(wish, state), nil
	}
	return &redirect{Status: http.StatusSeeOther, Location: address, Cookie: s.visitState(state)}, nil
}

// ownAddress is how the browser that asks reaches this server.
func (s *Server) ownAddress(ctx context.Context) string {
	at, _ := ctx.Value(hostKey{}).(string)
	if s.options.Certificate != nil {
		return "https://" + at
	}
	return "http://" + at
}

// visitState is the cookie with the state of a visit; an empty one takes it away.
func (s *Server) visitState(state string) http.Cookie {
	c := http.Cookie{Name: visitCookie, Value: state, Path: "/api/directory", MaxAge: 600, HttpOnly: true,
		Secure: s.options.Certificate != nil, SameSite: http.SameSiteLaxMode}
	if state == "" {
		c.MaxAge = -1
	}
	return c
}

func (s *Server) endVisit(ctx context.Context, in *struct {
	State string `query:"state" maxLength:"100"`
	Code  string `query:"code" maxLength:"4000"`
	Mine  string `cookie:"rr_visit"`
}) (*redirect, error) {
	if in.State == "" || in.State != in.Mine {
		return nil, because(http.StatusForbidden, say.New("this way back is not of a visit that began in this browser: begin anew"))
	}
	who, wish, err := s.host.EndVisit(ctx, in.State, in.Code)
	if err != nil || wish.Ticket != "" {
		return s.backTo(wish, in.State), nil
	}
	if old := wish.Session; old != "" {
		s.host.EndHolds(func(w door.Who) bool { return w.Session == old }, say.New("somebody else signed in"))
		s.live.end(old)
		if err := s.host.Sessions().Delete(old); err != nil {
			return nil, problem(err)
		}
	}
	s.recordEverywhere(ctx, who, audit.SignIn, "by the company's directory")
	if _, err := s.begin(ctx, who, "", false, wish.Panel); err != nil {
		return nil, err
	}
	return s.backTo(wish, ""), nil
}

// backTo sends a browser to our pages: to the page that a visit for a signature ends
// with, as the page that asks tells what came of it; otherwise to the start, naming the
// visit where that is to tell why it failed.
func (s *Server) backTo(wish host.Wish, failed string) *redirect {
	to := "/"
	switch {
	case wish.Ticket != "":
		to = "/visited"
	case failed != "":
		to = "/?visit=" + failed
	}
	return &redirect{Status: http.StatusSeeOther, Location: to, Cookie: s.visitState("")}
}
