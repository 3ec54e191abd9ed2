package host

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/directory"
	"readyrail/internal/door"
	"readyrail/internal/store"
)

// How often the directory is asked for its people anew, and how soon it is asked again
// while it doesn't answer.
const (
	directoryEvery = 5 * time.Minute
	directoryAgain = 30 * time.Second
)

// mindDirectory asks for the directory's people again and again.
func (h *Host) mindDirectory() {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	go func() { <-h.quit; cancel() }()
	for {
		if err := h.AskDirectory(ctx); err != nil && ctx.Err() == nil {
			h.log.Error("the directory's people were not asked for", "error", err)
		}
		wait := directoryEvery
		if h.DirectoryState().Down != nil {
			wait = directoryAgain
		}
		select {
		case <-h.quit:
			return
		case <-time.After(wait):
		}
	}
}

// AskDirectory asks the directory for each of its people who has an account: who is gone
// there loses sessions, holds and roles here, and whose groups changed has the roles of
// those. While it doesn't answer everything stays as it is, and is shown.
func (h *Host) AskDirectory(ctx context.Context) error {
	h.directory.rounds.Lock()
	defer h.directory.rounds.Unlock()
	people, err := h.server.People(ctx)
	if err != nil {
		return err
	}
	asks := h.directory.now()
	asker := asks.asker()
	if asks.of.Kind != access.NoDirectory && asker == nil {
		return nil // it cannot be asked: see openDirectory
	}
	for _, p := range people {
		if p.Subject == "" || p.Gone {
			continue
		}
		if asker == nil {
			err = h.leave(ctx, p)
		} else {
			err = h.askFor(ctx, asks, p)
		}
		if down := new(directory.Down); errors.As(err, &down) {
			return nil // answered has it
		}
		if err != nil {
			return err
		}
	}
	if asker != nil && !slices.ContainsFunc(people, func(p store.Person) bool { return p.Subject != "" && !p.Gone }) {
		h.directory.answered(h, asker.Reach(ctx))
	}
	h.directory.mu.Lock()
	h.directory.round = time.Now()
	h.directory.mu.Unlock()
	return nil
}

// askFor asks for one person anew.
func (h *Host) askFor(ctx context.Context, asks askedDirectory, p store.Person) error {
	p, err := h.server.Person(ctx, p.ID) // a sign-in meanwhile brought a newer leave
	if err != nil {
		return err
	}
	known := directory.Member{Subject: p.Subject}
	if len(p.Renewal) > 0 {
		renewal, err := unseal(p.Renewal, h.vault.identity)
		if err != nil {
			return h.leave(ctx, p) // sealed by another key: the next sign-in brings a new one
		}
		known.Renewal = string(renewal)
	}
	// What the provider gives for the next time must be kept, though the server ends.
	m, err := asks.asker().Again(context.WithoutCancel(ctx), known)
	h.directory.answered(h, err)
	if errors.Is(err, directory.ErrGone) {
		return h.leave(ctx, p)
	}
	if err != nil {
		return err
	}
	_, err = h.adopt(context.WithoutCancel(ctx), asks.of, m)
	return err
}

// leave shuts the account of somebody whom the directory no longer has.
func (h *Host) leave(ctx context.Context, p store.Person) error {
	h.accounts.Lock()
	defer h.accounts.Unlock()
	p, err := h.server.Person(ctx, p.ID)
	if err != nil {
		return err
	}
	p.Gone, p.Renewal = true, nil
	p.Epoch++
	if err := h.server.PutPerson(ctx, p); err != nil {
		return err
	}
	h.EndHolds(func(w door.Who) bool { return w.ID == p.ID }, say.New("the company's directory no longer has this person"))
	for _, of := range h.Projects() {
		if err := of.directoryRoles(ctx, h.directory.now().of.Title, p, nil); err != nil {
			return err
		}
	}
	return nil
}

