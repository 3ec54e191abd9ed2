package directory_test

import (
	"errors"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/directory"
	"readyrail/internal/directory/standin"
)

// provider is an OpenID provider with somebody who visits it.
type provider struct {
	t      *testing.T
	people *standin.People
	side   *standin.OpenID
	o      *directory.OpenID
	web    *http.Client
}

func newProvider(t *testing.T) *provider {
	t.Helper()
	p := &provider{t: t, people: standin.Yard()}
	var err error
	if p.side, err = standin.ServeOpenID("127.0.0.1:0", p.people); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(p.side.Close)
	of := access.Directory{Kind: access.OpenID, Title: "Larchmoor", Address: p.side.Address, Credential: "directory"}.Whole()
	if p.o, err = directory.NewOpenID(of, directory.Credential{User: standin.Client, Password: standin.ServerPassword}); err != nil {
		t.Fatal(err)
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	p.web = &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	return p
}

var visit = directory.Visit{Back: "http://127.0.0.1:1/back", State: "s", Nonce: "n", Verifier: strings.Repeat("v", 43)}

// code visits the provider, giving name and password where it asks; it tells whether it
// asked.
func (p *provider) code(v directory.Visit, name, password string) (code string, asked bool) {
	p.t.Helper()
	at, err := p.o.Begin(p.t.Context(), v)
	if err != nil {
		p.t.Fatal(err)
	}
	r, err := p.web.Get(at)
	if err == nil && r.StatusCode == http.StatusOK {
		asked = true
		r.Body.Close()
		r, err = p.web.PostForm(at, url.Values{"name": {name}, "password": {password}})
	}
	if err != nil {
		p.t.Fatal(err)
	}
	r.Body.Close()
	to, err := r.Location()
	if err != nil || to.Query().Get("state") != v.State {
		p.t.Fatalf("sent to %v, %v", to, err)
	}
	return to.Query().Get("code"), asked
}

// TestOpenIDSignIn is the visit, and what is wrong with one.
func TestOpenIDSignIn(t *testing.T) {
	p := newProvider(t)
	code, asked := p.code(visit, "wren", "hazel-and-sloe")
	m, at, err := p.o.Finish(t.Context(), visit, code)
	if err != nil || !asked || m.Subject != "sub:5e0d9a5e-0001" || m.Name != "wren" || m.FullName != "Wren Hazel" || m.Renewal == "" ||
		len(m.Groups) != 1 || time.Since(at) > time.Minute {
		t.Fatalf("%+v at %v, asked %v, %v", m, at, asked, err)
	}
	if _, _, err := p.o.Finish(t.Context(), visit, code); !errors.Is(err, directory.ErrWrong) {
		t.Errorf("the same code again: %v", err)
	}
	code, asked = p.code(visit, "", "")
	if asked {
		t.Error("who is known was asked again")
	}
	other := visit
	other.Verifier = strings.Repeat("w", 43)
	if _, _, err := p.o.Finish(t.Context(), other, code); !errors.Is(err, directory.ErrWrong) {
		t.Errorf("a code of somebody else's visit: %v", err)
	}
	code, _ = p.code(visit, "", "")
	other = visit
	other.Nonce = "another"
	if _, _, err := p.o.Finish(t.Context(), other, code); err == nil {
		t.Error("a token of another visit was taken")
	}
	fresh := visit
	fresh.Fresh = true
	code, asked = p.code(fresh, "rowan", "maple-and-lime")
	if m, at, err := p.o.Finish(t.Context(), fresh, code); err != nil || !asked || m.Name != "rowan" || time.Since(at) > time.Minute {
		t.Errorf("a fresh visit: %+v at %v, asked %v, %v", m, at, asked, err)
	}
}

// TestOpenIDAgain asks with what the provider gave, each time anew, until the person is
// gone.
func TestOpenIDAgain(t *testing.T) {
	p := newProvider(t)
	code, _ := p.code(visit, "rowan", "maple-and-lime")
	known, _, err := p.o.Finish(t.Context(), visit, code)
	if err != nil {
		t.Fatal(err)
	}
	p.people.Set("rowan", func(x *standin.Person) { x.Groups = x.Groups[:1] })
	next, err := p.o.Again(t.Context(), known)
	if err != nil || len(next.Groups) != 1 || next.Renewal == known.Renewal {
		t.Errorf("%+v, %v", next, err)
	}
	if _, err := p.o.Again(t.Context(), known); !errors.Is(err, directory.ErrGone) {
		t.Errorf("with what was used: %v", err)
	}
	p.people.Drop("rowan")
	if _, err := p.o.Again(t.Context(), next); !errors.Is(err, directory.ErrGone) {
		t.Errorf("taken out: %v", err)
	}
	p.side.Close()
	var down *directory.Down
	if _, err := p.o.Again(t.Context(), next); !errors.As(err, &down) {
		t.Errorf("nobody there: %v", err)
	}
	if err := p.o.Reach(t.Context()); !errors.As(err, &down) {
		t.Errorf("reached nobody: %v", err)
	}
}
