package server

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
)

// TestOwnSessions: a person sees where they are signed in and ends that; nobody
// else's session is told or ended, and nothing of its key.
func TestOwnSessions(t *testing.T) {
	s := newServer(t)
	here, there, third, iris := s.as(t, "tom"), s.as(t, "tom"), s.as(t, "tom"), s.as(t, "iris")
	own := func(c *client) (out []OwnSession) {
		t.Helper()
		if w := c.do("GET", "/api/session/own", ""); w.Code != http.StatusOK || json.Unmarshal(w.Body.Bytes(), &out) != nil {
			t.Fatalf("%d %s", w.Code, w.Body)
		}
		return out
	}
	list := own(here)
	if len(list) != 3 || len(own(iris)) != 1 {
		t.Fatalf("%+v", list)
	}
	other := ""
	for _, x := range own(there) {
		if x.Since == 0 || x.Place == "" || x.Open {
			t.Errorf("%+v", x)
		}
		if x.Here {
			other = x.ID
		}
	}
	if w := iris.do("DELETE", "/api/session/own/"+other, ""); w.Code != http.StatusNotFound {
		t.Errorf("another's session: %d", w.Code)
	}
	if w := (&client{t: t, s: s}).do("GET", "/api/session/own", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("nobody: %d", w.Code)
	}
	if w := here.do("DELETE", "/api/session/own/"+other, ""); w.Code >= 300 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := there.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("a session that was ended goes on: %d", w.Code)
	}
	if w := here.do("DELETE", "/api/session/own/"+other, ""); w.Code != http.StatusNotFound {
		t.Errorf("twice: %d", w.Code)
	}
	if w := here.do("DELETE", "/api/session/own/others", ""); w.Code >= 300 {
		t.Errorf("all others: %d", w.Code)
	}
	if w := third.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("one of the others goes on: %d", w.Code)
	}
	if list := own(here); len(list) != 1 || !list[0].Here || len(own(iris)) != 1 {
		t.Errorf("%+v", list)
	}
	if w := s.as(t, "ada").do("GET", "/api/projects/larchmoor/audit?limit=20", ""); !strings.Contains(w.Body.String(), `"what":"sign-out"`) {
		t.Errorf("the trail knows nothing of it: %.300s", w.Body)
	}
}
