package host_test

import (
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/demo"
	"readyrail/internal/directory/standin"
	"readyrail/internal/host"
)

// credential puts the server's sign-in at the directory into the vault.
func (s *site) credential(user string) {
	s.t.Helper()
	if err := s.h.PutVault(ctx, s.actors["ada"], host.NewVaultEntry{Name: "directory", Kind: host.Password, User: user,
		Password: standin.ServerPassword, Hosts: []string{"127.0.0.1"}}); err != nil {
		s.t.Fatal(err)
	}
}

var yardGroups = []access.Membership{
	{Group: "yard-operators", Project: demo.ID, Role: "r-operator"},
	{Group: "yard-leads", Project: demo.ID, Role: "r-lead"},
}

// byLDAP gives the site a stand-in directory.
func (s *site) byLDAP(people *standin.People) (*standin.LDAP, access.Directory) {
	s.t.Helper()
	side, err := standin.ServeLDAP("127.0.0.1:0", people)
	if err != nil {
		s.t.Fatal(err)
	}
	s.t.Cleanup(side.Close)
	s.credential(standin.ServerName)
	of := access.Directory{Kind: access.LDAP, Title: "Larchmoor", Address: "ldap://" + side.Address, Credential: "directory",
		Authority: side.Authority, Base: standin.Base, Members: yardGroups}
	if err := s.h.SetDirectory(ctx, s.actors["ada"], of); err != nil {
		s.t.Fatal(err)
	}
	return side, of
}

func (s *site) enters(name, password string) (host.Actor, error) {
	who, _, err := s.h.SignIn(ctx, host.Secret{Name: name, Password: password, From: "127.0.0.1"})
	return who, err
}

func (s *site) may(who host.Actor, right access.Right) bool { return s.p.May(ctx, who, right, true) }

// TestDirectoryByLDAP: somebody the directory knows signs in with the roles of their
// groups, loses those as the groups change, and everything as they leave.
func TestDirectoryByLDAP(t *testing.T) {
	s := newSite(t)
	people := standin.Yard()
	s.byLDAP(people)
	wren, err := s.enters("wren", "hazel-and-sloe")
	if err != nil || wren.Name != "Wren Hazel" || !wren.Directory || !s.may(wren, access.Operate) || s.may(wren, access.Engineer) {
		t.Fatalf("%+v %v", wren, err)
	}
	for _, c := range [][3]string{
		{"wren", "maple-and-lime", "do not match"},
		{"wren", "", "do not match"},
		{"hazel", "thorn-and-holly", "none of your groups there has a role here"},
		{"nobody", "hazel-and-sloe", "do not match"},
		{"tom", "hazel-and-sloe", "do not match"},
	} {
		if _, err := s.enters(c[0], c[1]); err == nil || !strings.Contains(err.Error(), c[2]) {
			t.Errorf("%s with %q: %v, want %s", c[0], c[1], err, c[2])
		}
	}
	accounts, _ := s.h.Accounts(ctx)
	if slices.ContainsFunc(accounts, func(a host.Account) bool { return a.Name == "hazel" || a.Name == "nobody" }) {
		t.Error("an account was made of somebody who was not let in")
	}
	s.directoryIsNotOurs(wren)

	key, err := s.hold(wren, s.cmd("s-car", "Hold to go forward", ""))
	if err != nil {
		t.Fatal(err)
	}
	people.Set("wren", func(p *standin.Person) { p.Groups = []string{"yard-leads"} })
	s.ask()
	if !s.may(wren, access.Shelve) {
		t.Error("a new group gives its role with the next asking")
	}
	list := s.rolesRecorded("wren")
	if last := list[0]; len(list) != 4 || last.Name != "Larchmoor" || last.New != "Shift lead" || last.Old != "Operator" {
		t.Errorf("recorded: %+v", list)
	}
	people.Set("wren", func(p *standin.Person) { p.Off = true })
	s.ask()
	if _, err := s.h.Actor(ctx, wren.ID); !errors.Is(err, host.ErrNotFound) {
		t.Errorf("who left goes on: %v", err)
	}
	if s.may(wren, access.View) {
		t.Error("who left has roles")
	}
	s.until("what was held is let go", func() bool { return s.p.Renew(wren, key) != nil && s.show("Car.JogForward") == "off" })
	if _, err := s.enters("wren", "hazel-and-sloe"); err == nil {
		t.Error("who left signs in")
	}
	people.Set("wren", func(p *standin.Person) { p.Off = false })
	if back, err := s.enters("wren", "hazel-and-sloe"); err != nil || back.ID != wren.ID || !s.may(back, access.Shelve) {
		t.Errorf("who came back: %+v %v", back, err)
	}
}

