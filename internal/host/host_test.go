package host_test

import (
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/demo"
	"readyrail/internal/door"
	"readyrail/internal/host"
	"readyrail/internal/outbox"
	"readyrail/internal/plant"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

var (
	ctx   = context.Background()
	quiet = slog.New(slog.NewTextHandler(io.Discard, nil))
)

// site is a demo host beside its running plant.
type site struct {
	t       *testing.T
	dir     string
	stick   string // folder that logs may be written out to; nobody made it yet
	h       *host.Host
	p       *host.Project
	plant   *plant.Plant
	addr    *net.TCPAddr
	at      plant.Addresses
	stop    func()
	actors  map[string]host.Actor
	command int
}

func newSite(t *testing.T) *site { return newSiteWith(t, furnished{}) }

// furnished is what a site has that takes its time to begin: the made-up week, and the
// server of the energy meter.
type furnished struct{ past, meter bool }

func newSiteWith(t *testing.T, has furnished) *site {
	t.Helper()
	beside(t)
	s := &site{t: t, dir: t.TempDir(), stick: filepath.Join(t.TempDir(), "stick"), plant: plant.New(1, 1), actors: map[string]host.Actor{}}
	s.at = plant.Addresses{Modbus: "127.0.0.1:0", MQTT: "127.0.0.1:0"}
	if has.meter {
		s.at.OPCUA = "127.0.0.1:0"
	}
	s.startPlant("127.0.0.1:0")
	if !has.meter {
		s.at.OPCUA = "127.0.0.1:9" // nothing listens there
	}
	t.Cleanup(func() { s.stop() })
	s.open()
	t.Cleanup(func() { s.h.Close() })
	if err := demo.Fill(ctx, s.h, s.at, has.past); err != nil {
		t.Fatal(err)
	}
	s.p, _ = s.h.Project(demo.ID)
	for _, d := range demo.People {
		a, _, err := s.h.SignIn(ctx, host.Secret{Name: d.Name, Password: d.Password, From: "127.0.0.1"})
		if err != nil {
			t.Fatal(err)
		}
		a.Panel = "Kiln house"
		s.actors[d.Name] = a
	}
	s.until("values of the car", func() bool {
		return s.show("Car.Position") != "bad" && s.show("Car.EStop") != "bad" && s.show("Kiln1.DryBulbSP") != "bad"
	})
	return s
}

var asked sync.Map

// beside lets tests run beside each other: they mostly wait.
func beside(t *testing.T) {
	if _, twice := asked.LoadOrStore(t, true); !twice {
		t.Parallel()
	}
}

func (s *site) startPlant(addr string) {
	run, cancel := context.WithCancel(ctx)
	s.at.Modbus = addr
	done := make(chan struct{})
	ready, err := plant.Start(run, s.plant, s.at, func(error) { close(done) })
	if err != nil {
		s.t.Fatal(err)
	}
	s.at = ready
	s.addr, _ = net.ResolveTCPAddr("tcp", ready.Modbus)
	s.stop = func() { cancel(); <-done }
}

func (s *site) open() {
	h, err := host.Open(s.dir, quiet, host.Options{Folders: []outbox.Folder{{Name: "stick", Path: s.stick}}})
	if err != nil {
		s.t.Fatal(err)
	}
	s.h = h
}

func (s *site) show(path string) string {
	r := s.p.Released()
	id, _ := r.FindPath(path)
	v := s.p.ReadTags(run.Release, []string{id})[0].Value
	if v.Quality.IsBad() {
		return "bad"
	}
	tg, _ := r.Tag(id)
	return tg.Show(v, false)
}

func (s *site) until(what string, ok func() bool) {
	s.t.Helper()
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		if ok() {
			return
		}
	}
	s.t.Fatalf("not within a minute: %s", what)
}

func (s *site) cmd(screen, element, v string) host.Command {
	r := s.p.Released()
	for id := range r.Screens[screen].Elements {
		if project.ElementName(r.Screens[screen], id) == element {
			s.command++
			return host.Command{Screen: screen, Element: id, Value: v, Key: fmt.Sprintf("k%d-%d", s.command, time.Now().UnixNano()), At: time.Now()}
		}
	}
	s.t.Fatalf("no element %s on %s", element, screen)
	return host.Command{}
}

// hold presses a button and returns the key of the press.
func (s *site) hold(who host.Actor, c host.Command) (key string, err error) {
	h, err := s.p.Press(who, c.Key)
	if err != nil {
		return c.Key, err
	}
	return c.Key, s.p.Begin(ctx, h, who, c)
}

