package host_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/screen"
	"readyrail/internal/host"
)

// TestAScreenAsItStood: a chamber's screen has the values of then, each step
// leads to another of its changes, and rights hold as at the Desk.
func TestAScreenAsItStood(t *testing.T) {
	s := newSiteWith(t, furnished{past: true})
	tom := s.actors["tom"]
	then := time.Now().AddDate(0, 0, -3)
	view := screen.View{Args: screen.Args{"k": s.id("Kiln2")}}
	frame, err := s.p.Replay(ctx, tom, "s-chamber1", view, then, true)
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
	again, err := s.p.Replay(ctx, tom, "s-chamber1", view, then, false)
	if err != nil || again.Scene != nil || len(again.Values) != len(frame.Values) {
		t.Errorf("values alone: %v", err)
	}

	at := then
	for range 5 {
		next, err := s.p.ReplayStep(ctx, tom, "s-chamber1", view, at, false)
		if err != nil || !next.Before(at) {
			t.Fatalf("before %v comes %v: %v", at, next, err)
		}
		at = next
	}
	for range 4 {
		next, err := s.p.ReplayStep(ctx, tom, "s-chamber1", view, at, true)
		if err != nil || !next.After(at) {
			t.Fatalf("after %v comes %v: %v", at, next, err)
		}
		at = next
	}
	if !at.Before(then) {
		t.Errorf("five steps back and four forth lead to %v, beyond %v", at, then)
	}
	if _, err := s.p.Replay(ctx, tom, "s-nothing", view, then, true); err == nil {
		t.Error("a screen that there is not is played")
	}
	if _, err := s.p.Replay(ctx, tom, "s-chamber1", screen.View{Args: screen.Args{"k": "nothing"}}, then, true); err == nil {
		t.Error("a chamber that there is not is played")
	}
}
