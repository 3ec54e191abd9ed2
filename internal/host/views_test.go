package host_test

import (
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/history"
	"readyrail/internal/host"
)

// TestAViewOfOnesOwn: it is listed beside those of the project for whoever keeps it,
// for nobody else, and a restart keeps it.
func TestAViewOfOnesOwn(t *testing.T) {
	s := newSite(t)
	tom, iris := s.actors["tom"], s.actors["iris"]
	mine := func(who host.Actor) []string {
		t.Helper()
		list, err := s.p.Views(ctx, who, true)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, v := range list {
			if v.Mine {
				out = append(out, v.Name)
			}
		}
		return out
	}
	dry, _ := s.p.Draft().FindPath("Kiln1.DryBulb")
	v := history.View{Name: "My kiln", Pens: []history.ViewPen{{Tag: dry}}}
	id, err := s.p.PutOwnView(ctx, tom, v)
	if err != nil {
		t.Fatal(err)
	}
	s.h.Close()
	s.open()
	s.p, _ = s.h.Project("larchmoor")
	if got := mine(tom); !slices.Equal(got, []string{"My kiln"}) || len(mine(iris)) != 0 {
		t.Errorf("Tom has %v, Iris %v", got, mine(iris))
	}
	v.ID, v.Name = id, "Mine, renamed"
	if _, err := s.p.PutOwnView(ctx, tom, v); err != nil {
		t.Error(err)
	}
	if _, err := s.p.PutOwnView(ctx, iris, v); err == nil {
		t.Error("somebody else's view was altered")
	}
	v.ID, v.Name = "", strings.Repeat("x", 81)
	if _, err := s.p.PutOwnView(ctx, tom, v); err == nil {
		t.Error("a name without end is kept")
	}
	v.Name = "Many"
	for err = nil; err == nil; {
		_, err = s.p.PutOwnView(ctx, iris, v)
	}
	if n := len(mine(iris)); n != 100 || !strings.Contains(err.Error(), "at most 100") {
		t.Errorf("%d are kept: %v", n, err)
	}
	if err := s.p.DropOwnView(ctx, tom, id); err != nil || len(mine(tom)) != 0 {
		t.Errorf("it is still there: %v", err)
	}
}
