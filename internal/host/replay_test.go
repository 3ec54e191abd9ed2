package host_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
)

// TestAScreenAsItStood: a chamber's screen has the values of then, each step
// leads to another of its changes, and rights hold as at the Desk.
func TestAScreenAsItStood(t *testing.T) {
	s := newSiteWith(t, furnished{past: true})
	tom := s.actors["tom"]
	then := time.Now().AddDate(0, 0, -3)
	chamber := host.Replayed{Screen: "s-chamber1", View: screen.View{Args: screen.Args{"k": s.id("Kiln2")}}}
	frame, err := s.p.Replay(ctx, tom, chamber, then, true)
	if err != nil {
		t.Fatal(err)
	}
	// What the recorder says of the dry bulb is what stands on the screen.
	between, err := s.p.Between(ctx, tom, []string{s.id("Kiln2.DryBulb")}, host.Period{From: then, To: then.Add(time.Second)})
	if err != nil || between[0].A == "" {
		t.Fatal(between, err)
	}
	found := false
	for _, v := range frame.Values {
		var cell []json.RawMessage
		if err := json.Unmarshal(v, &cell); err != nil || len(cell) < 2 {
			t.Fatalf("%s %v", v, err)
		}
		found = found || strings.HasPrefix(string(cell[1]), `"`+between[0].A)
	}
	if !found || frame.Scene.Title != "Drying chamber Kiln2" {
		t.Errorf("%s with no %s on it", frame.Scene.Title, between[0].A)
	}
	again, err := s.p.Replay(ctx, tom, chamber, then, false)
	if err != nil || again.Scene != nil || len(again.Values) != len(frame.Values) {
		t.Errorf("values alone: %v", err)
	}

	at := then
	for range 5 {
		next, err := s.p.ReplayStep(ctx, tom, chamber, at, false)
		if err != nil || !next.Before(at) {
			t.Fatalf("before %v comes %v: %v", at, next, err)
		}
		at = next
	}
	for range 4 {
		next, err := s.p.ReplayStep(ctx, tom, chamber, at, true)
		if err != nil || !next.After(at) {
			t.Fatalf("after %v comes %v: %v", at, next, err)
		}
		at = next
	}
	if !at.Before(then) {
		t.Errorf("five steps back and four forth lead to %v, beyond %v", at, then)
	}
	if _, err := s.p.Replay(ctx, tom, host.Replayed{Screen: "s-nothing"}, then, true); err == nil {
		t.Error("a screen that there is not is played")
	}
	nowhere := host.Replayed{Screen: "s-chamber1", View: screen.View{Args: screen.Args{"k": "nothing"}}}
	if _, err := s.p.Replay(ctx, tom, nowhere, then, true); err == nil {
		t.Error("a chamber that there is not is played")
	}

	// As it is in the draft it is played by those who may look at that.
	if _, err := s.p.Edit(ctx, s.actors["ada"], "a title", []project.Op{{Kind: project.KindScreen, ID: "s-chamber1", Path: "/title",
		Value: json.RawMessage(`"Chamber, drawn anew"`)}}); err != nil {
		t.Fatal(err)
	}
	drawn := chamber
	drawn.Draft = true
	if _, err := s.p.Replay(ctx, tom, drawn, then, true); err == nil {
		t.Error("an operator plays the draft")
	}
	if frame, err := s.p.Replay(ctx, s.actors["ada"], drawn, then, true); err != nil || frame.Scene.Title != "Chamber, drawn anew" {
		t.Errorf("%+v %v", frame, err)
	}
	if frame, err := s.p.Replay(ctx, s.actors["ada"], chamber, then, true); err != nil || frame.Scene.Title != "Drying chamber Kiln2" {
		t.Errorf("%+v %v", frame, err)
	}
}
