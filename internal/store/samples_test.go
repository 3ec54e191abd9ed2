package store

import (
	"context"
	"testing"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

func TestSamplesOverTheTurnOfAMonth(t *testing.T) {
	ctx, dir := context.Background(), t.TempDir()
	s, err := OpenSamples(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	turn := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	var list []TagSample
	for i := -5; i <= 5; i++ {
		list = append(list, TagSample{"k.dry", history.Sample{At: turn.Add(time.Duration(i) * time.Hour).UnixNano(), Value: float64(i),
			Quality: value.Good}})
	}
	list = append(list, TagSample{"other", history.Sample{At: turn.UnixNano(), Value: 9, Quality: value.BadStale}})
	if err := s.Append(ctx, list); err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if s, err = OpenSamples(dir, nil); err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	read := func(id string, from, to time.Duration, limit int) (v []float64) {
		got, err := s.Read(ctx, id, turn.Add(from).UnixNano(), turn.Add(to).UnixNano(), limit)
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range got {
			v = append(v, x.Value)
		}
		return v
	}
	for _, c := range []struct {
		from, to time.Duration
		limit    int
		want     []float64
	}{
		{-90 * time.Minute, 90 * time.Minute, 100, []float64{-2, -1, 0, 1}}, // with the one before
		{30 * time.Minute, 3 * time.Hour, 100, []float64{0, 1, 2}},
		{-10 * time.Hour, 10 * time.Hour, 3, []float64{3, 4, 5}},
		{-30 * time.Minute, 30 * time.Minute, 100, []float64{-1, 0}},
	} {
		got := read("k.dry", c.from, c.to, c.limit)
		if len(got) != len(c.want) {
			t.Errorf("%v to %v: %v, not %v", c.from, c.to, got, c.want)
			continue
		}
		for i := range got {
			if got[i] != c.want[i] {
				t.Errorf("%v to %v: %v, not %v", c.from, c.to, got, c.want)
			}
		}
	}
	if got := read("nobody", -time.Hour, time.Hour, 10); got != nil {
		t.Errorf("%v", got)
	}
	// What is too old goes, a whole month with its file.
	if err := s.Prune(ctx, turn.Add(90*time.Minute).UnixNano()); err != nil {
		t.Fatal(err)
	}
	if got := read("k.dry", -10*time.Hour, 10*time.Hour, 100); len(got) != 4 {
		t.Errorf("after pruning: %v", got)
	}
	if n := len(s.months(turn.Add(time.Hour * 1000).UnixNano())); n != 1 {
		t.Errorf("%d months left", n)
	}
}
