package server

import (
	"context"
	"net/http"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/host"
)

// Looking as a role: an engineer sees the Desk with the rights that a role has in an
// area, in a session of their own, and changes nothing meanwhile.

// asKey is what a session holds of it: project, role and area, a line each.
const asKey = "as"

// LookAs is the role with whose rights a person looks.
type LookAs struct {
	Project string `json:"project"`
	Role    string `json:"role" doc:"its name"`
	Area    string `json:"area" doc:"its name; empty for the whole plant"`
}

func (s *Server) lookAsRoutes() {
	send(s, http.MethodPost, "/api/projects/{project}/look-as", "Look at the Desk with the rights of a role, changing nothing",
		func(ctx context.Context, in *struct {
			Scope
			Body struct {
				Role string `json:"role" maxLength:"64"`
				Area string `json:"area,omitempty" maxLength:"64" doc:"empty for the whole plant"`
			}
		}) (*meOutput, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			as := access.As{Project: p.ID(), Role: in.Body.Role, Area: in.Body.Area}
			if err := p.MayLookAs(as); err != nil {
				return nil, problem(err)
			}
			told := s.looksAs(&as)
			if err := p.Record(ctx, who, audit.People, strings.TrimSuffix("looks at the Desk as "+told.Role+", "+told.Area, ", ")); err != nil {
				return nil, problem(err)
			}
			s.sessions.Put(ctx, asKey, as.Project+"\n"+as.Role+"\n"+as.Area)
			s.anew(ctx, say.New("somebody looks as a role here"))
			return s.me(ctx, in.Panel)
		})
	send(s, http.MethodDelete, "/api/session/as", "End looking as a role", func(ctx context.Context, in *PanelInput) (*meOutput, error) {
		if _, err := s.signedIn(ctx, in.Panel); err != nil {
			return nil, err
		}
		s.sessions.Remove(ctx, asKey)
		s.anew(ctx, say.New("somebody looks as a role here"))
		return s.me(ctx, in.Panel)
	})
}

// anew ends what the session holds and has its pages connect again, with the rights
// that it has now.
func (s *Server) anew(ctx context.Context, why error) {
	token := s.sessions.Token(ctx)
	s.host.EndHolds(func(w door.Who) bool { return w.Session == token }, why)
	s.live.end(token)
}

// asRole is a person with the rights of the role as which the session looks, if it
// does.
func (s *Server) asRole(ctx context.Context, who host.Actor) host.Actor {
	parts := strings.Split(s.sessions.GetString(ctx, asKey), "\n")
	if len(parts) != 3 {
		return who
	}
	return who.Looks(access.As{Project: parts[0], Role: parts[1], Area: parts[2]})
}

// looksAs names a role and an area; nil where there is none.
func (s *Server) looksAs(as *access.As) *LookAs {
	if as == nil {
		return nil
	}
	out := &LookAs{Project: as.Project, Role: as.Role}
	p, err := s.host.Project(as.Project)
	if err != nil {
		return out
	}
	if version := p.Released(); version != nil {
		if r := version.Roles[as.Role]; r != nil {
			out.Role = r.Name
		}
		out.Area = version.AreaName(as.Area)
	}
	return out
}

// readsByPost are the operations that are asked by POST and change nothing.
func readsByPost(path string) bool {
	return strings.HasSuffix(path, "/sheets") || strings.HasSuffix(path, "/plans") || strings.HasSuffix(path, "/screen-errors")
}

// changes tells whether a request would change something.
func changes(r *http.Request) bool {
	return r.Method != http.MethodGet && r.Method != http.MethodHead && !readsByPost(r.URL.Path)
}

// errLooksOnly refuses a change from who looks as a role.
var errLooksOnly = say.New("you look at the Desk as a role: nothing is changed meanwhile; end it to work on")
