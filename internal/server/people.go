package server

import (
	"context"
	"errors"
	"net/http"
	"strconv"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/host"
)

// AccountInput is a new account, or a change to one.
type AccountInput struct {
	Name     string `json:"name" maxLength:"60" doc:"signs in with it"`
	FullName string `json:"fullName" maxLength:"80"`
	Password string `json:"password,omitempty" maxLength:"200" doc:"empty leaves the old one"`
	PIN      string `json:"pin,omitempty" maxLength:"20" doc:"empty leaves the old one"`
	Disabled bool   `json:"disabled,omitempty"`
	Until    string `json:"until,omitempty" maxLength:"10" doc:"the last day, 2026-12-31; empty for no end"`
	Renew    bool   `json:"renew,omitempty" doc:"a new password is to be chosen at the next sign-in"`
	Server   bool   `json:"server,omitempty" doc:"manages the server; the owner gives and takes it"`
}

func (a AccountInput) account() host.NewAccount {
	return host.NewAccount{Name: a.Name, FullName: a.FullName, Password: a.Password, PIN: a.PIN, Disabled: a.Disabled,
		Until: a.Until, Renew: a.Renew, Server: a.Server}
}

// PersonRow is a person with the roles in a project.
type PersonRow struct {
	host.Account
	Grants []access.Grant `json:"grants"`
}

func (s *Server) peopleRoutes() {
	get(s, "/api/projects/{project}/people", "The people and their roles", func(ctx context.Context, in *Scope) (*body[[]PersonRow], error) {
		who, p, err := s.enter(ctx, *in, access.People)
		if err != nil {
			return nil, err
		}
		accounts, err := p.Accounts(ctx, who)
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
		return nil, problem(p.GiveRoles(ctx, who, in.ID, in.Body))
	})
	s.badgeRoutes()
	s.ruleRoutes()
	s.lockRoutes()
	s.panelRoutes()
}

func (s *Server) putAccount(ctx context.Context, in Scope, id string, a AccountInput) (*body[host.Account], error) {
	who, p, err := s.enter(ctx, in, access.People)
	if err != nil {
		return nil, err
	}
	if id != "" {
		if err := p.MayChange(ctx, who, id); err != nil {
			return nil, problem(err)
		}
	}
	n := a.account()
	n.Home = p.ID()
	out, err := s.host.PutAccount(ctx, who, id, n)
	if err != nil {
		return nil, problem(err)
	}
	said := "account " + out.Name
	changed := a.Password != "" || a.PIN != ""
	switch {
	case out.Disabled, out.Over:
		s.endPerson(ctx, out.ID, say.New("the account was switched off"))
		said += ", switched off"
	case changed:
		s.endPerson(ctx, out.ID, say.New("the password was changed"))
	}
	if out.Until != "" {
		said += ", until " + out.Until
	}
	if out.Renew {
		said += ", a new password is to be chosen"
	}
	if changed && out.SetBy != "" {
		said += ", with a secret set by " + who.Name + " for one sign-in"
	}
	return &body[host.Account]{out}, problem(p.Record(ctx, who, audit.People, said))
}

// endPerson ends what a person holds and looks at, but for the session that
// asks.
func (s *Server) endPerson(ctx context.Context, id string, why error) {
	mine := s.sessions.Token(ctx)
	s.host.EndHolds(func(w door.Who) bool { return w.ID == id && w.Session != mine }, why)
	s.live.endPerson(id, mine)
}

func (s *Server) lockRoutes() {
	send(s, http.MethodDelete, "/api/projects/{project}/people/{id}/lock", "Let an account be signed in to again at once",
		func(ctx context.Context, in *ThingInput) (*body[host.Account], error) {
			who, p, err := s.enter(ctx, in.Scope, access.People)
			if err != nil {
				return nil, err
			}
			if err := p.MayChange(ctx, who, in.ID); err != nil {
				return nil, problem(err)
			}
			out, err := s.host.Unlock(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.Account]{out}, problem(p.Record(ctx, who, audit.People, "account "+out.Name+": the lock of its sign-in was lifted"))
		})
	get(s, "/api/failed-sign-ins", "Runs of sign-ins that failed, newest first",
		func(ctx context.Context, in *PanelInput) (*body[[]host.FailedRun], error) {
			if _, err := s.manages(ctx, in.Panel); err != nil {
				return nil, err
			}
			list, err := s.host.FailedRuns(ctx)
			return &body[[]host.FailedRun]{list}, problem(err)
		})
}

