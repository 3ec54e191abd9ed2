package store

import (
	"context"
	"testing"
	"time"

	"readyrail/internal/core/value"
)

// TestTagsAreKeptForTheirOwnTime: of three tags over three months one goes with
// the others, one is kept longer and one shorter.
func TestTagsAreKeptForTheirOwnTime(t *testing.T) {
	ctx := context.Background()
	s, err := OpenSamples(t.TempDir(), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	from, to := time.Date(2026, 9, 1, 0, 0, 0, 0, time.UTC), time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC)
	for at := from; at.Before(to); at = at.Add(6 * time.Hour) {
		var row []TagValue
		for _, id := range []string{"usual", "longer", "shorter"} {
			row = append(row, TagValue{Tag: id, Value: value.Real(value.LREAL, float64(at.Hour())).At(at)})
		}
		if err := s.Keep(ctx, row); err != nil {
			t.Fatal(err)
		}
		if at.Hour() == 0 {
			if err := s.Settle(ctx, at); err != nil {
				t.Fatal(err)
			}
		}
	}
	first := func(id string) string {
		at, bytes, err := s.TagExtent(ctx, id)
		if err != nil || bytes == 0 {
			t.Fatal(id, bytes, err)
		}
		return time.Unix(0, at).UTC().Format("2006-01-02")
	}
	ago := func(days int) int64 { return to.AddDate(0, 0, -days).UnixNano() }
	was, err := s.Size(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for range 2 { // the second time there is nothing to do
		if err := s.Prune(ctx, ago(30), map[string]int64{"longer": ago(60), "shorter": ago(10), "none": ago(1)}); err != nil {
			t.Fatal(err)
		}
	}
	// A block lies where it begins: it goes when its first day does.
	for id, want := range map[string]string{"usual": "2026-10-30", "longer": "2026-09-30", "shorter": "2026-11-19"} {
		if got := first(id); got < want || got > want[:8]+"99" {
			t.Errorf("%s begins on %s, not from %s on", id, got, want)
		}
	}
	if now, err := s.Size(ctx); err != nil || now >= was {
		t.Errorf("%d bytes of %d are left: %v", now, was, err)
	}
	if err := s.Prune(ctx, ago(30), nil); err != nil {
		t.Fatal(err)
	}
	if got := s.months.names(); len(got) != 2 || got[0] != "2026-10" {
		t.Errorf("without a time of its own its months stay: %v", got)
	}
}
