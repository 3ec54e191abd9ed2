package server

import (
	"context"
	"net/http"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/demo"
	"readyrail/internal/host"
)

const (
	personKey   = "person"
	panelCookie = "rr_panel"
)

// PersonInfo is the person signed in.
type PersonInfo struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Owner bool   `json:"owner"`
}

// ProjectAccess is a project with what the person may do in it.
type ProjectAccess struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Rights []string `json:"rights"`
}

// Tile is a name that a panel offers for signing in by PIN.
type Tile struct {
	Name     string `json:"name"`
	FullName string `json:"fullName"`
}

// Me is the state of a session.
type Me struct {
	Person     *PersonInfo     `json:"person,omitempty"`
	Panel      string          `json:"panel" doc:"the name of this panel, empty when the browser is none"`
	NeedsOwner bool            `json:"needsOwner"`
	Demo       []demo.Person   `json:"demo"`
	Tiles      []Tile          `json:"tiles"`
	Projects   []ProjectAccess `json:"projects"`
	ServerTime int64           `json:"serverTime" doc:"milliseconds since 1970"`
	Version    string          `json:"version"`
}

type meOutput struct{ Body Me }

// SignIn is what is typed at the sign-in page.
type SignIn struct {
	Name     string `json:"name" maxLength:"60"`
	Password string `json:"password,omitempty" maxLength:"200"`
	PIN      string `json:"pin,omitempty" maxLength:"20"`
}

// PanelInput carries the key of an enrolled browser.
type PanelInput struct {
	Panel string `cookie:"rr_panel"`
}

func (s *Server) sessionRoutes() {
	get(s, "/api/session", "Who is signed in", func(ctx context.Context, in *PanelInput) (*meOutput, error) {
		return s.me(ctx, in.Panel)
	})
	send(s, http.MethodPost, "/api/session", "Sign in", s.signIn)
	send(s, http.MethodDelete, "/api/session", "Sign out", func(ctx context.Context, in *PanelInput) (*struct{}, error) {
		who, err := s.actor(ctx, in.Panel)
		if err == nil {
			s.host.EndLeases(who, "signed out")
			s.live.end(s.sessions.Token(ctx))
			s.recordEverywhere(ctx, who, audit.SignOut)
		}
		return nil, problem(s.sessions.Destroy(ctx))
	})
	send(s, http.MethodPost, "/api/owner", "Make the first account", func(ctx context.Context, in *struct{ Body AccountInput }) (*meOutput, error) {
		who, err := s.host.CreateOwner(ctx, in.Body.account())
		if err != nil {
			return nil, problem(err)
		}
		return s.begin(ctx, who, "")
	})
}

func (s *Server) signIn(ctx context.Context, in *struct {
	PanelInput
	Body SignIn
}) (*meOutput, error) {
	panel := s.host.PanelName(ctx, in.Panel)
	who, err := s.host.SignIn(ctx, in.Body.Name, in.Body.Password, in.Body.PIN, panel)
	if err != nil {
		s.recordEverywhere(ctx, host.Actor{Name: in.Body.Name, Panel: panel}, audit.Failed)
		return nil, problem(err)
	}
	if old, err := s.actor(ctx, in.Panel); err == nil {
		s.host.EndLeases(old, "somebody else signed in")
		s.live.end(s.sessions.Token(ctx))
	}
	s.recordEverywhere(ctx, who, audit.SignIn)
	return s.begin(ctx, who, in.Panel)
}

// begin starts a session under a fresh token.
func (s *Server) begin(ctx context.Context, who host.Actor, panelKey string) (*meOutput, error) {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, problem(err)
	}
	s.sessions.Put(ctx, personKey, who.ID)
	return s.me(ctx, panelKey)
}

// recordEverywhere notes a sign-in in the trail of each project that the person
// has something to do with; a failed one in all.
func (s *Server) recordEverywhere(ctx context.Context, who host.Actor, what string) {
	for _, p := range s.host.Projects() {
		if what == audit.Failed || p.May(ctx, who, access.View, true) {
			p.Record(ctx, who, what, "")
		}
	}
}

func (s *Server) me(ctx context.Context, panelKey string) (*meOutput, error) {
	owner, err := s.host.HasOwner(ctx)
	if err != nil {
		return nil, problem(err)
	}
	out := Me{NeedsOwner: !owner, Demo: s.options.Demo, Panel: s.host.PanelName(ctx, panelKey), ServerTime: time.Now().UnixMilli(),
		Version: Version, Projects: []ProjectAccess{}, Tiles: []Tile{}}
	if out.Demo == nil {
		out.Demo = []demo.Person{}
	}
	if out.Panel != "" {
		people, err := s.host.Accounts(ctx)
		if err != nil {
			return nil, problem(err)
		}
		for _, a := range people {
			if a.HasPIN && !a.Disabled {
				out.Tiles = append(out.Tiles, Tile{a.Name, a.FullName})
			}
		}
	}
	who, err := s.actor(ctx, panelKey)
	if err != nil {
		return &meOutput{out}, nil
	}
	out.Person = &PersonInfo{who.ID, who.Name, who.Owner}
	for _, p := range s.host.Projects() {
		a := ProjectAccess{ID: p.ID(), Name: p.Draft().Site.Name, Rights: []string{}}
		for _, r := range access.Rights {
			if p.May(ctx, who, r.Right, true) {
				a.Rights = append(a.Rights, string(r.Right))
			}
		}
		if len(a.Rights) > 0 {
			out.Projects = append(out.Projects, a)
		}
	}
	return &meOutput{out}, nil
}

// actor returns who is signed in, at which panel.
func (s *Server) actor(ctx context.Context, panelKey string) (host.Actor, error) {
	id := s.sessions.GetString(ctx, personKey)
	if id == "" {
		return host.Actor{}, unauthorized()
	}
	who, err := s.host.Actor(ctx, id)
	if err != nil {
		return host.Actor{}, unauthorized()
	}
	who.Panel = s.host.PanelName(ctx, panelKey)
	return who, nil
}

// Scope is what every request about a project names.
type Scope struct {
	PanelInput
	Project string `path:"project" maxLength:"64"`
}

// enter finds the project and requires a right that is not about a place; the
// empty right asks for a session only.
func (s *Server) enter(ctx context.Context, in Scope, right access.Right) (host.Actor, *host.Project, error) {
	who, err := s.actor(ctx, in.Panel)
	if err != nil {
		return who, nil, err
	}
	p, err := s.host.Project(in.Project)
	if err != nil {
		return who, nil, problem(err)
	}
	if right != "" {
		if err := p.Require(ctx, who, right, ""); err != nil {
			return who, nil, problem(err)
		}
	}
	return who, p, nil
}
