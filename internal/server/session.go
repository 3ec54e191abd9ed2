package server

import (
	"cmp"
	"context"
	"errors"
	"net"
	"net/http"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/demo"
	"readyrail/internal/door"
	"readyrail/internal/host"
)

// What a session holds.
const (
	personKey = "person"
	epochKey  = "epoch"  // of the secret that was signed in with
	pinKey    = "pin"    // the project of the panel whose PIN pad was used; empty with a password
	sinceKey  = "since"  // when somebody signed in, in milliseconds since 1970
	placeKey  = "place"  // the panel, or the network address
	chooseKey = "choose" // the person has to choose a secret first
)

const panelCookie = "rr_panel"

// PersonInfo is the person signed in.
type PersonInfo struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Login  string `json:"login" doc:"signs in with it"`
	Owner  bool   `json:"owner"`
	Server bool   `json:"server" doc:"manages the server"`
	Nobody bool   `json:"nobody" doc:"nobody is signed in: the panel shows its project, to look at"`
	// As is set while the person looks with the rights of a role.
	Visit     string  `json:"visit,omitempty" doc:"id of the screen that they signed in for alone"`
	Directory bool    `json:"directory,omitempty" doc:"the company's directory has the name and the password"`
	Second    bool    `json:"second" doc:"the account asks for one-time codes, too"`
	As        *LookAs `json:"as,omitempty" doc:"the role with whose rights the person looks, changing nothing"`
	Choose    bool    `json:"choose" doc:"somebody else set the secret: the person has to choose one before anything else"`
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
	Person     *PersonInfo          `json:"person,omitempty"`
	Badges     bool                 `json:"badges" doc:"this panel takes badges"`
	AsksPIN    *Tile                `json:"asksPin,omitempty" doc:"nobody is signed in yet: whose PIN a badge asks for"`
	AsksCode   bool                 `json:"asksCode,omitempty" doc:"nobody is signed in yet: name and password are right, and a one-time code is asked for"`
	Panel      string               `json:"panel" doc:"the name of this panel, empty when the browser is none"`
	NeedsOwner bool                 `json:"needsOwner"`
	Directory  *host.DirectoryState `json:"directory,omitempty" doc:"the company's directory, where there is one"`
	Demo       []demo.Person        `json:"demo"`
	Tiles      []Tile               `json:"tiles"`
	Rest       int                  `json:"rest" doc:"seconds that the person may do nothing before they are signed out; 0 for ever"`
	Projects   []ProjectAccess      `json:"projects"`
	Broken     []host.Broken        `json:"broken" doc:"projects that could not be opened; told to who manages the server"`
	Build      string               `json:"build" doc:"names the built pages: those of another are to be loaded anew"`
	PanelOf    string               `json:"panelOf,omitempty" doc:"id of the project that the enrolled panel is of"`
	Notice     string               `json:"notice,omitempty" doc:"what the site says to who signs in"`
	Lengths    access.Lengths       `json:"lengths" doc:"of passwords and PINs that are chosen now"`
	ServerTime int64                `json:"serverTime" doc:"milliseconds since 1970"`
	Version    string               `json:"version"`
}

type meOutput struct{ Body Me }

