package server

import (
	"context"
	"errors"
	"net/http"
	"strconv"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/host"
)

// AccountInput is a new account, or a change to one.
type AccountInput struct {
	Name     string `json:"name" maxLength:"60" doc:"signs in with it"`
	FullName string `json:"fullName" maxLength:"80"`
	Password string `json:"password,omitempty" maxLength:"200" doc:"empty leaves the old one"`
	PIN      string `json:"pin,omitempty" maxLength:"20" doc:"empty leaves the old one"`
	Disabled bool   `json:"disabled,omitempty"`
}

func (a AccountInput) account() host.NewAccount {
	return host.NewAccount{Name: a.Name, FullName: a.FullName, Password: a.Password, PIN: a.PIN, Disabled: a.Disabled}
}

// PersonRow is a person with the roles in a project.
type PersonRow struct {
	host.Account
	Grants []access.Grant `json:"grants"`
}

func (s *Server) peopleRoutes() {
	get(s, "/api/projects/{project}/people", "The people and their roles", func(ctx context.Context, in *Scope) (*body[[]PersonRow], error) {
		_, p, err := s.enter(ctx, *in, access.People)
		if err != nil {
			return nil, err
		}
		accounts, err := s.host.Accounts(ctx)
		if err != nil {
			return nil, problem(err)
		}
		grants, err := p.Grants(ctx)
		if err != nil {
			return nil, problem(err)
		}
		out := []PersonRow{}
		for _, a := range accounts {
			r := PersonRow{a, []access.Grant{}}
			for _, g := range grants {
				if g.Person == a.ID {
					r.Grants = append(r.Grants, g)
				}
			}
			out = append(out, r)
		}
		return &body[[]PersonRow]{out}, nil
	})
	send(s, http.MethodPost, "/api/projects/{project}/people", "Add an account", func(ctx context.Context, in *struct {
		Scope
		Body AccountInput
	}) (*body[host.Account], error) {
		return s.putAccount(ctx, in.Scope, "", in.Body)
	})
	send(s, http.MethodPut, "/api/projects/{project}/people/{id}", "Change an account", func(ctx context.Context, in *struct {
		ThingInput
		Body AccountInput
	}) (*body[host.Account], error) {
		return s.putAccount(ctx, in.Scope, in.ID, in.Body)
	})
	send(s, http.MethodPut, "/api/projects/{project}/people/{id}/grants", "Give and take roles", func(ctx context.Context, in *struct {
		ThingInput
		Body []access.Grant
	}) (*struct{}, error) {
		who, p, err := s.enter(ctx, in.Scope, access.People)
		if err != nil {
			return nil, err
		}
		if err := p.SetGrants(ctx, in.ID, in.Body); err != nil {
			return nil, problem(err)
		}
		return nil, problem(p.Record(ctx, who, audit.People, "roles of account "+in.ID))
	})
	s.panelRoutes()
}

func (s *Server) putAccount(ctx context.Context, in Scope, id string, a AccountInput) (*body[host.Account], error) {
	who, p, err := s.enter(ctx, in, access.People)
	if err != nil {
		return nil, err
	}
	if id != "" {
		if err := s.host.MayChange(ctx, who, id); err != nil {
			return nil, problem(err)
		}
	}
	out, err := s.host.PutAccount(ctx, id, a.account())
	if err != nil {
		return nil, problem(err)
	}
	if out.Disabled {
		s.host.EndLeases(host.Actor{ID: out.ID}, "the account was switched off")
		s.live.endPerson(out.ID)
	}
	return &body[host.Account]{out}, problem(p.Record(ctx, who, audit.People, "account "+out.Name))
}

func (s *Server) panelRoutes() {
	get(s, "/api/projects/{project}/panels", "The enrolled panels", func(ctx context.Context, in *Scope) (*body[[]host.PanelInfo], error) {
		_, _, err := s.enter(ctx, *in, access.Panels)
		if err != nil {
			return nil, err
		}
		list, err := s.host.Panels(ctx)
		return &body[[]host.PanelInfo]{list}, problem(err)
	})
	send(s, http.MethodPost, "/api/projects/{project}/panels", "Enrol this browser as a panel", func(ctx context.Context, in *struct {
		Scope
		Body struct {
			Name string `json:"name" maxLength:"40"`
		}
	}) (*cookieOutput, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Panels)
		if err != nil {
			return nil, err
		}
		key, err := s.host.Enrol(ctx, who, in.Body.Name)
		if err != nil {
			return nil, problem(err)
		}
		who.Panel = in.Body.Name
		err = p.Record(ctx, who, audit.Enrol, in.Body.Name)
		return &cookieOutput{http.Cookie{Name: panelCookie, Value: key, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode,
			Secure: s.options.TLS, Expires: time.Now().AddDate(5, 0, 0)}}, problem(err)
	})
	send(s, http.MethodDelete, "/api/projects/{project}/panels/{id}", "Take a panel's enrolment back", func(ctx context.Context, in *ThingInput) (*struct{}, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Panels)
		if err != nil {
			return nil, err
		}
		if err := s.host.RemovePanel(ctx, in.ID); err != nil {
			return nil, problem(err)
		}
		return nil, problem(p.Record(ctx, who, audit.Enrol, "taken back: "+in.ID))
	})
}

type cookieOutput struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
}

func asDenied(err error, into **access.Denied) bool { return errors.As(err, into) }

func itoa(n int64) string { return strconv.FormatInt(n, 10) }
