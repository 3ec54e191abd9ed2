package server

import (
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/demo"
	"readyrail/internal/host"
	"readyrail/internal/plant"
)

func newServer(t *testing.T) *Server {
	t.Helper()
	t.Parallel()
	h, err := host.Open(t.TempDir(), slog.New(slog.NewTextHandler(io.Discard, nil)), host.Options{})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(h.Close)
	// Nothing listens there; these tests are about rights.
	if err := demo.Fill(context.Background(), h, plant.Addresses{Modbus: "127.0.0.1:1", OPCUA: "127.0.0.1:1", MQTT: "127.0.0.1:1"},
		false); err != nil {
		t.Fatal(err)
	}
	return New(h, Options{Demo: demo.People})
}

type client struct {
	t      *testing.T
	s      *Server
	cookie string
	panel  string // its cookie, where the browser is one
}

func (c *client) do(method, path, body string, headers ...string) *httptest.ResponseRecorder {
	r := httptest.NewRequest(method, "http://localhost:8470"+path, strings.NewReader(body))
	r.Header.Set("Content-Type", "application/json")
	if c.cookie != "" {
		r.Header.Set("Cookie", c.cookie+"; "+c.panel)
	}
	for i := 0; i+1 < len(headers); i += 2 {
		if headers[i] == "Host" {
			r.Host = headers[i+1]
		}
		r.Header.Set(headers[i], headers[i+1])
	}
	w := httptest.NewRecorder()
	c.s.ServeHTTP(w, r)
	if set := w.Result().Cookies(); len(set) > 0 && set[0].Name == "rr_session" {
		c.cookie = "rr_session=" + set[0].Value
	}
	return w
}

func (s *Server) as(t *testing.T, name string) *client {
	t.Helper()
	c := &client{t: t, s: s}
	for _, p := range demo.People {
		if p.Name == name {
			if w := c.do("POST", "/api/session", `{"name":"`+name+`","password":"`+p.Password+`"}`); w.Code != 200 {
				t.Fatalf("%s cannot sign in: %d %s", name, w.Code, w.Body)
			}
		}
	}
	return c
}

// open are the operations that need no session.
var open = map[string]bool{"get-health": true, "get-session": true, "post-session": true, "delete-session": true,
	"post-session-secret": true, "post-owner": true, "get-directory-outcome": true, "get-directory-back": true, "get-directory-visit": true}

const noDirectory = `{"kind":"","title":"","address":"","credential":"","authority":"","base":"","name":"","fullName":"",
	"groups":"","pinSigns":false,"members":[]}`

