package server

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"
)

// asleep lets the persons of all sessions have done nothing for so long.
func (s *Server) asleep(long time.Duration) {
	s.rests.mu.Lock()
	defer s.rests.mu.Unlock()
	for token, x := range s.rests.at {
		x.seen, x.asked = time.Now().Add(-long), time.Now().Add(-askEvery)
		s.rests.at[token] = x
	}
}

// TestRestEndsASession: the shorter of what a panel and a role allow; a touch keeps
// it, questions of a page do not; the trail says why it ended.
func TestRestEndsASession(t *testing.T) {
	s := newServer(t)
	ada := s.as(t, "ada")
	cookie, id := panelOf(t, ada, "Kiln house")
	set := func(minutes int, want int) {
		t.Helper()
		w := ada.do("PUT", "/api/projects/larchmoor/panels/"+id, fmt.Sprintf(`{"looks":false,"rest":%d}`, minutes))
		if w.Code != want {
			t.Fatalf("%d minutes: %d %s", minutes, w.Code, w.Body)
		}
	}
	set(-1, http.StatusUnprocessableEntity)
	set(1441, http.StatusUnprocessableEntity)
	set(10, http.StatusNoContent)
	atPanel := func() *client {
		t.Helper()
		c := s.as(t, "tom")
		c.panel = cookie
		s.asleep(0) // it signed in elsewhere
		return c
	}
	status := func(c *client) int { return c.do("GET", "/api/projects/larchmoor/alarms", "").Code }
	tom, desk := atPanel(), s.as(t, "tom")
	if me := tom.do("GET", "/api/session", "").Body.String(); !strings.Contains(me, `"rest":600`) {
		t.Errorf("at the panel: %s", me)
	}
	if me := desk.do("GET", "/api/session", "").Body.String(); !strings.Contains(me, `"rest":0`) {
		t.Errorf("at another place: %s", me)
	}
	for range 5 {
		s.asleep(9 * time.Minute)
		if got := status(tom); got != http.StatusOK {
			t.Fatalf("within it: %d", got)
		}
	}
	if w := tom.do("POST", "/api/session/presence", ""); w.Code != http.StatusOK || !strings.Contains(w.Body.String(), `"seconds":600`) {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	s.asleep(11 * time.Minute)
	if got := status(tom); got != http.StatusUnauthorized {
		t.Errorf("after it: %d", got)
	}
	if got := status(tom); got != http.StatusUnauthorized {
		t.Errorf("asked again: %d", got)
	}
	if got := status(desk); got != http.StatusOK {
		t.Errorf("elsewhere: %d", got)
	}
	if trail := ada.do("GET", "/api/projects/larchmoor/audit?limit=20", "").Body.String(); !strings.Contains(trail, "after 10 min of rest") {
		t.Errorf("the trail: %.400s", trail)
	}

	// A role's rest holds wherever its person is.
	edit := `{"label":"x","ops":[{"kind":"role","id":"r-operator","path":"/rest","value":%s}]}`
	if w := ada.do("POST", "/api/projects/larchmoor/edits", fmt.Sprintf(edit, "-3")); w.Code != http.StatusUnprocessableEntity {
		t.Errorf("a rest of -3: %d", w.Code)
	}
	if w := ada.do("POST", "/api/projects/larchmoor/edits", fmt.Sprintf(edit, "5")); w.Code != http.StatusOK {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := ada.do("POST", "/api/projects/larchmoor/releases", `{"note":""}`); w.Code != http.StatusOK {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	again := atPanel()
	for _, c := range []*client{again, desk} {
		s.asleep(0)
		if me := c.do("GET", "/api/session", "").Body.String(); !strings.Contains(me, `"rest":300`) {
			t.Errorf("by role: %s", me)
		}
	}
	s.asleep(6 * time.Minute)
	if got := status(desk); got != http.StatusUnauthorized {
		t.Errorf("by role, after it: %d", got)
	}
	if got := status(ada); got != http.StatusOK {
		t.Errorf("an engineer: %d", got)
	}
	if got := (&client{t: t, s: s}).do("POST", "/api/session/presence", "").Code; got != http.StatusUnauthorized {
		t.Errorf("nobody is there: %d", got)
	}
}