// trail is the newest of the trail, but for edits of the project, which come when
// they come.
func (s *site) trail() []audit.Record {
	list, _, err := s.p.Trail(ctx, store.TrailFilter{}, 50)
	if err != nil {
		s.t.Fatal(err)
	}
	return slices.DeleteFunc(list, func(r audit.Record) bool { return r.What == audit.Edited })
}

func TestWriteGoesThroughTheOneDoor(t *testing.T) {
	s := newSite(t)
	out, err := s.p.Write(ctx, s.actors["tom"], s.cmd("s-chamber1", "Dry bulb set point", "74.5"))
	if err != nil || out.Outcome != audit.Confirmed {
		t.Fatalf("%+v, %v", out, err)
	}
	s.until("the set point", func() bool { return s.show("Kiln1.DryBulbSP") == "74.5" })
	r := s.trail()[0]
	if r.Name != "Tom Alder" || r.Panel != "Kiln house" || r.Screen != "Chamber · Kiln1" || r.Path != "Kiln1.DryBulbSP" ||
		r.Old != "72.0\u00a0°C" || r.New != "74.5\u00a0°C" || r.Outcome != audit.Confirmed {
		t.Errorf("%+v", r)
	}
	var denied *access.Denied
	old := s.cmd("s-chamber1", "Dry bulb set point", "70")
	old.At = time.Now().Add(-3 * time.Second)
	twice := s.cmd("s-chamber1", "Dry bulb set point", "70")
	if _, err := s.p.Write(ctx, s.actors["tom"], twice); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		who  string
		c    host.Command
		says string
	}{
		"limit": {"tom", s.cmd("s-chamber1", "Dry bulb set point", "96"),
			"outside 20.0\u00a0°C to 95.0\u00a0°C; the limits are set at the tag"},
		"step":  {"tom", s.cmd("s-chamber1", "Dry bulb set point", "70.2"), "steps of 0.5"},
		"comma": {"tom", s.cmd("s-chamber1", "Dry bulb set point", "70,5"), "decimal point"},
		"right": {"sam", s.cmd("s-chamber1", "Dry bulb set point", "70"),
			"the right to enter values and press buttons is missing in Kiln1; it comes with the role Engineer, Maintenance, Operator, Shift lead"},
		"interlock": {"tom", s.cmd("s-chamber1", "Start", ""), "the interlock holds: Kiln1.CanStart is not true"},
		"age":       {"tom", old, "s old and was not carried out"},
		"twice":     {"tom", twice, "taken already"},
		"readout":   {"tom", s.cmd("s-chamber1", "Depression", "1"), "does not write"},
		"hold":      {"tom", s.cmd("s-car", "Hold to go back", "true"), "is held, not pressed once"},
		"element":   {"tom", host.Command{Screen: "s-chamber1", Element: "no", Key: "x", At: time.Now()}, "has changed with a new release"},
	} {
		_, err := s.p.Write(ctx, s.actors[c.who], c.c)
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v; want %q", name, err, c.says)
		}
		if name == "right" && !errors.As(err, &denied) {
			t.Error("a missing right must be told apart")
		}
		if s.show("Kiln1.DryBulbSP") != "70.0" {
			t.Fatalf("%s: a refused write went out: %s", name, s.show("Kiln1.DryBulbSP"))
		}
	}
	if state, err := s.p.VerifyTrail(ctx, nil); err != nil || state.Records < 10 {
		t.Errorf("%d records, %v", state.Records, err)
	}
}

func TestAWriteWhileTheLinkIsDownIsRefused(t *testing.T) {
	s := newSite(t)
	s.stop()
	s.until("bad values", func() bool { return s.show("Kiln1.DryBulb") == "bad" })
	out, err := s.p.Write(ctx, s.actors["tom"], s.cmd("s-chamber1", "Dry bulb set point", "70"))
	if err != nil || out.Outcome != audit.Rejected {
		t.Errorf("%+v, %v", out, err)
	}
	s.startPlant(s.addr.String())
	s.until("good values again", func() bool { return s.show("Kiln1.DryBulb") != "bad" })
	if got := s.show("Kiln1.DryBulbSP"); got != "72.0" {
		t.Errorf("a refused write came later: %s", got)
	}
}

