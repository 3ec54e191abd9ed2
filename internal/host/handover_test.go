package host_test

import (
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"readyrail/internal/core/audit"
)

// TestAShiftIsHandedOver: a note that one person leaves and another takes over, once
// and not its writer; both stand in the trail, and it outlives a restart.
func TestAShiftIsHandedOver(t *testing.T) {
	s := newSite(t)
	tom, iris, sam := s.actors["tom"], s.actors["iris"], s.actors["sam"]
	for _, text := range []string{"", " ", strings.Repeat("x", 2001)} {
		if s.p.HandOver(ctx, tom, text) == nil {
			t.Errorf("a note of %d characters is taken", len(text))
		}
	}
	if s.p.HandOver(ctx, sam, "x") == nil {
		t.Error("a viewer hands over")
	}
	if err := s.p.HandOver(ctx, tom, " Fan 2 of Kiln1 is noisy\nlook at it "); err != nil {
		t.Fatal(err)
	}
	list, err := s.p.Handovers(ctx, iris)
	if err != nil || len(list) != 1 || list[0].Text != "Fan 2 of Kiln1 is noisy\nlook at it" || list[0].Mine || list[0].TakenAt != 0 {
		t.Fatalf("%+v %v", list, err)
	}
	if list, _ := s.p.Handovers(ctx, tom); !list[0].Mine {
		t.Error("its writer is not told that it is theirs")
	}
	for name, err := range map[string]error{
		"its writer": s.p.TakeOver(ctx, tom, list[0].Seq), "a viewer": s.p.TakeOver(ctx, sam, list[0].Seq),
		"none": s.p.TakeOver(ctx, iris, 99),
	} {
		if err == nil {
			t.Errorf("%s took it over", name)
		}
	}
	var took atomic.Int64
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if s.p.TakeOver(ctx, iris, list[0].Seq) == nil {
				took.Add(1)
			}
		})
	}
	all.Wait()
	if took.Load() != 1 {
		t.Errorf("taken over %d times", took.Load())
	}
	r := s.trail()
	if r[0].What != audit.Handover || r[0].Name != "Iris Rowan" || r[0].Reason != "taken over from Tom Alder" || r[1].Name != "Tom Alder" {
		t.Errorf("%+v", r[:2])
	}
	s.reopen()
	if list, err := s.p.Handovers(ctx, tom); err != nil || list[0].TakenBy != "Iris Rowan" || list[0].TakenAt == 0 {
		t.Errorf("%+v %v", list, err)
	}
}
