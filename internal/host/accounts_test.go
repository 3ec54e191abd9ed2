package host_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/edit"
	"readyrail/internal/host"
)

// signIn tries a secret from an address.
func (s *site) signIn(x host.Secret) error {
	if x.From == "" {
		x.From = "127.0.0.1"
	}
	_, _, err := s.h.SignIn(ctx, x)
	return err
}

func TestSignIn(t *testing.T) {
	s := newSite(t)
	if err := s.signIn(host.Secret{Name: "TOM", PIN: "1470", Panel: "Kiln house"}); err != nil {
		t.Errorf("PIN at a panel: %v", err)
	}
	if err := s.signIn(host.Secret{Name: "tom", PIN: "1470"}); err == nil || !strings.Contains(err.Error(), "enrolled panel") {
		t.Errorf("PIN elsewhere: %v", err)
	}
	for range 5 {
		if err := s.signIn(host.Secret{Name: "tom", Password: "wrong"}); !errors.Is(err, host.ErrSignIn) {
			t.Errorf("%v", err)
		}
	}
	if err := s.signIn(host.Secret{Name: "tom", Password: "oak-and-ash"}); err == nil || !strings.Contains(err.Error(), "too many") {
		t.Errorf("no lockout: %v", err)
	}
	// At the panel the person gets in all the same.
	if err := s.signIn(host.Secret{Name: "tom", PIN: "1470", Panel: "Kiln house"}); err != nil {
		t.Errorf("a stranger locked the panel: %v", err)
	}
	// A name that nobody has is answered alike, throughout.
	for i := range 7 {
		err := s.signIn(host.Secret{Name: "nobody", Password: "x"})
		if i < 5 != errors.Is(err, host.ErrSignIn) {
			t.Errorf("guess %d at an unknown name: %v", i, err)
		}
	}
	account, err := s.h.Unlock(ctx, s.actors["tom"].ID)
	if err != nil || !account.LockedUntil.IsZero() {
		t.Errorf("%+v %v", account, err)
	}
	if err := s.signIn(host.Secret{Name: "tom", Password: "oak-and-ash"}); err != nil {
		t.Errorf("after it was lifted: %v", err)
	}
	// Failures are runs of the server's. A trail has those at the accounts of its
	// people, together, and none of a name that is nobody's.
	runs, err := s.h.FailedRuns(ctx)
	if err != nil || len(runs) != 2 {
		t.Fatalf("%+v %v", runs, err)
	}
	var noted []string
	for _, r := range s.trail() {
		if r.What == "sign-in-failed" {
			noted = append(noted, r.Name+": "+r.Reason)
		}
	}
	if len(noted) == 0 || len(noted) > 2 || !strings.HasPrefix(noted[len(noted)-1], "Tom Alder: ") ||
		!strings.Contains(noted[len(noted)-1], " failed, from ") {
		t.Errorf("%q", noted)
	}
	if _, err := s.h.CreateOwner(ctx, host.NewAccount{Name: "eve", FullName: "Eve", Password: "long enough"}); err == nil {
		t.Error("a second owner made itself")
	}
}

// 300 PINs at once: few are compared, and who really signs in meanwhile does
// not wait for them.
func TestGuessesAtOnce(t *testing.T) {
	s := newSite(t)
	var right, answered atomic.Int64
	var wg sync.WaitGroup
	for i := range 300 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			// The right one is among the last.
			pin := fmt.Sprintf("%04d", 2000+i)
			if i > 290 {
				for pin = "1470"; answered.Load() < 20; {
					time.Sleep(time.Millisecond)
				}
			}
			defer answered.Add(1)
			if s.signIn(host.Secret{Name: "tom", PIN: pin, Panel: "Office 2"}) == nil {
				right.Add(1)
			}
		}()
	}
	time.Sleep(5 * time.Millisecond)
	at := time.Now()
	if err := s.signIn(host.Secret{Name: "iris", Password: "elm-and-yew"}); err != nil {
		t.Error(err)
	}
	if took := time.Since(at); took > time.Second {
		t.Errorf("a real sign-in took %v", took)
	}
	wg.Wait()
	account, _ := s.h.Unlock(ctx, s.actors["tom"].ID)
	if right.Load() > 0 {
		t.Errorf("%d of the late guesses were compared: %+v", right.Load(), account)
	}
}

