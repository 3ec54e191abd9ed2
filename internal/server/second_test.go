package server

import (
	"encoding/json"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"readyrail/internal/host"
)

// TestOneTimeCodes: an account asks for codes once one was given; a sign-in by password
// then takes both, each code once; a PIN reaches the Desk alone; who has lost what makes
// them is helped by somebody else, which the trail says.
func TestOneTimeCodes(t *testing.T) {
	s := newServer(t)
	const password = "larch-and-spruce"
	ada, other := s.as(t, "ada"), s.as(t, "ada")
	body := func(v any) string { b, _ := json.Marshal(v); return string(b) }
	present := func(p string) string { return body(map[string]string{"present": p}) }
	if w := ada.do("POST", "/api/session/second", present("wrong")); w.Code < 400 {
		t.Errorf("without the password: %d", w.Code)
	}
	if w := ada.do("PUT", "/api/session/second", `{"code":"123456"}`); w.Code < 400 {
		t.Errorf("proved before anything was offered: %d", w.Code)
	}
	var offer host.SecondOffer
	if w := ada.do("POST", "/api/session/second", present(password)); json.Unmarshal(w.Body.Bytes(), &offer) != nil ||
		!strings.HasPrefix(offer.Picture, "data:image/png;base64,") {
		t.Fatalf("%d %.200s", w.Code, w.Body)
	}
	// The code of a step that is not over before the test is: sign-ins take the next.
	begun := time.Now()
	code := func(steps int) string {
		c, err := totp.GenerateCode(offer.Secret, begun.Add(time.Duration(steps)*30*time.Second))
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	if w := ada.do("PUT", "/api/session/second", `{"code":"000000"}`); w.Code < 400 {
		t.Errorf("proved by a wrong code: %d", w.Code)
	}
	signIn := func(c *client, code string) (Me, int) {
		var me Me
		w := c.do("POST", "/api/session", body(SignIn{Name: "ada", Password: password, Code: code}))
		_ = json.Unmarshal(w.Body.Bytes(), &me)
		return me, w.Code
	}
	if me, _ := signIn(&client{t: t, s: s}, ""); me.Person == nil {
		t.Error("an offer that was not proved counts already")
	}
	if w := ada.do("PUT", "/api/session/second", body(map[string]string{"code": code(-1)})); w.Code != http.StatusOK {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := ada.do("GET", "/api/projects/larchmoor/tags", ""); w.Code >= 300 {
		t.Errorf("the session that set it up has ended: %d", w.Code)
	}
	if w := other.do("GET", "/api/projects/larchmoor/tags", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("another session goes on: %d", w.Code)
	}

	// The password alone is half of it, and tells nothing more.
	half := &client{t: t, s: s}
	if me, status := signIn(half, ""); status != http.StatusOK || !me.AsksCode || me.Person != nil || len(me.Projects) > 0 {
		t.Errorf("%d %+v", status, me)
	}
	if w := half.do("GET", "/api/projects/larchmoor/tags", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("half a sign-in lets in: %d", w.Code)
	}
	if _, status := signIn(half, code(-1)); status < 400 {
		t.Error("a code that was used lets in")
	}
	var in atomic.Int64
	var all sync.WaitGroup
	clients := make([]*client, 4)
	for i := range clients {
		clients[i] = &client{t: t, s: s}
		all.Go(func() {
			if me, _ := signIn(clients[i], " "+code(0)[:3]+" "+code(0)[3:]); me.Person != nil && me.Person.Second {
				in.Add(1)
			}
		})
	}
	all.Wait()
	if in.Load() != 1 {
		t.Errorf("one code let in %d times", in.Load())
	}
	// A PIN reaches the Desk alone; the same account by password and code the rest.
	cookie, _ := panelOf(t, ada, "Kiln house")
	pin := &client{t: t, s: s, panel: cookie, cookie: "rr_none=1"}
	if w := pin.do("POST", "/api/session", `{"name":"ada","pin":"2580"}`); w.Code != http.StatusOK ||
		strings.Contains(w.Body.String(), `"engineer"`) || !strings.Contains(w.Body.String(), `"operate"`) {
		t.Errorf("%d %.300s", w.Code, w.Body)
	}
	if w := pin.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusOK {
		t.Errorf("a PIN at the Desk: %d", w.Code)
	}
	for method, path := range map[string]string{"GET": "/api/projects/larchmoor/people", "POST": "/api/session/second"} {
		if w := pin.do(method, path, present("2580")); w.Code < 400 {
			t.Errorf("a PIN reaches %s: %d", path, w.Code)
		}
	}
	if w := s.as(t, "iris").do("DELETE", "/api/projects/larchmoor/people/user-ada/second", ""); w.Code != http.StatusForbidden {
		t.Errorf("a shift lead takes them away: %d", w.Code)
	}

	// Lost: somebody who may change the account takes them away, and its sessions end.
	tom := s.as(t, "tom")
	var me Me
	_ = json.Unmarshal(tom.do("GET", "/api/session", "").Body.Bytes(), &me)
	if w := tom.do("POST", "/api/session/second", present("oak-and-ash")); json.Unmarshal(w.Body.Bytes(), &offer) != nil {
		t.Fatal(w.Body)
	}
	if w := tom.do("PUT", "/api/session/second", body(map[string]string{"code": code(0)})); w.Code != http.StatusOK {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := ada.do("DELETE", "/api/projects/larchmoor/people/"+me.Person.ID+"/second", ""); w.Code >= 300 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := tom.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("a session goes on whose second factor was taken away: %d", w.Code)
	}
	s.as(t, "tom")

	// Ended with the password; then a sign-in takes that alone.
	if w := ada.do("POST", "/api/session/second/end", present("wrong")); w.Code < 400 {
		t.Errorf("ended without the password: %d", w.Code)
	}
	if w := ada.do("POST", "/api/session/second/end", present(password)); w.Code != http.StatusOK {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	if me, _ := signIn(&client{t: t, s: s}, ""); me.Person == nil || me.Person.Second {
		t.Errorf("%+v", me)
	}
	trail := ada.do("GET", "/api/projects/larchmoor/audit?limit=50", "").Body.String()
	if !strings.Contains(trail, "asks for one-time codes at sign-in") || !strings.Contains(trail, "asks for no one-time codes any more") ||
		!strings.Contains(trail, "account tom: one-time codes taken away") {
		t.Errorf("the trail knows nothing of it: %.400s", trail)
	}
	if strings.Contains(trail, offer.Secret) {
		t.Error("the secret is in the trail")
	}
}
