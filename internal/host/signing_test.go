package host_test

import (
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
)

// rules replaces the rules of the yard, and releases that.
func (s *site) rules(list ...access.Rule) {
	s.t.Helper()
	var ops []project.Op
	for id := range s.p.Draft().Rules {
		ops = append(ops, project.Op{Kind: project.KindRule, ID: id})
	}
	for _, r := range list {
		doc, _ := json.Marshal(r)
		ops = append(ops, project.Op{Kind: project.KindRule, ID: r.ID, Value: doc})
	}
	if _, err := s.p.Edit(ctx, s.actors["ada"], "rules", ops); err != nil {
		s.t.Fatal(err)
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{Note: "rules"}); err != nil {
		s.t.Fatal(err)
	}
}

// TestRulesAskAtTheDoor: what a rule asks is told before anything is sent, and
// nothing goes out without it; whoever else signs, gives another reason, or leaves
// something out is refused, and each signature stands in the trail.
func TestRulesAskAtTheDoor(t *testing.T) {
	s := newSite(t)
	sp := s.id("Kiln1.DryBulbSP")
	reasons := []string{"The position was lost", "A test"}
	s.rules(
		access.Rule{ID: "q-op", Name: "Set points", Tag: sp, Role: "r-operator", Reason: access.ReasonRequired, Reasons: reasons},
		access.Rule{ID: "q-lead", Name: "Set points of the lead", Tag: sp, Role: "r-lead", Sign: access.SignBoth, By: "r-engineer",
			Meaning: "seen at the chamber"},
	)
	write := func(who, value string, given host.Given) (host.Outcome, error) {
		c := s.cmd("s-chamber1", "Dry bulb set point", value)
		c.Given = given
		return s.p.Write(ctx, s.actors[who], c)
	}
	records := len(s.trail())
	var asks *host.Asks
	if _, err := write("tom", "66", host.Given{}); !errors.As(err, &asks) || asks.Reason != access.ReasonRequired ||
		!slices.Equal(asks.Reasons, reasons) || asks.Sign != "" {
		t.Fatalf("%+v %v", asks, err)
	}
	if n := len(s.trail()); n != records {
		t.Errorf("asking wrote %d records", n-records)
	}
	german := s.cmd("s-chamber1", "Dry bulb set point", "66")
	german.Language = "de"
	if _, err := s.p.Write(ctx, s.actors["tom"], german); !errors.As(err, &asks) || asks.Reasons[0] != "Die Position ging verloren" {
		t.Errorf("in German: %+v %v", asks, err)
	}
	german.Reason, german.Key = asks.Reasons[0], german.Key+"-de"
	if out, err := s.p.Write(ctx, s.actors["tom"], german); err != nil || out.Outcome != audit.Confirmed {
		t.Errorf("a German reason: %+v %v", out, err)
	}
	refused := func(want, who string, given host.Given) {
		t.Helper()
		given.Answered = true
		if _, err := write(who, "67", given); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v; want %s", who, err, want)
		}
	}
	refused("asks for a reason", "tom", host.Given{})
	refused("takes one of its own reasons: The position was lost; A test", "tom", host.Given{Reason: "because"})
	if out, err := write("tom", "66", host.Given{Reason: "A test"}); err != nil || out.Outcome != audit.Confirmed {
		t.Fatalf("%+v %v", out, err)
	}

	if _, err := write("iris", "67", host.Given{}); !errors.As(err, &asks) || asks.Sign != access.SignBoth || !asks.Name ||
		!slices.Equal(asks.RoleNames, []string{"Engineer"}) || !slices.Equal(asks.Meanings, []string{"seen at the chamber"}) {
		t.Fatalf("%+v %v", asks, err)
	}
	iris, ada := host.Signature{Name: "iris", Secret: "elm-and-yew"}, host.Signature{Name: "ada", Secret: "larch-and-spruce"}
	sign := func(list ...host.Signature) host.Given { return host.Given{Signatures: list} }
	refused("your signature", "iris", sign())
	refused("takes your name too", "iris", sign(host.Signature{Secret: iris.Secret}, ada))
	refused("do not match", "iris", sign(host.Signature{Name: "iris", Secret: "guess"}, ada))
	refused("signature of a second person", "iris", sign(iris))
	refused("do not match", "iris", sign(iris, host.Signature{Name: "ada", Secret: "guess"}))
	refused("not you", "iris", sign(iris, iris))
	refused("right to enter values", "iris", sign(iris, host.Signature{Name: "sam", Secret: "pine-and-fir"}))
	refused("second signature takes the role Engineer, and Tom Alder has no such role", "iris",
		sign(iris, host.Signature{Name: "tom", Secret: "oak-and-ash"}))
	if s.show("Kiln1.DryBulbSP") != "66.0" {
		t.Errorf("something was sent: %s", s.show("Kiln1.DryBulbSP"))
	}
	if out, err := write("iris", "68", sign(iris, ada)); err != nil || out.Outcome != audit.Confirmed {
		t.Fatalf("%+v %v", out, err)
	}
	signed := slices.ContainsFunc(s.trail(), func(r audit.Record) bool {
		return r.What == audit.Intent && strings.HasPrefix(r.New, "68.0") && r.Sign == "Iris Rowan, Ada Birch: seen at the chamber"
	})
	if !signed {
		t.Errorf("the signatures are not in the trail: %+v", s.trail()[:3])
	}
}