func TestASecretSetByAnotherIsForOneSignIn(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	account, err := s.h.PutAccount(ctx, ada, tom.ID, host.NewAccount{Name: "tom", FullName: "Tom Alder", Password: "larch-and-fir"})
	if err != nil || account.SetBy != "Ada Birch" {
		t.Fatalf("%+v %v", account, err)
	}
	if err := s.signIn(host.Secret{Name: "tom", PIN: "1470", Panel: "Kiln house"}); err == nil {
		t.Error("the old PIN still lets in")
	}
	who, choose, err := s.h.SignIn(ctx, host.Secret{Name: "tom", Password: "larch-and-fir", From: "10.0.0.1"})
	if err != nil || !choose {
		t.Fatalf("%+v %v %v", who, choose, err)
	}
	if err := s.signIn(host.Secret{Name: "tom", Password: "larch-and-fir"}); !errors.Is(err, host.ErrSignIn) {
		t.Errorf("it let in twice: %v", err)
	}
	if _, err := s.h.Choose(ctx, who, "password1", ""); err == nil {
		t.Error("a common password was taken")
	}
	if _, err := s.h.Choose(ctx, who, "the-old-larch", "2580"); err != nil {
		t.Fatal(err)
	}
	if err := s.signIn(host.Secret{Name: "tom", Password: "the-old-larch"}); err != nil {
		t.Error(err)
	}
	if who, _ := s.h.Actor(ctx, tom.ID); who.Epoch == tom.Epoch {
		t.Error("sessions of the old password go on")
	}
}

func TestNamesThatAreRefused(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	for full, why := range map[string]string{"Tom  alder": "there is a Tom Alder already", "Tom\u202eAlder": "direction",
		"Tom\nAlder": "control", strings.Repeat("x", 10_000): "80 characters"} {
		if _, err := s.h.PutAccount(ctx, ada, "", host.NewAccount{Name: "new", FullName: full,
			Password: "larch-and-fir"}); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%.20q: %v", full, err)
		}
	}
}

func TestAPasswordIsNotSetForRightsOneCannotGive(t *testing.T) {
	s := newSite(t)
	owner, tom, iris := s.actors["ada"], s.actors["tom"], s.actors["iris"]
	other, err := s.h.CreateProject(ctx, owner, "other", edit.NewProject("Yard two"))
	if err != nil {
		t.Fatal(err)
	}
	// Tom manages the people of Larchmoor, and nothing in the other project.
	if err := s.p.SetGrants(ctx, s.actors["ada"], tom.ID, []access.Grant{{Role: "r-engineer"}}); err != nil {
		t.Fatal(err)
	}
	if err := s.p.MayChange(ctx, tom, iris.ID); err != nil {
		t.Errorf("a person of one's own project: %v", err)
	}
	if err := other.SetGrants(ctx, s.actors["ada"], iris.ID, []access.Grant{{Role: "r-engineer"}}); err != nil {
		t.Fatal(err)
	}
	if err := s.p.MayChange(ctx, tom, iris.ID); err == nil || !strings.Contains(err.Error(), "Yard two") {
		t.Errorf("a person with roles elsewhere: %v", err)
	}
	if err := s.p.MayChange(ctx, tom, owner.ID); err == nil {
		t.Error("the owner's account was open to another")
	}
	if err := s.p.MayChange(ctx, iris, iris.ID); err != nil {
		t.Errorf("one's own account: %v", err)
	}
	if _, err := s.h.PutAccount(ctx, tom, iris.ID, host.NewAccount{Name: "iris", FullName: "Iris Rowan", Server: true}); err == nil {
		t.Error("somebody else than the owner gave the right to manage the server")
	}
}

