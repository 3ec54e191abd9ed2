package host

import (
	"bytes"
	"cmp"
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"filippo.io/age"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/link"
	"readyrail/internal/link/opcua"
	"readyrail/internal/store"
)

// The vault keeps the credentials that devices need. A secret is sealed with
// the server's key, which lies outside every project's folder, and goes to
// drivers only: no browser, export, log or error has it.

// vault seals and opens.
type vault struct {
	dir      string
	identity *age.X25519Identity
}

// VaultKeyVariable is the environment variable that holds the vault's key where
// it is not to lie on disk.
const VaultKeyVariable = "READYRAIL_VAULT_KEY"

// NextVaultKeyVariable is the one for the key that takes the place of such a one.
const NextVaultKeyVariable = "READYRAIL_VAULT_KEY_NEXT"

// openVault reads the key from what is given, or from the key file, which is
// made the first time with mode 600.
func openVault(dir, key string) (*vault, error) {
	path := filepath.Join(dir, vaultKey)
	if key == "" {
		b, err := os.ReadFile(path)
		switch {
		case err == nil:
			if info, err := os.Stat(path); err == nil && info.Mode().Perm()&0o077 != 0 {
				return nil, say.Errorf("%s can be read by others: give it mode 600", path)
			}
			key = string(b)
		case errors.Is(err, os.ErrNotExist):
			id, err := age.GenerateX25519Identity()
			if err != nil {
				return nil, err
			}
			if err := replaceFile(path, id.String()+"\n"); err != nil {
				return nil, err
			}
			key = id.String()
		default:
			return nil, say.Errorf("the key of the vault cannot be read: %w", err)
		}
	}
	id, err := age.ParseX25519Identity(strings.TrimSpace(key))
	if err != nil {
		return nil, say.New("the key of the vault is no age identity: it begins with AGE-SECRET-KEY-")
	}
	return &vault{dir, id}, nil
}

// sealed is what lies under the seal.
type sealed struct {
	User        string `json:"user,omitempty"`
	Password    string `json:"password,omitempty"`
	Certificate string `json:"certificate,omitempty"` // PEM
	Key         string `json:"key,omitempty"`         // PEM
}

