package host_test

import (
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
)

// controlled has the release ask for one place in control of the kilns, or not.
func (s *site) controlled(on bool) {
	s.t.Helper()
	areas := slices.Clone(s.p.Draft().Site().Areas)
	areas[0].Control = on
	doc, _ := json.Marshal(areas)
	s.edit(project.Op{Kind: project.KindSite, ID: project.SiteID, Path: "/areas", Value: doc})
}

// from is somebody at another place.
func (s *site) from(name, panel string) host.Actor {
	a := s.actors[name]
	a.Panel = panel
	return a
}

func (s *site) control(who host.Actor) host.AreaControl {
	s.t.Helper()
	list, err := s.p.Controls(ctx, who)
	if err != nil || len(list) != 1 {
		s.t.Fatalf("%+v %v", list, err)
	}
	return list[0]
}

// TestOnePlaceInControl: entries, holds, recipes and held tags of an area under
// control are refused but from the place that has it; it is taken, asked for, kept,
// handed over, given up and taken away, and outlives a restart and a change of person.
func TestOnePlaceInControl(t *testing.T) {
	s := newSite(t)
	tom, iris, sam := s.from("tom", "Kiln house"), s.from("iris", "Gate"), s.actors["sam"]
	if list, _ := s.p.Controls(ctx, tom); len(list) != 0 {
		t.Fatalf("%+v", list)
	}
	larch := s.recipe("Larch 50")
	s.edit(project.Op{Kind: project.KindTag, ID: "horn",
		Value: []byte(`{"name":"Horn","type":"BOOL","source":"internal","area":"a-kilns"}`)})
	s.release(map[string]screen.Element{"horn": held("horn"),
		"halt": {Kind: "button", Name: "Halt", W: 100, H: 60,
			Props: map[string]any{"action": "set", "tag": "horn", "value": "false", "stop": true}}})
	s.controlled(true)
	defer s.p.Attend(tom)()
	leave := s.p.Attend(iris)
	order := func(who host.Actor, do string, ask int64, reason string) error {
		return s.p.OrderControl(ctx, who, "a-kilns", host.ControlOrder{Do: do, Ask: ask, Reason: reason})
	}
	says := func(err error, want string) {
		t.Helper()
		if err == nil && want != "" || err != nil && (want == "" || !strings.Contains(err.Error(), want)) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	write := func(who host.Actor) error {
		_, err := s.p.Write(ctx, who, s.cmd("s-chamber1", "Dry bulb set point", "61"))
		return err
	}
	// Nobody has it yet: what would act is refused, but for a stop.
	nobody := "nobody has control of Kilns"
	says(write(tom), nobody)
	_, err := s.hold(tom, press("horn", ""))
	says(err, nobody)
	_, err = s.sent("tom", larch.ID, 1, s.target("Kiln1"), "k-nobody")
	says(err, nobody)
	says(s.p.HoldTag(ctx, s.actors["ada"], "horn", holdAt("true", "test", 1)), nobody)
	_, err = s.p.Write(ctx, tom, press("halt", ""))
	says(err, "")
	says(order(sam, "take", 0, ""), "the right to enter values")
	says(order(tom, "leave", 0, ""), "no control")
	says(order(tom, "ask", 0, ""), "is free")
	if err := s.p.OrderControl(ctx, tom, "a-k1", host.ControlOrder{Do: "take"}); !errors.Is(err, host.ErrNotFound) {
		t.Error("an area that lies in one under control is taken by itself: ", err)
	}

	// Many at once take it: one has it.
	var took atomic.Int64
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if order(tom, "take", 0, "") == nil {
				took.Add(1)
			}
		})
	}
	all.Wait()
	if took.Load() != 1 {
		t.Errorf("taken %d times", took.Load())
	}
	says(write(tom), "")
	says(write(s.from("ada", "Kiln house")), "") // somebody else at the place
	says(write(s.from("tom", "Gate")), "Tom Alder (Kiln house) has control of Kilns")
	says(order(iris, "take", 0, ""), "ask for it")
	says(order(iris, "give", 1, ""), "no control")

	// Asked for, kept, asked for again, handed over: what is held there ends.
	key, err := s.hold(tom, press("horn", ""))
	says(err, "")
	says(order(iris, "ask", 0, ""), "")
	says(order(s.from("ada", "Office"), "ask", 0, ""), "Iris Rowan (Gate) asks for Kilns already")
	first := s.control(tom).Asks
	if first == nil || first.Name != "Iris Rowan" || first.Mine || !s.control(iris).Asks.Mine {
		t.Fatalf("%+v", first)
	}
	says(order(tom, "keep", first.Number, ""), "")
	if s.control(tom).Asks != nil {
		t.Error("an answered asking goes on")
	}
	says(order(iris, "ask", 0, ""), "")
	says(order(tom, "give", first.Number, ""), "look again")
	says(order(tom, "give", s.control(tom).Asks.Number, ""), "")
	s.until("what is held there has ended", func() bool { return s.p.Renew(tom, key) != nil && s.show("Horn") == "off" })
	says(write(tom), "Iris Rowan (Gate) has control of Kilns")
	says(write(iris), "")

	// Taken away by right, with a reason; and the place that is left is free to take.
	says(order(tom, "away", 0, "x"), "take control of an area away")
	ada := s.from("ada", "Office")
	says(order(ada, "away", 0, " "), "needs a reason")
	says(order(ada, "away", 0, "Gate is on fire"), "")
	if r := s.trail()[0]; r.What != audit.Control || r.Name != "Ada Birch" || r.Path != "Kilns" || r.Old != "Iris Rowan (Gate)" ||
		r.New != "Ada Birch (Office)" || r.Reason != "Gate is on fire" {
		t.Errorf("%+v", r)
	}
	leave()
	says(order(ada, "leave", 0, ""), "")
	says(write(ada), nobody)
	says(order(ada, "take", 0, ""), "")

	// It outlives the server; a release without control ends it, for good.
	s.reopen()
	if c := s.control(ada); c.Holder == nil || !c.Holder.Mine || c.Holder.Panel != "Office" {
		t.Errorf("%+v", c.Holder)
	}
	says(write(tom), "Ada Birch (Office) has control")
	s.controlled(false)
	says(write(tom), "")
	s.controlled(true)
	if c := s.control(ada); c.Holder != nil {
		t.Errorf("%+v", c.Holder)
	}
}
