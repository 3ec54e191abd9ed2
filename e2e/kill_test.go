package e2e

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/coder/websocket"

	"readyrail/internal/plant"
)

var kills = flag.Int("kills", 10, "how often the server is killed in TestKills")

// caller is a program that speaks to the server as a browser does.
type caller struct {
	t    *testing.T
	base string
	http http.Client
}

func newCaller(t *testing.T, base, name, password string) *caller {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	c := &caller{t: t, base: base, http: http.Client{Jar: jar, Timeout: patience}}
	if _, err := c.send("POST", "/api/session", map[string]string{"name": name, "password": password}); err != nil {
		t.Fatal(err)
	}
	return c
}

// send asks the server; an error says that it was not answered with success.
func (c *caller) send(method, path string, body any) ([]byte, error) {
	var in io.Reader
	if body != nil {
		b, err := json.Marshal(body)
		if err != nil {
			return nil, err
		}
		in = bytes.NewReader(b)
	}
	r, err := http.NewRequest(method, c.base+path, in)
	if err != nil {
		return nil, err
	}
	r.Header.Set("Content-Type", "application/json")
	w, err := c.http.Do(r)
	if err != nil {
		return nil, err
	}
	defer w.Body.Close()
	out, err := io.ReadAll(w.Body)
	if err == nil && w.StatusCode >= 300 {
		err = fmt.Errorf("%d %s", w.StatusCode, out)
	}
	return out, err
}

// ask is send where nothing but an answer will do.
func (c *caller) ask(method, path string, body, into any) {
	c.t.Helper()
	out, err := c.send(method, "/api/projects/larchmoor/"+path, body)
	if err == nil && into != nil {
		err = json.Unmarshal(out, into)
	}
	if err != nil {
		c.t.Fatalf("%s %s: %v", method, path, err)
	}
}

func command(element, value string, n int) map[string]any {
	return map[string]any{"screen": "s-car", "element": element, "value": value, "seen": "",
		"key": fmt.Sprintf("kill-%s-%d", element, n), "at": time.Now().UnixMilli()}
}

// told is what the server answered as done.
type told struct {
	mu                 sync.Mutex
	note, speed, about string // the newest that was answered, or that was there after the last kill
	notes, speeds      []string
	abouts             []string // those that were sent after it
	acked              bool
	keys               []string // of commands that were answered
}

// TestKills: the server is killed at any moment, over and over. What it had
// answered as done is there at the next start, what was held is let go, and the
// trail is whole.
func TestKills(t *testing.T) {
	s := newSite(t)
	ada := newCaller(t, s.base, "ada", "larch-and-spruce")
	var page struct {
		Rows []struct {
			Tag struct{ ID string } `json:"tag"`
		} `json:"rows"`
	}
	idOf := func(path string) string {
		t.Helper()
		page.Rows = nil
		ada.ask("GET", "tags?limit=1&text="+path, nil, &page)
		if len(page.Rows) == 0 {
			t.Fatalf("no tag %s", path)
		}
		return page.Rows[0].Tag.ID
	}
	note, speed := idOf("Plant.ShiftNote"), idOf("Car.VelocitySP")
	element := func(id, kind, tag string) map[string]any {
		return map[string]any{"kind": "screen", "id": "s-car", "path": "/elements/" + id,
			"value": map[string]any{"kind": kind, "w": 100, "h": 60, "props": map[string]any{"tag": tag}}}
	}
	ada.ask("POST", "edits", map[string]any{"label": "for kills",
		"ops": []any{element("k-note", "textentry", note), element("k-speed", "entry", speed)}}, nil)
	ada.ask("POST", "releases", map[string]any{"note": ""}, nil)
	var scene struct {
		Elements map[string]struct{ Name string }
	}
	ada.ask("GET", "screens/s-car", nil, &scene)
	jog := ""
	for id, e := range scene.Elements {
		if e.Name == "Hold to go forward" {
			jog = id
		}
	}
	var was told
	was.note, was.speed, was.about = s.written(ada, note, speed)
	n := 0
	for kill := range *kills {
		s.fault("estop", kill%2 == 0)
		ada = newCaller(t, s.base, "ada", "larch-and-spruce")
		was.acked = false
		stop := make(chan struct{})
		var wg sync.WaitGroup
		again := func(f func(n int)) {
			from := n
			n += 10_000
			wg.Add(1)
			go func() {
				defer wg.Done()
				for i := from; ; i++ {
					select {
					case <-stop:
						return
					default:
						f(i)
					}
				}
			}()
		}
		write := func(element, value string, i int, sent *[]string, done *string) {
			was.mu.Lock()
			*sent = append(*sent, value)
			was.mu.Unlock()
			var out struct{ Outcome struct{ Outcome string } }
			b, err := ada.send("POST", "/api/projects/larchmoor/writes", command(element, value, i))
			if err != nil || json.Unmarshal(b, &out) != nil || out.Outcome.Outcome != "confirmed" {
				return
			}
			was.mu.Lock()
			*done, *sent = value, nil
			was.keys = append(was.keys, fmt.Sprintf("kill-%s-%d", element, i))
			was.mu.Unlock()
		}
		again(func(i int) { write("k-note", fmt.Sprint("note ", i), i, &was.notes, &was.note) })
		again(func(i int) { write("k-speed", fmt.Sprint(50+10*(i%70)), i, &was.speeds, &was.speed) })
		again(func(i int) {
			text := fmt.Sprint("about ", i)
			was.mu.Lock()
			was.abouts = append(was.abouts, text)
			was.mu.Unlock()
			_, err := ada.send("POST", "/api/projects/larchmoor/edits",
				map[string]any{"label": "x", "ops": []any{map[string]any{"kind": "tag", "id": speed, "path": "/description", "value": text}}})
			if err == nil {
				was.mu.Lock()
				was.about, was.abouts = text, nil
				was.mu.Unlock()
			}
		})
		again(func(int) {
			time.Sleep(20 * time.Millisecond)
			ada.ackAll(&was)
		})
		again(func(i int) { ada.holdFor(jog, i) })
		time.Sleep(time.Duration(200+rand.IntN(900)) * time.Millisecond)
		s.server.kill()
		close(stop)
		wg.Wait()
		s.startServer()
		if s.jogging() {
			t.Fatalf("kill %d: the car is still told to move when the server says that it is ready", kill)
		}
		ada = newCaller(t, s.base, "ada", "larch-and-spruce")
		s.kept(t, ada, &was, kill, note, speed)
		if t.Failed() {
			return
		}
	}
}