func seal(to age.Recipient, plain []byte) ([]byte, error) {
	var b bytes.Buffer
	w, err := age.Encrypt(&b, to)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(plain); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func unseal(data []byte, by age.Identity) ([]byte, error) {
	r, err := age.Decrypt(bytes.NewReader(data), by)
	if err != nil {
		return nil, err
	}
	return io.ReadAll(io.LimitReader(r, 16<<20))
}

// Kinds of entries.
const (
	Password    = "password"    // user and password
	Certificate = "certificate" // certificate and key
)

// VaultEntry is an entry as people see it: without its secret.
type VaultEntry struct {
	Name   string     `json:"name"`
	Kind   string     `json:"kind" enum:"password,certificate"`
	User   string     `json:"user,omitempty"`
	Roles  []string   `json:"roles" doc:"names of the roles that may use it"`
	Note   string     `json:"note"`
	Hosts  []string   `json:"hosts" doc:"where it may go: hosts, addresses or networks"`
	Person string     `json:"person" doc:"who put it there"`
	At     time.Time  `json:"at"`
	Uses   []VaultUse `json:"uses"`
}

// VaultUse is a device that uses an entry.
type VaultUse struct {
	Project string `json:"project"`
	Device  string `json:"device"`
	ID      string `json:"id"`
}

// NewVaultEntry is an entry to put. An empty password or key leaves the old
// one.
type NewVaultEntry struct {
	Name        string   `json:"name" minLength:"1" maxLength:"60"`
	Kind        string   `json:"kind" enum:"password,certificate"`
	User        string   `json:"user,omitempty" maxLength:"200"`
	Password    string   `json:"password,omitempty" maxLength:"1000"`
	Certificate string   `json:"certificate,omitempty" maxLength:"20000" doc:"PEM"`
	Key         string   `json:"key,omitempty" maxLength:"20000" doc:"PEM"`
	Roles       []string `json:"roles" maxItems:"50"`
	Note        string   `json:"note,omitempty" maxLength:"300"`
	Hosts       []string `json:"hosts,omitempty" maxItems:"50" doc:"where it may go: hosts, addresses or networks such as 10.1.0.0/16"`
}

// secret opens an entry for a driver that goes to a host.
func (h *Host) secret(name, at string) (link.Secret, error) {
	if name == opcua.ApplicationSecret {
		return h.vault.application()
	}
	e, err := h.server.VaultEntry(context.Background(), name)
	if err != nil {
		return link.Secret{}, refused("the vault has no entry %s", name)
	}
	if err := goesTo(e, at); err != nil {
		return link.Secret{}, err
	}
	s, err := h.vault.open(e)
	return link.Secret{User: s.User, Password: s.Password, Certificate: []byte(s.Certificate), Key: []byte(s.Key)}, err
}

func (v *vault) open(e store.VaultEntry) (s sealed, err error) {
	plain, err := unseal(e.Sealed, v.identity)
	if err != nil {
		return s, refused("the vault's entry %s was sealed with another key: put it anew", e.Name)
	}
	return s, json.Unmarshal(plain, &s)
}

// application is this server's own certificate as an OPC UA client, made the
// first time it is needed.
func (v *vault) application() (link.Secret, error) {
	cert, key := filepath.Join(v.dir, "opcua-client.pem"), filepath.Join(v.dir, "opcua-client.key")
	c, err1 := os.ReadFile(cert)
	k, err2 := os.ReadFile(key)
	if err1 == nil && err2 == nil {
		return link.Secret{Certificate: c, Key: k}, nil
	}
	c, k, err := opcua.NewApplicationCertificate(time.Now())
	if err != nil {
		return link.Secret{}, err
	}
	if err := os.WriteFile(key, k, 0o600); err != nil {
		return link.Secret{}, err
	}
	return link.Secret{Certificate: c, Key: k}, os.WriteFile(cert, c, 0o644)
}

// Vault lists the entries, with where each is used. Who does not manage the
// server sees those that a role of theirs may use, and uses in projects that
// they engineer.
func (h *Host) Vault(ctx context.Context, who Actor) ([]VaultEntry, error) {
	list, err := h.server.VaultEntries(ctx)
	if err != nil {
		return nil, err
	}
	uses := h.vaultUses(ctx, who)
	out := []VaultEntry{}
	for _, e := range list {
		if !who.Server && !h.usable(ctx, who, e) {
			continue
		}
		v := VaultEntry{Name: e.Name, Kind: e.Kind, Roles: []string{}, Hosts: []string{}, Note: e.Note, Person: e.Person,
			At: time.Unix(0, e.At), Uses: uses[strings.ToLower(e.Name)]}
		_ = json.Unmarshal([]byte(e.Roles), &v.Roles) // written by us; a damaged list gives nobody the right
		_ = json.Unmarshal([]byte(e.Hosts), &v.Hosts) // and lets it go nowhere
		if s, err := h.vault.open(e); err == nil {
			v.User = s.User
		}
		if v.Uses == nil {
			v.Uses = []VaultUse{}
		}
		out = append(out, v)
	}
	return out, nil
}

// usable tells whether a person may use an entry in some project.
func (h *Host) usable(ctx context.Context, who Actor, e store.VaultEntry) bool {
	for _, p := range h.Projects() {
		if p.roleUses(ctx, who, e) == nil {
			return true
		}
	}
	return false
}

func (h *Host) vaultUses(ctx context.Context, who Actor) map[string][]VaultUse {
	out := map[string][]VaultUse{}
	for _, p := range h.Projects() {
		if !who.Server && !p.May(ctx, who, access.Engineer, true) {
			continue
		}
		d := p.Draft()
		for id, dev := range d.Devices {
			if dev.Credential != "" {
				key := strings.ToLower(dev.Credential)
				out[key] = append(out[key], VaultUse{d.Site().Name, dev.Name, id})
			}
		}
	}
	return out
}

// mayBecome judges an edit by its result. Roles are changed by who manages
// people. Each device that would go another way with a credential than before
// needs a person who may use it, and a credential that may go to its host.
func (p *Project) mayBecome(ctx context.Context, who Actor, before, next *project.Project) error {
	if !maps.Equal(before.Roles, next.Roles) {
		if err := p.Require(ctx, who, access.People, ""); err != nil {
			return err
		}
	}
	for id, d := range next.Devices {
		was := before.Devices[id]
		if d == was || d.Credential == "" || was != nil && was.Credential == d.Credential && was.Endpoint() == d.Endpoint() {
			continue
		}
		if err := p.MayUse(ctx, who, d.Credential, d.Host); err != nil {
			return err
		}
	}
	return nil
}

// MayUse tells whether a person may let a device at a host use an entry of the
// vault: one of the person's roles in the project is among the entry's, and the
// host among those that it may go to.
func (p *Project) MayUse(ctx context.Context, who Actor, name, at string) error {
	e, err := p.host.server.VaultEntry(ctx, name)
	if errors.Is(err, store.ErrNotFound) {
		return refused("the vault has no entry %s", name)
	}
	if err != nil {
		return err
	}
	if err := goesTo(e, at); err != nil || who.Owner {
		return err
	}
	return p.roleUses(ctx, who, e)
}

// roleUses refuses without a role that an entry is for.
func (p *Project) roleUses(ctx context.Context, who Actor, e store.VaultEntry) error {
	var roles []string
	if err := json.Unmarshal([]byte(e.Roles), &roles); err != nil {
		return err
	}
	policy, err := p.policy(ctx, Actor{}, access.Engineer)
	if err != nil {
		return err
	}
	for _, g := range policy.Grants {
		if r := policy.Roles[g.Role]; g.Person == who.ID && r != nil && slices.Contains(roles, r.Name) {
			return nil
		}
	}
	return refused("the vault's entry %s may be used by %s only", e.Name, strings.Join(append(roles, "the owner"), ", "))
}

// goesTo refuses a host that an entry may not be sent to.
func goesTo(e store.VaultEntry, at string) error {
	var hosts []string
	if e.Hosts != "" {
		if err := json.Unmarshal([]byte(e.Hosts), &hosts); err != nil {
			return err
		}
	}
	if len(hosts) > 0 {
		list, err := ParseAllow(hosts)
		if err != nil {
			return err
		}
		if list.check(at) == nil {
			return nil
		}
	}
	return refused("the vault's entry %s may not go to %s: who manages the server adds the host to the entry", e.Name, at)
}

// hostsOf gives the entries that are from before they named their hosts those
// that they are used at.
func (h *Host) hostsOf(ctx context.Context) error {
	list, err := h.server.VaultEntries(ctx)
	if err != nil {
		return err
	}
	var mended []store.VaultEntry
	for _, e := range list {
		if e.Hosts != "" {
			continue
		}
		hosts := []string{}
		for _, p := range h.Projects() {
			for _, d := range p.Draft().Devices {
				if strings.EqualFold(d.Credential, e.Name) && !slices.Contains(hosts, d.Host) {
					hosts = append(hosts, d.Host)
				}
			}
		}
		doc, err := json.Marshal(hosts)
		if err != nil {
			return err
		}
		e.Hosts = string(doc)
		mended = append(mended, e)
	}
	if len(mended) == 0 {
		return nil
	}
	return h.server.PutVaultEntries(ctx, mended)
}

// errManages refuses what only who manages the server may do.
var errManages = refused("only who manages the server may do this")

// PutVault adds or changes an entry; who manages the server may.
func (h *Host) PutVault(ctx context.Context, who Actor, n NewVaultEntry) error {
	if !who.Server {
		return errManages
	}
	n.Name = strings.TrimSpace(n.Name)
	if n.Name == "" || strings.ContainsAny(n.Name, "\x00|") {
		return refused("an entry needs a name, without bars")
	}
	s := sealed{User: n.User, Password: n.Password, Certificate: n.Certificate, Key: n.Key}
	old, err := h.server.VaultEntry(ctx, n.Name)
	if err == nil {
		if was, err := h.vault.open(old); err == nil && old.Kind == n.Kind {
			if s.Password == "" {
				s.Password = was.Password
			}
			if s.Certificate == "" && s.Key == "" {
				s.Certificate, s.Key = was.Certificate, was.Key
			}
		}
	} else if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if err := s.check(n.Kind); err != nil {
		return err
	}
	if n.Hosts, err = hostList(n.Hosts, old); err != nil {
		return err
	}
	e, err := h.vault.entry(who, n, s)
	if err != nil {
		return err
	}
	return h.store(ctx, who, "put "+n.Name, e)
}

// hostList checks where an entry may go; none given leaves the old ones.
func hostList(hosts []string, old store.VaultEntry) ([]string, error) {
	if len(hosts) == 0 && old.Hosts != "" {
		return hosts, json.Unmarshal([]byte(old.Hosts), &hosts)
	}
	if len(hosts) == 0 {
		return nil, refused("say which hosts the credential may go to")
	}
	if _, err := ParseAllow(hosts); err != nil {
		return nil, refused("%q are not all hosts, addresses or networks such as 10.1.0.0/16", hosts)
	}
	return hosts, nil
}

func (s *sealed) check(kind string) error {
	switch kind {
	case Password:
		if s.User == "" || s.Password == "" {
			return refused("an entry of a user needs the user's name and a password")
		}
		s.Certificate, s.Key = "", ""
	case Certificate:
		if _, err := tls.X509KeyPair([]byte(s.Certificate), []byte(s.Key)); err != nil {
			return refused("the certificate and its key do not belong together, or are not PEM")
		}
		s.User, s.Password = "", ""
	default:
		return refused("an entry is of a user with a password, or of a certificate with its key")
	}
	return nil
}

// entry seals a secret.
func (v *vault) entry(who Actor, n NewVaultEntry, s sealed) (store.VaultEntry, error) {
	plain, err := json.Marshal(s)
	if err != nil {
		return store.VaultEntry{}, err
	}
	box, err := seal(v.identity.Recipient(), plain)
	if err != nil {
		return store.VaultEntry{}, err
	}
	roles, err := json.Marshal(n.Roles)
	if err != nil {
		return store.VaultEntry{}, err
	}
	hosts, err := json.Marshal(n.Hosts)
	return store.VaultEntry{Hosts: string(hosts), Name: n.Name, Kind: n.Kind, Roles: string(roles), Note: n.Note, Sealed: box,
		Person: who.Name, At: time.Now().UnixNano()}, err
}

// store puts entries, all or none.
func (h *Host) store(ctx context.Context, who Actor, what string, list ...store.VaultEntry) error {
	if err := h.server.PutVaultEntries(ctx, list); err != nil {
		return err
	}
	h.recordEverywhere(ctx, who, audit.Vault, what)
	for _, e := range list {
		if strings.EqualFold(e.Name, h.directory.now().of.Credential) {
			return h.openDirectory(ctx)
		}
	}
	return nil
}

// DropVault takes an entry away unless a device uses it.
func (h *Host) DropVault(ctx context.Context, who Actor, name string) error {
	if !who.Server {
		return errManages
	}
	if uses := h.vaultUses(ctx, who)[strings.ToLower(name)]; len(uses) > 0 {
		return refused("%s of %s uses the entry: take it from the device first", uses[0].Device, uses[0].Project)
	}
	if d := h.directory.now(); strings.EqualFold(d.of.Credential, name) {
		return refused("the server asks the company's directory with the entry: choose another there first")
	}
	if _, err := h.server.VaultEntry(ctx, name); err != nil {
		return err
	}
	if err := h.server.DropVaultEntry(ctx, name); err != nil {
		return err
	}
	h.recordEverywhere(ctx, who, audit.Vault, "took away "+name)
	return nil
}

// exported is the vault's content in an export.
type exported struct {
	Format  string          `json:"format"`
	Entries []NewVaultEntry `json:"entries"`
}

const vaultFormat = "ready-rail-vault-1"

// ExportVault gives the whole vault under a passphrase, in the age format
// (age-encryption.org/v1).
func (h *Host) ExportVault(ctx context.Context, who Actor, passphrase string) ([]byte, error) {
	if !who.Server {
		return nil, errManages
	}
	if len(passphrase) < 10 {
		return nil, refused("a passphrase has at least 10 characters")
	}
	list, err := h.server.VaultEntries(ctx)
	if err != nil {
		return nil, err
	}
	out := exported{Format: vaultFormat, Entries: []NewVaultEntry{}}
	for _, e := range list {
		s, err := h.vault.open(e)
		if err != nil {
			return nil, err
		}
		n := NewVaultEntry{Name: e.Name, Kind: e.Kind, User: s.User, Password: s.Password, Certificate: s.Certificate, Key: s.Key, Note: e.Note,
			Hosts: []string{}}
		if err := errors.Join(json.Unmarshal([]byte(e.Roles), &n.Roles), json.Unmarshal([]byte(cmp.Or(e.Hosts, "[]")), &n.Hosts)); err != nil {
			return nil, err
		}
		out.Entries = append(out.Entries, n)
	}
	plain, err := json.Marshal(out)
	if err != nil {
		return nil, err
	}
	to, err := age.NewScryptRecipient(passphrase)
	if err != nil {
		return nil, err
	}
	h.recordEverywhere(ctx, who, audit.Vault, fmt.Sprintf("exported %d entries", len(out.Entries)))
	return seal(to, plain)
}

// ImportVault takes the entries of an export. One that is here already is
// replaced.
func (h *Host) ImportVault(ctx context.Context, who Actor, data []byte, passphrase string) (int, error) {
	if !who.Server {
		return 0, errManages
	}
	by, err := age.NewScryptIdentity(passphrase)
	if err != nil {
		return 0, refused("give the passphrase of the export")
	}
	by.SetMaxWorkFactor(20)
	plain, err := unseal(data, by)
	if err != nil {
		return 0, refused("the passphrase is not right, or this is no age file")
	}
	var in exported
	if json.Unmarshal(plain, &in) != nil || in.Format != vaultFormat {
		return 0, refused("this is no export of a vault")
	}
	list, names := []store.VaultEntry{}, []string{}
	for _, n := range in.Entries {
		s := sealed{n.User, n.Password, n.Certificate, n.Key}
		if err := s.check(n.Kind); err != nil {
			return 0, refused("entry %s: %v", n.Name, err)
		}
		e, err := h.vault.entry(who, n, s)
		if err != nil {
			return 0, err
		}
		list, names = append(list, e), append(names, n.Name)
	}
	return len(list), h.store(ctx, who, "imported "+strings.Join(names, ", "), list...)
}
