package store

import (
	"fmt"
	"slices"
	"testing"

	"readyrail/internal/core/audit"
)

// What is looked for in the trail, by each part of a filter and by several.
func TestLookingInTheTrail(t *testing.T) {
	a, err := OpenAudit(t.TempDir(), audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	ctx := t.Context()
	// 3 and 5 are how 2 and 4 ended; at 7 the clock was set back; 6 is of a tag that
	// was renamed since.
	for _, r := range []audit.Record{
		{At: 10, What: audit.SignIn, Name: "Tom Alder", Panel: "Kiln house"},
		{At: 20, What: audit.Intent, Name: "Tom Alder", Tag: "t1", Path: "Kiln1.DryBulbSP", Old: "72", New: "74", Key: "a"},
		{At: 21, What: audit.Outcome, Intent: 2, Outcome: audit.Confirmed},
		{At: 30, What: audit.Intent, Name: "Iris Rowan", Tag: "t2", Path: "Kiln2.DryBulbSP", Reason: "frost", Key: "b"},
		{At: 31, What: audit.Outcome, Intent: 4, Outcome: audit.Rejected, Reason: "no answer"},
		{At: 40, What: audit.Intent, Name: "Tom Alder", Tag: "t1", Path: "Kiln1.DryBulb_SP", Key: "c"},
		{At: 35, What: audit.Refused, Name: "Sam Pine", Tag: "t3", Path: "Car.Speed", Outcome: audit.Rejected, Reason: "rights"},
		{At: 50, What: audit.Comment, Name: "Ada Larch", Intent: 2, Reason: "as agreed"},
		{At: 51, What: audit.Comment, Name: "Iris Rowan", Intent: 2, Reason: "seen"},
	} {
		if _, err := a.Append(ctx, r); err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range []struct {
		name string
		f    TrailFilter
		want string
	}{
		{"all", TrailFilter{}, "[9 8 7 6 4 2 1]"},
		{"before one", TrailFilter{Before: 6}, "[4 2 1]"},
		{"from a time", TrailFilter{From: 31}, "[9 8 7 6]"},
		{"until a time", TrailFilter{To: 36}, "[7 4 2 1]"},
		{"between, with a clock that was set back", TrailFilter{From: 33, To: 38}, "[7]"},
		{"after everything", TrailFilter{From: 99}, "[]"},
		{"before everything", TrailFilter{To: 5}, "[]"},
		{"a tag, whatever it was called", TrailFilter{Tag: "t1"}, "[6 2]"},
		{"a path", TrailFilter{Path: "Kiln1.DryBulbSP"}, "[2]"},
		{"a pattern", TrailFilter{Path: "Kiln*.DryBulbSP"}, "[4 2]"},
		{"a pattern's own signs stand for themselves", TrailFilter{Path: "*DryBulb_SP"}, "[6]"},
		{"a place, by its tags", TrailFilter{Within: &TrailPlace{Tags: []string{"t1", "t3"}}}, "[7 6 2]"},
		{"a place, by what is no tag", TrailFilter{Within: &TrailPlace{Names: []string{"Car.Speed", ""}}}, "[9 8 1]"},
		{"a place in which nothing is", TrailFilter{Within: &TrailPlace{}}, "[]"},
		{"a share of a name", TrailFilter{Person: "iris"}, "[9 4]"},
		{"kinds", TrailFilter{Whats: []string{audit.SignIn, audit.Refused}}, "[7 1]"},
		{"an outcome, told by its own record", TrailFilter{Outcomes: []string{audit.Confirmed}}, "[2]"},
		{"outcomes", TrailFilter{Outcomes: []string{audit.Confirmed, audit.Rejected}}, "[7 4 2]"},
		{"under way", TrailFilter{Outcomes: []string{""}}, "[6]"},
		{"with a reason", TrailFilter{Reason: IsGiven}, "[9 8 7 4]"},
		{"without one", TrailFilter{Reason: NotGiven}, "[6 2 1]"},
		{"a text in a value", TrailFilter{Text: "74"}, "[2]"},
		{"a text that is a pattern", TrailFilter{Text: "%"}, "[]"},
		{"several", TrailFilter{Person: "Tom", Whats: []string{audit.Intent}, From: 30}, "[6]"},
	} {
		list, next, err := a.List(ctx, c.f, 20)
		if got := fmt.Sprint(numbers(list)); err != nil || got != c.want || next != 0 {
			t.Errorf("%s: %s, goes on at %d, %v; not %s", c.name, got, next, err, c.want)
		}
	}
	// Page by page it is the same, and ends.
	var all []int64
	for f := (TrailFilter{}); ; {
		list, next, err := a.List(ctx, f, 2)
		if err != nil || len(list) > 2 {
			t.Fatal(list, err)
		}
		all = append(all, numbers(list)...)
		if f.Before = next; next == 0 {
			break
		}
	}
	if fmt.Sprint(all) != "[9 8 7 6 4 2 1]" {
		t.Error("page by page", all)
	}
	if list, err := a.CommentsOn(ctx, 2); err != nil || fmt.Sprint(numbers(list)) != "[8 9]" {
		t.Error(list, err)
	}
	for seq, want := range map[int64]bool{2: true, 3: false, 8: false, 99: false} {
		if has, err := a.Has(ctx, seq); has != want || err != nil {
			t.Errorf("record %d: %v %v", seq, has, err)
		}
	}
	// What was said later of a write leaves it as it is: open where it was.
	a.Append(ctx, audit.Record{At: 60, What: audit.Comment, Intent: 6, Reason: "what became of it?"})
	if open, err := a.Open(ctx); err != nil || !slices.Equal(numbers(open), []int64{6}) {
		t.Error(numbers(open), err)
	}
	if n, err := a.Verify(ctx, &audit.Verifier{}); n != 10 || err != nil {
		t.Error(n, err)
	}
}

// A rare record is found in portions: each call looks through so many.
func TestARareRecordOfALongTrail(t *testing.T) {
	a, err := OpenAudit(t.TempDir(), audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	ctx := t.Context()
	list := make([]audit.Record, trailWindow+10)
	for i := range list {
		list[i] = audit.Record{At: int64(i), What: audit.SignIn, Name: "Tom Alder"}
	}
	list[3].Name, list[5].Tag = "Iris Rowan", "t1"
	if _, err := a.AppendAll(ctx, list); err != nil {
		t.Fatal(err)
	}
	f := TrailFilter{Person: "Iris"}
	found, next, err := a.List(ctx, f, 5)
	if err != nil || len(found) != 0 || next == 0 {
		t.Fatalf("%v, goes on at %d, %v", numbers(found), next, err)
	}
	f.Before = next
	if found, next, err = a.List(ctx, f, 5); err != nil || fmt.Sprint(numbers(found)) != "[4]" || next != 0 {
		t.Errorf("%v, goes on at %d, %v", numbers(found), next, err)
	}
	// A tag's own are found at once.
	if found, next, err = a.List(ctx, TrailFilter{Tag: "t1"}, 5); err != nil || fmt.Sprint(numbers(found)) != "[6]" || next != 0 {
		t.Errorf("%v, goes on at %d, %v", numbers(found), next, err)
	}
}

func numbers(list []audit.Record) []int64 {
	out := make([]int64, len(list))
	for i := range list {
		out[i] = list[i].Seq
	}
	return out
}
