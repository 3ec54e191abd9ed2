package host

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"readyrail/internal/core/access"
	"readyrail/internal/store"
)

// hashing is argon2id with OWASP's second choice of parameters: 19 MiB, two
// passes, one lane.
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Account is a person as the interface sees one: no hashes.
type Account struct {
	ID          string `json:"id"`
	Name        string `json:"name"`
	FullName    string `json:"fullName"`
	Owner       bool   `json:"owner"`
	Disabled    bool   `json:"disabled"`
	HasPIN      bool   `json:"hasPin"`
	HasPassword bool   `json:"hasPassword"`
}

func account(p store.Person) Account {
	return Account{p.ID, p.Name, p.FullName, p.Owner, p.Disabled, p.PIN != "", p.Password != ""}
}

// NewAccount is what is needed to add or change an account. An empty password
// or PIN leaves the old one.
type NewAccount struct {
	Name     string
	FullName string
	Password string
	PIN      string
	Disabled bool
	Owner    bool
}

var loginName = regexp.MustCompile(`^[\p{L}0-9][\p{L}0-9._-]{0,39}$`)

func (n *NewAccount) fill(p *store.Person) error {
	n.Name, n.FullName = strings.TrimSpace(n.Name), strings.TrimSpace(n.FullName)
	if !loginName.MatchString(n.Name) {
		return refused("a name to sign in with has up to 40 letters, digits, dots, dashes or underscores, and no spaces")
	}
	if n.FullName == "" || len(n.FullName) > 80 {
		return refused("a full name of at most 80 characters is needed: it stands in the audit trail")
	}
	p.Name, p.FullName, p.Disabled = n.Name, n.FullName, n.Disabled
	if n.Password != "" {
		if err := access.CheckPassword(n.Password); err != nil {
			return refused("%v", err)
		}
		h, err := argon2id.CreateHash(n.Password, hashing)
		if err != nil {
			return err
		}
		p.Password = h
	}
	if n.PIN != "" {
		if err := access.CheckPIN(n.PIN); err != nil {
			return refused("%v", err)
		}
		h, err := argon2id.CreateHash(n.PIN, hashing)
		if err != nil {
			return err
		}
		p.PIN = h
	}
	if p.Password == "" && p.PIN == "" {
		return refused("an account needs a password or a PIN")
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
	h.mu.Lock()
	defer h.mu.Unlock()
	if has, err := h.HasOwner(ctx); err != nil || has {
		return Actor{}, errors.Join(err, refused("this server has its owner already: sign in"))
	}
	p := store.Person{ID: newID("user"), Owner: true}
	if err := n.fill(&p); err != nil {
		return Actor{}, err
	}
	if p.Password == "" {
		return Actor{}, refused("the owner needs a password")
	}
	if err := h.server.PutPerson(ctx, p); err != nil {
		return Actor{}, err
	}
	return Actor{ID: p.ID, Name: p.FullName, Owner: true}, nil
}

// Accounts lists the people.
func (h *Host) Accounts(ctx context.Context) ([]Account, error) {
	people, err := h.server.People(ctx)
	out := make([]Account, len(people))
	for i, p := range people {
		out[i] = account(p)
	}
	return out, err
}

// PutAccount adds an account (id empty) or changes one.
func (h *Host) PutAccount(ctx context.Context, id string, n NewAccount) (Account, error) {
	p := store.Person{ID: newID("user")}
	if id != "" {
		var err error
		if p, err = h.server.Person(ctx, id); err != nil {
			return Account{}, err
		}
		if p.Owner && n.Disabled {
			return Account{}, refused("the owner's account cannot be switched off")
		}
	}
	if other, err := h.server.PersonByName(ctx, n.Name); err == nil && other.ID != p.ID {
		return Account{}, refused("somebody signs in as %s already", n.Name)
	}
	if err := n.fill(&p); err != nil {
		return Account{}, err
	}
	if id == "" {
		p.Owner = n.Owner
	}
	return account(p), h.server.PutPerson(ctx, p)
}

// MayChange refuses to let somebody change an account that can do more than
// they may give: the owner's, and one with roles in a project whose people they
// do not manage. Otherwise a password set anew would lend those rights.
func (h *Host) MayChange(ctx context.Context, who Actor, id string) error {
	if who.Owner || who.ID == id {
		return nil
	}
	target, err := h.server.Person(ctx, id)
	if err != nil {
		return err
	}
	if target.Owner {
		return refused("the owner's account is changed by the owner only")
	}
	for _, p := range h.Projects() {
		grants, err := p.Grants(ctx)
		if err != nil {
			return err
		}
		for _, g := range grants {
			if g.Person == id && !p.May(ctx, who, access.People, false) {
				return refused("%s has roles in %s, whose people you do not manage", target.FullName, p.Draft().Site.Name)
			}
		}
	}
	return nil
}

// ErrSignIn is the one answer to every sign-in that fails, so that it does not
// tell which half was wrong.
var ErrSignIn = &Refused{"name and password do not match"}

// decoy is compared when there is no such account, so that the time taken does
// not tell either.
var decoy, _ = argon2id.CreateHash("decoy", hashing)

// SignIn checks a password, or a PIN when panel names an enrolled panel.
func (h *Host) SignIn(ctx context.Context, name, password, pin, panel string) (Actor, error) {
	p, err := h.server.PersonByName(ctx, strings.TrimSpace(name))
	if err != nil && !errors.Is(err, ErrNotFound) {
		return Actor{}, err
	}
	secret, hash := password, p.Password
	if pin != "" {
		if panel == "" {
			return Actor{}, refused("a PIN is taken at an enrolled panel only: sign in with your password")
		}
		secret, hash = pin, p.PIN
	}
	if wait := time.Until(time.Unix(p.LockedUntil, 0)); p.LockedUntil > 0 && wait > 0 {
		return Actor{}, refused("too many failed attempts: try again in %d s", int(wait.Seconds())+1)
	}
	known := hash != "" && !p.Disabled
	if !known {
		hash = decoy
	}
	// Each comparison takes memory on purpose: many at once wait their turn.
	select {
	case h.hashes <- struct{}{}:
	case <-ctx.Done():
		return Actor{}, ctx.Err()
	}
	match, err := argon2id.ComparePasswordAndHash(secret, hash)
	<-h.hashes
	if err != nil {
		return Actor{}, err
	}
	if match && known {
		return Actor{ID: p.ID, Name: p.FullName, Owner: p.Owner, Panel: panel}, h.server.ClearFailures(ctx, p.ID)
	}
	if p.ID != "" {
		n, err := h.server.CountFailure(ctx, p.ID)
		if err != nil {
			return Actor{}, err
		}
		if d := access.Lockout(n); d > 0 {
			if err := h.server.SetLock(ctx, p.ID, time.Now().Add(d)); err != nil {
				return Actor{}, err
			}
		}
	}
	return Actor{}, ErrSignIn
}

// Actor renews what is known of a signed-in person; ErrNotFound when the
// account is gone or switched off.
func (h *Host) Actor(ctx context.Context, id string) (Actor, error) {
	p, err := h.server.Person(ctx, id)
	if err != nil {
		return Actor{}, err
	}
	if p.Disabled {
		return Actor{}, ErrNotFound
	}
	return Actor{ID: p.ID, Name: p.FullName, Owner: p.Owner}, nil
}

// PanelInfo is an enrolled browser as the interface sees one.
type PanelInfo struct {
	ID         string    `json:"id"`
	Name       string    `json:"name"`
	EnrolledBy string    `json:"enrolledBy"`
	At         time.Time `json:"at"`
}

// Enrol makes a browser a panel and returns the key it has to keep.
func (h *Host) Enrol(ctx context.Context, who Actor, name string) (key string, err error) {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 40 {
		return "", refused("a panel needs a name of at most 40 characters")
	}
	list, err := h.server.Panels(ctx)
	if err != nil {
		return "", err
	}
	for _, p := range list {
		if strings.EqualFold(p.Name, name) {
			return "", refused("there is a panel %s already: choose another name, or take the old one out first", name)
		}
	}
	raw := make([]byte, 32)
	rand.Read(raw)
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(raw), h.server.AddPanel(ctx, store.Panel{ID: newID("panel"), Name: name, KeyHash: sum[:], EnrolledBy: who.Name, At: time.Now().Unix()})
}

// PanelName returns the name of the panel that a key belongs to, or "".
func (h *Host) PanelName(ctx context.Context, key string) string {
	raw, err := hex.DecodeString(key)
	if err != nil || len(raw) != 32 {
		return ""
	}
	sum := sha256.Sum256(raw)
	p, err := h.server.PanelByKey(ctx, sum[:])
	if err != nil {
		return ""
	}
	return p.Name
}

// Panels lists the enrolled browsers.
func (h *Host) Panels(ctx context.Context) ([]PanelInfo, error) {
	list, err := h.server.Panels(ctx)
	out := make([]PanelInfo, len(list))
	for i, p := range list {
		out[i] = PanelInfo{p.ID, p.Name, p.EnrolledBy, time.Unix(p.At, 0)}
	}
	return out, err
}

// RemovePanel takes an enrolment back.
func (h *Host) RemovePanel(ctx context.Context, id string) error {
	return h.server.RemovePanel(ctx, id)
}

// Require returns nil when a person has a right in an area of a project, and
// an *access.Denied otherwise. Rights that shape the project are those of the
// draft's roles; rights at the Desk are those of the running release.
func (p *Project) Require(ctx context.Context, who Actor, right access.Right, area string) error {
	if who.Owner {
		return nil
	}
	policy, err := p.policy(ctx, right)
	if err != nil {
		return err
	}
	return policy.Require(who.ID, right, area)
}

// May is Require as a question; anywhere asks for any area at all.
func (p *Project) May(ctx context.Context, who Actor, right access.Right, anywhere bool) bool {
	if who.Owner {
		return true
	}
	policy, err := p.policy(ctx, right)
	if err != nil {
		return false
	}
	if anywhere {
		return policy.MayAnywhere(who.ID, right)
	}
	return policy.May(who.ID, right, "")
}

func (p *Project) policy(ctx context.Context, right access.Right) (*access.Policy, error) {
	grants, err := p.host.server.Grants(ctx, p.id)
	if err != nil {
		return nil, fmt.Errorf("reading who has which role: %w", err)
	}
	from := p.Draft()
	switch right {
	case access.View, access.Operate, access.Acknowledge, access.Shelve:
		if r := p.Released(); r != nil {
			from = r
		}
	}
	return &access.Policy{Roles: from.Roles, Areas: from.Site.Areas, Grants: grants}, nil
}

// Grants lists who has which role in the project.
func (p *Project) Grants(ctx context.Context) ([]access.Grant, error) {
	return p.host.server.Grants(ctx, p.id)
}

// SetGrants replaces what roles a person has in the project.
func (p *Project) SetGrants(ctx context.Context, person string, grants []access.Grant) error {
	for _, g := range grants {
		if !p.Draft().Has("role", g.Role) {
			return refused("there is no role %s", g.Role)
		}
	}
	if err := p.host.server.SetGrants(ctx, p.id, person, grants); err != nil {
		return err
	}
	p.leases.recheck()
	return nil
}
