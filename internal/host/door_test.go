package host_test

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/demo"
	"readyrail/internal/door"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// edit changes the draft as Ada and makes a release of it.
func (s *site) edit(ops ...project.Op) {
	s.t.Helper()
	if _, err := s.p.Edit(ctx, s.actors["ada"], "x", ops); err != nil {
		s.t.Fatal(err)
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{}); err != nil {
		s.t.Fatal(err)
	}
}

func held(tag string) screen.Element {
	return screen.Element{Kind: "button", Name: "Horn", W: 100, H: 60, Props: map[string]any{"action": "hold", "tag": tag}}
}

// What is held at an internal tag does not come back with a restart, though the
// tag is retained.
func TestAHeldInternalTagIsLetGoAtTheNextStart(t *testing.T) {
	s := newSite(t)
	s.edit(project.Op{Kind: project.KindTag, ID: "horn",
		Value: json.RawMessage(`{"name":"Horn","type":"BOOL","source":"internal","retain":true,"initial":"false"}`)})
	s.release(map[string]screen.Element{"horn": held("horn")})
	if _, err := s.hold(s.actors["tom"], press("horn", "")); err != nil {
		t.Fatal(err)
	}
	if s.show("Horn") != "on" {
		t.Fatalf("it is %s while it is held", s.show("Horn"))
	}
	dir := s.crash()
	s.h.Close()
	h, err := host.Open(dir, quiet, host.Options{})
	if err != nil {
		t.Fatal(err)
	}
	s.h = h
	s.p, _ = h.Project(demo.ID)
	if s.show("Horn") != "off" {
		t.Errorf("it is %s after the start", s.show("Horn"))
	}
	if r := s.trail()[0]; r.What != audit.Lease || r.Outcome != audit.Confirmed || r.Path != "Horn" {
		t.Errorf("%+v", r)
	}
}

func TestAHeldStandInIsLetGo(t *testing.T) {
	s := newSite(t)
	s.edit(project.Op{Kind: project.KindDevice, ID: "d-stand",
		Value: json.RawMessage(`{"name":"Stand","protocol":"` + device.StandIn + `","poll":250,"timeout":500}`)},
		project.Op{Kind: project.KindTag, ID: "horn",
			Value: json.RawMessage(`{"name":"Horn","type":"BOOL","source":"device","device":"d-stand","address":"coil:1","access":"readwrite","behaviour":{"kind":"hold"}}`)})
	s.release(map[string]screen.Element{"horn": held("horn")})
	s.until("a value", func() bool { return s.show("Horn") == "off" })
	key, err := s.hold(s.actors["tom"], press("horn", ""))
	if err != nil {
		t.Fatal(err)
	}
	s.until("it is on", func() bool { return s.show("Horn") == "on" })
	s.p.LetGo(s.actors["tom"], key, errors.New("let go"))
	s.until("it is off", func() bool { return s.show("Horn") == "off" })
}

// A release that does not change what is held leaves it alone; one that does
// ends it.
func TestAHoldOverARelease(t *testing.T) {
	s := newSite(t)
	tom := s.actors["tom"]
	key, err := s.hold(tom, s.cmd("s-car", "Hold to go forward", ""))
	if err != nil {
		t.Fatal(err)
	}
	renewing, stop := context.WithCancel(ctx)
	defer stop()
	go func() {
		for renewing.Err() == nil {
			s.p.Renew(tom, key)
			time.Sleep(door.RenewEvery)
		}
	}()
	s.edit(project.Op{Kind: project.KindSite, ID: "site", Path: "/name", Value: json.RawMessage(`"Larchmoor two"`)})
	time.Sleep(300 * time.Millisecond)
	if err := s.p.Renew(tom, key); err != nil {
		t.Fatalf("it ended with a release that has nothing to do with it: %v", err)
	}
	button := s.cmd("s-car", "Hold to go forward", "").Element
	s.edit(project.Op{Kind: project.KindScreen, ID: "s-car", Path: "/elements/" + button + "/props/tag",
		Value: json.RawMessage(`"` + s.id("Car.JogBack") + `"`)},
		project.Op{Kind: project.KindScreen, ID: "s-car", Path: "/elements/" + button + "/props/excludes", Value: json.RawMessage(`""`)})
	s.until("it is let go", func() bool { return s.show("Car.JogForward") == "off" })
	if err := s.p.Renew(tom, key); err == nil {
		t.Error("it goes on though the release changed what it does")
	}
}

// The opposite is refused by what its tag says too, whoever set it.
func TestWhatExcludesIsAskedOfTheTag(t *testing.T) {
	s := newSite(t)
	bits := []bool{true}
	s.plant.WriteBits(2, 1, bits)
	s.until("it jogs back", func() bool { return s.show("Car.JogBack") == "on" })
	if _, err := s.hold(s.actors["tom"], s.cmd("s-car", "Hold to go forward", "")); err == nil || !strings.Contains(err.Error(),
		"Car.JogBack is on, which excludes this") {
		t.Errorf("%v", err)
	}
}

