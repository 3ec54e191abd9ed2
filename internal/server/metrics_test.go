package server

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
)

// TestMetrics: the figures are for who manages the server, or shows the token; each is
// there, with the release's links by name.
func TestMetrics(t *testing.T) {
	s := newServer(t)
	s.metrics.token = "a-long-token"
	ask := func(c *client, authorization string) (int, string) {
		t.Helper()
		if c != nil {
			w := c.do("GET", "/api/metrics", "")
			return w.Code, w.Body.String()
		}
		r := httptest.NewRequest("GET", "http://127.0.0.1/api/metrics", nil)
		r.Header.Set("Authorization", authorization)
		w := httptest.NewRecorder()
		s.ServeHTTP(w, r)
		return w.Code, w.Body.String()
	}
	for _, wrong := range []string{"", "Bearer ", "Bearer a-long-toke", "Basic a-long-token", "a-long-token"} {
		if code, text := ask(nil, wrong); code != http.StatusUnauthorized || strings.Contains(text, "readyrail_") {
			t.Errorf("%q: %d", wrong, code)
		}
	}
	if code, _ := ask(s.with(t, "reed", "r-engineer", ""), ""); code != http.StatusUnauthorized {
		t.Errorf("an engineer: %d", code)
	}
	code, text := ask(nil, "Bearer a-long-token")
	if code != http.StatusOK {
		t.Fatalf("%d %s", code, text)
	}
	for _, x := range told {
		if !strings.Contains(text, "# HELP "+x.name+" ") {
			t.Errorf("%s is not told", x.name)
		}
	}
	for _, want := range []string{
		`readyrail_release{project="larchmoor"} 1`, `readyrail_link_up{device="`, `,program="release",project="larchmoor"} `,
		`readyrail_http_request_seconds_count{method="GET",status="4xx"}`, "go_goroutines"} {
		if !strings.Contains(text, want) {
			t.Errorf("%s is not told", want)
		}
	}
	s.metrics.token = ""
	if code, _ := ask(nil, "Bearer "); code != http.StatusUnauthorized {
		t.Errorf("no token opens to nobody: %d", code)
	}
}