func (s *site) ask() {
	s.t.Helper()
	if err := s.h.AskDirectory(ctx); err != nil {
		s.t.Fatal(err)
	}
}

// rolesRecorded are the newest records of somebody's roles.
func (s *site) rolesRecorded(name string) []audit.Record {
	return slices.DeleteFunc(s.trail(), func(r audit.Record) bool { return r.What != audit.People || r.Path != "roles of "+name })
}

// directoryIsNotOurs: what the directory has is changed there, and what people gave here
// stays beside it.
func (s *site) directoryIsNotOurs(who host.Actor) {
	s.t.Helper()
	ada := s.actors["ada"]
	for what, change := range map[string]func() error{
		"another name": func() error {
			_, err := s.h.PutAccount(ctx, ada, who.ID, host.NewAccount{Name: "wren2", FullName: who.Name})
			return err
		},
		"a password by an engineer": func() error {
			_, err := s.h.PutAccount(ctx, ada, who.ID, host.NewAccount{Name: who.Login, FullName: who.Name, Password: "larch-in-the-rain"})
			return err
		},
		"a password of their own": func() error { _, err := s.h.Choose(ctx, who, "larch-in-the-rain", ""); return err },
		"one-time codes":          func() error { _, err := s.h.OfferSecond(ctx, who); return err },
		"without the role":        func() error { return s.p.GiveRoles(ctx, ada, who.ID, nil) },
		"the credential gone":     func() error { return s.h.DropVault(ctx, ada, "directory") },
		"settings by tom":         func() error { return s.h.SetDirectory(ctx, s.actors["tom"], access.Directory{}) },
		"a role that is not": func() error {
			return s.h.SetDirectory(ctx, ada, access.Directory{Kind: access.LDAP, Title: "x", Address: "ldaps://127.0.0.1", Base: "x",
				Credential: "directory", Members: []access.Membership{{Group: "g", Project: demo.ID, Role: "r-none"}}})
		},
		"a host that the credential may not go to": func() error {
			return s.h.SetDirectory(ctx, ada, access.Directory{Kind: access.LDAP, Title: "x", Address: "ldaps://10.9.9.9", Base: "x",
				Credential: "directory"})
		},
	} {
		var is *host.Refused
		if err := change(); !errors.As(err, &is) {
			s.t.Errorf("%s: %v", what, err)
		}
	}
	if err := s.p.GiveRoles(ctx, ada, who.ID, []access.Grant{{Role: "r-operator"}, {Role: "r-viewer", Area: "a-k1"}}); err != nil {
		s.t.Errorf("a role beside: %v", err)
	}
	s.ask()
	grants, _ := s.p.Grants(ctx)
	var has []access.Grant
	for _, g := range grants {
		if g.Person == who.ID {
			has = append(has, g)
		}
	}
	if len(has) != 2 || !has[0].Directory || has[1].Directory || has[1].Giver != "Ada Birch" {
		s.t.Errorf("roles: %+v", has)
	}
	if err := s.p.GiveRoles(ctx, ada, who.ID, []access.Grant{{Role: "r-operator"}}); err != nil {
		s.t.Errorf("the own role taken again: %v", err)
	}
}

