package host

import (
	"context"
	"errors"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/directory"
	"readyrail/internal/store"
)

// companyDirectory is the company's directory as this server asks it.
type companyDirectory struct {
	visits visits
	rounds sync.Mutex // one asks for the people at a time: what renews somebody's leave counts once

	mu    sync.Mutex
	asks  askedDirectory
	down  time.Time // since when it doesn't answer; zero while it does
	why   error     // that it doesn't
	round time.Time // when its people were last asked for
}

// askedDirectory is a directory by its settings; one of the two ways is set where there is
// one.
type askedDirectory struct {
	of     access.Directory
	ldap   *directory.LDAP
	openID *directory.OpenID
}

// asker is the way that is set; nil for none.
func (d askedDirectory) asker() directory.Asker {
	switch {
	case d.ldap != nil:
		return d.ldap
	case d.openID != nil:
		return d.openID
	}
	return nil
}

// DirectoryState is what people are told of the directory before they sign in.
type DirectoryState struct {
	Kind  access.DirectoryKind `json:"kind" enum:",ldap,openid"`
	Title string               `json:"title"`
	Down  *time.Time           `json:"down,omitempty" doc:"since when it does not answer: only this server's own accounts sign in"`
}

// DirectoryShown is the directory as who manages the server sees it.
type DirectoryShown struct {
	Settings access.Directory `json:"settings"`
	State    DirectoryState   `json:"state"`
	Why      string           `json:"why,omitempty" doc:"why it does not answer"`
	Asked    *time.Time       `json:"asked,omitempty" doc:"when its people were last asked for"`
	People   int              `json:"people" doc:"who have an account here"`
	Gone     int              `json:"gone" doc:"of those, whom it no longer has"`
}

const directorySetting = "directory"

func (d *companyDirectory) now() askedDirectory {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.asks
}

// openDirectory takes the settings that were kept. A directory that cannot be asked, its
// credential gone, say, is none: the server starts, and says so.
func (h *Host) openDirectory(ctx context.Context) error {
	var of access.Directory
	if err := h.server.Setting(ctx, directorySetting, &of); errors.Is(err, ErrNotFound) {
		return nil
	} else if err != nil {
		return err
	}
	asks, err := h.asks(of)
	d := &h.directory
	d.mu.Lock()
	defer d.mu.Unlock()
	d.asks, d.down, d.why = asks, time.Time{}, err
	if err != nil {
		h.log.Error("the company's directory cannot be asked", "error", err)
		d.down = time.Now()
	}
	return nil
}

// asks readies a directory to be asked.
func (h *Host) asks(of access.Directory) (d askedDirectory, err error) {
	d.of = of
	if of.Kind == access.NoDirectory {
		return d, nil
	}
	s, err := h.secret(of.Credential, of.Host())
	if err != nil {
		return d, err
	}
	if s.Password == "" {
		return d, refused("the vault's entry %s has no password: the directory takes one", of.Credential)
	}
	by := directory.Credential{User: s.User, Password: s.Password}
	if of.Kind == access.LDAP {
		d.ldap, err = directory.NewLDAP(of, by)
	} else {
		d.openID, err = directory.NewOpenID(of, by)
	}
	if err != nil {
		return askedDirectory{of: of}, refused("%w", err)
	}
	return d, nil
}

// DirectoryState tells what people are told of the directory.
func (h *Host) DirectoryState() DirectoryState {
	d := &h.directory
	d.mu.Lock()
	defer d.mu.Unlock()
	out := DirectoryState{Kind: d.asks.of.Kind, Title: d.asks.of.Title}
	if !d.down.IsZero() {
		at := d.down
		out.Down = &at
	}
	return out
}

// Directory shows the settings; who manages the server sees them.
func (h *Host) Directory(ctx context.Context, who Actor) (*DirectoryShown, error) {
	if !who.Server {
		return nil, errManages
	}
	people, err := h.server.People(ctx)
	if err != nil {
		return nil, err
	}
	d := &h.directory
	d.mu.Lock()
	out := &DirectoryShown{Settings: d.asks.of.Whole()}
	if d.why != nil {
		out.Why = d.why.Error()
	}
	if at := d.round; !at.IsZero() {
		out.Asked = &at
	}
	d.mu.Unlock()
	out.State = h.DirectoryState()
	for _, p := range people {
		if p.Subject != "" {
			out.People++
		}
		if p.Gone {
			out.Gone++
		}
	}
	return out, nil
}

