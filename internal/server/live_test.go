package server

import (
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"

	"readyrail/internal/demo"
	"readyrail/internal/host"
	"readyrail/internal/modbus"
	"readyrail/internal/plant"
)

// livePlace is a server on a port with a running plant.
func livePlace(t *testing.T) (*httptest.Server, *Server, *plant.Plant) {
	t.Helper()
	t.Parallel() // they mostly wait
	ctx, cancel := context.WithCancel(context.Background())
	p := plant.New(1, 1)
	done := make(chan struct{})
	at, err := plant.Start(ctx, p, plant.Addresses{Modbus: "127.0.0.1:0", MQTT: "127.0.0.1:0"},
		func(error) { close(done) })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { cancel(); <-done })
	at.OPCUA = "127.0.0.1:9" // nothing listens there
	h, err := host.Open(t.TempDir(), slog.New(slog.NewTextHandler(io.Discard, nil)), host.Options{})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(h.Close)
	if err := demo.Fill(ctx, h, at, false); err != nil {
		t.Fatal(err)
	}
	s := New(h, Options{Demo: demo.People})
	web := httptest.NewServer(s)
	t.Cleanup(web.Close)
	return web, s, p
}

// line is a socket with the messages that came.
type line struct {
	t    *testing.T
	conn *websocket.Conn
	in   chan string
}

func dialAs(t *testing.T, web *httptest.Server, s *Server, name string) *line {
	t.Helper()
	return dialWith(t, web, s.as(t, name))
}

// dialWith opens a socket in a client's session.
func dialWith(t *testing.T, web *httptest.Server, c *client) *line {
	t.Helper()
	conn, _, err := websocket.Dial(context.Background(), "ws"+strings.TrimPrefix(web.URL, "http")+"/api/live",
		&websocket.DialOptions{HTTPHeader: http.Header{"Cookie": {c.cookie}}})
	if err != nil {
		t.Fatal(err)
	}
	conn.SetReadLimit(4 << 20)
	l := &line{t, conn, make(chan string, 1000)}
	go func() {
		defer close(l.in)
		for {
			_, b, err := conn.Read(context.Background())
			if err != nil {
				return
			}
			l.in <- string(b)
		}
	}()
	t.Cleanup(func() { conn.CloseNow() })
	l.expect(`"hello"`)
	return l
}

func (l *line) say(text string) {
	l.t.Helper()
	if err := l.conn.Write(context.Background(), websocket.MessageText, []byte(text)); err != nil {
		l.t.Fatal(err)
	}
}

// expect waits for a message that holds a text.
func (l *line) expect(text string) string {
	l.t.Helper()
	late := time.After(6 * time.Second)
	for {
		select {
		case m, ok := <-l.in:
			if !ok {
				l.t.Fatalf("the socket closed before %q came", text)
			}
			if strings.Contains(m, text) {
				return m
			}
		case <-late:
			l.t.Fatalf("%q did not come", text)
		}
	}
}

func TestASceneThenFramesThenBeats(t *testing.T) {
	web, s, _ := livePlace(t)
	l := dialAs(t, web, s, "tom")
	l.say(`{"op":"scene","ch":3,"project":"larchmoor","program":"release","screen":"s-car"}`)
	scene := l.expect(`"scene"`)
	if !strings.HasPrefix(scene, "[3,") {
		t.Errorf("%.60s", scene)
	}
	l.expect("480\u00a0mm")
	l.expect(`"v":[]}]`)
	l.say(`{"op":"close","ch":3}`)
	l.say(`not json`)
	l.expect("not in the protocol")
	l.say(`{"op":"dance","ch":1,"project":"larchmoor"}`)
	l.expect(`\"dance\" is not in the protocol`)
	l.say(`{"op":"scene","ch":4,"project":"elsewhere","screen":"x"}`)
	l.expect("no such project")
}

