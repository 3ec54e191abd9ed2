package host

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"os"
	"path/filepath"
	"strings"

	"filippo.io/age"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// The server's keys, and how each is changed without loss while no server runs.

const (
	trailKey = "audit.key" // an audit.Ring
	vaultKey = "vault.key" // an age identity
	nextKey  = ".next"     // behind the name of a key that is about to take its place
	// vaultSetting says which key of the vault everything is sealed with.
	vaultSetting = "vault"
	// badgeSetting is the key that badges are hashed with, sealed.
	badgeSetting = "badges"
	// owedSetting is what commands did, as a list of owed.
	owedSetting = "owed"
)

// Keys that can be changed.
const (
	KeyOfVault    = "vault"    // seals what devices and people sign in with
	KeyOfTrail    = "trail"    // seals the audit trail
	KeyOfSigning  = "signing"  // signs heads and files of the trail
	KeysOfSession = "sessions" // what browsers show for who is signed in
)

// readRing reads keys from a file, making the first one the first time. They lie outside
// the projects' folders, so that who can copy a project cannot forge its trail.
func readRing(path string) (audit.Ring, error) {
	text, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) {
		ring := audit.Ring{newKey()}
		return ring, replaceFile(path, ring.String())
	}
	if err != nil {
		return nil, err
	}
	ring, err := audit.ParseRing(string(text))
	if err != nil {
		return nil, say.Errorf("%s: %w", path, err)
	}
	return ring, nil
}

func newKey() []byte {
	key := make([]byte, audit.KeySize)
	rand.Read(key)
	return key
}

// replaceFile puts a file with a secret in the place of another; a crash leaves one of
// them, whole.
func replaceFile(path, text string) error {
	if err := writeSecret(path+nextKey, text); err != nil {
		return err
	}
	return os.Rename(path+nextKey, path)
}

func writeSecret(path, text string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err == nil {
		_, err = f.WriteString(text)
		err = errors.Join(err, f.Sync(), f.Close())
	}
	if err != nil {
		return say.Errorf("the key %s cannot be stored: %w", filepath.Base(path), err)
	}
	return nil
}

// ChangeKey gives a data folder another key in the place of one, and says what came of
// it. No server may run on the folder. Nothing that the old key sealed or signed is lost:
// the vault is sealed anew, trails go over at the next start, and what was signed stays
// proved by the old public key, which audit.pub keeps. The key of a vault whose key is
// given from outside is given from outside again, as next.
func ChangeKey(ctx context.Context, dir, which, vaultOutside, next string) (mark string, left []string, err error) {
	if err := isDataFolder(dir); err != nil {
		return "", nil, err
	}
	lock, err := lockFolder(dir)
	if err != nil {
		return "", nil, err
	}
	defer lock.Close()
	server, err := store.OpenServer(dir, nil)
	if err != nil {
		return "", nil, err
	}
	defer func() { err = errors.Join(err, server.Close()) }()
	switch which {
	case KeyOfTrail:
		mark, err = addToRing(filepath.Join(dir, trailKey))
	case KeyOfSigning:
		if mark, err = addToRing(filepath.Join(dir, signingKey)); err == nil {
			_, err = openSigning(dir, "")
		}
	case KeyOfVault:
		mark, left, err = changeVaultKey(ctx, dir, server, vaultOutside, next)
	case KeysOfSession:
		mark, err = "every session ended", server.EndSessions(ctx)
	default:
		err = say.Errorf("there is no key %q: vault, trail, signing or sessions", which)
	}
	if err != nil {
		return "", nil, err
	}
	return mark, left, owe(ctx, server, owed{audit.Keys, which + " key changed: " + mark})
}

// addToRing adds a new key to a ring that is kept.
func addToRing(path string) (mark string, err error) {
	ring, err := readRing(path)
	if err != nil {
		return "", err
	}
	ring = append(ring, newKey())
	return audit.Mark(ring.Newest()), replaceFile(path, ring.String())
}