// TestDirectoryDown: while it doesn't answer nobody loses anything, its people can't sign
// in and sign, ours can, and all see why.
func TestDirectoryDown(t *testing.T) {
	s := newSite(t)
	side, of := s.byLDAP(standin.Yard())
	wren, err := s.enters("wren", "hazel-and-sloe")
	if err != nil {
		t.Fatal(err)
	}
	if wren, err = s.h.Choose(ctx, wren, "", "7531"); err != nil {
		t.Fatal(err)
	}
	side.Close()
	s.ask()
	if state := s.h.DirectoryState(); state.Down == nil || state.Title != "Larchmoor" {
		t.Errorf("%+v", state)
	}
	if shown, err := s.h.Directory(ctx, s.actors["ada"]); err != nil || shown.Why == "" || shown.People != 1 {
		t.Errorf("%+v %v", shown, err)
	}
	if !s.may(wren, access.Operate) {
		t.Error("roles were lost as the directory was down")
	}
	for range 8 { // guesses that nobody could judge lock nobody out
		if _, err := s.enters("wren", "hazel-and-sloe"); err == nil || !strings.Contains(err.Error(), "does not answer") {
			t.Fatalf("%v", err)
		}
	}
	if _, err := s.enters("tom", "oak-and-ash"); err != nil {
		t.Errorf("one of our own: %v", err)
	}
	told := slices.ContainsFunc(s.trail(), func(r audit.Record) bool {
		return r.What == audit.Directory && strings.Contains(r.Reason, "does not answer")
	})
	if !told {
		t.Error("the trail does not say that the directory is down")
	}
	s.signsByPIN(wren, of)
	var last error
	for range 8 { // a PIN that is wrong was judged, whatever the directory
		last = s.signIn(host.Secret{Name: "wren", PIN: "0000", Password: "0000", Panel: "Kiln house", Signs: true})
	}
	if last == nil || !strings.Contains(last.Error(), "too many failed attempts") {
		t.Errorf("PINs are guessed while the directory is down: %v", last)
	}
}

// signsByPIN: at a panel a PIN signs in; it signs only where the site allows it while the
// directory doesn't answer.
func (s *site) signsByPIN(wren host.Actor, of access.Directory) {
	s.t.Helper()
	wren.Panel, wren.Session = "Kiln house", "wren's"
	if _, _, err := s.h.SignIn(ctx, host.Secret{Name: "wren", PIN: "7531", Panel: "Kiln house", Project: demo.ID}); err != nil {
		s.t.Errorf("the PIN at a panel: %v", err)
	}
	s.rules(access.Rule{ID: "q-own", Name: "Set points", Tag: s.id("Kiln1.DryBulbSP"), Sign: access.SignOwn})
	sign := func() error {
		c := s.cmd("s-chamber1", "Dry bulb set point", "66")
		c.Given = host.Given{Answered: true, Signatures: []host.Signature{{Name: "wren", Secret: "7531"}}}
		_, err := s.p.Write(ctx, wren, c)
		return err
	}
	if err := sign(); err == nil || !strings.Contains(err.Error(), "does not answer") {
		s.t.Errorf("signed by PIN though the site does not allow it: %v", err)
	}
	of.PINSigns = true
	if err := s.h.SetDirectory(ctx, s.actors["ada"], of); err != nil {
		s.t.Fatal(err)
	}
	if err := sign(); err != nil {
		s.t.Errorf("signed by PIN where the site allows it: %v", err)
	}
}

// TestDirectoryOutlivesTheServer: settings, people and roles are there again after a
// start, and so is that the directory can't be asked.
func TestDirectoryOutlivesTheServer(t *testing.T) {
	s := newSite(t)
	people := standin.Yard()
	side, _ := s.byLDAP(people)
	wren, err := s.enters("wren", "hazel-and-sloe")
	if err != nil {
		t.Fatal(err)
	}
	s.h.Close()
	people.Drop("wren")
	s.open()
	s.p, _ = s.h.Project(demo.ID)
	s.until("asked at the start", func() bool { _, err := s.h.Actor(ctx, wren.ID); return errors.Is(err, host.ErrNotFound) })
	people.Add(standin.Person{ID: "another", Name: "wren", FullName: "Wren Hazel", Password: "hazel-and-sloe",
		Groups: []string{"yard-operators"}})
	next, err := s.enters("wren", "hazel-and-sloe")
	if err != nil || next.ID == wren.ID {
		t.Errorf("another person with the name of who left: %+v %v", next, err)
	}
	side.Close()
	s.h.Close()
	s.open()
	s.until("down at the start", func() bool { return s.h.DirectoryState().Down != nil })
}

