package server

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
)

// TestLookingAsARole: an engineer, owner or not, sees what a role in an area sees and
// nothing beyond it, changes nothing meanwhile, and gets their own rights back.
func TestLookingAsARole(t *testing.T) {
	s := newServer(t)
	ada := s.as(t, "ada")
	me := func(c *client) (out Me) {
		t.Helper()
		if w := c.do("GET", "/api/session", ""); w.Code != http.StatusOK || json.Unmarshal(w.Body.Bytes(), &out) != nil {
			t.Fatalf("%d %s", w.Code, w.Body)
		}
		return out
	}
	code := func(want int, method, path, body string) string {
		t.Helper()
		w := ada.do(method, path, body)
		if w.Code != want {
			t.Errorf("%s %s: %d, want %d: %.200s", method, path, w.Code, want, w.Body)
		}
		return w.Body.String()
	}
	for _, body := range []string{`{"role":"r-none"}`, `{"role":"r-operator","area":"a-none"}`} {
		if w := ada.do("POST", yard+"/look-as", body); w.Code < 400 {
			t.Errorf("%s: %d", body, w.Code)
		}
	}
	code(http.StatusOK, "POST", yard+"/look-as", `{"role":"r-operator","area":"a-kilns"}`)
	now := me(ada)
	if now.Person.As == nil || now.Person.As.Role != "Operator" || now.Person.As.Area != "Kilns" || now.Person.Owner || now.Person.Server {
		t.Errorf("%+v %+v", now.Person, now.Person.As)
	}
	for _, p := range now.Projects {
		if rights := strings.Join(p.Rights, " "); !strings.Contains(rights, "operate") || strings.Contains(rights, "engineer") {
			t.Errorf("rights: %s", rights)
		}
	}
	code(http.StatusOK, "GET", yard+"/desk", "")
	code(http.StatusOK, "GET", yard+"/alarms", "")
	code(http.StatusForbidden, "GET", yard+"/tags", "")
	code(http.StatusForbidden, "GET", yard+"/audit", "")
	for path, body := range map[string]string{
		"/edits":       bodies["post-projects-project-edits"],
		"/alarms/acts": `{"alarms":["x"],"act":"acknowledged"}`,
		"/writes":      `{"screen":"s-car","element":"x","value":"1","seen":"","key":"12345678","at":0}`,
		"/releases":    `{"note":""}`,
		"/look-as":     `{"role":"r-lead"}`,
	} {
		if says := code(http.StatusForbidden, "POST", yard+path, body); !strings.Contains(says, "nothing is changed meanwhile") {
			t.Errorf("%s: %s", path, says)
		}
	}
	code(http.StatusOK, "DELETE", "/api/session/as", "")
	if now = me(ada); now.Person.As != nil || !now.Person.Owner {
		t.Errorf("%+v", now.Person)
	}
	if says := code(http.StatusOK, "GET", yard+"/audit?limit=20", ""); !strings.Contains(says, "looks at the Desk as Operator, Kilns") {
		t.Errorf("the trail knows nothing of it: %.300s", says)
	}
	// Who signs in after it begins with their own rights.
	code(http.StatusOK, "POST", yard+"/look-as", `{"role":"r-viewer"}`)
	code(http.StatusOK, "POST", "/api/session", `{"name":"ada","password":"larch-and-spruce"}`)
	if now = me(ada); now.Person.As != nil || !now.Person.Owner {
		t.Errorf("after a sign-in: %+v", now.Person)
	}
}