// SignIn is what is typed at the sign-in page.
type SignIn struct {
	Name     string `json:"name,omitempty" maxLength:"60"`
	Badge    string `json:"badge,omitempty" maxLength:"64" doc:"number of a badge in the place of a name, at a panel that takes badges"`
	Password string `json:"password,omitempty" maxLength:"200"`
	PIN      string `json:"pin,omitempty" maxLength:"20"`
	Visit    string `json:"visit,omitempty" maxLength:"64" doc:"id of the screen that it is for alone: who was signed in is so again once it is left"`
	Code     string `json:"code,omitempty" maxLength:"20" doc:"of one use, where the account asks for it"`
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
	send(s, http.MethodDelete, "/api/session", "Sign out", func(ctx context.Context, in *struct {
		PanelInput
		Rest bool `query:"rest" doc:"the page found nobody there: refused while something is held or under way"`
	}) (*struct{}, error) {
		who, err := s.signedIn(ctx, in.Panel)
		if err != nil {
			return nil, problem(s.sessions.Destroy(ctx))
		}
		why := ""
		if in.Rest {
			if s.host.Busy(who) {
				s.touch(who.Session)
				return nil, because(http.StatusConflict, say.New("something of yours is held or under way: the session goes on"))
			}
			x, err := s.restLimit(ctx, who, s.host.Panel(ctx, in.PanelInput.Panel))
			if err != nil {
				return nil, problem(err)
			}
			why = restReason(x.limit)
		}
		s.signOut(ctx, who, why)
		return nil, problem(s.sessions.Destroy(ctx))
	})
	s.restRoutes()
	s.ownSessionRoutes()
	s.secondRoutes()
	s.visitRoutes()
	s.lookAsRoutes()
	send(s, http.MethodPost, "/api/session/secret", "Choose one's own password or PIN", s.choose)
	send(s, http.MethodPost, "/api/owner", "Make the first account",
		func(ctx context.Context, in *struct{ Body AccountInput }) (*meOutput, error) {
			who, err := s.host.CreateOwner(ctx, in.Body.account())
			if err != nil {
				return nil, problem(err)
			}
			return s.begin(ctx, who, "", false, "")
		})
}

func (s *Server) signIn(ctx context.Context, in *struct {
	PanelInput
	Body SignIn
}) (*meOutput, error) {
	panel := s.host.Panel(ctx, in.Panel)
	who, choose, err := s.host.SignIn(ctx, host.Secret{Name: in.Body.Name, Password: in.Body.Password, PIN: in.Body.PIN,
		Code: in.Body.Code, Badge: in.Body.Badge, Badges: panel.Badges,
		Panel: panel.Name, Project: panel.Project, From: from(ctx)})
	if errors.Is(err, host.ErrSecond) {
		return &meOutput{Me{AsksCode: true}}, nil
	}
	if asks := new(host.BadgeAsksPIN); errors.As(err, &asks) {
		return &meOutput{Me{AsksPIN: &Tile{asks.Name, asks.FullName}}}, nil
	}
	if err != nil {
		return nil, problem(err)
	}
	if old := s.sessions.Token(ctx); s.sessions.GetString(ctx, personKey) != "" {
		s.host.EndHolds(func(w door.Who) bool { return w.Session == old }, say.New("somebody else signed in"))
		s.live.end(old)
	}
	by := ""
	if in.Body.Badge != "" {
		by = "by badge"
	}
	s.recordEverywhere(ctx, who, audit.SignIn, by)
	pin := ""
	if in.Body.PIN != "" || in.Body.Badge != "" {
		pin = panel.Project
	}
	waits := s.waiting(ctx)
	out, err := s.begin(ctx, who, pin, choose, in.Panel)
	if err == nil && in.Body.Visit != "" && !choose {
		s.sessions.Put(ctx, visitKey, in.Body.Visit)
		s.sessions.Put(ctx, visitedKey, waits)
		out.Body.Person.Visit = in.Body.Visit
	}
	return out, err
}

// begin starts a session under a fresh token.
func (s *Server) begin(ctx context.Context, who host.Actor, pin string, choose bool, panelKey string) (*meOutput, error) {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, problem(err)
	}
	s.sessions.Put(ctx, personKey, who.ID)
	s.sessions.Put(ctx, epochKey, who.Epoch)
	s.sessions.Put(ctx, pinKey, pin)
	s.sessions.Put(ctx, chooseKey, choose)
	for _, key := range []string{asKey, visitKey, visitedKey} {
		s.sessions.Remove(ctx, key)
	}
	s.sessions.Put(ctx, sinceKey, time.Now().UnixMilli())
	s.sessions.Put(ctx, placeKey, cmp.Or(who.Panel, who.From))
	return s.me(ctx, panelKey)
}

