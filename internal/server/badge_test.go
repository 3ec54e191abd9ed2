package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
)

// TestBadges: a badge signs in at a panel that takes badges, alone or with its person's
// PIN, and nowhere else; it is one person's, ends with what it is taken away by, and
// guesses are bounded.
func TestBadges(t *testing.T) {
	s := newServer(t)
	ada := s.as(t, "ada")
	cookie, panel := panelOf(t, ada, "Kiln house")
	id := func(name string) string {
		var me Me
		_ = json.Unmarshal(s.as(t, name).do("GET", "/api/session", "").Body.Bytes(), &me)
		return me.Person.ID
	}
	tom, iris := id("tom"), id("iris")
	give := func(c *client, who, number string) int {
		return c.do("PUT", "/api/projects/larchmoor/people/"+who+"/badge", fmt.Sprintf(`{"number":%q}`, number)).Code
	}
	takes := func(how string) {
		t.Helper()
		if w := ada.do("PUT", "/api/projects/larchmoor/panels/"+panel, fmt.Sprintf(`{"looks":false,"badges":%q}`, how)); w.Code >= 300 {
			t.Fatalf("%q: %d %s", how, w.Code, w.Body)
		}
	}
	read := func(body string, at string) (Me, *client, int) {
		c := &client{t: t, s: s, panel: at, cookie: "rr_none=1"}
		var me Me
		w := c.do("POST", "/api/session", body)
		_ = json.Unmarshal(w.Body.Bytes(), &me)
		return me, c, w.Code
	}
	const number = `{"badge":"0012345678"}`
	for text, want := range map[string]bool{"0012345678": true, "123": false, strings.Repeat("1", 65): false, "12\u202e34": false} {
		if got := give(ada, tom, text) < 300; got != want {
			t.Errorf("%q is taken: %v", text, got)
		}
	}
	if give(ada, iris, " 0012345678 ") < 400 || give(s.as(t, "iris"), tom, "99999") != http.StatusForbidden {
		t.Error("a badge is two people's, or given without the right")
	}
	if w := ada.do("PUT", "/api/projects/larchmoor/panels/"+panel, `{"looks":false,"badges":"both"}`); w.Code < 400 {
		t.Errorf("another way of taking badges: %d", w.Code)
	}
	if _, _, status := read(number, cookie); status < 400 {
		t.Error("a panel that takes none takes one")
	}

	takes("alone")
	me, there, _ := read(number, cookie)
	if me.Person == nil || me.Person.Name != "Tom Alder" || me.Panel != "Kiln house" {
		t.Fatalf("%+v", me)
	}
	if me, _, status := read(number, ""); status < 400 || me.Person != nil {
		t.Error("a badge signs in where no panel is")
	}
	takes("pin")
	if me, _, _ := read(number, cookie); me.Person != nil || me.AsksPIN == nil || me.AsksPIN.FullName != "Tom Alder" {
		t.Errorf("%+v", me)
	}
	if me, _, _ := read(`{"badge":"0012345678","pin":"9999"}`, cookie); me.Person != nil {
		t.Error("a wrong PIN signs in")
	}
	if me, _, _ := read(`{"badge":"0012345678","pin":"3690"}`, cookie); me.Person != nil {
		t.Error("another's PIN signs in")
	}
	if me, _, _ := read(`{"badge":"0012345678","name":"iris","pin":"1470"}`, cookie); me.Person == nil || me.Person.Name != "Tom Alder" {
		t.Errorf("%+v", me.Person)
	}

	// Taken away: its sessions end, and it is nobody's.
	if w := there.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusOK {
		t.Fatalf("the session: %d", w.Code)
	}
	give(ada, tom, "")
	if w := there.do("GET", "/api/projects/larchmoor/alarms", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("a session outlives its badge: %d", w.Code)
	}
	takes("alone")
	if _, _, status := read(number, cookie); status < 400 {
		t.Error("a badge that was taken away signs in")
	}
	last := ""
	for n := range 12 {
		c := &client{t: t, s: s, panel: cookie, cookie: "rr_none=1"}
		last = c.do("POST", "/api/session", fmt.Sprintf(`{"badge":"guess%d"}`, n)).Body.String()
	}
	if !strings.Contains(last, "too many failed attempts") {
		t.Errorf("badges can be guessed: %s", last)
	}
	trail := ada.do("GET", "/api/projects/larchmoor/audit?limit=100", "").Body.String()
	for _, says := range []string{"by badge", "account tom: has a badge", "account tom: badge taken away", "takes badges with a PIN"} {
		if !strings.Contains(trail, says) {
			t.Errorf("the trail lacks %q", says)
		}
	}
	if strings.Contains(trail, "0012345678") {
		t.Error("the number is in the trail")
	}
}