// visit goes to the provider and comes back, with name and password where it asks.
func (s *site) visit(wish host.Wish, name, password string) (host.Actor, error) {
	s.t.Helper()
	wish.Back = "http://127.0.0.1:1/back"
	at, state, err := s.h.BeginVisit(ctx, wish)
	if err != nil {
		return host.Actor{}, err
	}
	web := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	r, err := web.PostForm(at, url.Values{"name": {name}, "password": {password}})
	if err != nil {
		s.t.Fatal(err)
	}
	r.Body.Close()
	code := ""
	if to, err := r.Location(); err == nil {
		code = to.Query().Get("code")
	}
	who, _, err := s.h.EndVisit(ctx, state, code)
	if _, _, again := s.h.EndVisit(ctx, state, code); again == nil {
		s.t.Error("one way back was taken twice")
	}
	return who, err
}

// TestDirectoryByOpenID: a visit to the provider signs in, and signs, once, for whom it
// was and in the session that asked.
func TestDirectoryByOpenID(t *testing.T) {
	s := newSite(t)
	people := standin.Yard()
	side, err := standin.ServeOpenID("127.0.0.1:0", people)
	if err != nil {
		t.Fatal(err)
	}
	defer side.Close()
	s.credential(standin.Client)
	of := access.Directory{Kind: access.OpenID, Title: "Larchmoor", Address: side.Address, Credential: "directory",
		Members: yardGroups}
	if err := s.h.SetDirectory(ctx, s.actors["ada"], of); err != nil {
		t.Fatal(err)
	}
	wren, err := s.visit(host.Wish{}, "wren", "hazel-and-sloe")
	if err != nil || wren.Name != "Wren Hazel" || !s.may(wren, access.Operate) {
		t.Fatalf("%+v %v", wren, err)
	}
	if _, err := s.visit(host.Wish{}, "wren", "maple-and-lime"); err == nil {
		t.Error("a visit that let nobody in signed in")
	}
	if _, _, err := s.h.EndVisit(ctx, "made up", "made up"); err == nil {
		t.Error("a way back that nobody began was taken")
	}
	if _, err := s.enters("wren", "hazel-and-sloe"); err == nil {
		t.Error("the provider's password was taken here")
	}
	s.rules(access.Rule{ID: "q-own", Name: "Set points", Tag: s.id("Kiln1.DryBulbSP"), Sign: access.SignOwn})
	wren.Session = "wren's"
	sign := func(ticket string) error {
		c := s.cmd("s-chamber1", "Dry bulb set point", "66")
		c.Given = host.Given{Answered: true, Signatures: []host.Signature{{Name: "wren", Secret: ticket}}}
		_, err := s.p.Write(ctx, wren, c)
		return err
	}
	for what, c := range map[string]struct{ session, ticket, name, password string }{
		"another person's":         {"wren's", "t1", "rowan", "maple-and-lime"},
		"another session's ticket": {"other", "t1", "wren", "hazel-and-sloe"},
	} {
		if _, err := s.visit(host.Wish{Session: c.session, Ticket: c.ticket}, c.name, c.password); err != nil {
			t.Fatal(err)
		}
		if sign("t1") == nil {
			t.Errorf("%s visit signed", what)
		}
	}
	if _, err := s.visit(host.Wish{Session: "wren's", Ticket: "t2"}, "wren", "hazel-and-sloe"); err != nil {
		t.Fatal(err)
	}
	if who, why := s.h.VisitOutcome("wren's", "t2"); why != nil || who.Login != "wren" {
		t.Errorf("%+v %v", who, why)
	}
	// Two that come at once with one ticket: one has it.
	var wait sync.WaitGroup
	results := make(chan error, 4)
	for range cap(results) {
		wait.Go(func() { results <- sign("t2") })
	}
	wait.Wait()
	close(results)
	taken := 0
	for err := range results {
		if err == nil {
			taken++
		}
	}
	if taken != 1 {
		t.Errorf("one ticket signed %d times", taken)
	}
	// Asked for by many at once, and again after a start: each leave to ask counts once.
	for range 4 {
		wait.Go(s.ask)
	}
	wait.Wait()
	s.h.Close()
	s.open()
	s.p, _ = s.h.Project(demo.ID)
	s.ask()
	if _, err := s.h.Actor(ctx, wren.ID); err != nil {
		t.Errorf("who is there still is gone: %v", err)
	}
	people.Drop("wren")
	s.ask()
	if _, err := s.h.Actor(ctx, wren.ID); !errors.Is(err, host.ErrNotFound) {
		t.Errorf("who left goes on: %v", err)
	}
}
