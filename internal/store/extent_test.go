package store

import (
	"context"
	"testing"
	"time"

	"readyrail/internal/core/value"
)

// TestHowMuchIsKept counts samples in blocks and in none, over a restart, and
// after the oldest were forgotten.
func TestHowMuchIsKept(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	s, err := OpenSamples(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	from := time.Date(2026, 11, 21, 22, 0, 0, 0, time.UTC)
	at := func(n int) int64 { return from.Add(time.Duration(n) * 10 * time.Second).UnixNano() }
	const all = 3000 // a little over eight hours, over midnight
	for n := range all {
		if err := s.Keep(ctx, []TagValue{{Tag: "a", Value: value.Real(value.LREAL, float64(n%7)).AtNanos(at(n))}}); err != nil {
			t.Fatal(err)
		}
		if n%500 == 499 {
			if err := s.Settle(ctx, time.Unix(0, at(n))); err != nil {
				t.Fatal(err)
			}
		}
	}
	expect := func(what string, first, count, most int64) {
		t.Helper()
		e, err := s.Extent(ctx)
		if err != nil {
			t.Fatal(err)
		}
		if e.First != first || e.Count < count || e.Count > most || e.Bytes == 0 {
			t.Errorf("%s: %+v, not %d to %d from %d", what, e, count, most, first)
		}
		list, err := s.Read(ctx, "a", 0, at(all), all+1)
		if err != nil || int64(len(list)) != e.Count {
			t.Errorf("%s: %d are read, %d counted: %v", what, len(list), e.Count, err)
		}
	}
	expect("all", at(0), all, all)
	s.Close()
	if s, err = OpenSamples(dir, nil); err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	expect("opened again", at(0), all+1, all+1) // and one that says that nothing was known

	// Blocks go whole: at most one of them is left that begins earlier.
	cut := at(all / 2)
	if err := s.Forget(ctx, cut); err != nil {
		t.Fatal(err)
	}
	e, _ := s.Extent(ctx)
	if e.First < cut || e.Count > all/2+1 || e.Count < all/2-int64(enough+share) {
		t.Errorf("half forgotten: %+v", e)
	}
	if err := s.Forget(ctx, at(all)); err != nil {
		t.Fatal(err)
	}
	if e, _ := s.Extent(ctx); e.Count > 1 {
		t.Errorf("all forgotten: %+v", e)
	}
	if err := s.Keep(ctx, []TagValue{{Tag: "a", Value: value.Real(value.LREAL, 5).AtNanos(at(all + 10))}}); err != nil {
		t.Fatal(err)
	}
	if list, err := s.Read(ctx, "a", at(all+1), at(all+20), 10); err != nil || len(list) != 1 || list[0].Value != 5 {
		t.Errorf("kept after all was forgotten: %v %v", list, err)
	}
}