// ackAll acknowledges what stands, and notes that it was answered.
func (c *caller) ackAll(was *told) {
	out, err := c.send("GET", "/api/projects/larchmoor/alarms", nil)
	if err != nil {
		return
	}
	var board struct {
		Alarms []struct{ ID, Path, State string }
	}
	if json.Unmarshal(out, &board) != nil {
		return
	}
	for _, a := range board.Alarms {
		if a.Path != "Car.EStop" || a.State != "unacknowledged" {
			continue
		}
		out, err := c.send("POST", "/api/projects/larchmoor/alarms/acts", map[string]any{"alarms": []string{a.ID}, "act": "acknowledged"})
		if err == nil && strings.Contains(string(out), `"alarms":1`) {
			was.mu.Lock()
			was.acked = true
			was.mu.Unlock()
		}
	}
}

// holdFor holds the button for a moment.
func (c *caller) holdFor(jog string, i int) {
	ctx, cancel := context.WithTimeout(context.Background(), 400*time.Millisecond)
	defer cancel()
	conn, _, err := websocket.Dial(ctx, "ws"+strings.TrimPrefix(c.base, "http")+"/api/live", &websocket.DialOptions{HTTPClient: &c.http})
	if err != nil {
		time.Sleep(20 * time.Millisecond)
		return
	}
	defer conn.CloseNow()
	m := command(jog, "", i)
	m["op"], m["project"] = "hold", "larchmoor"
	b, err := json.Marshal(m)
	if err != nil || conn.Write(ctx, websocket.MessageText, b) != nil {
		return
	}
	<-ctx.Done()
}

// written is what the three that are written have now: the note, the speed at the
// controller, and what is said about its tag.
func (s *site) written(c *caller, note, speed string) (string, string, string) {
	c.t.Helper()
	var point struct{ Value, Level string }
	for end := time.Now().Add(patience); point.Level != "good" && time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		c.ask("GET", "points/"+note, nil, &point)
	}
	var row struct {
		Tag struct{ Description string } `json:"tag"`
	}
	c.ask("GET", "tags/"+speed, nil, &row)
	return point.Value, s.register(plant.CarUnit, "holding:0", "INT"), row.Tag.Description
}

// kept checks what was answered as done against what is there now.
func (s *site) kept(t *testing.T, c *caller, was *told, kill int, note, speed string) {
	t.Helper()
	was.mu.Lock()
	defer was.mu.Unlock()
	oneOf := func(what, got, answered string, sent []string) {
		t.Helper()
		if got == answered {
			return
		}
		for _, x := range sent {
			if got == x {
				return
			}
		}
		t.Errorf("kill %d: the %s is %q; answered was %q, sent after it %q", kill, what, got, answered, sent)
	}
	retained, moved, about := s.written(c, note, speed)
	oneOf("retained note", retained, was.note, was.notes)
	oneOf("speed at the controller", moved, was.speed, was.speeds)
	oneOf("edit", about, was.about, was.abouts)
	was.notes, was.speeds, was.abouts = nil, nil, nil
	was.note, was.speed, was.about = retained, moved, about
	if was.acked {
		var board struct {
			Alarms []struct{ Path, State string }
		}
		c.ask("GET", "alarms", nil, &board)
		for _, a := range board.Alarms {
			if a.Path == "Car.EStop" && a.State == "unacknowledged" {
				t.Errorf("kill %d: an acknowledged alarm stands unacknowledged", kill)
			}
		}
	}
	var seal struct {
		Busy, Whole bool
		Problem     string
	}
	for c.ask("POST", "audit/seal", nil, &seal); seal.Busy; c.ask("GET", "audit/seal", nil, &seal) {
		time.Sleep(20 * time.Millisecond)
	}
	if !seal.Whole {
		t.Errorf("kill %d: the trail is not whole: %s", kill, seal.Problem)
	}
	var trail struct {
		Records []struct{ What, Outcome, Key string }
	}
	c.ask("GET", "audit?limit=500", nil, &trail)
	ended := map[string]string{}
	for _, r := range trail.Records {
		if r.What == "intent" {
			if ended[r.Key] = r.Outcome; r.Outcome == "" {
				t.Errorf("kill %d: an intent has no outcome after the start", kill)
			}
		}
	}
	for _, k := range was.keys[max(0, len(was.keys)-50):] {
		if how, ok := ended[k]; ok && how != "confirmed" {
			t.Errorf("kill %d: what was answered as confirmed is %q in the trail", kill, how)
		}
	}
}