// TestARuleCapturesValues of other tags into the record, sealed with it, and asks nobody
// for that.
func TestARuleCapturesValues(t *testing.T) {
	s := newSite(t)
	s.rules(access.Rule{ID: "q-seen", Name: "What was the case", Tag: s.id("Kiln1.DryBulbSP"),
		Capture: []string{s.id("Kiln1.DryBulb"), s.id("Kiln1.WetBulb")}})
	dry := s.show("Kiln1.DryBulb")
	if out, err := s.p.Write(ctx, s.actors["tom"], s.cmd("s-chamber1", "Dry bulb set point", "66")); err != nil ||
		out.Outcome != audit.Confirmed {
		t.Fatalf("%+v %v", out, err)
	}
	at := slices.IndexFunc(s.trail(), func(r audit.Record) bool { return r.What == audit.Intent })
	r := s.trail()[at]
	if !strings.HasPrefix(r.Captured, "Kiln1.DryBulb = ") || !strings.Contains(r.Captured, "; Kiln1.WetBulb = ") ||
		!strings.Contains(r.Captured, "°C") {
		t.Errorf("captured %q beside %q", r.Captured, dry)
	}
	if _, err := s.p.VerifyTrail(ctx, nil); err != nil {
		t.Error(err)
	}
}

// TestASecondSignatureTakesTheSecretAlone: within uninterrupted work of one
// session; another session of the same person begins anew.
func TestASecondSignatureTakesTheSecretAlone(t *testing.T) {
	s := newSite(t)
	s.rules(access.Rule{ID: "q-own", Name: "Set points", Tag: s.id("Kiln1.DryBulbSP"), Sign: access.SignOwn})
	tom, other := s.actors["tom"], s.actors["tom"]
	tom.Session, other.Session = "one", "two"
	write := func(who host.Actor, value, name string) error {
		c := s.cmd("s-chamber1", "Dry bulb set point", value)
		c.Signatures = []host.Signature{{Name: name, Secret: "oak-and-ash"}}
		_, err := s.p.Write(ctx, who, c)
		return err
	}
	if err := write(tom, "66", ""); err == nil {
		t.Error("the first signature took no name")
	}
	if err := write(tom, "66", "tom"); err != nil {
		t.Fatal(err)
	}
	if err := write(tom, "67", ""); err != nil {
		t.Errorf("the second one: %v", err)
	}
	if err := write(other, "68", ""); err == nil || !strings.Contains(err.Error(), "your name too") {
		t.Errorf("another session: %v", err)
	}
}

