package server

import (
	"net/http"
	"strings"
	"testing"
)

// panelOf enrols a panel and returns its cookie and its id.
func panelOf(t *testing.T, c *client, name string) (cookie, id string) {
	t.Helper()
	w := c.do("POST", "/api/projects/larchmoor/panels", `{"name":"`+name+`"}`)
	for _, set := range w.Result().Cookies() {
		if set.Name == panelCookie {
			cookie = panelCookie + "=" + set.Value
		}
	}
	list := c.do("GET", "/api/projects/larchmoor/panels", "").Body.String()
	_, rest, _ := strings.Cut(list, `"id":"`)
	id, _, _ = strings.Cut(rest, `"`)
	if cookie == "" || id == "" {
		t.Fatalf("%s %s", w.Body, list)
	}
	return cookie, id
}

// A panel that is allowed to shows its project with nobody signed in, and does
// nothing else, whatever is asked of it.
func TestAPanelShowsWithNobodySignedIn(t *testing.T) {
	s := newServer(t)
	ada := s.as(t, "ada")
	cookie, id := panelOf(t, ada, "Kiln house")
	panel := &client{t: t, s: s, cookie: cookie}
	status := func(c *client, method, path, body string) int { return c.do(method, path, body).Code }
	if got := status(panel, "GET", "/api/projects/larchmoor/desk", ""); got != http.StatusUnauthorized {
		t.Errorf("not allowed yet: %d", got)
	}
	if got := status(s.as(t, "tom"), "PUT", "/api/projects/larchmoor/panels/"+id, `{"looks":true}`); got != http.StatusForbidden {
		t.Errorf("an operator allowed it: %d", got)
	}
	if got := status(ada, "PUT", "/api/projects/larchmoor/panels/nothing", `{"looks":true}`); got != http.StatusNotFound {
		t.Errorf("no such panel: %d", got)
	}
	if got := status(ada, "PUT", "/api/projects/larchmoor/panels/"+id, `{"looks":true}`); got != http.StatusNoContent {
		t.Fatal(got)
	}
	me := panel.do("GET", "/api/session", "").Body.String()
	if !strings.Contains(me, `"nobody":true`) || !strings.Contains(me, `"rights":["view"]`) {
		t.Error(me)
	}
	for path, want := range map[string]int{
		"GET /desk": http.StatusOK, "GET /alarms?program=release": http.StatusOK, "GET /journal": http.StatusOK,
		"GET /links?program=release": http.StatusOK,
		"GET ":                       http.StatusForbidden, "GET /tags": http.StatusForbidden, "GET /audit": http.StatusForbidden,
		"GET /people": http.StatusForbidden, "GET /panels": http.StatusForbidden,
		"GET /links?program=draft": http.StatusForbidden, "GET /alarms?program=draft": http.StatusForbidden,
	} {
		method, rest, _ := strings.Cut(path, " ")
		if got := status(panel, method, "/api/projects/larchmoor"+rest, ""); got != want &&
			!(want == http.StatusForbidden && got == http.StatusNotFound) {
			t.Errorf("%s: %d", path, got)
		}
	}
	for path, body := range map[string]string{
		"POST /api/projects/larchmoor/writes":      `{"screen":"s-car","element":"x","value":"1","seen":"","key":"12345678","at":0}`,
		"POST /api/projects/larchmoor/edits":       `{"label":"x","ops":[]}`,
		"POST /api/projects/larchmoor/alarms/acts": `{"alarms":["x"],"act":"acknowledged"}`,
		"POST /api/projects/larchmoor/panels":      `{"name":"Other"}`,
		"POST /api/projects/larchmoor/releases":    `{"note":"x"}`,
		"POST /api/projects":                       `{"name":"Mine"}`,
		"POST /api/session/secret":                 `{"present":"","password":"larch-and-oak"}`,
		"GET /api/vault":                           ``,
	} {
		method, rest, _ := strings.Cut(path, " ")
		if got := status(panel, method, rest, body); got < 400 || got >= 500 {
			t.Errorf("%s: %d", path, got)
		}
	}
	// A session that is over is said to be over before anybody looks on.
	old := &client{t: t, s: s, cookie: cookie + "; rr_session=gone"}
	if got := status(old, "GET", "/api/projects/larchmoor/desk", ""); got != http.StatusUnauthorized {
		t.Errorf("with a session that is over: %d", got)
	}
	if got := status(ada, "PUT", "/api/projects/larchmoor/panels/"+id, `{"looks":false}`); got != http.StatusNoContent {
		t.Error(got)
	}
	if got := status(panel, "GET", "/api/projects/larchmoor/desk", ""); got != http.StatusUnauthorized {
		t.Errorf("taken back: %d", got)
	}
}

// The list of panels tells which are connected, and who works there.
func TestPanelsTellWhoIsThere(t *testing.T) {
	web, s, _ := livePlace(t)
	ada := s.as(t, "ada")
	cookie, id := panelOf(t, ada, "Kiln house")
	list := func() string { return ada.do("GET", "/api/projects/larchmoor/panels", "").Body.String() }
	if got := list(); !strings.Contains(got, `"open":false`) {
		t.Error(got)
	}
	ada.do("PUT", "/api/projects/larchmoor/panels/"+id, `{"looks":true}`)
	nobody := dialWith(t, web, &client{t: t, s: s, cookie: cookie})
	if got := list(); !strings.Contains(got, `"open":true,"person":""`) {
		t.Errorf("nobody signed in: %s", got)
	}
	dialWith(t, web, &client{t: t, s: s, cookie: s.as(t, "tom").cookie + "; " + cookie})
	if got := list(); !strings.Contains(got, `"open":true,"person":"Tom Alder"`) {
		t.Errorf("Tom is there: %s", got)
	}
	nobody.conn.CloseNow()
	if got := list(); !strings.Contains(got, `"person":"Tom Alder"`) {
		t.Error(got)
	}
}
