package host_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"filippo.io/age"

	"readyrail/internal/host"
	"readyrail/internal/store"
)

// secrets is the folder of a server with a credential in its vault and a badge.
func secrets(t *testing.T) *proved {
	t.Helper()
	beside(t)
	s := newProved(t)
	err := s.h.PutVault(ctx, s.who, host.NewVaultEntry{Name: "kiln", Kind: host.Password, User: "reader", Password: "ash",
		Hosts: []string{"127.0.0.1"}})
	if err == nil {
		_, err = s.h.SetBadge(ctx, s.who.ID, "47110815")
	}
	if err != nil {
		t.Fatal(err)
	}
	s.close()
	return s
}

// holds tells whether the vault opens and the badge is still known.
func (s *proved) holds() {
	s.t.Helper()
	s.open()
	defer s.close()
	list, err := s.h.Vault(ctx, s.who)
	if err != nil || len(list) != 1 || list[0].User != "reader" {
		s.t.Errorf("the vault: %+v %v", list, err)
	}
	name := host.SessionName(s.t.Name())
	tom := host.NewAccount{Name: name, FullName: "Tom Alder " + name, Password: "oak-and-ash", Chosen: true}
	other, err := s.h.PutAccount(ctx, s.who, "", tom)
	if err == nil {
		_, err = s.h.SetBadge(ctx, other.ID, "47110815")
	}
	if err == nil || !strings.Contains(err.Error(), "is the one of Ada Birch") {
		s.t.Errorf("the badge: %v", err)
	}
}

func (s *proved) change(which string) string {
	s.t.Helper()
	mark, left, err := host.ChangeKey(ctx, s.data, which, "", "")
	if err != nil || len(left) > 0 {
		s.t.Fatal(which, left, err)
	}
	return mark
}

func (s *proved) key(name string) string {
	s.t.Helper()
	text, err := os.ReadFile(filepath.Join(s.data, name))
	if err != nil {
		s.t.Fatal(err)
	}
	return string(text)
}

func (s *proved) put(name, text string) {
	s.t.Helper()
	if err := os.WriteFile(filepath.Join(s.data, name), []byte(text), 0o600); err != nil {
		s.t.Fatal(err)
	}
}

// TestTheVaultIsSealedAnew: another key, nothing lost, and a crash at either side of the
// change leaves one key with which everything opens.
func TestTheVaultIsSealedAnew(t *testing.T) {
	s := secrets(t)
	old := s.key("vault.key")
	s.change(host.KeyOfVault)
	next := s.key("vault.key")
	if old == next {
		t.Error("the key stayed")
	}
	t.Run("changed", func(t *testing.T) { s.t = t; s.holds() })
	s.t = t
	s.put("vault.key", old) // killed before the new key took its place
	s.put("vault.key.next", next)
	t.Run("killed after", func(t *testing.T) { s.t = t; s.holds() })
	s.t = t
	if s.key("vault.key") != next {
		t.Error("the change was not finished")
	}
	s.put("vault.key.next", old) // killed before anything was sealed anew
	t.Run("killed before", func(t *testing.T) { s.t = t; s.holds() })
	if _, err := os.Stat(filepath.Join(s.data, "vault.key.next")); s.key("vault.key") != next || err == nil {
		t.Error("what was left of a change that did not happen stays")
	}
}

func TestAVaultKeyFromOutside(t *testing.T) {
	s := secrets(t)
	old := s.key("vault.key")
	if err := os.Remove(filepath.Join(s.data, "vault.key")); err != nil {
		t.Fatal(err)
	}
	id, err := age.GenerateX25519Identity()
	if err != nil {
		t.Fatal(err)
	}
	for next, says := range map[string]string{"": host.NextVaultKeyVariable, "a word": "no age identity"} {
		if _, _, err := host.ChangeKey(ctx, s.data, host.KeyOfVault, old, next); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", next, err)
		}
	}
	if _, _, err := host.ChangeKey(ctx, s.data, host.KeyOfVault, old, id.String()); err != nil {
		t.Fatal(err)
	}
	s.put("vault.key", id.String()+"\n")
	s.holds()
}

// TestTrailsGoOver: trail and heads stay proved over changes of both keys, by the new
// public keys, and what was signed before by the old one, too; every trail says so.
func TestTrailsGoOver(t *testing.T) {
	beside(t)
	s := newProved(t)
	s.work(3)
	s.close()
	before := s.key("audit.pub")
	for _, which := range []string{host.KeyOfTrail, host.KeyOfSigning, host.KeyOfTrail, host.KeysOfSession} {
		s.change(which)
	}
	s.open()
	s.work(2)
	s.close()
	state, said := s.says(s.heads)
	if said != "" || !state.Elsewhere || state.Head.Seq != state.Records {
		t.Errorf("%+v %s", state, said)
	}
	if !strings.HasPrefix(s.key("audit.pub"), before) {
		t.Error("the first public key went")
	}
	s.open()
	list, _, err := s.p.Trail(ctx, store.TrailFilter{Whats: []string{"keys", "key-changed"}}, 100)
	if err != nil || len(list) != 6 { // four that were owed, two where the chain goes over
		t.Errorf("%d records of changes, %v", len(list), err)
	}
	s.close()
	s.put("audit.pub", before)
	if _, said := s.says(s.heads); !strings.Contains(said, "was not signed with this key") {
		t.Errorf("by the old public key alone: %s", said)
	}
}

func TestKeysThatCannotBeChanged(t *testing.T) {
	beside(t)
	s := newProved(t)
	if _, _, err := host.ChangeKey(ctx, s.data, host.KeyOfTrail, "", ""); err == nil || !strings.Contains(err.Error(), "in use by another") {
		t.Errorf("beside a running server: %v", err)
	}
	s.close()
	if _, _, err := host.ChangeKey(ctx, s.data, "front door", "", ""); err == nil || !strings.Contains(err.Error(), "there is no key") {
		t.Errorf("of no name: %v", err)
	}
	elsewhere := t.TempDir()
	if _, _, err := host.ChangeKey(ctx, elsewhere, host.KeyOfTrail, "", ""); err == nil || !strings.Contains(err.Error(), "is no data folder") {
		t.Errorf("of a folder that is none: %v", err)
	}
	if left, err := os.ReadDir(elsewhere); err != nil || len(left) > 0 {
		t.Errorf("it left %v there, %v", left, err)
	}
	states, err := host.Keys(s.data, "")
	if err != nil || len(states) != 3 {
		t.Errorf("%+v %v", states, err)
	}
	for _, k := range states {
		for _, file := range []string{"audit.key", "audit.sign", "vault.key"} {
			if k.Mark == "" || strings.Contains(s.key(file), k.Mark) {
				t.Errorf("%s tells its key", k.Name)
			}
		}
	}
}