// body is something that passes the check of the request's shape.
var bodies = map[string]string{
	"put-directory":                 noDirectory,
	"put-backups":                   `{"every":24,"at":"02:30","keep":3,"keys":true}`,
	"post-directory-try":            `{"directory":` + noDirectory + `}`,
	"post-projects-project-edits":   `{"label":"x","ops":[{"kind":"site","id":"site","path":"/name","value":"Stolen"}]}`,
	"post-projects-project-look-as": `{"role":"r-operator"}`,
	"post-projects":                 `{"name":"x"}`, "post-archives": "x", "post-projects-project-trend-notes": `{"from":1,"to":1,"text":""}`,
	"post-projects-project-books-book-sheet": "Name,Species\n", "post-projects-project-books-book-fields": `{"like":"X.*"}`, "post-projects-project-books-book-sheets": `{"columns":[]}`, "post-projects-project-books-book-deletions": `{"recipes":["r"]}`,
	"put-projects-project-trend-own-views":        `{"name":"x","pens":[]}`,
	"post-projects-project-books-book-recipes":    `{"recipes":[{"name":"R","values":{}}]}`,
	"post-projects-project-recipes-id-name":       `{"name":"R"}`,
	"post-projects-project-recipes-id-judgements": `{"version":1,"approve":true}`,
	"post-projects-project-books-book-plans":      `{"recipe":"r","version":1,"target":""}`,
	"post-projects-project-books-book-deliveries": `{"recipe":"r","version":1,"target":"","key":"12345678"}`,
	"post-projects-project-deliveries-seq-acts":   `{"act":"cancel"}`,
	"post-projects-project-logs-id-acts":          `{"act":"start"}`, "post-projects-project-logs-id-notes": `{"span":1,"note":"x"}`,
	"post-projects-project-draft-taken": `{"from":"1","things":[{"kind":"tag","id":"x"}]}`,
	"post-projects-project-releases":    `{"note":""}`, "post-projects-project-releases-number-return": `{"note":""}`,
	"post-projects-project-formulas":  `{"formula":"1"}`,
	"post-projects-project-imports":   "path,type\nA,INT\n",
	"put-projects-project-imports-id": `{"options":{}}`, "post-projects-project-imports-id-apply": `{"statuses":["new"],"flip":[]}`,
	"post-projects-project-tags-many":          `{"plan":{"path":"A[1..2]","tag":{"id":"","name":"x","type":"INT","source":"internal"}}}`,
	"post-projects-project-tags-copies":        `{"plan":{"tags":["t-001"],"count":1,"nameStep":1}}`,
	"post-projects-project-tags-moves":         `{"plan":{"tags":["t-001"],"to":"X"}}`,
	"put-projects-project-overrides-id":        `{"value":"1","reason":"x","minutes":5}`,
	"put-projects-project-turn":                `{"devices":["d-kiln"],"reason":"x","minutes":5}`,
	"post-projects-project-draft-writes":       `{"tag":"t-001","value":"1","key":"12345678"}`,
	"post-projects-project-loop-checks":        `{"tags":["t-001"],"result":"passed"}`,
	"post-projects-project-trend-pairs-proofs": `{"first":"t-001","second":"t-002","most":1,"from":0,"to":0}`, "put-projects-project-watch-sets": `{"name":"x","tags":[]}`,
	"put-projects-project-try":                `{"live":[]}`,
	"put-vault":                               `{"name":"x","kind":"password","user":"u","password":"p","roles":[]}`,
	"post-vault-export":                       `{"passphrase":"0123456789ab"}`,
	"post-vault-import":                       `{"passphrase":"0123456789ab","file":"eA=="}`,
	"post-projects-project-devices-endpoints": `{"id":"d","name":"D","protocol":"opcua","host":"127.0.0.1","port":1,"unit":0,"order":"","numbering":0,"poll":250,"timeout":100,"maxGap":0,"maxBlock":0}`,

	"put-projects-project-words-language": `[]`, "post-projects-project-words-language-sheet": "x", "post-projects-project-pictures": "x",
	"post-projects-project-drawings":                   `{"type":"x"}`,
	"post-projects-project-books-book-fields-sheet":    "Name,Species\n",
	"post-projects-project-plans-open-recipe":          `{"plan":{"book":"b","folder":""}}`,
	"post-projects-project-logs-id-values":             "time,Kiln1.DryBulb\n",
	"post-projects-project-plans-block":                `{"plan":{"book":"b","device":"d","address":"x","folder":""}}`,
	"post-projects-project-plans-type":                 `{"plan":{"folder":"f","name":"F","alike":false}}`,
	"post-projects-project-plans-equipment":            `{"plan":{"type":"t","rows":[{"path":"A"}]}}`,
	"post-projects-project-plans-retype":               `{"plan":{"equipment":"e","type":"t"}}`,
	"post-projects-project-plans-substitution":         `{"plan":{"screen":"s","find":"a","replace":"b","copy":false}}`,
	"post-projects-project-screens-id-checks":          `{"elements":[""],"result":"passed"}`,
	"post-projects-project-plans-symbol":               `{"plan":{"screen":"x","elements":["a"],"name":"S"}}`,
	"post-projects-project-plans-duplicates":           `{"plan":{"screen":"x","elements":["a"],"count":1,"columns":1,"gap":8}}`,
	"post-projects-project-control-area":               `{"do":"take"}`,
	"put-projects-project-people-id-badge":             `{"number":"0012345678"}`,
	"post-session-second":                              `{"present":"x"}`,
	"put-session-second":                               `{"code":"123456"}`,
	"post-session-second-end":                          `{"present":"x"}`,
	"post-projects-project-handovers":                  `{"text":"x"}`,
	"put-projects-project-panels-id":                   `{"looks":true}`,
	"post-projects-project-alarms-acts":                `{"alarms":["a"],"act":"acknowledged"}`,
	"post-projects-project-journal-id-comments":        `{"text":"x"}`,
	"post-projects-project-audit-id-comments":          `{"text":"x"}`,
	"post-projects-project-alarm-definitions-id-plays": `{"hours":1}`,
	"post-projects-project-audit-archives":             `{"reason":"x"}`,
	"post-projects-project-journal-archives":           `{"reason":"x"}`, "post-projects-project-screen-errors": `{"screen":"s","text":"x"}`,
	"post-projects-project-alarm-definitions-sheet": "signal,name\n",
	"put-projects-project-alarm-limits-id":          `{"limit":1,"reason":"x"}`,
	"post-projects-project-effects":                 `{"label":"x","ops":[{"kind":"tag","id":"x","path":""}]}`,

	"post-projects-project-writes":   `{"screen":"s","element":"e","value":"1","seen":"","key":"12345678","at":0}`,
	"post-projects-project-people":   `{"name":"eve","fullName":"Eve","password":"long enough"}`,
	"put-projects-project-people-id": `{"name":"eve","fullName":"Eve"}`, "put-projects-project-people-id-grants": `[]`,
	"post-projects-project-panels":       `{"name":"x"}`,
	"post-projects-project-devices-test": `{"id":"d","name":"D","protocol":"modbus-tcp","host":"127.0.0.1","port":1,"unit":1,"order":"ABCD","numbering":0,"poll":250,"timeout":100,"maxGap":1,"maxBlock":1}`,
}

