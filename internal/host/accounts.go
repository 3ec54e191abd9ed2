package host

import (
	"context"
	"errors"
	"regexp"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"readyrail/internal/core/access"
	"readyrail/internal/store"
)

// advised is argon2id with OWASP's second choice of parameters: 19 MiB, two
// passes, one lane.
var advised = argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// hashing is how secrets are hashed.
var hashing = &advised

// Account is a person as the interface sees one: no hashes.
type Account struct {
	ID          string    `json:"id"`
	Name        string    `json:"name"`
	FullName    string    `json:"fullName"`
	Owner       bool      `json:"owner"`
	Server      bool      `json:"server" doc:"manages the server: accounts, vault, failed sign-ins"`
	Disabled    bool      `json:"disabled"`
	HasPIN      bool      `json:"hasPin"`
	HasPassword bool      `json:"hasPassword"`
	HasBadge    bool      `json:"hasBadge"`
	Second      bool      `json:"second" doc:"sign-in by password asks for a one-time code, too"`
	Until       string    `json:"until,omitempty" doc:"the last day of the account, in the server's time; none where it is left out"`
	Over        bool      `json:"over,omitempty" doc:"that day has passed"`
	Directory   bool      `json:"directory,omitempty" doc:"known to the company's directory, which has the name and the password"`
	Gone        bool      `json:"gone,omitempty" doc:"the directory no longer has the person: nobody signs in"`
	Renew       bool      `json:"renew,omitempty" doc:"a new password is to be chosen at the next sign-in"`
	SetBy       string    `json:"setBy,omitempty" doc:"who set the secret, which is then for one sign-in"`
	LockedUntil time.Time `json:"lockedUntil,omitzero" doc:"until when too many guesses keep sign-in closed somewhere"`
	LockedAt    []string  `json:"lockedAt,omitempty" doc:"panels and addresses where it is closed"`
}

func (h *Host) account(p store.Person) Account {
	a := Account{ID: p.ID, Name: p.Name, FullName: p.FullName, Owner: p.Owner, Server: p.Server, Disabled: p.Disabled,
		HasPIN: p.PIN != "", HasPassword: p.Password != "", HasBadge: p.Badge != "", SetBy: p.SetBy, Second: len(p.Second) > 0,
		Until: p.Until, Over: over(p, time.Now()), Renew: p.Renew, Directory: p.Subject != "", Gone: p.Gone}
	a.LockedUntil, a.LockedAt = h.signIns.locked(p.Name)
	return a
}

// NewAccount is what is needed to add or change an account. An empty password
// or PIN leaves the old one.
type NewAccount struct {
	Name     string
	FullName string
	Password string
	PIN      string
	Disabled bool
	Until    string // the last day; empty for no end
	Renew    bool
	Owner    bool
	Server   bool
	Home     string // id of the project in which a new account is made
	// Chosen says that the secret is the person's own choice, and not for one
	// sign-in.
	Chosen bool
}

var loginName = regexp.MustCompile(`^[\p{L}0-9][\p{L}0-9._-]{0,39}$`)

func (h *Host) fill(p *store.Person, n *NewAccount) error {
	n.Name, n.FullName = strings.TrimSpace(n.Name), strings.TrimSpace(n.FullName)
	if p.Subject != "" {
		return h.fillOfDirectory(p, n)
	}
	if !loginName.MatchString(n.Name) {
		return refused("a name to sign in with has up to 40 letters, digits, dots, dashes or underscores, and no spaces")
	}
	if err := access.CheckFullName(n.FullName); err != nil {
		return refused("%v", err)
	}
	if err := checkLastDay(n.Until); err != nil {
		return err
	}
	p.Name, p.FullName, p.Disabled, p.Until, p.Renew = n.Name, n.FullName, n.Disabled, n.Until, n.Renew
	if err := h.setSecret(p, n.Password, n.PIN); err != nil {
		return err
	}
	if p.Password == "" && p.PIN == "" && p.SetBy == "" {
		return refused("an account needs a password or a PIN")
	}
	return nil
}