// What belongs to one project is nothing to the people of another.
func TestBetweenProjects(t *testing.T) {
	s := newSite(t)
	owner := s.actors["ada"]
	other, err := s.h.CreateProject(ctx, owner, "other", edit.NewProject("Yard two"))
	if err != nil {
		t.Fatal(err)
	}
	made, err := s.h.PutAccount(ctx, owner, "", host.NewAccount{Name: "eve", FullName: "Eve Hazel", Password: "larch-and-fir",
		PIN: "2580", Home: "other", Chosen: true})
	if err != nil {
		t.Fatal(err)
	}
	if err := other.SetGrants(ctx, s.actors["ada"], made.ID, []access.Grant{{Role: "r-engineer"}}); err != nil {
		t.Fatal(err)
	}
	eve, _ := s.h.Actor(ctx, made.ID)
	list, err := other.Accounts(ctx, eve)
	if err != nil || len(list) != 1 || list[0].Name != "eve" {
		t.Errorf("she sees %+v, %v", list, err)
	}
	if _, err := s.p.Enrol(ctx, owner, "Kiln house"); err != nil {
		t.Fatal(err)
	}
	mine, _ := s.p.Panels(ctx)
	if theirs, err := other.Panels(ctx); err != nil || len(theirs) != 0 {
		t.Errorf("she sees the panels %+v, %v", theirs, err)
	}
	if err := other.RemovePanel(ctx, mine[0].ID); !errors.Is(err, host.ErrNotFound) {
		t.Errorf("she took another project's panel out: %v", err)
	}
	// Her own panel takes the PINs of her project's people alone.
	key, err := other.Enrol(ctx, eve, "Shed")
	if err != nil {
		t.Fatal(err)
	}
	shed := s.h.Panel(ctx, key)
	if err := s.signIn(host.Secret{Name: "tom", PIN: "1470", Panel: shed.Name, Project: shed.Project}); !errors.Is(err, host.ErrSignIn) {
		t.Errorf("a PIN of the other project: %v", err)
	}
	if err := s.signIn(host.Secret{Name: "eve", PIN: "2580", Panel: shed.Name, Project: shed.Project}); err != nil {
		t.Errorf("a PIN of her own: %v", err)
	}
}