// placeholders are what stands for the parameters of paths.
var placeholders = strings.NewReplacer("{project}", demo.ID, "{id}", "t-001", "{book}", "b-drying", "{seq}", "1", "{number}",
	"99", "{name}", "x", "{area}", "a-kilns",
	"{language}", "de")

func (s *Server) operations(f func(id, method, path string)) {
	paths := s.OpenAPI().Paths
	for _, path := range slices.Sorted(maps.Keys(paths)) {
		item := paths[path]
		for i, op := range []any{item.Get, item.Post, item.Put, item.Delete} {
			method := []string{"GET", "POST", "PUT", "DELETE"}[i]
			b, _ := json.Marshal(op)
			var o struct{ OperationID string }
			if json.Unmarshal(b, &o) == nil && o.OperationID != "" {
				f(o.OperationID, method, placeholders.Replace(path))
			}
		}
	}
}

func TestEveryOperationNeedsASession(t *testing.T) {
	s := newServer(t)
	n := 0
	s.operations(func(id, method, path string) {
		if open[id] {
			return
		}
		n++
		if w := (&client{t: t, s: s}).do(method, path, bodies[id]); w.Code != http.StatusUnauthorized {
			t.Errorf("%s %s without a session: %d %s", method, path, w.Code, w.Body)
		}
	})
	if n < 30 {
		t.Errorf("only %d operations were tried", n)
	}
	w := httptest.NewRecorder()
	s.ServeHTTP(w, httptest.NewRequest("GET", "http://localhost/api/live", nil))
	if w.Code != http.StatusUnauthorized {
		t.Errorf("the socket without a session: %d", w.Code)
	}
}

func TestForeignOriginsAndHostsAreRefused(t *testing.T) {
	s := newServer(t)
	c := s.as(t, "ada")
	edit := bodies["post-projects-project-edits"]
	for name, h := range map[string][]string{"origin": {"Origin", "http://evil.example"}, "null origin": {"Origin", "null"},
		"host": {"Host", "evil.example"}, "rebinding": {"Host", "evil.example:8470", "Origin", "http://evil.example:8470"}} {
		if w := c.do("POST", "/api/projects/larchmoor/edits", edit, h...); w.Code != http.StatusForbidden {
			t.Errorf("%s: %d %s", name, w.Code, w.Body)
		}
	}
	if w := c.do("POST", "/api/projects/larchmoor/edits", edit, "Origin", "http://localhost:8470"); w.Code != 200 {
		t.Errorf("our own page: %d %s", w.Code, w.Body)
	}
}