// fillOfDirectory is fill for somebody whom the company's directory knows: it has the
// name and the password, and the rest is ours.
func (h *Host) fillOfDirectory(p *store.Person, n *NewAccount) error {
	if n.Password != "" || n.Renew || n.Name != p.Name || n.FullName != p.FullName {
		return refused("name and password of %s are kept in the company's directory: change them there", p.FullName)
	}
	if err := checkLastDay(n.Until); err != nil {
		return err
	}
	p.Disabled, p.Until = n.Disabled, n.Until
	return h.setSecret(p, "", n.PIN)
}

func checkLastDay(until string) error {
	if _, err := time.Parse(time.DateOnly, until); err != nil && until != "" {
		return refused("the last day of an account is a date such as 2026-12-31, not %q", until)
	}
	return nil
}

// over tells whether an account has ended: its last day has passed here.
func over(p store.Person, now time.Time) bool {
	return p.Until != "" && now.Format(time.DateOnly) > p.Until
}

// notAgain refuses the present password and those before it.
func (h *Host) notAgain(ctx context.Context, p store.Person, password string) error {
	if password == "" {
		return nil
	}
	old, err := h.server.OldPasswords(ctx, p.ID)
	if err != nil {
		return err
	}
	for _, hash := range append(old, p.Password) {
		if hash == "" {
			continue
		}
		if same, err := h.signIns.compare(ctx, true, password, hash); err != nil {
			return err
		} else if same {
			return refused("this password was one of the last ones: choose another")
		}
	}
	return nil
}

// putPerson keeps an account, and the password that it had before.
func (h *Host) putPerson(ctx context.Context, p store.Person, before string) error {
	if before != "" && before != p.Password {
		if err := h.server.KeepOldPassword(ctx, p.ID, before); err != nil {
			return err
		}
	}
	return h.server.PutPerson(ctx, p)
}

// Lengths are how long passwords and PINs have to be that are chosen now.
func (h *Host) Lengths() access.Lengths { return h.lengths }

// setSecret sets what is not empty.
func (h *Host) setSecret(p *store.Person, password, pin string) error {
	if password != "" {
		if err := h.lengths.CheckPassword(password, p.Name, p.FullName); err != nil {
			return refused("%v", err)
		}
		hash, err := argon2id.CreateHash(password, hashing)
		if err != nil {
			return err
		}
		p.Password = hash
	}
	if pin != "" {
		if err := h.lengths.CheckPIN(pin); err != nil {
			return refused("%v", err)
		}
		hash, err := argon2id.CreateHash(pin, hashing)
		if err != nil {
			return err
		}
		p.PIN = hash
	}
	if password != "" || pin != "" {
		p.Epoch++
	}
	return nil
}

// HasOwner tells whether the server has its first account.
func (h *Host) HasOwner(ctx context.Context) (bool, error) {
	people, err := h.server.People(ctx)
	if err != nil {
		return false, err
	}
	for _, p := range people {
		if p.Owner {
			return true, nil
		}
	}
	return false, nil
}

// CreateOwner makes the first account; it is refused when there is one.
func (h *Host) CreateOwner(ctx context.Context, n NewAccount) (Actor, error) {
	h.accounts.Lock()
	defer h.accounts.Unlock()
	if has, err := h.HasOwner(ctx); err != nil || has {
		return Actor{}, errors.Join(err, refused("this server has its owner already: sign in"))
	}
	p := store.Person{ID: store.NewID("user"), Owner: true}
	if err := h.fill(&p, &n); err != nil {
		return Actor{}, err
	}
	if p.Password == "" {
		return Actor{}, refused("the owner needs a password")
	}
	if err := h.server.PutPerson(ctx, p); err != nil {
		return Actor{}, err
	}
	return actorOf(p), nil
}