func TestTheSocketAsksForRights(t *testing.T) {
	web, s, _ := livePlace(t)
	l := dialAs(t, web, s, "sam")
	l.say(`{"op":"scene","ch":1,"project":"larchmoor","program":"draft","screen":"s-car"}`)
	l.expect("change the draft in the Workshop is missing")
	l.say(`{"op":"tags","ch":2,"project":"larchmoor","program":"draft","tags":["t-001"]}`)
	l.expect("change the draft in the Workshop is missing")
	l.say(`{"op":"tags","ch":3,"project":"larchmoor","program":"drafts","tags":["t-001"]}`)
	l.expect(`there is no program \"drafts\"`)
	// No name is the release, which a viewer may see.
	l.say(`{"op":"tags","ch":4,"project":"larchmoor","tags":["t-001"]}`)
	l.expect("[4,")
	l.say(`{"op":"news","ch":5,"project":"larchmoor"}`)
	// Whoever loses every role sees nothing more.
	p, err := s.host.Project(demo.ID)
	if err != nil {
		t.Fatal(err)
	}
	who, _, err := s.host.SignIn(context.Background(), host.Secret{Name: "sam", Password: "pine-and-fir", From: "127.0.0.1"})
	if err != nil {
		t.Fatal(err)
	}
	if err := p.SetGrants(context.Background(), host.Actor{Owner: true}, who.ID, nil); err != nil {
		t.Fatal(err)
	}
	for range 2 {
		if m := l.expect(`"problem"`); !strings.Contains(m, `"ch":4`) && !strings.Contains(m, `"ch":5`) {
			t.Errorf("%s", m)
		}
	}
}

func TestAChangedPasswordEndsSessionsAndHolds(t *testing.T) {
	web, s, p := livePlace(t)
	tom, ada := s.as(t, "tom"), s.as(t, "ada")
	l := dialWith(t, web, tom)
	time.Sleep(time.Second) // the car's first values
	l.say(s.holdCommand(t, "press-to-end"))
	l.expect(`"held":true`)
	who, _, err := s.host.SignIn(context.Background(), host.Secret{Name: "tom", Password: "oak-and-ash", From: "127.0.0.1"})
	if err != nil {
		t.Fatal(err)
	}
	if w := ada.do("PUT", "/api/projects/larchmoor/people/"+who.ID,
		`{"name":"tom","fullName":"Tom Alder","password":"larch-and-fir"}`); w.Code != 200 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	for end := time.Now().Add(4 * time.Second); jogging(p); time.Sleep(10 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("it still moves")
		}
	}
	if w := tom.do("GET", "/api/projects/larchmoor/desk", ""); w.Code != http.StatusUnauthorized {
		t.Errorf("the session goes on: %d", w.Code)
	}
	// The new secret is for one sign-in, which can do nothing but choose.
	c := &client{t: t, s: s}
	if w := c.do("POST", "/api/session", `{"name":"tom","password":"larch-and-fir"}`); w.Code != 200 ||
		!strings.Contains(w.Body.String(), `"choose":true`) {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := c.do("GET", "/api/projects/larchmoor/desk", ""); w.Code != http.StatusForbidden {
		t.Errorf("before choosing: %d %s", w.Code, w.Body)
	}
	if w := c.do("POST", "/api/session/secret", `{"password":"the-old-larch"}`); w.Code != 200 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if w := c.do("GET", "/api/projects/larchmoor/desk", ""); w.Code != 200 {
		t.Errorf("after choosing: %d %s", w.Code, w.Body)
	}
	if w := ada.do("GET", "/api/projects/larchmoor/audit", ""); !strings.Contains(w.Body.String(),
		"set by Ada Birch for one sign-in") || !strings.Contains(w.Body.String(), "chose a secret of their own") {
		t.Errorf("the trail: %s", w.Body)
	}
}

// holdCommand presses the button that jogs the car forward.
func (s *Server) holdCommand(t *testing.T, key string) string {
	t.Helper()
	p, err := s.host.Project(demo.ID)
	if err != nil {
		t.Fatal(err)
	}
	for id, e := range p.Released().Screens["s-car"].Elements {
		if e.Name == "Hold to go forward" {
			b, _ := json.Marshal(map[string]any{"op": "hold", "project": demo.ID, "screen": "s-car", "element": id, "key": key,
				"at": time.Now().UnixMilli()})
			return string(b)
		}
	}
	t.Fatal("no button")
	return ""
}

func jogging(p *plant.Plant) bool {
	bits := make([]bool, 1)
	p.ReadBits(plant.CarUnit, modbus.ReadCoils, 0, bits)
	return bits[0]
}