// readyDirectory checks settings by a person.
func (h *Host) readyDirectory(who Actor, of access.Directory) (askedDirectory, error) {
	if !who.Server {
		return askedDirectory{}, errManages
	}
	of = of.Whole()
	if err := of.Check(); err != nil {
		return askedDirectory{}, refused("%w", err)
	}
	for _, m := range of.Members {
		p, err := h.Project(m.Project)
		switch {
		case err != nil:
			return askedDirectory{}, refused("group %s: there is no project %s", m.Group, m.Project)
		case !p.Draft().Has("role", m.Role):
			return askedDirectory{}, refused("group %s: there is no role %s", m.Group, m.Role)
		case m.Area != "" && !p.Draft().HasArea(m.Area):
			return askedDirectory{}, refused("group %s: there is no area %s", m.Group, m.Area)
		}
	}
	return h.asks(of)
}

// SetDirectory chooses the directory; who manages the server may. Its people are asked
// for at once.
func (h *Host) SetDirectory(ctx context.Context, who Actor, of access.Directory) error {
	asks, err := h.readyDirectory(who, of)
	if err != nil {
		return err
	}
	if err := h.server.PutSetting(ctx, directorySetting, asks.of); err != nil {
		return err
	}
	d := &h.directory
	d.mu.Lock()
	d.asks, d.down, d.why = asks, time.Time{}, nil
	d.mu.Unlock()
	said := "none from now on"
	if asks.of.Kind != access.NoDirectory {
		said = asks.of.Title + " at " + asks.of.Address
	}
	h.noteDirectory(ctx, who, said)
	return h.AskDirectory(ctx)
}

// DirectoryTry is what the directory says of a name.
type DirectoryTry struct {
	Name     string   `json:"name,omitempty"`
	FullName string   `json:"fullName,omitempty"`
	Groups   []string `json:"groups" doc:"that the directory has the person in"`
	Roles    []string `json:"roles" doc:"that those give: role, area and project"`
}

// TryDirectory asks a directory by settings that need not be kept yet: whether it
// answers, and by LDAP, whom it has by a name and which roles they would get.
func (h *Host) TryDirectory(ctx context.Context, who Actor, of access.Directory, name string) (*DirectoryTry, error) {
	asks, err := h.readyDirectory(who, of)
	if err != nil {
		return nil, err
	}
	out := &DirectoryTry{Groups: []string{}, Roles: []string{}}
	asker := asks.asker()
	if asker == nil {
		return nil, refused("choose first how the directory is asked")
	}
	if err := asker.Reach(ctx); err != nil {
		return nil, refused("%s does not answer: %w", asks.of.Title, err)
	}
	if name = strings.TrimSpace(name); name == "" || asks.ldap == nil {
		return out, nil
	}
	m, err := asks.ldap.ByName(ctx, name)
	if errors.Is(err, directory.ErrGone) {
		return nil, refused("%s answers, and has nobody by the name %s", asks.of.Title, name)
	}
	if err != nil {
		return nil, refused("%w", err)
	}
	out.Name, out.FullName = m.Name, m.FullName
	out.Groups = append(out.Groups, m.Groups...)
	for _, p := range h.Projects() {
		for _, g := range asks.of.RolesIn(p.id, m.Groups) {
			out.Roles = append(out.Roles, p.rolesTold([]access.Grant{g})+" · "+p.Draft().Site().Name)
		}
	}
	return out, nil
}

// answered keeps whether the directory answers, by how a question to it ended, and has
// the trails say when that changes.
func (d *companyDirectory) answered(h *Host, err error) {
	var down *directory.Down
	is := errors.As(err, &down)
	d.mu.Lock()
	was := !d.down.IsZero()
	title := d.asks.of.Title
	switch {
	case is && !was:
		d.down = time.Now()
	case !is:
		d.down = time.Time{}
	}
	d.why = nil
	if is {
		d.why = err
	}
	d.mu.Unlock()
	if is == was {
		return
	}
	said, kind, what, text := "answers again", store.SystemEntry, "directory-back", ""
	if is {
		said = "does not answer: " + err.Error()
		kind, what, text = store.TroubleEntry, "directory-lost", err.Error()
		h.log.Error("the company's directory does not answer", "error", err)
	}
	for _, p := range h.Projects() {
		p.event(kind, what, title, text, Actor{})
	}
	h.noteDirectory(context.Background(), Actor{Name: title}, said)
}

// noteDirectory has every trail say what became of the directory that they share.
func (h *Host) noteDirectory(ctx context.Context, who Actor, said string) {
	for _, p := range h.Projects() {
		p.Note(ctx, who, audit.Directory, said)
	}
}

// pinSigns tells whether a PIN signs for people of the directory now: it doesn't answer,
// and the site allows it.
func (d *companyDirectory) pinSigns(ctx context.Context) bool {
	asks := d.now()
	asker := asks.asker()
	if asker == nil || !asks.of.PINSigns {
		return false
	}
	var down *directory.Down
	return errors.As(asker.Reach(ctx), &down)
}

var errNoVisits = &Refused{Why: say.New("this server's directory takes no visits: sign in by name and password")}