// TestRulesAskBeyondWrites: what a rule asks before a limit is changed, an alarm
// set aside, a tag held or a recipe approved; nothing is done without it, and who
// signed stands in the trail. Acknowledging asks nobody anything.
func TestRulesAskBeyondWrites(t *testing.T) {
	s := newSite(t)
	s.alarmOn(`,"shelveMinutes":60,"atDesk":true`)
	s.rules(access.Rule{ID: "q-all", Name: "Everything", Sign: access.SignSecond, By: "r-engineer", Meaning: "seen"},
		access.Rule{ID: "q-limit", Name: "Limits", Does: access.DoesLimit, Reason: access.ReasonRequired, Reasons: []string{"wet timber", "a test"}})
	iris, tom := s.actors["iris"], s.actors["tom"]
	ada := host.Signature{Name: "ada", Secret: "larch-and-spruce"}
	signed := host.Given{Answered: true, Reason: "a test", Signatures: []host.Signature{ada}}
	larch := s.recipe("Larch 50")
	values := s.values(larch.ID)
	values["f12"] = "63.5"
	altered := []host.RecipeDraft{{Recipe: larch.ID, Base: 1, Values: values}}
	if _, err := s.p.Plant().SaveRecipes(ctx, tom, drying, false, altered, "too slow"); err != nil {
		t.Fatal(err)
	}
	limit := 76.0
	acts := map[string]func(host.Given) error{
		audit.LimitSet: func(g host.Given) error {
			return s.p.SetAlarmLimit(ctx, iris, "a-test", host.LimitOrder{Limit: &limit, Given: g})
		},
		audit.AlarmAct: func(g host.Given) error {
			_, _, err := s.p.ActOnAlarms(ctx, iris, host.AlarmAct{Alarms: []string{"a-test"}, Act: alarm.Shelve, Minutes: 5, Given: g})
			return err
		},
		audit.Held: func(g host.Given) error {
			return s.p.HoldTag(ctx, s.actors["ada"], s.tag("Kiln1.DryBulb"), host.HoldOrder{Value: "50", Minutes: 5, Given: g})
		},
		audit.RecipeSet: func(g host.Given) error {
			return s.p.Plant().JudgeRecipe(ctx, iris, larch.ID, host.Judgement{Version: 2, Approve: true, Given: g})
		},
	}
	for what, act := range acts {
		t.Run(what, func(t *testing.T) {
			records := len(s.trail())
			var asks *host.Asks
			if err := act(host.Given{Reason: "a test"}); !errors.As(err, &asks) || asks.Sign != access.SignSecond || asks.RoleNames[0] != "Engineer" {
				t.Fatalf("%+v %v", asks, err)
			}
			if what == audit.LimitSet != (len(asks.Reasons) > 0) {
				t.Errorf("reasons to choose from: %v", asks.Reasons)
			}
			if n := len(s.trail()); n != records {
				t.Errorf("asking wrote %d records", n-records)
			}
			other := signed
			other.Signatures = []host.Signature{{Name: "tom", Secret: "oak-and-ash"}}
			if err := act(other); err == nil || errors.As(err, &asks) {
				t.Errorf("signed by who may not: %v", err)
			}
			by := signed
			if what == audit.Held { // ada holds it, so that somebody else signs
				by.Signatures = []host.Signature{{Name: "iris", Secret: "elm-and-yew"}}
				if err := act(by); err == nil {
					t.Error("a lead signed for an engineer")
				}
				return
			}
			if err := act(by); err != nil {
				t.Fatal(err)
			}
			if last := s.trail()[0]; last.What != what || last.Sign != "Ada Birch: seen" || last.Reason != "a test" {
				t.Errorf("in the trail: %+v", last)
			}
		})
	}
	if _, _, err := s.p.ActOnAlarms(ctx, iris, host.AlarmAct{Alarms: []string{"a-test"}, Act: alarm.Unshelve}); err != nil {
		t.Errorf("bringing back asks: %v", err)
	}
	if last := s.trail()[0]; last.What != audit.AlarmAct || last.New != "unshelved" || last.Element != "Set too high" {
		t.Errorf("in the trail: %+v", last)
	}
}