// choose sets a person's own secret: after one that somebody else set, or with
// the present one as a proof. Other sessions of the person end.
func (s *Server) choose(ctx context.Context, in *struct {
	PanelInput
	Body struct {
		Present  string `json:"present,omitempty" maxLength:"200" doc:"the present password, or the PIN at a panel; not after a sign-in with a secret that somebody else set"`
		Password string `json:"password,omitempty" maxLength:"200"`
		PIN      string `json:"pin,omitempty" maxLength:"20"`
	}
}) (*meOutput, error) {
	who, err := s.signedIn(ctx, in.Panel)
	if err != nil {
		return nil, err
	}
	if !s.sessions.GetBool(ctx, chooseKey) {
		if err := s.host.Proves(ctx, who, in.Body.Present); err != nil {
			return nil, problem(err)
		}
	}
	next, err := s.host.Choose(ctx, who, in.Body.Password, in.Body.PIN)
	if err != nil {
		return nil, problem(err)
	}
	s.endPerson(ctx, who.ID, say.New("the password was changed"))
	s.sessions.Put(ctx, epochKey, next.Epoch)
	s.sessions.Put(ctx, chooseKey, false)
	for _, p := range s.host.Projects() {
		if p.May(ctx, who, access.View, true) {
			if err := p.Record(ctx, who, audit.People, "chose a secret of their own"); err != nil {
				return nil, problem(err)
			}
		}
	}
	return s.me(ctx, in.Panel)
}

// recordEverywhere notes a sign-in in the trail of each project that the person
// has something to do with. It is no reason to keep anybody out that this could
// not be written; it is owed and written later.
func (s *Server) recordEverywhere(ctx context.Context, who host.Actor, what, why string) {
	for _, p := range s.host.Projects() {
		if p.May(ctx, who, access.View, true) {
			p.Note(ctx, who, what, why)
		}
	}
}

func (s *Server) me(ctx context.Context, panelKey string) (*meOutput, error) {
	owner, err := s.host.HasOwner(ctx)
	if err != nil {
		return nil, problem(err)
	}
	panel := s.host.Panel(ctx, panelKey)
	out := Me{NeedsOwner: !owner, Demo: s.options.Demo, Panel: panel.Name, ServerTime: time.Now().UnixMilli(),
		Build: s.build, PanelOf: panel.Project, Notice: s.options.Notice,
		Version: Version, Badges: panel.Badges != host.NoBadges, Lengths: s.host.Lengths(),
		Projects: []ProjectAccess{}, Broken: []host.Broken{}, Tiles: []Tile{}}
	if d := s.host.DirectoryState(); d.Kind != access.NoDirectory {
		out.Directory = &d
	}
	if out.Demo == nil {
		out.Demo = []demo.Person{}
	}
	if out.Panel != "" {
		people, err := s.host.PeopleAt(ctx, panel)
		if err != nil {
			return nil, problem(err)
		}
		for _, a := range people {
			if a.HasPIN && !a.Disabled && !a.Gone && !a.Over {
				out.Tiles = append(out.Tiles, Tile{a.Name, a.FullName})
			}
		}
	}
	who, err := s.signedIn(ctx, panelKey)
	if err != nil {
		// What is left of a session that is over would stand in the way.
		if hasSession(ctx) {
			if err := s.sessions.Destroy(ctx); err != nil {
				return nil, problem(err)
			}
		}
		var watches bool
		if who, watches = panel.Watcher(); !watches {
			return &meOutput{out}, nil
		}
	}
	out.Person = &PersonInfo{ID: who.ID, Name: who.Name, Login: who.Login, Owner: who.Owner, Server: who.Server, Nobody: who.Watches != "",
		As: s.looksAs(who.As), Choose: s.sessions.GetBool(ctx, chooseKey), Second: who.Second,
		Directory: who.Directory, Visit: s.sessions.GetString(ctx, visitKey)}
	if who.Watches == "" {
		x, err := s.restLimit(ctx, who, panel)
		if err != nil {
			return nil, problem(err)
		}
		out.Rest = int(x.limit.Seconds())
	}
	for _, p := range s.host.Projects() {
		if pin := s.sessions.GetString(ctx, pinKey); pin != "" && pin != p.ID() || out.Person.Choose {
			continue
		}
		a := ProjectAccess{ID: p.ID(), Name: p.Draft().Site().Name, Rights: []string{}}
		for _, r := range access.Rights {
			if p.May(ctx, who, r.Right, true) {
				a.Rights = append(a.Rights, string(r.Right))
			}
		}
		if len(a.Rights) > 0 {
			out.Projects = append(out.Projects, a)
		}
	}
	if s.sessions.GetString(ctx, pinKey) == "" && !out.Person.Choose {
		out.Broken = s.host.BrokenFor(who)
	}
	return &meOutput{out}, nil
}