func TestHoldToRunEndsByItself(t *testing.T) {
	s := newSite(t)
	tom, iris := s.actors["tom"], s.actors["iris"]
	iris.Panel = "Office 2"
	id, err := s.hold(tom, s.cmd("s-car", "Hold to go forward", ""))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.hold(iris, s.cmd("s-car", "Hold to go forward", "")); err == nil ||
		!strings.Contains(err.Error(), "Tom Alder at Kiln house holds it") {
		t.Errorf("a second panel: %v", err)
	}
	if err := s.p.Renew(iris, id); err == nil {
		t.Error("another panel renewed it")
	}
	// A machine under load may let polls go stale, which ends a press as it should:
	// then it is pressed anew.
	for i, tries := 0, 0; i < 8; i++ {
		time.Sleep(door.RenewEvery)
		err := s.p.Renew(tom, id)
		if err == nil {
			continue
		}
		if tries++; tries > 3 || !strings.Contains(err.Error(), "no fresh value") {
			t.Fatalf("renewal %d: %v", i, err)
		}
		s.until("values again", func() bool { return s.show("Car.JogForward") == "off" })
		if id, err = s.hold(tom, s.cmd("s-car", "Hold to go forward", "")); err != nil {
			t.Fatal(err)
		}
		i = -1
	}
	s.until("the car moves", func() bool { return s.show("Car.JogForward") == "on" && s.show("Car.Stationary") == "off" })
	// No more renewals.
	s.until("the release value", func() bool { return s.show("Car.JogForward") == "off" })
	if err := s.p.Renew(tom, id); err == nil {
		t.Error("an ended lease revived")
	}
	s.until("a record of the end", func() bool {
		r := s.trail()[0]
		return r.What == audit.Lease && r.Outcome == audit.Confirmed && strings.Contains(r.Reason, "not heard for 500 ms")
	})
	again, err := s.hold(iris, s.cmd("s-car", "Hold to go forward", ""))
	if err != nil {
		t.Fatalf("after the end another panel may hold: %v", err)
	}
	s.h.EndHolds(func(w door.Who) bool { return w.ID == iris.ID }, errors.New("signed out"))
	s.until("off after sign-out", func() bool { return s.show("Car.JogForward") == "off" })
	if err := s.p.Renew(iris, again); err == nil {
		t.Error("a lease outlived its session")
	}
}

// crash makes the state on disk what a SIGKILL leaves: a copy of the folder
// while everything runs.
func (s *site) crash() (dir string) {
	dir = s.t.TempDir()
	err := filepath.WalkDir(s.dir, func(path string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, _ := filepath.Rel(s.dir, path)
		if d.IsDir() {
			return os.MkdirAll(filepath.Join(dir, rel), 0o700)
		}
		b, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		return os.WriteFile(filepath.Join(dir, rel), b, 0o600)
	})
	if err != nil {
		s.t.Fatal(err)
	}
	return dir
}

func TestAHeldButtonIsLetGoAtTheNextStart(t *testing.T) {
	s := newSite(t)
	tom := s.actors["tom"]
	id, err := s.hold(tom, s.cmd("s-car", "Hold to go back", ""))
	if err != nil {
		t.Fatal(err)
	}
	dir := s.crash()
	s.p.LetGo(tom, id, errors.New("let go"))
	s.until("off", func() bool { return s.show("Car.JogBack") == "off" })
	s.h.Close()
	on := []bool{true}
	s.plant.WriteBits(plant.CarUnit, 1, on) // as the crashed server left it
	h, err := host.Open(dir, quiet, host.Options{})
	if err != nil {
		t.Fatal(err)
	}
	s.h = h
	s.plant.ReadBits(plant.CarUnit, 1, 1, on)
	if on[0] {
		t.Error("the held value still stands after the start")
	}
	s.p, _ = h.Project(demo.ID)
	if r := s.trail()[0]; r.What != audit.Lease || r.Outcome != audit.Confirmed || r.Path != "Car.JogBack" ||
		!strings.Contains(r.Reason, "had ended while it was held") {
		t.Errorf("%+v", r)
	}
}