func actorOf(p store.Person) Actor {
	return Actor{ID: p.ID, Name: p.FullName, Login: p.Name, Owner: p.Owner, Server: p.Owner || p.Server, Epoch: p.Epoch,
		Second: len(p.Second) > 0, Directory: p.Subject != ""}
}

// Accounts lists every account.
func (h *Host) Accounts(ctx context.Context) ([]Account, error) {
	people, err := h.server.People(ctx)
	out := make([]Account, len(people))
	for i, p := range people {
		out[i] = h.account(p)
	}
	return out, err
}

// Accounts lists whom a person who manages the project's people may see: those
// who have a role in it, and those who were made in it. Who manages the server
// sees everybody.
func (p *Project) Accounts(ctx context.Context, who Actor) ([]Account, error) {
	people, err := p.host.server.People(ctx)
	if err != nil {
		return nil, err
	}
	grants, err := p.Grants(ctx)
	if err != nil {
		return nil, err
	}
	here := map[string]bool{}
	for _, g := range grants {
		here[g.Person] = true
	}
	out := []Account{}
	for _, x := range people {
		if who.Server || here[x.ID] || x.Home == p.id {
			out = append(out, p.host.account(x))
		}
	}
	return out, nil
}

// PeopleAt lists whose PINs a panel takes: those who have something to do with
// its project.
func (h *Host) PeopleAt(ctx context.Context, panel PanelInfo) ([]Account, error) {
	people, err := h.server.People(ctx)
	out := []Account{}
	for _, x := range people {
		if panel.Project == "" || h.belongs(ctx, x, panel.Project) {
			out = append(out, h.account(x))
		}
	}
	return out, err
}

// Proves checks the present secret of who is signed in: the password, or the
// PIN at a panel.
func (h *Host) Proves(ctx context.Context, who Actor, secret string) error {
	if secret == "" {
		return refused("enter your present password")
	}
	return h.proves(ctx, who, Secret{Name: who.Login, Password: secret})
}

// proves checks a secret of who is signed in.
func (h *Host) proves(ctx context.Context, who Actor, s Secret) error {
	s.From, s.Session = who.From, who.Session
	if who.Panel != "" {
		s.PIN, s.Panel = s.Password, who.Panel
	}
	_, err := h.Check(ctx, s)
	return err
}

// PutAccount adds an account (id empty) or changes one. A secret that somebody
// else sets is for one sign-in, unless it is said to be chosen.
func (h *Host) PutAccount(ctx context.Context, who Actor, id string, n NewAccount) (Account, error) {
	h.accounts.Lock()
	defer h.accounts.Unlock()
	p := store.Person{ID: store.NewID("user"), Home: n.Home}
	if id != "" {
		var err error
		if p, err = h.server.Person(ctx, id); err != nil {
			return Account{}, err
		}
		if p.Owner && (n.Disabled || n.Until != "") {
			return Account{}, refused("the owner's account cannot be switched off, and has no last day")
		}
	}
	was := p
	if err := h.notAgain(ctx, p, n.Password); err != nil {
		return Account{}, err
	}
	if err := h.fill(&p, &n); err != nil {
		return Account{}, err
	}
	if err := h.unlike(ctx, p.ID, n); err != nil {
		return Account{}, err
	}
	if id == "" {
		p.Owner = n.Owner
	}
	if who.Owner {
		p.Server = n.Server
	} else if n.Server != p.Server {
		return Account{}, refused("only the server's owner gives and takes the right to manage the server")
	}
	if p.Disabled && !was.Disabled {
		p.Epoch++
	}
	if set := n.Password != "" || n.PIN != ""; set {
		h.signIns.lift(p.Name)
		switch {
		case n.Chosen || who.ID == p.ID:
			p.SetBy = ""
		default:
			// Only what was set now lets in, once.
			p.SetBy = who.Name
			if n.Password == "" {
				p.Password = ""
			}
			if n.PIN == "" {
				p.PIN = ""
			}
		}
	}
	return h.account(p), h.putPerson(ctx, p, was.Password)
}