// Nothing is dropped, adopted or released where something refuses the release.
func TestARefusedReleaseChangesNothing(t *testing.T) {
	s := newSite(t)
	ada, iris := s.actors["ada"], s.actors["iris"]
	alarm := ""
	for id, a := range s.p.Released().Alarms {
		if _, ok := project.AdjustableLimit(a); ok {
			alarm = id
			break
		}
	}
	if alarm == "" {
		t.Skip("the demo has no alarm whose limit may be changed")
	}
	was := s.p.Draft().Alarms[alarm].Limit
	limit := 71.5
	for _, try := range []float64{71.5, 80, 20, 15} {
		limit = try
		if s.p.SetAlarmLimit(ctx, iris, alarm, limited(&limit, "wet timber")) == nil {
			break
		}
	}
	before := len(s.p.ChangedLimits())
	if before != 1 {
		t.Fatalf("%d limits are changed", before)
	}
	number := s.p.ReleaseInfo().Number
	for name, note := range map[string]string{"a long note": strings.Repeat("x", 2000)} {
		for _, choice := range []host.LimitChoice{host.DiscardLimit, host.AdoptLimit} {
			if _, err := s.p.Publish(ctx, ada, host.ReleaseOrder{Note: note, Limits: map[string]host.LimitChoice{alarm: choice}}); err == nil {
				t.Fatalf("%s was taken", name)
			}
		}
	}
	if _, err := s.p.Publish(ctx, ada, host.ReleaseOrder{}); err == nil {
		t.Error("a limit was passed over without an answer")
	}
	if n := len(s.p.ChangedLimits()); n != before || s.p.Draft().Alarms[alarm].Limit != was || s.p.ReleaseInfo().Number != number {
		t.Errorf("%d limits, draft %s, release %d", n, s.p.Draft().Alarms[alarm].Limit, s.p.ReleaseInfo().Number)
	}
	if _, err := s.p.Publish(ctx, ada, host.ReleaseOrder{Limits: map[string]host.LimitChoice{alarm: host.AdoptLimit}}); err != nil {
		t.Fatal(err)
	}
	if n := len(s.p.ChangedLimits()); n != 0 || s.p.Draft().Alarms[alarm].Limit == was || s.p.ReleaseInfo().Number != number+1 {
		t.Errorf("after it was adopted: %d limits, draft %s", n, s.p.Draft().Alarms[alarm].Limit)
	}
}

// Whoever watches Try while it is started and stopped gets a refusal or no
// value, and the program goes on.
func TestWatchingTryWhileItStops(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	stop := make(chan struct{})
	done := make(chan struct{})
	go func() {
		defer close(done)
		for {
			select {
			case <-stop:
				return
			default:
			}
			if w := s.p.WatchTags(run.Try, []string{"t-001"}); w != nil {
				w.Refresh(nil)
				w.Close()
			}
			if f, err := s.p.OpenFeed(run.Try, "s-car", screen.View{}, ada, 0); err == nil {
				s.p.CloseFeed(f)
			}
			s.p.ReadTags(run.Try, []string{"t-001"})
		}
	}()
	for range 6 {
		if err := s.p.StartTry(ctx, ada, nil); err != nil {
			t.Fatal(err)
		}
		time.Sleep(20 * time.Millisecond)
		if err := s.p.StopTry(ctx, ada); err != nil {
			t.Fatal(err)
		}
	}
	close(stop)
	<-done
}

// The server's end waits for no controller.
func TestTheEndWaitsForNoController(t *testing.T) {
	s := newSite(t)
	if _, err := s.hold(s.actors["tom"], s.cmd("s-car", "Hold to go forward", "")); err != nil {
		t.Fatal(err)
	}
	s.stop()
	s.until("the link is lost", func() bool { return s.show("Car.Position") == "bad" })
	from := time.Now()
	s.h.Close()
	if took := time.Since(from); took > 6*time.Second {
		t.Errorf("it took %v", took)
	}
	s.startPlant(s.addr.String())
	s.open()
	s.p, _ = s.h.Project(demo.ID)
	s.until("what was held is let go at the next start", func() bool {
		for _, r := range s.trail() {
			if r.What == audit.Lease && r.Outcome == audit.Confirmed && strings.Contains(r.Reason, "had ended while it was held") {
				return true
			}
		}
		return false
	})
}

func TestAKeyIsTakenOnceEverywhere(t *testing.T) {
	s := newSite(t)
	c := s.cmd("s-chamber1", "Dry bulb set point", "64")
	if _, err := s.p.Write(ctx, s.actors["tom"], c); err != nil {
		t.Fatal(err)
	}
	c.Value = "65"
	var refused *host.Refused
	if _, err := s.p.Write(ctx, s.actors["tom"], c); !errors.As(err, &refused) || !strings.Contains(err.Error(), "taken already") {
		t.Errorf("%v", err)
	}
}
