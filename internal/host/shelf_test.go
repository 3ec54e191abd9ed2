package host_test

import (
	"os"
	"path/filepath"
	"testing"

	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/run"
)

// TestTryHasItsOwnRecipes: in a trial recipes are changed, approved and sent to a
// stand-in, by the draft's book, and nothing of it is in the plant, in the trail, or
// there afterwards.
func TestTryHasItsOwnRecipes(t *testing.T) {
	s := newSite(t)
	ada, tom, iris := s.actors["ada"], s.actors["tom"], s.actors["iris"]
	if _, err := s.p.Shelf(ctx, ada, run.Try); err == nil {
		t.Error("a trial's recipes without a trial")
	}
	free := project.Op{Kind: project.KindBook, ID: drying, Path: "/sending/when"}
	if _, err := s.p.Edit(ctx, ada, "no condition", []project.Op{free}); err != nil {
		t.Fatal(err)
	}
	if err := s.p.StartTry(ctx, ada, nil); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Shelf(ctx, tom, run.Try); err == nil {
		t.Error("an operator looks at the draft's trial")
	}
	try, err := s.p.Shelf(ctx, ada, run.Try)
	if err != nil {
		t.Fatal(err)
	}
	larch := s.recipe("Larch 50")
	values := s.values(larch.ID)
	before := len(s.trail())
	draft := []host.RecipeDraft{{Recipe: larch.ID, Base: 1, Values: values}}
	if _, err := try.SaveRecipes(ctx, tom, drying, false, draft, ""); err != nil {
		t.Fatal(err)
	}
	if err := try.JudgeRecipe(ctx, iris, larch.ID, host.Judgement{Version: 2, Approve: true}); err != nil {
		t.Fatal(err)
	}
	first := s.target("Kiln1")
	ask := host.DeliveryAsk{Recipe: larch.ID, Version: 2, Target: first}
	s.until("the condition holds on the stand-in", func() bool {
		plan, err := try.PlanDelivery(ctx, ada, drying, ask)
		return err == nil && len(plan.Against) == 0
	})
	seq, err := try.Deliver(ctx, ada, drying, host.DeliveryOrder{DeliveryAsk: ask, Key: "try-1234"})
	if err != nil {
		t.Fatal(err)
	}
	var d *host.DeliveryShown
	s.until("it is over", func() bool {
		d, err = try.Delivery(ctx, ada, seq)
		return err == nil && d.Ended > 0
	})
	if d.State != "delivered" || d.Fields[6].State != "confirmed" {
		t.Errorf("%s %s %+v", d.State, d.Reason, d.Fields[6])
	}
	dry, _ := s.p.Draft().FindPath("Kiln1.Schedule.Step[1].Dry")
	if v := s.p.ReadTags(run.Try, []string{dry})[0].Value; v.Float() != 52 {
		t.Errorf("the stand-in has %s", v.Text())
	}
	// A second one goes as well: the stand-in's answer went away.
	s.until("the next one is taken", func() bool {
		seq, err = try.Deliver(ctx, ada, drying, host.DeliveryOrder{DeliveryAsk: ask, Key: "try-2345"})
		return err == nil
	})
	s.until("it is over, too", func() bool {
		d, err := try.Delivery(ctx, ada, seq)
		return err == nil && d.State == "delivered"
	})
	if states, err := try.TargetStates(ctx, ada, drying); err != nil || states[0].Runs == nil || states[0].Runs.Version != 2 {
		t.Errorf("%+v %v", states, err)
	}
	if after := s.trail(); len(after) != before {
		t.Errorf("the trail has %+v", after[:len(after)-before])
	}
	if x := s.recipe("Larch 50"); x.Latest != 1 {
		t.Errorf("the plant has version %d", x.Latest)
	}
	if states, err := s.p.Plant().TargetStates(ctx, ada, drying); err != nil || states[0].Runs != nil {
		t.Errorf("%+v %v", states, err)
	}
	// A trial that begins anew has a fresh copy; one that ends leaves none.
	if err := s.p.StartTry(ctx, ada, nil); err != nil {
		t.Fatal(err)
	}
	if try, err = s.p.Shelf(ctx, ada, run.Try); err != nil {
		t.Fatal(err)
	}
	if list, err := try.Versions(ctx, ada, larch.ID); err != nil || len(list) != 1 {
		t.Errorf("%d versions (%v)", len(list), err)
	}
	if err := s.p.StopTry(ctx, ada); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(filepath.Join(s.dir, "projects", s.p.ID(), "try")); !os.IsNotExist(err) {
		t.Errorf("the copy is still there: %v", err)
	}
}