// An edit is judged by its result: no order of its operations makes a device
// carry a credential that its person may not use.
func TestACredentialGoesNowhereElse(t *testing.T) {
	s := newSite(t)
	ada, iris := s.actors["ada"], s.actors["iris"]
	if err := s.p.SetGrants(ctx, s.actors["ada"], iris.ID, []access.Grant{{Role: "r-engineer"}}); err != nil {
		t.Fatal(err)
	}
	entry := host.NewVaultEntry{Name: "broker", Kind: host.Password, User: "station", Password: "pine-cone",
		Roles: []string{"Shift lead"}, Hosts: []string{"127.0.0.1"}}
	if err := s.h.PutVault(ctx, ada, entry); err != nil {
		t.Fatal(err)
	}
	set := func(path, v string) project.Op {
		return project.Op{Kind: project.KindDevice, ID: "d-weather", Path: path, Value: json.RawMessage(v)}
	}
	for name, ops := range map[string][]project.Op{
		"credential alone":          {set("/credential", `"broker"`)},
		"host, then its credential": {set("/host", `"10.9.9.9"`), set("/credential", `"broker"`)},
		"credential, then host":     {set("/credential", `"broker"`), set("/host", `"10.9.9.9"`)},
	} {
		if _, err := s.p.Edit(ctx, iris, name, ops); err == nil {
			t.Errorf("%s: it was taken", name)
		}
	}
	if d := s.p.Draft().Devices["d-weather"]; d.Credential != "" || d.Host == "10.9.9.9" {
		t.Errorf("half of a refused edit was applied: %+v", d)
	}
	if _, err := s.p.Edit(ctx, ada, "put", []project.Op{set("/credential", `"broker"`)}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Edit(ctx, ada, "elsewhere", []project.Op{set("/host",
		`"10.9.9.9"`)}); err == nil || !strings.Contains(err.Error(), "may not go to 10.9.9.9") {
		t.Errorf("the owner sent it elsewhere: %v", err)
	}
}

// TestAccountsEnd: after its last day an account signs in nowhere, and who is signed
// in goes; a new password that is asked for is chosen first, and is none of the last.
func TestAccountsEnd(t *testing.T) {
	s := newSite(t)
	h, owner := s.h, s.actors["ada"]
	day := func(n int) string { return time.Now().AddDate(0, 0, n).Format(time.DateOnly) }
	put := func(id, until string, renew bool, password string) (host.Account, error) {
		return h.PutAccount(ctx, owner, id, host.NewAccount{Name: "wren", FullName: "Wren Hazel", Password: password, Until: until, Renew: renew,
			Chosen: true})
	}
	a, err := put("", day(0), false, "hazel-and-holly")
	if err != nil || a.Over {
		t.Fatalf("%+v %v", a, err)
	}
	signIn := func(password string) (host.Actor, bool, error) {
		return h.SignIn(ctx, host.Secret{Name: "wren", Password: password, From: "10.0.0.9"})
	}
	who, _, err := signIn("hazel-and-holly")
	if err != nil {
		t.Fatalf("on its last day: %v", err)
	}
	if a, err = put(a.ID, day(-1), false, ""); err != nil || !a.Over {
		t.Errorf("%+v %v", a, err)
	}
	if _, _, err := signIn("hazel-and-holly"); err == nil {
		t.Error("an account that is over signs in")
	}
	if _, err := h.Actor(ctx, who.ID); !errors.Is(err, host.ErrNotFound) {
		t.Errorf("who is signed in stays: %v", err)
	}
	if _, err := put(a.ID, "tomorrow", false, ""); err == nil || !strings.Contains(err.Error(), "date such as") {
		t.Errorf("%v", err)
	}
	if _, err := put(a.ID, "", true, ""); err != nil {
		t.Fatal(err)
	}
	who, choose, err := signIn("hazel-and-holly")
	if err != nil || !choose {
		t.Fatalf("a new password is not asked for: %v %v", choose, err)
	}
	for _, password := range []string{"hazel-and-holly", ""} {
		if _, err := h.Choose(ctx, who, password, "7391"); err == nil {
			t.Errorf("%q was taken", password)
		}
	}
	for i := range 6 {
		if who, err = h.Choose(ctx, who, fmt.Sprintf("yew-and-oak-%d", i), ""); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := h.Choose(ctx, who, "yew-and-oak-1", ""); err == nil {
		t.Error("one of the last five was taken again")
	}
	if _, err := h.Choose(ctx, who, "hazel-and-holly", ""); err != nil {
		t.Errorf("one from long ago: %v", err)
	}
	if _, choose, err := signIn("hazel-and-holly"); err != nil || choose {
		t.Errorf("asked for again: %v %v", choose, err)
	}
}

// TestGivenBeyondOnesOwn: who gives a role with rights that they don't have is found by
// name, until the role is taken away; what the client says of it counts for nothing.
func TestGivenBeyondOnesOwn(t *testing.T) {
	s := newSite(t)
	ada, iris, tom := s.actors["ada"], s.actors["iris"], s.actors["tom"]
	beyond := func() (out []string) {
		list, err := s.p.Gaps(ctx, s.p.Draft())
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range list {
			if f.Rule == "rights.beyond" {
				out = append(out, fmt.Sprint(f.Name, " by ", f.Args["giver"], ": ", f.Args["rights"].(access.RightList)))
			}
		}
		return out
	}
	give := func(who host.Actor, list ...access.Grant) {
		t.Helper()
		if err := s.p.GiveRoles(ctx, who, tom.ID, list); err != nil {
			t.Fatal(err)
		}
	}
	if got := beyond(); len(got) > 0 {
		t.Fatal(got)
	}
	operator, maint := access.Grant{Role: "r-operator"}, access.Grant{Role: "r-maint", Area: "a-kilns"}
	give(iris, operator, maint)
	if got := fmt.Sprint(beyond()); got != "[Tom Alder by Iris Rowan: [override commission]]" {
		t.Error(got)
	}
	if r := s.trail()[0]; r.Path != "roles of tom" || r.Old != "Operator" ||
		r.New != "Maintenance in Kilns, Operator" || r.Name != "Iris Rowan" {
		t.Errorf("%+v", r)
	}
	lied := maint
	lied.Giver, lied.Beyond = "Ada Birch", ""
	give(iris, operator, lied)
	if len(beyond()) != 1 {
		t.Error("who gave it is what a client says")
	}
	s.reopen()
	if len(beyond()) != 1 {
		t.Error("it is forgotten with a restart")
	}
	give(ada, operator)
	give(ada, operator, maint)
	if got := beyond(); len(got) > 0 {
		t.Errorf("given by the owner: %v", got)
	}
}
