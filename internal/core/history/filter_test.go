package history

import (
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"readyrail/internal/core/value"
)

func TestFilterKeepsMovesAndTheirFeet(t *testing.T) {
	const s = int64(time.Second)
	for _, c := range []struct {
		name string
		f    Filter
		in   []float64 // one a second from 1; NaN is bad
		want []int64   // seconds kept
	}{
		{"every change", Filter{}, []float64{1, 1, 2, 2, 1}, []int64{1, 2, 3, 4, 5}},
		{"within the band", Filter{Band: 1}, []float64{10, 10.5, 11, 9.2, 10}, []int64{1}},
		{"a step keeps its foot", Filter{Band: 1}, []float64{10, 10.4, 10.2, 20, 20}, []int64{1, 3, 4}},
		{"drift is seen", Filter{Band: 1}, []float64{0, 0.6, 1.2, 1.8, 2.4}, []int64{1, 2, 3, 4, 5}},
		{"quality is a change", Filter{Band: 5}, []float64{1, math.NaN(), math.NaN(), 1}, []int64{1, 2, 3, 4}},
		{"long ago", Filter{Band: 5, Every: 2 * time.Second}, []float64{1, 1, 1, 1, 1}, []int64{1, 3, 5}},
	} {
		var out []Sample
		for i, v := range c.in {
			q := value.Good
			if math.IsNaN(v) {
				q = value.BadConfig
			}
			out = c.f.Take(Sample{int64(i+1) * s, v, q}, out)
		}
		var at []int64
		for _, x := range out {
			at = append(at, x.At/s)
		}
		if len(at) != len(c.want) {
			t.Errorf("%s: kept %v, not %v", c.name, at, c.want)
			continue
		}
		for i := range at {
			if at[i] != c.want[i] {
				t.Errorf("%s: kept %v, not %v", c.name, at, c.want)
				break
			}
		}
	}
}

// What is kept tells the course to within the band at every time that was seen.
func TestKeptSamplesTellTheCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	f := Filter{Band: 0.5}
	var seen, kept []Sample
	v := 20.0
	for i := range 5000 {
		v += r.NormFloat64() * 0.2
		if r.IntN(200) == 0 {
			v += 15
		}
		x := Sample{int64(i + 1), v, value.Good}
		seen = append(seen, x)
		kept = f.Take(x, kept)
	}
	if len(kept) >= len(seen) {
		t.Errorf("%d of %d kept", len(kept), len(seen))
	}
	at := 0
	for _, x := range seen {
		for at+1 < len(kept) && kept[at+1].At <= x.At {
			at++
		}
		if d := math.Abs(kept[at].Value - x.Value); d > 0.5 {
			t.Fatalf("at %d it is off by %v", x.At, d)
		}
	}
	if _, ok := Of(value.Str("x"), time.Now()); ok {
		t.Error("a text has no course")
	}
	if out := f.Take(Sample{At: 1, Value: 1000, Quality: value.Good}, nil); out != nil {
		t.Error("a sample from before was kept")
	}
}

func TestValuesComeBack(t *testing.T) {
	now := time.Now()
	for _, v := range []value.Value{value.Bool(true), value.Int(value.INT, -7), value.Real(value.LREAL, 1.25),
		value.Bad(value.REAL, value.BadStale)} {
		s, ok := Of(v, now)
		if !ok || !s.Back(v.Kind).Same(v) {
			t.Errorf("%v came back as %v", v, s.Back(v.Kind))
		}
	}
}
