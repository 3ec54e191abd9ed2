package host_test

import (
	"encoding/json"
	"math"
	"testing"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/plant"
	"readyrail/internal/record"
)

// truth are the times of a bit's rises as the stand-in has them, and how far apart
// it was looked at at most.
type truth struct {
	rises [2][]time.Time
	gap   time.Duration
}

// watch looks at two input bits of the kilns' controller until it is stopped.
func (s *site) watch(first, second uint16) (stop func() truth) {
	quit, done := make(chan struct{}), make(chan truth)
	go func() {
		var was [2]bool
		var out truth
		var bits [1]bool
		last := time.Now()
		for n := 0; ; n++ {
			select {
			case <-quit:
				done <- out
				return
			case <-time.After(time.Millisecond):
			}
			out.gap = max(out.gap, time.Since(last))
			last = time.Now()
			for i, at := range []uint16{first, second} {
				if err := s.plant.ReadBits(plant.KilnUnit, 2, at, bits[:]); err != nil {
					continue
				}
				if bits[0] && !was[i] && n > 0 {
					out.rises[i] = append(out.rises[i], time.Now())
				}
				was[i] = bits[0]
			}
		}
	}()
	return func() truth { close(quit); return <-done }
}

// TestABurnersTimesAreTrue: read every 50 ms, the times from call to flame are those
// of the burner itself, no further off than they say they may be.
func TestABurnersTimesAreTrue(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	var kiln string
	for id, d := range s.p.Draft().Devices {
		if d.Name == "KilnPLC" {
			kiln = id
		}
	}
	s.edit(project.Op{Kind: project.KindDevice, ID: kiln, Path: "/poll", Value: json.RawMessage("50")})
	const callBit, flameBit = 10, 15
	begin := time.Now()
	s.until("the burner is seen", func() bool { return s.show("Kiln1.Burner.Flame") == "on" })
	stop := s.watch(callBit, flameBit)
	for range 2 {
		for _, open := range []bool{true, false} {
			if err := s.plant.WriteBits(plant.KilnUnit, plant.Faults["door"], []bool{open}); err != nil {
				t.Fatal(err)
			}
			want := map[bool]string{true: "off", false: "on"}[open]
			end := time.Now().Add(time.Minute)
			for s.show("Kiln1.Burner.Flame") != want && time.Now().Before(end) {
				time.Sleep(20 * time.Millisecond)
			}
		}
	}
	seen := stop()
	var pairs *host.EdgePairs
	s.until("both are kept", func() bool {
		var err error
		pairs, err = s.p.Pairs(ctx, ada, record.Edge{Tag: s.id("Kiln1.Burner.Call")}, record.Edge{Tag: s.id("Kiln1.Burner.Flame")},
			host.Period{From: begin, To: time.Now()}, 0, 0)
		if err != nil {
			t.Fatal(err)
		}
		return pairs.Count >= 2 && pairs.Without == 0
	})
	if len(seen.rises[0]) != 2 || len(seen.rises[1]) != 2 || pairs.Count != 2 {
		t.Fatalf("the burner lit %d times, and %d were measured: %+v", len(seen.rises[1]), pairs.Count, pairs)
	}
	if pairs.Unsure > 0.1+2*seen.gap.Seconds() {
		t.Errorf("read every 50 ms, a time may be off by %v s", pairs.Unsure)
	}
	for _, p := range pairs.List { // the newest may come first
		i := 0
		if math.Abs(float64(p.At-seen.rises[0][1].UnixMilli())) < 1000 {
			i = 1
		}
		took := seen.rises[1][i].Sub(seen.rises[0][i]).Seconds()
		if off := math.Abs(p.Took - took); off > pairs.Unsure+2*seen.gap.Seconds() {
			t.Errorf("from call to flame took %.3f s, measured as %.3f ± %.3f", took, p.Took, pairs.Unsure)
		}
		t.Logf("%.3f s, measured as %.3f ± %.3f; looked at every %v at most", took, p.Took, pairs.Unsure, seen.gap)
	}
}
