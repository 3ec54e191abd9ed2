package host_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/host"
	"readyrail/internal/record"
)

// TestLookingForMoments asks the made-up week what an engineer asks: when was it,
// how long did it take, what happened then.
func TestLookingForMoments(t *testing.T) {
	s := newSiteWith(t, furnished{past: true})
	tom := s.actors["tom"]
	to := time.Now().Add(-15 * time.Minute)
	from := to.AddDate(0, 0, -6)
	found, err := s.p.Find(ctx, tom, true, "Kiln2.DryBulb > 82 and Kiln2.DoorClosed", 2*time.Second,
		host.Period{From: from, To: to}, "s1")
	if err != nil {
		t.Fatal(err)
	}
	if share, err := s.p.SearchShare(ctx, tom, "s1"); share != 1 || err != nil {
		t.Errorf("a search that is over is done by %v %v", share, err)
	}
	// Two evenings it swings about its limit.
	if found.Count < 20 || len(found.Stretches) != found.Count || found.Tags[0] != "Kiln2.DryBulb" || found.Stretches[0].Values[1] == "" {
		t.Errorf("%+v", found)
	}
	for _, x := range found.Stretches {
		if x.To-x.From < 2000 {
			t.Errorf("a stretch of %d ms", x.To-x.From)
		}
	}
	for condition, says := range map[string]string{
		"": "empty", "Kiln2.DryBulb": "true or false", "Kiln2.NoSuch > 1": "NoSuch", "1 > 2": "names at least one tag",
		"Kiln2.DryBulb >": "ends too early",
	} {
		_, err := s.p.Find(ctx, tom, true, condition, 0, host.Period{From: from, To: to}, "")
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", condition, err)
		}
	}

	call, flame := record.Edge{Tag: s.id("Kiln1.Burner.Call")}, record.Edge{Tag: s.id("Kiln1.Burner.Flame")}
	pairs, err := s.p.Pairs(ctx, tom, call, flame, host.Period{From: from, To: to}, 6, 7.5)
	if err != nil {
		t.Fatal(err)
	}
	if pairs.Count < 200 || pairs.Least < 6.1 || pairs.Most > 9 || pairs.Late == 0 || pairs.Early != 0 ||
		pairs.Without != 0 || pairs.Unsure != 0.25 {
		t.Errorf("%+v of %v s ±%v", pairs.Count, pairs.Most, pairs.Unsure)
	}
	if _, err := s.p.Pairs(ctx, tom, call, record.Edge{Tag: s.id("Kiln1.DryBulb")}, host.Period{From: from, To: to}, 0, 0); err == nil {
		t.Error("a number has edges")
	}

	// The proof of it stands with the checks of both; not an operator's to give.
	in := host.Period{From: from, To: to}
	if _, err := s.p.ProvePairs(ctx, tom, call, flame, in, 0, 7.5); err == nil || !strings.Contains(err.Error(), "right") {
		t.Errorf("an operator proved something: %v", err)
	}
	ada := s.actors["ada"]
	if _, err := s.p.ProvePairs(ctx, ada, call, flame, in, 0, 0); err == nil || !strings.Contains(err.Error(), "say what is expected") {
		t.Error(err)
	}
	for most, want := range map[float64]string{7.5: host.Failed, 10: host.Passed} {
		proof, err := s.p.ProvePairs(ctx, ada, call, flame, in, 0, most)
		if err != nil || proof.Result != want || len(proof.Paths) != 2 {
			t.Fatalf("%v: %+v %v", most, proof, err)
		}
		checks, err := s.p.LoopChecks(ctx)
		if err != nil {
			t.Fatal(err)
		}
		point, _ := s.p.Draft().Tag(flame.Tag)
		if c, ok := checks.Of(point); !ok || c.Result != want || c.Note != proof.Note ||
			!strings.HasPrefix(c.Note, "Kiln1.Burner.Call ↑ to Kiln1.Burner.Flame ↑, ") || !strings.Contains(c.Note, " late") {
			t.Errorf("%+v", c)
		}
	}

	marks, err := s.p.Marks(ctx, tom, from, to, false)
	if err != nil || len(marks.Alarms) < 50 || len(marks.Notes) != 0 {
		t.Errorf("%d alarms, %v", len(marks.Alarms), err)
	}
	// What came before a time and went in it stood as the time began.
	for _, a := range marks.Alarms {
		if a.Went == 0 || a.Long < 10_000 {
			continue
		}
		middle := time.UnixMilli(a.Came + a.Long/2)
		in, err := s.p.Marks(ctx, tom, middle, middle.Add(time.Duration(a.Long)*time.Millisecond), true)
		if err != nil || !slices.ContainsFunc(in.Stood, func(x host.StoodAlarm) bool { return x.Name == a.Name && x.Went == a.Went }) {
			t.Fatalf("%s stood at %v, not %+v: %v", a.Name, middle, in.Stood, err)
		}
		after, err := s.p.Marks(ctx, tom, time.UnixMilli(a.Went+1), time.UnixMilli(a.Went+2), true)
		if err != nil || slices.ContainsFunc(after.Stood, func(x host.StoodAlarm) bool { return x.Name == a.Name }) {
			t.Fatalf("%s had gone at %d: %+v %v", a.Name, a.Went, after.Stood, err)
		}
		if i := slices.IndexFunc(after.Unseen, func(x host.StoodAlarm) bool { return x.Name == a.Name }); (i >= 0) != (a.Acked == 0) {
			t.Errorf("%s was acknowledged at %d, and unseen as it had gone: %+v", a.Name, a.Acked, after.Unseen)
		}
		break
	}
	moment := to.Add(-50 * time.Hour)
	if err := s.p.NoteTime(ctx, tom, call.Tag, moment, moment.Add(time.Hour), " Re-stacked "); err != nil {
		t.Fatal(err)
	}
	marks, err = s.p.Marks(ctx, tom, moment.Add(-time.Hour), moment.Add(time.Minute), false)
	if err != nil || len(marks.Notes) != 1 || marks.Notes[0].Text != "Re-stacked" || marks.Notes[0].Person != tom.Name {
		t.Errorf("%+v %v", marks.Notes, err)
	}
	if marks, err = s.p.Marks(ctx, tom, moment.Add(2*time.Hour), to, false); err != nil || len(marks.Notes) != 0 {
		t.Errorf("%+v of another time", marks.Notes)
	}
	for _, c := range []struct {
		who      host.Actor
		from, to time.Time
		text     string
	}{
		{s.actors["sam"], moment, moment, "Seen"}, {tom, moment, moment.Add(-time.Second), "Seen"}, {tom, moment, moment, " "},
		{tom, time.Now().Add(time.Hour), time.Now().Add(time.Hour), "Seen"}, {tom, moment, moment, strings.Repeat("x", 1001)},
	} {
		if err := s.p.NoteTime(ctx, c.who, "", c.from, c.to, c.text); err == nil {
			t.Errorf("%+v was noted", c)
		}
	}
	if !s.p.May(ctx, tom, access.Acknowledge, false) {
		t.Error("the operator of the test may not acknowledge")
	}
}