func TestAnIntentCutOffByACrashIsUnknown(t *testing.T) {
	s := newSite(t)
	s.h.Close()
	hexKey, err := os.ReadFile(filepath.Join(s.dir, "audit.key"))
	if err != nil {
		t.Fatal(err)
	}
	key, err := hex.DecodeString(strings.TrimSpace(string(hexKey)))
	if err != nil {
		t.Fatal(err)
	}
	// What a crash between the intent and its outcome leaves.
	a, err := store.OpenAudit(filepath.Join(s.dir, "projects", demo.ID), audit.Ring{key}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Append(ctx, audit.Record{At: 1, What: audit.Intent, Name: "Tom Alder", Path: "Kiln1.DryBulbSP", New: "72",
		Key: "cut off"}); err != nil {
		t.Fatal(err)
	}
	a.Close()
	s.open()
	s.p, _ = s.h.Project(demo.ID)
	if r := s.trail()[0]; r.What != audit.Intent || r.Outcome != audit.Unknown ||
		!strings.Contains(r.Reason, "ended before the outcome was known") {
		t.Errorf("%+v", r)
	}
	if _, err := s.p.VerifyTrail(ctx, nil); err != nil {
		t.Error(err)
	}
}

func TestEditUndoAndAnotherPersonsWork(t *testing.T) {
	s := newSite(t)
	ada, iris := s.actors["ada"], s.actors["iris"]
	id, _ := s.p.Draft().FindPath("Kiln1.DryBulb")
	op := func(path, v string) []project.Op {
		return []project.Op{{Kind: project.KindTag, ID: id, Path: path, Value: json.RawMessage(v)}}
	}
	if _, err := s.p.Edit(ctx, ada, "unit", op("/unit", `"K"`)); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Edit(ctx, iris, "text", op("/description", `"warm"`)); err != nil {
		t.Fatal(err)
	}
	if label, err := s.p.Undo(ctx, ada); err != nil || label != "unit" {
		t.Errorf("%q, %v", label, err)
	}
	now, _ := s.p.Draft().Tag(id)
	if now.Unit != "°C" || now.Description != "warm" {
		t.Errorf("undo is per person: %q, %q", now.Unit, now.Description)
	}
	if label, err := s.p.Redo(ctx, ada); err != nil || label != "unit" {
		t.Errorf("%q, %v", label, err)
	}
	s.h.Close()
	s.open()
	s.p, _ = s.h.Project(demo.ID)
	if now, _ := s.p.Draft().Tag(id); now.Unit != "K" || now.Description != "warm" {
		t.Errorf("after a restart: %q, %q", now.Unit, now.Description)
	}
	if _, err := s.p.Undo(ctx, ada); err != nil {
		t.Errorf("undo after a restart: %v", err)
	}
}

func TestReleaseFreezesTheDraft(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	id, _ := s.p.Draft().FindPath("Kiln1.DryBulbSP")
	high := project.Op{Kind: project.KindTag, ID: id, Path: "/high", Value: json.RawMessage("60")}
	if _, err := s.p.Edit(ctx, ada, "limit", []project.Op{high}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Write(ctx, s.actors["tom"], s.cmd("s-chamber1", "Dry bulb set point", "70")); err != nil {
		t.Errorf("the draft's limit held at the Desk: %v", err)
	}
	info, err := s.p.Publish(ctx, ada, host.ReleaseOrder{Note: "lower limit"})
	if err != nil || info.Number != 2 {
		t.Fatalf("%+v, %v", info, err)
	}
	if _, err := s.p.Write(ctx, s.actors["tom"], s.cmd("s-chamber1", "Dry bulb set point", "71")); err == nil {
		t.Error("the released limit does not hold")
	}
	if s.show("Kiln1.DryBulb") == "bad" {
		t.Error("a release must not make good values bad")
	}
	if _, err := s.p.Edit(ctx, ada, "delete", []project.Op{{Kind: project.KindTag, ID: id}}); err == nil ||
		!strings.Contains(err.Error(), "comes of the type Chamber") {
		t.Errorf("a tag of equipment was deleted: %v", err)
	}
	id, _ = s.p.Draft().FindPath("Car.VelocitySP")
	if _, err := s.p.Edit(ctx, ada, "delete", []project.Op{{Kind: project.KindTag, ID: id}}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Publish(ctx, ada, host.ReleaseOrder{}); err == nil || !strings.Contains(err.Error(), "findings") {
		t.Errorf("a draft with errors was released: %v", err)
	}
}

func TestTwoProcessesOnOneFolder(t *testing.T) {
	dir := t.TempDir()
	h, err := host.Open(dir, quiet, host.Options{})
	if err != nil {
		t.Fatal(err)
	}
	defer h.Close()
	if _, err := host.Open(dir, quiet, host.Options{}); err == nil || !strings.Contains(err.Error(), "in use") {
		t.Errorf("%v", err)
	}
}

func TestFeedSendsASceneThenChanges(t *testing.T) {
	s := newSite(t)
	f, err := s.p.OpenFeed(run.Release, "s-chamber1", screen.View{}, s.actors["tom"], 0)
	if err != nil {
		t.Fatal(err)
	}
	v := f.View()
	defer s.p.CloseFeed(f)
	defer v.Close()
	<-v.Changed()
	scene, _, gone := v.Next()
	if gone || !strings.Contains(string(scene), `"name":"Chamber"`) {
		t.Fatalf("%v %.80s", gone, scene)
	}
	var frame struct {
		V [][]any `json:"v"`
	}
	s.until("a first frame", func() bool {
		_, b, _ := v.Next()
		return b != nil && json.Unmarshal(b, &frame) == nil && len(frame.V) > 20
	})
	if _, b, _ := v.Next(); len(b) > 2000 {
		t.Errorf("an up-to-date viewer got everything again: %d bytes", len(b))
	}
	if b := v.Beat(); !strings.Contains(string(b), `"v":[]`) {
		t.Errorf("beat %s", b)
	}
}
