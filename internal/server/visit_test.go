package server

import (
	"context"
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"
)

// TestSigningInForOneScreen: somebody signs in for a screen in another's session, and is
// gone as it is left: whose session it was has it again, or nobody where it was nobody's
// or their secret changed meanwhile. A visit within a visit leaves to the first one's.
func TestSigningInForOneScreen(t *testing.T) {
	s := newServer(t)
	signIn := func(c *client, name, password, screen string) (me Me) {
		t.Helper()
		w := c.do("POST", "/api/session", `{"name":"`+name+`","password":"`+password+`","visit":"`+screen+`"}`)
		if w.Code != http.StatusOK || json.Unmarshal(w.Body.Bytes(), &me) != nil {
			t.Fatalf("%d %s", w.Code, w.Body)
		}
		return me
	}
	leave := func(c *client) (me Me) {
		t.Helper()
		if w := c.do("DELETE", "/api/session/visit", ""); w.Code != http.StatusOK || json.Unmarshal(w.Body.Bytes(), &me) != nil {
			t.Fatalf("%d %s", w.Code, w.Body)
		}
		return me
	}
	c := s.as(t, "tom")
	before := c.cookie
	me := signIn(c, "iris", "elm-and-yew", "s-energy")
	if me.Person.Name != "Iris Rowan" || me.Person.Visit != "s-energy" || c.cookie == before {
		t.Fatalf("%+v", me.Person)
	}
	if w := (&client{t: t, s: s, cookie: before}).do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("the token from before goes on: %d", w.Code)
	}
	signIn(c, "ada", "larch-and-spruce", "s-car")
	if me := leave(c); me.Person == nil || me.Person.Name != "Tom Alder" || me.Person.Visit != "" {
		t.Errorf("%+v", me.Person)
	}
	if me := leave(c); me.Person == nil || me.Person.Name != "Tom Alder" {
		t.Errorf("left twice: %+v", me.Person)
	}
	// Signed in without a visit it is the new one's, and leaving changes nothing.
	signIn(c, "iris", "elm-and-yew", "")
	if me := leave(c); me.Person == nil || me.Person.Name != "Iris Rowan" {
		t.Errorf("%+v", me.Person)
	}
	// Nobody's session is nobody's again.
	nobody := &client{t: t, s: s}
	signIn(nobody, "iris", "elm-and-yew", "s-energy")
	if me := leave(nobody); me.Person != nil {
		t.Errorf("%+v", me.Person)
	}
	// Whose password changed meanwhile does not come back by a visit.
	old, visitor := s.as(t, "sam"), s.as(t, "sam")
	signIn(visitor, "iris", "elm-and-yew", "s-energy")
	if w := old.do("POST", "/api/session/secret", `{"present":"pine-and-fir","password":"fir-and-pine-2"}`); w.Code != http.StatusOK {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if me := leave(visitor); me.Person != nil {
		t.Errorf("a session that was ended is back: %+v", me.Person)
	}
	// One's waiting session is seen and ended like others; it doesn't outlive rest.
	here, there := s.as(t, "tom"), s.as(t, "tom")
	signIn(there, "iris", "elm-and-yew", "s-energy")
	var own []OwnSession
	if err := json.Unmarshal(here.do("GET", "/api/session/own", "").Body.Bytes(), &own); err != nil || len(own) != 2 {
		t.Fatalf("%+v %v", own, err)
	}
	if w := here.do("DELETE", "/api/session/own/others", ""); w.Code >= 300 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := there.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusOK {
		t.Errorf("the visitor is signed out by whose session waits: %d", w.Code)
	}
	if me := leave(there); me.Person != nil {
		t.Errorf("a session that was ended is back: %+v", me.Person)
	}
	ctx := context.Background()
	ada := s.as(t, "ada")
	cookie, panel := panelOf(t, ada, "Kiln house")
	if w := ada.do("PUT", yard+"/panels/"+panel, `{"looks":false,"rest":10}`); w.Code >= 300 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	key := strings.TrimPrefix(cookie, panelCookie+"=")
	_ = json.Unmarshal(s.as(t, "tom").do("GET", "/api/session", "").Body.Bytes(), &me)
	who, err := s.host.Actor(ctx, me.Person.ID)
	if err != nil {
		t.Fatal(err)
	}
	now := time.Now()
	waiting := func(since, waits time.Duration, epoch int64) visited {
		return visited{Person: who.ID, Epoch: epoch, Since: now.Add(-since).UnixMilli(), Waits: now.Add(-waits).UnixMilli()}
	}
	for _, x := range []struct {
		name  string
		was   visited
		stays bool
	}{
		{"nine minutes", waiting(time.Hour, 9*time.Minute, who.Epoch), true},
		{"older than a session lives", waiting(31*24*time.Hour, 0, who.Epoch), false},
		{"longer than its panel lets rest", waiting(time.Hour, 11*time.Minute, who.Epoch), false},
		{"of another secret", waiting(0, 0, who.Epoch-1), false},
	} {
		if _, ok := s.goesOn(ctx, x.was, key); ok != x.stays {
			t.Errorf("%s: %v", x.name, ok)
		}
	}
	trail := s.as(t, "ada").do("GET", "/api/projects/larchmoor/audit?limit=100", "").Body.String()
	if !strings.Contains(trail, "left the screen that it was for") {
		t.Error("the trail knows nothing of it")
	}
}