// PanelRow is a panel and whether it is connected.
type PanelRow struct {
	host.PanelInfo
	Open   bool   `json:"open" doc:"it is connected now"`
	Person string `json:"person" doc:"who is signed in there; empty where nobody is"`
}

func (s *Server) panelRoutes() {
	get(s, "/api/projects/{project}/panels", "The enrolled panels", func(ctx context.Context, in *Scope) (*body[[]PanelRow], error) {
		_, p, err := s.enter(ctx, *in, access.Panels)
		if err != nil {
			return nil, err
		}
		list, err := p.Panels(ctx)
		if err != nil {
			return nil, problem(err)
		}
		at := s.live.people()
		out := make([]PanelRow, len(list))
		for i, panel := range list {
			person, open := at[panel.Name]
			out[i] = PanelRow{panel, open, person}
		}
		return &body[[]PanelRow]{out}, nil
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
		key, err := p.Enrol(ctx, who, in.Body.Name)
		if err != nil {
			return nil, problem(err)
		}
		who.Panel = in.Body.Name
		err = p.Record(ctx, who, audit.Enrol, in.Body.Name)
		return &cookieOutput{http.Cookie{Name: panelCookie, Value: key, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode,
			Secure: s.options.Certificate != nil, Expires: time.Now().AddDate(5, 0, 0)}}, problem(err)
	})
	send(s, http.MethodPut, "/api/projects/{project}/panels/{id}", "Say how a panel behaves",
		func(ctx context.Context, in *struct {
			ThingInput
			Body struct {
				Looks  bool   `json:"looks" doc:"it shows the project with nobody signed in"`
				Rest   int    `json:"rest,omitempty" doc:"minutes without a touch after which its person is signed out; 0 for never"`
				Badges string `json:"badges,omitempty" enum:",alone,pin" doc:"how it takes badges: alone, with the PIN of its person, or not"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Panels)
			if err != nil {
				return nil, err
			}
			if err := p.SetPanel(ctx, host.PanelInfo{ID: in.ID, Looks: in.Body.Looks, Rest: in.Body.Rest, Badges: in.Body.Badges}); err != nil {
				return nil, problem(err)
			}
			s.rests.askAgain()
			says := "shows nothing with nobody signed in"
			if in.Body.Looks {
				says = "shows the project with nobody signed in"
			} else {
				s.live.endPerson(host.WatcherID(in.ID), "")
			}
			switch in.Body.Badges {
			case host.BadgeAlone:
				says += ", takes badges alone"
			case host.BadgeWithPIN:
				says += ", takes badges with a PIN"
			}
			if in.Body.Rest > 0 {
				says += ", signs out " + restReason(time.Duration(in.Body.Rest)*time.Minute)
			}
			return nil, problem(p.Record(ctx, who, audit.Enrol, says+": "+in.ID))
		})
	send(s, http.MethodDelete, "/api/projects/{project}/panels/{id}", "Take a panel's enrolment back",
		func(ctx context.Context, in *ThingInput) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Panels)
			if err != nil {
				return nil, err
			}
			if err := p.RemovePanel(ctx, in.ID); err != nil {
				return nil, problem(err)
			}
			s.live.endPerson(host.WatcherID(in.ID), "")
			return nil, problem(p.Record(ctx, who, audit.Enrol, "taken back: "+in.ID))
		})
}

type cookieOutput struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
}

func asDenied(err error, into **access.Denied) bool { return errors.As(err, into) }

func itoa(n int64) string { return strconv.FormatInt(n, 10) }
