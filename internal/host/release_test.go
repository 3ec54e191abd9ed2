package host_test

import (
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// releaseRule has the draft's site ask something before a release.
func (s *site) releaseRule(rule project.ReleaseRule) {
	s.t.Helper()
	doc, _ := json.Marshal(rule)
	s.change(project.Op{Kind: project.KindSite, ID: project.SiteID, Path: "/release", Value: doc})
}

func (s *site) change(ops ...project.Op) {
	s.t.Helper()
	if _, err := s.p.Edit(ctx, s.actors["ada"], "change", ops); err != nil {
		s.t.Fatal(err)
	}
}

// TestTwoPeopleRelease: nothing is released before both signed what both could see, and
// both stand in the release and in the trail. Who makes the rule milder still releases
// that under the rule that there is.
func TestTwoPeopleRelease(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	s.releaseRule(project.ReleaseRule{Note: true, Sign: access.SignBoth, Meaning: "looked at together"})
	var asks *host.Asks
	release := func(order host.ReleaseOrder) error {
		_, err := s.p.Publish(ctx, ada, order)
		return err
	}
	if err := release(host.ReleaseOrder{}); err == nil || !strings.Contains(err.Error(), "without a note") {
		t.Errorf("without a note: %v", err)
	}
	if err := release(host.ReleaseOrder{Note: "winter"}); !errors.As(err, &asks) || asks.Sign != access.SignBoth || !asks.Name {
		t.Fatalf("%+v %v", asks, err)
	}
	own, second := host.Signature{Name: "ada", Secret: "larch-and-spruce"}, host.Signature{Name: "iris", Secret: "elm-and-yew"}
	signed := func(list ...host.Signature) host.ReleaseOrder {
		return host.ReleaseOrder{Note: "winter", Given: host.Given{Answered: true, Signatures: list}}
	}
	for want, order := range map[string]host.ReleaseOrder{
		"your signature":               signed(),
		"signature of a second person": signed(own),
		"do not match":                 signed(own, host.Signature{Name: "iris", Secret: "guess"}),
		"not you":                      signed(own, own),
		"right":                        signed(own, second), // iris may not release
	} {
		if err := release(order); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	if n := s.p.ReleaseInfo().Number; n != 1 {
		t.Fatalf("release %d was made", n)
	}
	if err := s.p.SetGrants(ctx, ada, s.actors["iris"].ID, []access.Grant{{Role: "r-engineer"}}); err != nil {
		t.Fatal(err)
	}
	late := signed(own, second)
	late.Seen = s.p.Revision() + 1
	if err := release(late); err == nil || !strings.Contains(err.Error(), "changed meanwhile") {
		t.Errorf("what was not seen was signed: %v", err)
	}
	if err := release(signed(own, second)); err != nil {
		t.Fatal(err)
	}
	want := "Ada Birch, Iris Rowan: looked at together"
	if info := s.p.ReleaseInfo(); info.Number != 2 || info.Signed != want {
		t.Errorf("%+v", info)
	}
	if !slices.ContainsFunc(s.trail(), func(r audit.Record) bool { return r.What == audit.Release && r.New == "2" && r.Sign == want }) {
		t.Error("the trail does not have who signed")
	}

	s.releaseRule(project.ReleaseRule{})
	if err := release(host.ReleaseOrder{Note: "milder"}); !errors.As(err, &asks) {
		t.Errorf("a milder rule was released under itself: %v", err)
	}
}

// TestWhatStandsInTheWay: the site says which findings stop a release, and whether
// everything is proved before.
func TestWhatStandsInTheWay(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	open, err := s.p.BeforeRelease(ctx)
	if err != nil || open.Findings.Errors != 0 || open.Findings.Warnings+open.Findings.Notes == 0 || open.InTheWay != 0 ||
		open.Points.Open != open.Points.All || open.Points.All == 0 || open.Elements.All == 0 || open.Things != 0 {
		t.Fatalf("%+v %v", open, err)
	}
	refused := func(want string) {
		t.Helper()
		if _, err := s.p.Publish(ctx, ada, host.ReleaseOrder{}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v; want %s", err, want)
		}
	}
	s.releaseRule(project.ReleaseRule{Stops: project.Note})
	if open, err = s.p.BeforeRelease(ctx); err != nil || open.InTheWay != open.Findings.Warnings+open.Findings.Notes || open.Things != 1 {
		t.Errorf("%+v %v", open, err)
	}
	refused("findings stand in the way")
	s.releaseRule(project.ReleaseRule{Proved: true})
	refused("are not proved")
	if err := s.p.Prove(ctx, ada, []string{s.id("Kiln1.DryBulbSP")}, host.Passed, "seen"); err != nil {
		t.Fatal(err)
	}
	if open, err = s.p.BeforeRelease(ctx); err != nil || open.Points.Open != open.Points.All-1 || open.Elements.Open == 0 || !open.Proved {
		t.Errorf("%+v %v", open, err)
	}
	if _, err := s.p.Edit(ctx, ada, "no rule", []project.Op{{Kind: project.KindSite, ID: project.SiteID, Path: "/release",
		Value: []byte(`{"stops":"sometimes"}`)}}); err == nil {
		t.Error("a rule that cannot be was taken")
	}
}

// TestAReleaseLetsGoWhatItChanges: what is held by a button that it changes is let go, and
// that is said; what it does not touch goes on.
func TestAReleaseLetsGoWhatItChanges(t *testing.T) {
	s := newSite(t)
	ada, tom := s.actors["ada"], s.actors["tom"]
	key, err := s.hold(tom, s.cmd("s-car", "Hold to go forward", ""))
	if err != nil {
		t.Fatal(err)
	}
	renew := func() error { return s.p.Renew(tom, key) }
	ended := make(chan error, 1)
	go func() { // a page renews what is held at it, until that is over
		for {
			if err := renew(); err != nil {
				ended <- err
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
	}()
	s.change(project.Op{Kind: project.KindScreen, ID: "s-yard", Path: "/title", Value: []byte(`"Another title"`)})
	made, err := s.p.Publish(ctx, ada, host.ReleaseOrder{})
	if err != nil || len(made.Ended) != 0 {
		t.Fatalf("%+v %v", made, err)
	}
	select {
	case err := <-ended:
		t.Fatalf("a release that does not touch it ended it: %v", err)
	default:
	}
	id := s.id("Car.JogForward")
	s.change(project.Op{Kind: project.KindTag, ID: id, Path: "/description", Value: []byte(`"the other way"`)},
		project.Op{Kind: project.KindTag, ID: id, Path: "/address", Value: []byte(`"coil:1"`)})
	made, err = s.p.Publish(ctx, ada, host.ReleaseOrder{})
	if err != nil || !slices.Equal(made.Ended, []string{"Car.JogForward (Tom Alder)"}) {
		t.Fatalf("%+v %v", made, err)
	}
	<-ended
	s.until("it is let go", func() bool { return s.show("Car.JogForward") == "off" })
	s.until("the trail says why", func() bool {
		return slices.ContainsFunc(s.trail(), func(r audit.Record) bool {
			return strings.Contains(r.Reason, "a new release changed what this does")
		})
	})
}

// TestReturnToARelease: an earlier release runs again, the draft stays, and a hold that
// it doesn't touch goes on.
func TestReturnToARelease(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	s.change(project.Op{Kind: project.KindTag, ID: "t-new", Value: []byte(`{"name":"New","type":"REAL","source":"internal"}`)},
		project.Op{Kind: project.KindScreen, ID: "s-yard", Path: "/title", Value: []byte(`"Another title"`)})
	made, err := s.p.Publish(ctx, ada, host.ReleaseOrder{Note: "two"})
	if err != nil || made.Number != 2 || made.Made != 1 || made.Gone != 0 || made.Changed != 2 || len(made.Devices) != 0 {
		t.Fatalf("%+v %v", made, err)
	}
	draft, revision := s.p.Draft(), s.p.Revision()
	for _, number := range []int64{0, 2, 7, -1} {
		if _, err := s.p.Return(ctx, ada, number, host.ReleaseOrder{}); err == nil {
			t.Errorf("returned to %d", number)
		}
	}
	if _, err := s.p.Return(ctx, s.actors["tom"], 1, host.ReleaseOrder{}); err == nil {
		t.Error("an operator returned to a release")
	}
	made, err = s.p.Return(ctx, ada, 1, host.ReleaseOrder{Note: "two was wrong"})
	if err != nil || made.Number != 3 || made.Again != 1 || made.Made != 0 || made.Gone != 1 {
		t.Fatalf("%+v %v", made, err)
	}
	if s.p.Released().Tags["t-new"] != nil || s.p.Released().Screens["s-yard"].Title == "Another title" {
		t.Error("what runs is not the first release")
	}
	if s.p.Draft() != draft || s.p.Revision() != revision {
		t.Error("the draft was touched")
	}
	if got := s.p.ReadTags(run.Release, []string{s.id("Kiln1.DryBulbSP")}); !got[0].Known {
		t.Error("what runs reads nothing")
	}
	list, err := s.p.Releases(ctx)
	if err != nil || len(list) != 3 || list[0].Again != 1 || list[0].Hash != list[2].Hash || list[0].Note != "two was wrong" {
		t.Errorf("%+v %v", list, err)
	}
	if !slices.ContainsFunc(s.trail(), func(r audit.Record) bool { return r.What == audit.Release && r.New == "3, which is 1 again" }) {
		t.Error("the trail does not say what release 3 is")
	}
}
