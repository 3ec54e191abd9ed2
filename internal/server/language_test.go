package server

import (
	"strings"
	"testing"
	"time"
)

// TestRefusalsAreSaidInTheLanguageOfWhoAsks over the API and over a page's connection.
func TestRefusalsAreSaidInTheLanguageOfWhoAsks(t *testing.T) {
	web, s, _ := livePlace(t)
	ada, sam := s.as(t, "ada"), s.as(t, "sam")
	const at = "/api/projects/larchmoor"
	for until := time.Now().Add(time.Minute); time.Now().Before(until); time.Sleep(50 * time.Millisecond) {
		if strings.Contains(ada.do("GET", at+"/links?program=release", "").Body.String(), "refused the connection") {
			break
		}
	}
	for name, c := range map[string]struct {
		who                *client
		method, path, body string
		en, de             string
	}{
		"a right that is missing": {sam, "GET", at + "/audit", "",
			"the right to read the audit trail is missing; it comes with the role",
			"das Recht fehlt: das Prüfprotokoll lesen; es kommt mit der Rolle"},
		"a project that is not there": {ada, "GET", "/api/projects/elsewhere/workshop", "",
			"there is no such thing here", "so etwas gibt es hier nicht"},
		"an edit": {ada, "POST", at + "/edits",
			`{"label":"x","ops":[{"kind":"tag","id":"t-064","path":"/name","value":"2"}]}`,
			`character 1: a name starts with a letter`, `Zeichen 1: ein Name beginnt mit einem Buchstaben`},
		"what was changed meanwhile": {ada, "POST", at + "/edits",
			`{"label":"x","ops":[{"kind":"tag","id":"t-001","path":"/description","was":"x","value":"y"}]}`,
			"somebody changed this meanwhile", "jemand hat dies inzwischen geändert"},
		"a formula": {ada, "POST", at + "/formulas", `{"formula":"Kiln1.DryBulb + Nobody"}`,
			"there is no tag Nobody", "eine Variable Nobody gibt es nicht"},
		"a value that is bad": {ada, "POST", at + "/formulas", `{"formula":"1 / 0"}`, "division by zero", "Division durch null"},
		"an address":          {ada, "GET", at + "/address?device=d-kiln&type=BOOL&address=holding:7", "", "a BOOL needs its bit", "ein BOOL braucht sein Bit"},
		"a body that is none": {ada, "POST", at + "/edits", `{"ops":5}`, "validation failed", "so kann dies nicht genommen werden"},
		"a line of a preview": {ada, "POST", at + "/tags/many",
			`{"plan":{"path":"Fan[1..2].9x","tag":{"id":"","name":"","type":"BOOL","source":"internal"}},"apply":false}`,
			"a name starts with a letter", "ein Name beginnt mit einem Buchstaben"},
		"a link that is down": {ada, "GET", at + "/links?program=release", "",
			"127.0.0.1 refused the connection", "127.0.0.1 hat die Verbindung abgelehnt"},
		"nothing there": {ada, "GET", "/api/nowhere", "", "there is nothing at", "unter /api/nowhere gibt es nichts"},
		"a sign-in": {&client{t: t, s: s}, "POST", "/api/session", `{"name":"nobody","password":"never"}`, "name and password do not match",
			"Name und Passwort passen nicht zusammen"},
	} {
		for accepts, want := range map[string]string{"": c.en, "en-GB,de;q=0.5": c.en, "de": c.de, "de-AT;q=0.9, fr": c.de, "fr": c.en} {
			w := c.who.do(c.method, c.path, c.body, "Accept-Language", accepts)
			if !strings.Contains(w.Body.String(), want) {
				t.Errorf("%s to who accepts %q: %d %s", name, accepts, w.Code, w.Body)
			}
		}
	}

	l := dialAs(t, web, s, "tom")
	l.say(`{"op":"dance","ch":1,"project":"larchmoor"}`)
	l.expect(`\"dance\" is not in the protocol`)
	l.say(`{"op":"language","language":"de"}`)
	if hello := l.expect(`"hello"`); !strings.Contains(hello, "keine Verbindung zum Gerät") || strings.Contains(hello, "no connection") {
		t.Errorf("%s", hello)
	}
	l.say(`{"op":"dance","ch":1,"project":"larchmoor"}`)
	l.expect(`\"dance\" gehört nicht zum Protokoll`)
	l.say(`{"op":"language","language":"nobody's"}`)
	l.expect("no connection to the device")
}
