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
		var out []value.Value
		for i, f := range c.in {
			v := value.Real(value.LREAL, f)
			if math.IsNaN(f) {
				v = value.Bad(value.LREAL, value.BadConfig)
			}
			out = c.f.Take(v.AtNanos(int64(i+1)*s), out)
		}
		var at []int64
		for _, x := range out {
			at = append(at, x.Nanos()/s)
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

// Every kind changes in its own way, and what nobody moves is kept now and then.
func TestFilterOfEveryKind(t *testing.T) {
	const s = int64(time.Second)
	for name, c := range map[string]struct {
		f    Filter
		in   []value.Value
		want int
	}{
		"a text":               {Filter{}, []value.Value{value.Str("a"), value.Str("a"), value.Str("b"), value.Str("a")}, 3},
		"a BOOL":               {Filter{}, []value.Value{value.Bool(false), value.Bool(false), value.Bool(true)}, 3}, // with its foot
		"a large whole number": {Filter{}, []value.Value{value.Int(value.LINT, 1<<60), value.Int(value.LINT, 1<<60+1)}, 2},
		"another kind":         {Filter{Band: 9}, []value.Value{value.Int(value.INT, 1), value.Real(value.REAL, 1)}, 2},
	} {
		var out []value.Value
		for i, v := range c.in {
			out = c.f.Take(v.AtNanos(int64(i+1)*s), out)
		}
		if len(out) != c.want {
			t.Errorf("%s: kept %v", name, out)
		}
	}
	f := Filter{Every: 10 * time.Second}
	if out := f.Due(s, nil); out != nil {
		t.Error("kept before anything came")
	}
	f.Take(value.Bool(true).AtNanos(s), nil)
	if out := f.Due(10*s, nil); out != nil {
		t.Error("kept too early")
	}
	if out := f.Due(11*s, nil); len(out) != 1 || out[0].Nanos() != 11*s || !out[0].Bool() {
		t.Errorf("kept %v", out)
	}
}

// What is kept tells the course to within the band at every time that was seen.
func TestKeptSamplesTellTheCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	f := Filter{Band: 0.5}
	var seen, kept []value.Value
	v := 20.0
	for i := range 5000 {
		v += r.NormFloat64() * 0.2
		if r.IntN(200) == 0 {
			v += 15
		}
		x := value.Real(value.LREAL, v).AtNanos(int64(i + 1))
		seen = append(seen, x)
		kept = f.Take(x, kept)
	}
	if len(kept) >= len(seen) {
		t.Errorf("%d of %d kept", len(kept), len(seen))
	}
	at := 0
	for _, x := range seen {
		for at+1 < len(kept) && kept[at+1].Nanos() <= x.Nanos() {
			at++
		}
		if d := math.Abs(kept[at].Float() - x.Float()); d > 0.5 {
			t.Fatalf("at %d it is off by %v", x.Nanos(), d)
		}
	}
	if out := f.Take(value.Real(value.LREAL, 1000).AtNanos(f.Last()), nil); out != nil {
		t.Error("a second sample of the same time was kept")
	}
	if out := f.Take(value.Real(value.LREAL, 1000).AtNanos(1), nil); len(out) != 1 || f.Last() != 1 {
		t.Errorf("after the clock was stepped back: %v, at %d", out, f.Last())
	}
}

func TestValuesComeBack(t *testing.T) {
	for _, v := range []value.Value{value.Bool(true), value.Int(value.INT, -7), value.Real(value.LREAL, 1.25),
		value.Bad(value.REAL, value.BadStale)} {
		c := Column{Kind: v.Kind}
		c.Append(1, v)
		if s := c.Sample(0); !s.Back(v.Kind).Same(v) {
			t.Errorf("%v came back as %v", v, s.Back(v.Kind))
		}
	}
}
