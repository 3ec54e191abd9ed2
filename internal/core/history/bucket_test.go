package history

import (
	"math"
	"math/rand/v2"
	"testing"

	"readyrail/internal/core/value"
)

// numbers is a course of LREAL: pairs of seconds and values; NaN is bad.
func numbers(pairs ...float64) *Column {
	c := &Column{Kind: value.LREAL}
	for i := 0; i < len(pairs); i += 2 {
		v := value.Real(value.LREAL, pairs[i+1])
		if math.IsNaN(pairs[i+1]) {
			v = value.Bad(value.LREAL, value.BadNoAnswer)
		}
		c.Append(int64(pairs[i]*1e9), v)
	}
	return c
}

var bad = math.NaN()

// By hand, with the stepped values of Part 13: each holds until the next.
func TestBucketsByHand(t *testing.T) {
	type want struct{ from, count, known, good, least, most, first, last, mean float64 }
	for _, c := range []struct {
		name  string
		carry float64 // holds from second 0 on; NaN for nothing known
		in    *Column
		until float64
		want  []want
	}{
		{"one value holds", bad, numbers(2, 5), 20, []want{{0, 1, 8, 8, 5, 5, 5, 5, 5}, {10, 0, 10, 10, 5, 5, 5, 5, 5}}},
		{"a step in the middle", 0, numbers(5, 10), 10, []want{{0, 1, 10, 10, 0, 10, 0, 10, 5}}},
		{"on the boundary it belongs to the later", 4, numbers(10, 8), 20, []want{{0, 0, 10, 10, 4, 4, 4, 4, 4}, {10, 1, 10, 10, 8, 8, 8, 8, 8}}},
		{"a bad stretch does not count", 2, numbers(4, bad, 8, 6), 10, []want{{0, 1, 10, 6, 2, 6, 2, 6, 20. / 6}}},
		{"bad all through", bad, numbers(0, bad), 10, []want{{0, 0, 10, 0, bad, bad, bad, bad, bad}}},
		{"a peak of no length", 1, numbers(3, 9, 3.5, 1), 10, []want{{0, 2, 10, 10, 1, 9, 1, 1, (3*1 + .5*9 + 6.5*1) / 10}}},
		{"before 1970", bad, numbers(-15, 3), -5, []want{{-20, 1, 5, 5, 3, 3, 3, 3, 3}, {-10, 0, 5, 5, 3, 3, 3, 3, 3}}},
	} {
		f := Folder{Width: 10 * second}
		if !math.IsNaN(c.carry) {
			f.Begin(0, c.carry, true)
		}
		f.Add(c.in)
		f.Until(int64(c.until * 1e9))
		got := f.Take()
		if len(got) != len(c.want) {
			t.Errorf("%s: %d buckets, not %d", c.name, len(got), len(c.want))
			continue
		}
		for i, b := range got {
			w := c.want[i]
			for what, pair := range map[string][2]float64{"from": {float64(b.From) / 1e9, w.from}, "count": {float64(b.Count), w.count},
				"known": {float64(b.Known) / 1e9, w.known}, "good": {float64(b.Good) / 1e9, w.good}, "least": {b.Least, w.least},
				"most": {b.Most, w.most}, "first": {b.First, w.first}, "last": {b.Last, w.last}, "mean": {b.Mean(), w.mean}} {
				if !near(pair[0], pair[1]) {
					t.Errorf("%s, bucket %d: %s is %v, not %v", c.name, i, what, pair[0], pair[1])
				}
			}
		}
	}
}

func near(a, b float64) bool {
	return math.IsNaN(a) && math.IsNaN(b) || math.Abs(a-b) <= 1e-9*(1+math.Abs(b))
}

// However a course is cut into columns, and whether it is folded at once or
// widened from narrower buckets: the same, as computed from each sample.
func TestBucketsOfRandomCourses(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	for range 200 {
		c := random(r, []value.Kind{value.LREAL, value.BOOL, value.INT}[r.IntN(3)], 1+r.IntN(600), 0.05)
		for i := range c.At {
			c.At[i] = c.At[0] + (c.At[i]-c.At[0])*3
		}
		end := c.At[c.Len()-1] + r.Int64N(100*second)
		fold := func(width int64, cuts int) []Bucket {
			f := Folder{Width: width}
			for from := 0; from < c.Len(); {
				to := c.Len()
				if cuts > 0 {
					to = min(to, from+1+r.IntN(cuts))
				}
				part := c.Slice(from, to)
				f.Add(&part)
				from = to
			}
			f.Until(end)
			return f.Take()
		}
		whole := fold(60*second, 0)
		for name, other := range map[string][]Bucket{"cut": fold(60*second, 7), "widened": Widen(fold(10*second, 0), 60*second)} {
			alike(t, name, other, whole)
		}
		direct(t, c, end, whole)
		back, err := DecodeBuckets(EncodeBuckets(nil, 60*second, whole))
		if err != nil {
			t.Fatal(err)
		}
		alike(t, "stored", back, whole)
		if t.Failed() {
			return
		}
	}
}

func alike(t *testing.T, name string, got, want []Bucket) {
	t.Helper()
	if len(got) != len(want) {
		t.Errorf("%s: %d buckets, not %d", name, len(got), len(want))
		return
	}
	for i := range got {
		a, b := got[i], want[i]
		if a.From != b.From || a.Count != b.Count || a.Known != b.Known || a.Good != b.Good || !near(a.Least, b.Least) || !near(a.Most, b.Most) ||
			!near(a.First, b.First) || !near(a.Last, b.Last) || !near(a.Sum, b.Sum) {
			t.Errorf("%s: bucket %d is %+v, not %+v", name, i, a, b)
		}
	}
}

// direct computes each bucket of the raw samples alone.
func direct(t *testing.T, c *Column, end int64, list []Bucket) {
	t.Helper()
	for _, b := range list {
		var count, good int64
		least, most, sum := math.Inf(1), math.Inf(-1), 0.0
		for i := range c.At {
			s, to := c.Sample(i), end
			if i+1 < c.Len() {
				to = c.At[i+1]
			}
			from := max(s.At, b.From)
			to = min(to, b.From+60*second)
			inside := s.At >= b.From && s.At < b.From+60*second
			if s.Quality.IsBad() || !inside && to <= from {
				continue
			}
			if inside {
				count++
			}
			least, most = min(least, s.Value), max(most, s.Value)
			if to > from {
				good += to - from
				sum += s.Value * float64(to-from) / 1e9
			}
		}
		if count != b.Count || good != b.Good || !near(sum, b.Sum) || !math.IsInf(least, 0) && (!near(least, b.Least) || !near(most, b.Most)) {
			t.Errorf("bucket %d: %+v; counted %d, good %d, sum %v, %v to %v", b.From, b, count, good, sum, least, most)
		}
	}
}
