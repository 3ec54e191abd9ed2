package host

import (
	"context"
	"errors"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/directory"
	"readyrail/internal/store"
)

// authenticator is one way to show who one is: a PIN, a password, the company's
// directory, a visit to its provider.
type authenticator interface {
	// shows tells whether what was given is the person's. A person without an id is
	// nobody whom we know; a directory may fill in who it is. known says that the person
	// signed in from there before.
	shows(ctx context.Context, p *store.Person, known bool) (bool, error)
}

// ways are those that a secret may be taken by, of a person who may be nobody.
func (h *Host) ways(ctx context.Context, s Secret, p store.Person) []authenticator {
	var out []authenticator
	if s.PIN != "" {
		out = append(out, &hashed{h, s.PIN, h.pinFor(ctx, s, p)})
	}
	if s.Password == "" && s.PIN != "" {
		return out
	}
	out = append(out, &hashed{h, s.Password, p.Password})
	d := h.directory.now()
	switch {
	case p.ID != "" && p.Subject == "": // one of our own
	case d.ldap != nil:
		out = append(out, &byLDAP{h, d, s})
	case d.openID != nil && s.Session != "":
		out = append(out, &byVisit{h, s})
	}
	return out
}

// pinFor is the hash of the PIN that counts: a panel takes those of its own project's
// people. Who is known to the directory signs there, and by PIN only while it doesn't
// answer and the site allows it.
func (h *Host) pinFor(ctx context.Context, s Secret, p store.Person) string {
	switch {
	case s.Project != "" && p.ID != "" && !h.belongs(ctx, p, s.Project):
		return ""
	case s.Signs && p.Subject != "" && !h.directory.pinSigns(ctx):
		return ""
	}
	return p.PIN
}

// shut tells whether nobody signs in to an account any more.
func shut(p store.Person) bool { return p.Disabled || p.Gone || over(p, time.Now()) }

// hashed compares with a hash that is kept here.
type hashed struct {
	h            *Host
	secret, hash string
}

func (w *hashed) shows(ctx context.Context, p *store.Person, known bool) (bool, error) {
	usable := w.hash != "" && !shut(*p)
	hash := w.hash
	if !usable {
		hash = decoy
	}
	match, err := w.h.signIns.compare(ctx, known, w.secret, hash)
	return match && usable, err
}

// byLDAP asks the company's directory. Whom it knows and we don't yet gets an account.
type byLDAP struct {
	h *Host
	d askedDirectory
	s Secret
}

func (w *byLDAP) shows(ctx context.Context, p *store.Person, _ bool) (bool, error) {
	if w.s.PIN != "" && w.s.PIN == w.s.Password && p.ID == "" {
		return false, nil // what was typed at a panel goes to the directory for people that it has
	}
	m, err := w.d.ldap.SignIn(ctx, w.s.Name, w.s.Password)
	w.h.directory.answered(w.h, err)
	if errors.Is(err, directory.ErrWrong) {
		return false, nil
	}
	if err != nil {
		return false, downRefusal(w.d.of, err)
	}
	if *p, err = w.h.adopt(ctx, w.d.of, m); err != nil {
		return false, err
	}
	return true, nil
}

// byVisit takes what a visit to the provider proved.
type byVisit struct {
	h *Host
	s Secret
}

func (w *byVisit) shows(_ context.Context, p *store.Person, _ bool) (bool, error) {
	return p.ID != "" && w.h.directory.visits.takeProof(w.s.Session, w.s.Password, p.ID), nil
}

// errDown is the refusal of what only the directory can tell.
type errDown struct{ *Refused }

// downRefusal says why the directory told nothing.
func downRefusal(of access.Directory, err error) error {
	var down *directory.Down
	if errors.As(err, &down) {
		return &errDown{&Refused{Why: say.Errorf(
			"%s does not answer (%w): its people cannot sign in and sign until it does; this server's own accounts can", of.Title, err)}}
	}
	return &Refused{Why: err}
}