func TestAnswersCarryAContentSecurityPolicy(t *testing.T) {
	w := (&client{t: t, s: newServer(t)}).do("GET", "/api/health", "")
	if p := w.Header().Get("Content-Security-Policy"); !strings.Contains(p, "default-src 'self'") || strings.Contains(p, "unsafe-eval") ||
		strings.Contains(p, "script-src") {
		t.Errorf("policy %q", p)
	}
	for name, want := range map[string]string{"Cache-Control": "no-store", "X-Content-Type-Options": "nosniff",
		"Cross-Origin-Resource-Policy": "same-origin", "Cross-Origin-Opener-Policy": "same-origin", "Referrer-Policy": "same-origin"} {
		if got := w.Header().Get(name); got != want {
			t.Errorf("%s: %q, want %q", name, got, want)
		}
	}
}

func TestNothingSecretLeaves(t *testing.T) {
	s := newServer(t)
	c := s.as(t, "ada")
	for _, path := range []string{"/api/projects/larchmoor/people", "/api/session", "/api/projects/larchmoor/panels"} {
		if w := c.do("GET", path, ""); w.Code != 200 || strings.Contains(w.Body.String(), "argon2") ||
			strings.Contains(strings.ToLower(w.Body.String()), "hash") {
			t.Errorf("%s: %d %s", path, w.Code, w.Body)
		}
	}
}

// The front end's types are made from this description; `make types` renews it.
func TestTheDescriptionIsCurrent(t *testing.T) {
	stored, err := os.ReadFile("../../web/src/api/openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	var a, b any
	now, err := json.Marshal(New(nil, Options{}).OpenAPI())
	if err != nil {
		t.Fatal(err)
	}
	json.Unmarshal(stored, &a)
	json.Unmarshal(now, &b)
	x, _ := json.Marshal(a)
	y, _ := json.Marshal(b)
	if string(x) != string(y) {
		t.Error("web/src/api/openapi.json is not current: run make types")
	}
}

func TestBodiesAreBounded(t *testing.T) {
	s := newServer(t)
	stranger := &client{t: t, s: s}
	large := strings.Repeat("x", 1<<20)
	for _, path := range []string{"/api/session", "/api/owner", "/api/projects/larchmoor/imports"} {
		if w := stranger.do("POST", path, `{"name":"`+large+`"}`); w.Code != http.StatusRequestEntityTooLarge || w.Body.Len() > 1000 {
			t.Errorf("%s before sign-in: %d, %d bytes", path, w.Code, w.Body.Len())
		}
	}
	c := s.as(t, "ada")
	if w := c.do("POST", "/api/projects/larchmoor/writes",
		`{"screen":"`+strings.Repeat("x", 3<<20)+`"}`); w.Code != http.StatusRequestEntityTooLarge {
		t.Errorf("a usual operation: %d", w.Code)
	}
	// What was sent is not sent back.
	secret := "larch-and-spruce-secret"
	if w := stranger.do("POST", "/api/session", `{"name":1,"password":"`+secret+`","more":"`+secret+`"}`); strings.Contains(w.Body.String(),
		secret) {
		t.Errorf("a refusal echoes what was sent: %s", w.Body)
	}
	// Large bodies share a budget.
	s.budget.left.Store(5 << 20)
	if w := c.do("POST", "/api/projects/larchmoor/imports?name=x.csv",
		strings.Repeat("x", 6<<20)); w.Code != http.StatusServiceUnavailable || w.Header().Get("Retry-After") == "" {
		t.Errorf("beyond the budget: %d", w.Code)
	}
	if left := s.budget.left.Load(); left != 5<<20 {
		t.Errorf("%d bytes are left of the budget", left)
	}
	if w := c.do("POST", "/api/projects/larchmoor/imports?name=x.csv",
		"path,type\n"+strings.Repeat("x", 4<<20)); w.Code == http.StatusServiceUnavailable {
		t.Errorf("within the budget: %d", w.Code)
	}
	if left := s.budget.left.Load(); left != 5<<20 {
		t.Errorf("%d bytes are left of the budget after a large one", left)
	}
}

func TestAssetsThatAreNotThere(t *testing.T) {
	c := &client{t: t, s: newServer(t)}
	if w := c.do("GET", "/assets/gone-1234.js", ""); w.Code != http.StatusNotFound {
		t.Errorf("%d", w.Code)
	}
	if w := c.do("GET", "/p/larchmoor/tags", ""); w.Code != http.StatusOK {
		t.Errorf("a page of the application: %d", w.Code)
	}
}