// unlike refuses names that somebody else has.
func (h *Host) unlike(ctx context.Context, id string, n NewAccount) error {
	people, err := h.server.People(ctx)
	if err != nil {
		return err
	}
	for _, x := range people {
		switch {
		case x.ID == id:
		case strings.EqualFold(x.Name, strings.TrimSpace(n.Name)):
			return refused("somebody signs in as %s already", n.Name)
		case strings.EqualFold(strings.Join(strings.Fields(x.FullName), " "), strings.Join(strings.Fields(n.FullName), " ")):
			return refused("there is a %s already: the trail tells people apart by their full names, so add something to this one", x.FullName)
		}
	}
	return nil
}

// Choose sets a person's own secret: after one that somebody else set, or with
// the present one as a proof.
func (h *Host) Choose(ctx context.Context, who Actor, password, pin string) (Actor, error) {
	h.accounts.Lock()
	defer h.accounts.Unlock()
	p, err := h.server.Person(ctx, who.ID)
	if err != nil {
		return who, err
	}
	if password == "" && pin == "" {
		return who, refused("choose a password or a PIN")
	}
	if password != "" && p.Subject != "" {
		return who, refused("the password of %s is kept in the company's directory: change it there", p.FullName)
	}
	if p.Owner && password == "" && p.Password == "" {
		return who, refused("the owner needs a password")
	}
	if p.Renew && password == "" && p.Password != "" {
		return who, refused("a new password is to be chosen")
	}
	if err := h.notAgain(ctx, p, password); err != nil {
		return who, err
	}
	before := p.Password
	if err := h.setSecret(&p, password, pin); err != nil {
		return who, err
	}
	p.SetBy, p.Renew = "", false
	if err := h.putPerson(ctx, p, before); err != nil {
		return who, err
	}
	next := actorOf(p)
	next.Panel, next.Session, next.From = who.Panel, who.Session, who.From
	return next, nil
}

// Unlock lets an account be signed in to again at once.
func (h *Host) Unlock(ctx context.Context, id string) (Account, error) {
	p, err := h.server.Person(ctx, id)
	if err != nil {
		return Account{}, err
	}
	h.signIns.lift(p.Name)
	return h.account(p), nil
}

// MayChange refuses to let somebody change an account that can do more than
// they may give: the owner's, one that manages the server, one of another
// project, and one with roles in a project whose people they do not manage.
// Otherwise a password set anew would lend those rights.
func (p *Project) MayChange(ctx context.Context, who Actor, id string) error {
	if who.Owner || who.ID == id {
		return nil
	}
	target, err := p.host.server.Person(ctx, id)
	if err != nil {
		return err
	}
	if target.Owner || target.Server {
		return refused("the account of who manages the server is changed by the owner only")
	}
	here := target.Home == p.id
	for _, other := range p.host.Projects() {
		grants, err := other.Grants(ctx)
		if err != nil {
			return err
		}
		for _, g := range grants {
			if g.Person != id {
				continue
			}
			here = here || other == p
			if !other.May(ctx, who, access.People, false) {
				return refused("%s has roles in %s, whose people you do not manage", target.FullName, other.Draft().Site().Name)
			}
		}
	}
	if !here && !who.Server {
		return ErrNotFound
	}
	return nil
}

// Actor renews what is known of a signed-in person; ErrNotFound when the
// account is gone or switched off.
func (h *Host) Actor(ctx context.Context, id string) (Actor, error) {
	p, err := h.server.Person(ctx, id)
	if err != nil {
		return Actor{}, err
	}
	if shut(p) {
		return Actor{}, ErrNotFound
	}
	return actorOf(p), nil
}
