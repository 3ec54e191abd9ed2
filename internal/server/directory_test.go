package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/demo"
	"readyrail/internal/directory/standin"
)

// throughProvider is a browser that goes to the provider and comes back.
type throughProvider struct {
	t *testing.T
	s *Server
}

// raw asks without following anywhere.
func (p *throughProvider) raw(path string, cookies ...string) *http.Response {
	r := httptest.NewRequest("GET", "http://localhost:8470"+path, nil)
	r.Header.Set("Cookie", strings.Join(cookies, "; "))
	w := httptest.NewRecorder()
	p.s.ServeHTTP(w, r)
	return w.Result()
}

func setCookie(r *http.Response, name string) string {
	for _, c := range r.Cookies() {
		if c.Name == name {
			return name + "=" + c.Value
		}
	}
	return ""
}

// goes visits the provider with name and password, and returns the way back, and the cookie
// of the visit.
func (p *throughProvider) goes(query, name, password string, cookies ...string) (back, state string) {
	p.t.Helper()
	begun := p.raw("/api/directory/visit"+query, cookies...)
	if begun.StatusCode != http.StatusSeeOther {
		p.t.Fatalf("the visit begins with %d", begun.StatusCode)
	}
	web := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	r, err := web.PostForm(begun.Header.Get("Location"), url.Values{"name": {name}, "password": {password}})
	if err != nil {
		p.t.Fatal(err)
	}
	r.Body.Close()
	to, err := r.Location()
	if err != nil {
		p.t.Fatal(err)
	}
	return to.RequestURI(), setCookie(begun, visitCookie)
}

// TestAVisitToTheProvider: a browser that went comes back signed in, under a session of
// its own; a way back without that browser's visit, or a second time, signs nobody in.
func TestAVisitToTheProvider(t *testing.T) {
	s := newServer(t)
	ada := s.as(t, "ada")
	people := standin.Yard()
	side, err := standin.ServeOpenID("127.0.0.1:0", people)
	if err != nil {
		t.Fatal(err)
	}
	defer side.Close()
	put := func(path string, v any) {
		t.Helper()
		b, _ := json.Marshal(v)
		if w := ada.do("PUT", path, string(b)); w.Code >= 300 {
			t.Fatalf("%s: %d %s", path, w.Code, w.Body)
		}
	}
	put("/api/vault", map[string]any{"name": "directory", "kind": "password", "user": standin.Client, "password": standin.ServerPassword,
		"roles": []string{}, "hosts": []string{"127.0.0.1"}})
	p := &throughProvider{t, s}
	if r := p.raw("/api/directory/visit"); !strings.HasPrefix(r.Header.Get("Location"), "/?visit=") {
		t.Errorf("with no directory: sent to %s", r.Header.Get("Location"))
	}
	put("/api/directory", access.Directory{Kind: access.OpenID, Title: "Larchmoor", Address: side.Address, Credential: "directory",
		Members: []access.Membership{{Group: "yard-operators", Project: demo.ID, Role: "r-operator"}}})

	tom := s.as(t, "tom")
	back, state := p.goes("", "wren", "hazel-and-sloe", tom.cookie)
	for what, cookies := range map[string][]string{"another browser's": nil, "a made-up": {visitCookie + "=made-up"}} {
		if r := p.raw(back, cookies...); r.StatusCode != http.StatusForbidden || setCookie(r, "rr_session") != "" {
			t.Errorf("%s way back: %d", what, r.StatusCode)
		}
	}
	r := p.raw(back, state)
	in := &client{t: t, s: s, cookie: setCookie(r, "rr_session")}
	var me Me
	if err := json.Unmarshal(in.do("GET", "/api/session", "").Body.Bytes(), &me); err != nil || r.Header.Get("Location") != "/" ||
		me.Person == nil || me.Person.Name != "Wren Hazel" || !me.Person.Directory || me.Directory == nil || me.Directory.Title != "Larchmoor" {
		t.Fatalf("%d to %s: %+v %v", r.StatusCode, r.Header.Get("Location"), me, err)
	}
	if w := tom.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("who was signed in before goes on: %d", w.Code)
	}
	if r := p.raw(back, state); setCookie(r, "rr_session") != "" {
		t.Error("a way back signs in twice")
	}
	back, state = p.goes("", "hazel", "thorn-and-holly")
	r = p.raw(back, state)
	var told VisitOutcome
	nobody := &client{t: t, s: s}
	ticket := strings.TrimPrefix(r.Header.Get("Location"), "/?visit=")
	if _ = json.Unmarshal(nobody.do("GET", "/api/directory/outcome?ticket="+ticket, "").Body.Bytes(), &told); !strings.Contains(told.Refused,
		"none of your groups") {
		t.Errorf("sent to %s, told %+v", r.Header.Get("Location"), told)
	}

	// For a signature: told to the session that asks, and nothing of the session changes.
	back, state = p.goes("?ticket=0123456789abcdef", "wren", "hazel-and-sloe", in.cookie)
	r = p.raw(back, state)
	if r.Header.Get("Location") != "/visited" || setCookie(r, "rr_session") != "" {
		t.Errorf("back from a signature: to %s, session %s", r.Header.Get("Location"), setCookie(r, "rr_session"))
	}
	for who, want := range map[*client]string{in: "wren", nobody: "", ada: ""} {
		told = VisitOutcome{}
		if _ = json.Unmarshal(who.do("GET", "/api/directory/outcome?ticket=0123456789abcdef", "").Body.Bytes(), &told); told.Name != want {
			t.Errorf("told %+v, want %q", told, want)
		}
	}
	if r := p.raw("/api/directory/visit?ticket=0123456789abcdef"); r.StatusCode != http.StatusUnauthorized {
		t.Errorf("a signature of nobody: %d", r.StatusCode)
	}
	for i := range 150 { // one who begins and begins locks nobody out
		p.raw(fmt.Sprint("/api/directory/visit?n=", i))
	}
	back, state = p.goes("", "wren", "hazel-and-sloe")
	if r := p.raw(back, state); setCookie(r, "rr_session") == "" {
		t.Error("nobody can sign in after many visits that were not ended")
	}
}