func changeVaultKey(ctx context.Context, dir string, server *store.Server, outside, next string) (mark string, left []string, err error) {
	old, err := openVault(dir, outside)
	if err != nil {
		return "", nil, err
	}
	if err := old.settle(ctx, server); err != nil {
		return "", nil, err
	}
	id, err := age.GenerateX25519Identity()
	if outside != "" {
		if next == "" {
			return "", nil, say.Errorf("the key of this vault comes from %s: give the next one with %s", VaultKeyVariable, NextVaultKeyVariable)
		}
		id, err = age.ParseX25519Identity(strings.TrimSpace(next))
	}
	if err != nil {
		return "", nil, say.New("the key of the vault is no age identity: it begins with AGE-SECRET-KEY-")
	}
	path := filepath.Join(dir, vaultKey)
	if outside == "" {
		if err := writeSecret(path+nextKey, id.String()+"\n"); err != nil {
			return "", nil, err
		}
	}
	again := func(what string, sealed []byte) ([]byte, error) {
		plain, err := unseal(sealed, old.identity)
		if err != nil { // nobody could read it before either
			left = append(left, what)
			return sealed, nil
		}
		return seal(id.Recipient(), plain)
	}
	mark = id.Recipient().String()
	if err := server.Reseal(ctx, again, []string{badgeSetting}, vaultSetting, mark); err != nil {
		return "", nil, err
	}
	if outside == "" {
		err = os.Rename(path+nextKey, path)
	}
	return mark, left, err
}

// settle finishes a change of the vault's key that a crash cut off: everything is sealed
// with the key that the server's settings name.
func (v *vault) settle(ctx context.Context, server *store.Server) error {
	var mark string
	err := server.Setting(ctx, vaultSetting, &mark)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	path := filepath.Join(v.dir, vaultKey)
	if mark != "" && mark != v.identity.Recipient().String() {
		if text, err := os.ReadFile(path + nextKey); err == nil {
			next, err := age.ParseX25519Identity(strings.TrimSpace(string(text)))
			if err == nil && next.Recipient().String() == mark {
				v.identity = next
				return os.Rename(path+nextKey, path)
			}
		}
	}
	if err := os.Remove(path + nextKey); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	if now := v.identity.Recipient().String(); now != mark {
		return server.PutSetting(ctx, vaultSetting, now)
	}
	return nil
}

// openBadges reads the key that badges are hashed with, made the first time it is needed.
func (h *Host) openBadges(ctx context.Context) error {
	var sealed []byte
	err := h.server.Setting(ctx, badgeSetting, &sealed)
	if err == nil {
		if h.badgeKey, err = unseal(sealed, h.vault.identity); err == nil {
			return nil
		}
		h.log.Warn("badges were read with another key of the vault: each is given anew", "error", err)
	} else if !errors.Is(err, ErrNotFound) {
		return err
	}
	h.badgeKey = newKey()
	if sealed, err = seal(h.vault.identity.Recipient(), h.badgeKey); err != nil {
		return err
	}
	return h.server.PutSetting(ctx, badgeSetting, sealed)
}

// owed is what a command did that every trail is to say.
type owed struct {
	What string `json:"what"`
	Text string `json:"text"`
}

// owe keeps what every project's trail is to say once they are open.
func owe(ctx context.Context, server *store.Server, more owed) error {
	list := []owed{}
	if err := server.Setting(ctx, owedSetting, &list); err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	return server.PutSetting(ctx, owedSetting, append(list, more))
}

// sayOwed has every trail say what commands did while no server ran.
func (h *Host) sayOwed(ctx context.Context) error {
	list := []owed{}
	if err := h.server.Setting(ctx, owedSetting, &list); errors.Is(err, ErrNotFound) || err == nil && len(list) == 0 {
		return nil
	} else if err != nil {
		return err
	}
	for _, o := range list {
		h.recordEverywhere(ctx, Actor{Name: "Ready Rail"}, o.What, o.Text)
	}
	return h.server.PutSetting(ctx, owedSetting, []owed{})
}

// KeyState tells of a key without telling it.
type KeyState struct {
	Name string
	Mark string
	// Before is how many older ones are kept beside it.
	Before int
}

// Keys tells which keys a data folder has.
func Keys(dir, vaultOutside string) ([]KeyState, error) {
	out := []KeyState{}
	for _, k := range []struct{ name, file string }{{KeyOfTrail, trailKey}, {KeyOfSigning, signingKey}} {
		text, err := os.ReadFile(filepath.Join(dir, k.file))
		if err != nil {
			return nil, err
		}
		ring, err := audit.ParseRing(string(text))
		if err != nil {
			return nil, say.Errorf("%s: %w", k.file, err)
		}
		mark := audit.Mark(ring.Newest())
		if k.name == KeyOfSigning {
			keys := signers(ring)
			mark = hex.EncodeToString(keys[len(keys)-1].Public().(ed25519.PublicKey))
		}
		out = append(out, KeyState{k.name, mark, len(ring) - 1})
	}
	v, err := openVault(dir, vaultOutside)
	if err != nil {
		return nil, err
	}
	return append(out, KeyState{KeyOfVault, v.identity.Recipient().String(), 0}), nil
}