func TestAHoldEndsWithItsSocketAndWithItsSession(t *testing.T) {
	web, s, p := livePlace(t)
	off := func(why string) {
		t.Helper()
		for end := time.Now().Add(4 * time.Second); jogging(p); time.Sleep(10 * time.Millisecond) {
			if time.Now().After(end) {
				t.Fatal(why)
			}
		}
	}
	l := dialAs(t, web, s, "tom")
	l.say(`{"op":"tags","ch":9,"project":"larchmoor","program":"release","tags":["t-001"]}`)
	l.expect("[9,")
	time.Sleep(time.Second) // the car's first values
	l.say(s.holdCommand(t, "first-press"))
	l.expect(`"held":true`)
	if !jogging(p) {
		t.Error("nothing moves")
	}
	l.conn.CloseNow()
	off("the socket is gone, and it still moves")

	c := s.as(t, "iris")
	l = dialWith(t, web, c)
	l.say(s.holdCommand(t, "second-press"))
	l.expect(`"held":true`)
	if w := c.do("DELETE", "/api/session", ""); w.Code >= 300 {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	off("the person signed out, and it still moves")
	sam := dialAs(t, web, s, "sam")
	sam.say(s.holdCommand(t, "third-press"))
	sam.expect("enter values and press buttons is missing")
}

func TestFilters(t *testing.T) {
	for _, c := range []struct {
		filter, path, note string
		want               bool
	}{
		{"", "Kiln1.DryBulb", "", true}, {"dry", "Kiln1.DryBulb", "", true}, {"kiln*bulb", "Kiln1.DryBulb", "", true},
		{"bulb*kiln", "Kiln1.DryBulb", "", false}, {"kiln inlet", "Kiln1.DryBulb", "air inlet side", true},
		{"kiln outlet", "Kiln1.DryBulb", "air inlet side", false},
		{"fan[2]", "Kiln1.Fan[2].Speed", "", true}, {"***", "X", "", true},
	} {
		if got := matches(wordsOf(c.filter), strings.ToLower(c.path+"\n"+c.note)); got != c.want {
			t.Errorf("%q on %s: %v", c.filter, c.path, got)
		}
	}
}

func TestTagWindows(t *testing.T) {
	c := newServer(t).as(t, "ada")
	var page TagPage
	get := func(query string) {
		t.Helper()
		w := c.do("GET", "/api/projects/larchmoor/tags?"+query, "")
		page = TagPage{}
		if err := json.Unmarshal(w.Body.Bytes(), &page); err != nil || w.Code != 200 {
			t.Fatalf("%s: %d %s", query, w.Code, w.Body)
		}
	}
	get("limit=5&offset=382")
	if page.Total != 383 || len(page.Rows) != 1 {
		t.Errorf("%d of %d", len(page.Rows), page.Total)
	}
	get("text=kiln1*fan*speed&sort=uses&down=true")
	if page.Total != 5 || page.Rows[0].Uses < page.Rows[4].Uses {
		t.Errorf("%d rows, first %d uses, last %d", page.Total, page.Rows[0].Uses, page.Rows[4].Uses)
	}
	get("only=writable&type=BOOL")
	for _, r := range page.Rows {
		if !r.Tag.Writable() || r.Tag.Type.String() != "BOOL" {
			t.Errorf("%s", r.Path)
		}
	}
	get("only=bad&text=Kiln1*Depression")
	if page.Total != 1 {
		t.Errorf("nothing answers, so it is bad: %d", page.Total)
	}
	for query, want := range map[string]int{"source=system": 18, "check=untested&device=d-meter": 8, "check=passed": 0, "only=held": 0,
		"type=BOOL&device=d-car&text=bay": 48} {
		if get(query); page.Total != want {
			t.Errorf("%s: %d tags, want %d", query, page.Total, want)
		}
	}
	if w := c.do("GET", "/api/projects/larchmoor/tags?limit=501", ""); w.Code != 422 {
		t.Errorf("a window without end: %d", w.Code)
	}
	var all []FolderInfo
	if err := json.Unmarshal(c.do("GET", "/api/projects/larchmoor/folders", "").Body.Bytes(), &all); err != nil {
		t.Fatal(err)
	}
	id := map[string]string{}
	for _, f := range all {
		id[f.Path] = f.ID
	}
	get("folder=" + id["Kiln1"])
	below := page.Total
	get("own=true&limit=100&folder=" + id["Kiln1"])
	if page.Total == 0 || page.Total >= below {
		t.Errorf("%d tags of the folder itself, %d in it and below", page.Total, below)
	}
	for _, r := range page.Rows {
		if strings.Count(r.Path, ".") != 1 {
			t.Errorf("%s lies below", r.Path)
		}
	}
	lines := func(query string) int {
		t.Helper()
		w := c.do("GET", "/api/projects/larchmoor/export?format=csv"+query, "")
		if w.Code != 200 {
			t.Fatalf("%s: %d %s", query, w.Code, w.Body)
		}
		return strings.Count(w.Body.String(), "\n") - 1
	}
	one, two := lines("&folder="+id["Car"]), lines("&folder="+id["Meter"])
	if both := lines("&folder=" + id["Car"] + "&folder=" + id["Meter"] + "&folder=" + id["Car"]); one == 0 || two == 0 || both != one+two {
		t.Errorf("%d and %d tags alone, %d together", one, two, both)
	}
}