// adopt makes or renews the account of somebody whom the directory knows, with the roles
// that their groups have here.
func (h *Host) adopt(ctx context.Context, of access.Directory, m directory.Member) (store.Person, error) {
	h.accounts.Lock()
	defer h.accounts.Unlock()
	p, err := h.server.PersonBySubject(ctx, m.Subject)
	if errors.Is(err, ErrNotFound) {
		p, err = store.Person{ID: store.NewID("user"), Subject: m.Subject}, nil
		if !h.anyRole(of, m.Groups) {
			return p, refused("%s knows you, and none of your groups there has a role here: who manages the server gives it one", of.Title)
		}
	}
	if err != nil {
		return p, err
	}
	was := p
	if err := h.nameOfDirectory(ctx, &p, m); err != nil {
		return p, err
	}
	p.Gone = false
	if m.Renewal != "" {
		if p.Renewal, err = seal(h.vault.identity.Recipient(), []byte(m.Renewal)); err != nil {
			return p, err
		}
	}
	if was.Name != p.Name || was.FullName != p.FullName || was.Gone || m.Renewal != "" {
		if err := h.server.PutPerson(ctx, p); err != nil {
			return p, err
		}
	}
	for _, x := range h.Projects() {
		if err := x.directoryRoles(ctx, of.Title, p, of.RolesIn(x.id, m.Groups)); err != nil {
			return p, err
		}
	}
	return p, nil
}

func (h *Host) anyRole(of access.Directory, groups []string) bool {
	return slices.ContainsFunc(h.Projects(), func(p *Project) bool { return len(of.RolesIn(p.id, groups)) > 0 })
}

// mostLogin is how long a name of the directory may be.
const mostLogin = 60

// nameOfDirectory takes the names that the directory has. Accounts of our own keep
// theirs; one whose name the directory gave to somebody else since is put aside.
func (h *Host) nameOfDirectory(ctx context.Context, p *store.Person, m directory.Member) error {
	if m.Name = strings.TrimSpace(m.Name); len(m.Name) > mostLogin || access.CheckVisible(m.Name) != nil {
		return refused("the directory's name %q has more than %d letters, or some that cannot be seen", m.Name, mostLogin)
	}
	if m.FullName = strings.TrimSpace(m.FullName); access.CheckFullName(m.FullName) != nil {
		m.FullName = m.Name
	}
	people, err := h.server.People(ctx)
	if err != nil {
		return err
	}
	for _, x := range people {
		if x.ID == p.ID {
			continue
		}
		if strings.EqualFold(x.Name, m.Name) {
			if x.Subject == "" {
				return refused("this server has an account %s of its own: who manages it gives that one another name first", m.Name)
			}
			aside := " (" + time.Now().Format(time.DateOnly) + ")"
			x.Name, x.FullName, x.Gone = x.Name+"."+x.ID[len(x.ID)-6:], x.FullName+aside, true
			x.Epoch++
			if err := h.server.PutPerson(ctx, x); err != nil {
				return err
			}
		}
		if strings.EqualFold(x.FullName, m.FullName) {
			m.FullName += " (" + m.Name + ")"
		}
	}
	p.Name, p.FullName = m.Name, m.FullName
	return nil
}

// directoryRoles replaces the roles that the directory's groups give a person; those that
// people gave stay.
func (p *Project) directoryRoles(ctx context.Context, title string, person store.Person, next []access.Grant) error {
	draft := p.Draft()
	had, err := p.grantsOf(ctx, person.ID)
	if err != nil {
		return err
	}
	list := slices.DeleteFunc(slices.Clone(had), func(g access.Grant) bool { return g.Directory })
	for _, g := range next {
		// A role or an area that was deleted since gives nothing.
		if g.Person, g.Giver = person.ID, title; draft.Has("role", g.Role) && (g.Area == "" || draft.HasArea(g.Area)) &&
			!slices.ContainsFunc(list, g.Same) {
			list = append(list, g)
		}
	}
	same := len(list) == len(had) && !slices.ContainsFunc(list, func(g access.Grant) bool { return !slices.ContainsFunc(had, g.Same) })
	if same {
		return nil
	}
	if err := p.putGrants(ctx, person.ID, list); err != nil {
		return err
	}
	_, err = p.records.Trail.Append(context.WithoutCancel(ctx), audit.Record{At: time.Now().UnixNano(), What: audit.People, Name: title,
		Path: "roles of " + person.Name, Old: p.rolesTold(had), New: p.rolesTold(list)})
	return err
}