// signedIn returns who is signed in, at which panel, whether or not they have
// to choose a secret first.
func (s *Server) signedIn(ctx context.Context, panelKey string) (host.Actor, error) {
	id := s.sessions.GetString(ctx, personKey)
	if id == "" {
		return host.Actor{}, unauthorized()
	}
	who, err := s.host.Actor(ctx, id)
	if err != nil || who.Epoch != s.sessions.GetInt64(ctx, epochKey) {
		return host.Actor{}, unauthorized()
	}
	panel := s.host.Panel(ctx, panelKey)
	who.Panel, who.Session, who.From = panel.Name, s.sessions.Token(ctx), from(ctx)
	if who.ByPIN = s.sessions.GetString(ctx, pinKey) != ""; who.Second && who.ByPIN {
		who.Server = false // managing the server is no work at the Desk
	}
	if over, err := s.rested(ctx, who, panel); over || err != nil {
		return host.Actor{}, cmp.Or(err, unauthorized())
	}
	return s.asRole(ctx, who), nil
}

// actor returns who is signed in and may go on; at a panel that allows it, who
// looks with nobody signed in. A session that is over is said to be over first,
// so that no page shows a person who no longer is there.
func (s *Server) actor(ctx context.Context, panelKey string) (host.Actor, error) {
	who, err := s.signedIn(ctx, panelKey)
	if err != nil && !hasSession(ctx) {
		if watcher, ok := s.host.Panel(ctx, panelKey).Watcher(); ok {
			watcher.From = from(ctx)
			return watcher, nil
		}
	}
	if err == nil && s.sessions.GetBool(ctx, chooseKey) {
		err = because(http.StatusForbidden, say.New("somebody else set your password or PIN: choose your own first"))
	}
	if changing, _ := ctx.Value(changeKey{}).(bool); err == nil && changing && who.As != nil {
		err = because(http.StatusForbidden, errLooksOnly)
	}
	return who, err
}

type (
	fromKey    struct{}
	sessionKey struct{}
	changeKey  struct{}
	hostKey    struct{}
)

// hasSession tells whether a request brought a session, valid or not.
func hasSession(ctx context.Context) bool {
	has, _ := ctx.Value(sessionKey{}).(bool)
	return has
}

// from is the network address that a request comes from.
func from(ctx context.Context) string {
	address, _ := ctx.Value(fromKey{}).(string)
	return address
}

// withFrom keeps a request's address in its context, and whether it brought a
// session.
func (s *Server) withFrom(r *http.Request) *http.Request {
	address, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		address = r.RemoteAddr
	}
	ctx := context.WithValue(r.Context(), fromKey{}, address)
	ctx = context.WithValue(ctx, changeKey{}, changes(r))
	ctx = context.WithValue(ctx, hostKey{}, r.Host)
	return r.WithContext(context.WithValue(ctx, sessionKey{}, cookie(r, s.sessions.Cookie.Name) != ""))
}

// Scope is what every request about a project names.
type Scope struct {
	PanelInput
	Project string `path:"project" maxLength:"64"`
}

// looking is asked for what is read of the draft: whoever builds it, proves it
// or holds its tags may.
const looking access.Right = "looking"

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
	if pin := s.sessions.GetString(ctx, pinKey); pin != "" && pin != p.ID() {
		return who, nil, problem(&host.Refused{Why: say.New("a PIN signs in to the panel's own project: sign in with your password here")})
	}
	switch right {
	case "":
	case looking:
		err = p.MayLookAtDraft(ctx, who)
	default:
		err = p.Require(ctx, who, right, "")
	}
	if err != nil {
		return who, nil, problem(err)
	}
	return who, p, nil
}
