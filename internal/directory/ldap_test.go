package directory_test

import (
	"errors"
	"slices"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/directory"
	"readyrail/internal/directory/standin"
)

type yard struct {
	people *standin.People
	side   *standin.LDAP
	of     access.Directory
}

func newYard(t *testing.T) *yard {
	t.Helper()
	y := &yard{people: standin.Yard()}
	var err error
	if y.side, err = standin.ServeLDAP("127.0.0.1:0", y.people); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(y.side.Close)
	y.of = access.Directory{Kind: access.LDAP, Title: "Larchmoor", Address: "ldap://" + y.side.Address, Base: standin.Base,
		Authority: y.side.Authority, Credential: "directory"}.Whole()
	return y
}

func (y *yard) ldap(t *testing.T) *directory.LDAP {
	t.Helper()
	l, err := directory.NewLDAP(y.of, directory.Credential{User: standin.ServerName, Password: standin.ServerPassword})
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// TestLDAPSignIn: name and password together, and nothing that looks like them.
func TestLDAPSignIn(t *testing.T) {
	y := newYard(t)
	y.people.Add(standin.Person{ID: "5e0d9a5e-0009", Name: "ash", FullName: "Ash Gone", Password: "gone-and-off", Off: true})
	l := y.ldap(t)
	for _, c := range []struct{ name, password, want string }{
		{"wren", "hazel-and-sloe", "Wren Hazel"},
		{"WREN", "hazel-and-sloe", "Wren Hazel"},
		{"wren", "maple-and-lime", ""},
		{"wren", "", ""}, // RFC 4513: binds, and proves nothing
		{"", "", ""},
		{"nobody", "hazel-and-sloe", ""},
		{"*", "hazel-and-sloe", ""},
		{"wren)(uid=*", "hazel-and-sloe", ""},
		{"ash", "gone-and-off", ""},
	} {
		m, err := l.SignIn(t.Context(), c.name, c.password)
		if m.FullName != c.want || (err == nil) != (c.want != "") || err != nil && !errors.Is(err, directory.ErrWrong) {
			t.Errorf("%q with %q: %q, %v; want %q", c.name, c.password, m.FullName, err, c.want)
		}
	}
	m, _ := l.SignIn(t.Context(), "wren", "hazel-and-sloe")
	if m.Subject != "uuid:5e0d9a5e-0001" || m.Name != "wren" || !slices.Equal(m.Groups, []string{"cn=yard-operators,ou=groups,dc=larchmoor,dc=example"}) {
		t.Errorf("wren is %+v", m)
	}
}

// TestLDAPAgain follows a person by what never changes, until they are gone.
func TestLDAPAgain(t *testing.T) {
	y := newYard(t)
	l := y.ldap(t)
	known, err := l.SignIn(t.Context(), "wren", "hazel-and-sloe")
	if err != nil {
		t.Fatal(err)
	}
	y.people.Set("wren", func(p *standin.Person) { p.Name, p.Groups = "wren.ash", nil })
	if m, err := l.Again(t.Context(), known); err != nil || m.Name != "wren.ash" || len(m.Groups) != 0 {
		t.Errorf("renamed, and out of every group: %+v, %v", m, err)
	}
	y.people.Set("wren.ash", func(p *standin.Person) { p.Off = true })
	if _, err := l.Again(t.Context(), known); !errors.Is(err, directory.ErrGone) {
		t.Errorf("switched off: %v", err)
	}
	y.people.Drop("wren.ash")
	y.people.Add(standin.Person{ID: "5e0d9a5e-0010", Name: "wren", FullName: "Another Wren", Password: "x"})
	if _, err := l.Again(t.Context(), known); !errors.Is(err, directory.ErrGone) {
		t.Errorf("another person with the name: %v", err)
	}
	if _, err := l.Again(t.Context(), directory.Member{Subject: "sub:1", Renewal: "x"}); !errors.Is(err, directory.ErrGone) {
		t.Errorf("known to another directory: %v", err)
	}
}

// TestLDAPDown tells a directory that doesn't answer, or is another, from a wrong
// password.
func TestLDAPDown(t *testing.T) {
	y := newYard(t)
	other := newYard(t)
	down := func(what string, l *directory.LDAP) {
		t.Helper()
		var is *directory.Down
		if _, err := l.SignIn(t.Context(), "wren", "hazel-and-sloe"); !errors.As(err, &is) {
			t.Errorf("%s: sign-in: %v", what, err)
		}
		if _, err := l.Again(t.Context(), directory.Member{Subject: "uuid:5e0d9a5e-0001"}); !errors.As(err, &is) {
			t.Errorf("%s: again: %v", what, err)
		}
		if err := l.Reach(t.Context()); !errors.As(err, &is) {
			t.Errorf("%s: reach: %v", what, err)
		}
	}
	if err := y.ldap(t).Reach(t.Context()); err != nil {
		t.Errorf("a directory that answers: %v", err)
	}
	wrong := *y
	wrong.of.Authority = other.side.Authority
	down("a certificate of somebody else", wrong.ldap(t))
	own, _ := directory.NewLDAP(y.of, directory.Credential{User: standin.ServerName, Password: "not it"})
	down("the server's own password is wrong", own)
	lost := *y
	lost.of.Base = "ou=nowhere,dc=larchmoor,dc=example"
	if err := lost.ldap(t).Reach(t.Context()); err == nil {
		t.Error("nothing at the base: reached")
	}
	y.side.Close()
	down("nobody there", y.ldap(t))
	if _, err := directory.NewLDAP(access.Directory{Authority: "no PEM"}, directory.Credential{}); err == nil {
		t.Error("an authority that is none was taken")
	}
}
