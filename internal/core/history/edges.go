package history

import "math"

// Pair is an edge of one signal and the first of another that answered it.
type Pair struct {
	At   int64 // of the first, nanoseconds since 1970
	Took int64 // until the second
}

// PairEdges gives each edge of the first signal the first of the second at or
// after it and before the first's next one. Both are in order of time; without
// are those that nothing answered. The last edge has until end.
func PairEdges(first, second []int64, end int64) (pairs []Pair, without []int64) {
	n := 0
	for i, at := range first {
		until := end
		if i+1 < len(first) {
			until = first[i+1]
		}
		for n < len(second) && second[n] < at {
			n++
		}
		if n < len(second) && second[n] < until {
			pairs = append(pairs, Pair{at, second[n] - at})
			n++
			continue
		}
		without = append(without, at)
	}
	return pairs, without
}

// Spread is how numbers lie; all are NaN where there are none.
type Spread struct {
	Count       int
	Least, Most float64
	Mean        float64
	Deviation   float64 // of the whole population
	Median      float64
}

// SpreadOf measures sorted numbers.
func SpreadOf(sorted []float64) Spread {
	n := len(sorted)
	if n == 0 {
		nan := math.NaN()
		return Spread{0, nan, nan, nan, nan, nan}
	}
	s := Spread{Count: n, Least: sorted[0], Most: sorted[n-1], Median: (sorted[(n-1)/2] + sorted[n/2]) / 2}
	for _, v := range sorted {
		s.Mean += v / float64(n)
	}
	for _, v := range sorted {
		s.Deviation += (v - s.Mean) * (v - s.Mean) / float64(n)
	}
	s.Deviation = math.Sqrt(s.Deviation)
	return s
}

// Bins counts numbers in parts of equal width from the least to the most, whose
// ends are round: a part is 1, 2 or 5 times a power of ten wide.
func Bins(list []float64, most int) (from, width float64, counts []int) {
	if len(list) == 0 {
		return 0, 1, nil
	}
	low, high := list[0], list[0]
	for _, v := range list {
		low, high = min(low, v), max(high, v)
	}
	width = round((high - low) / float64(max(1, most-1)))
	from = math.Floor(low/width) * width
	counts = make([]int, int((high-from)/width)+1)
	for _, v := range list {
		counts[min(len(counts)-1, int((v-from)/width))]++
	}
	return from, width, counts
}

// round is the next of 1, 2 and 5 times a power of ten.
func round(w float64) float64 {
	if !(w > 0) {
		return 1
	}
	power := math.Pow(10, math.Floor(math.Log10(w)))
	for _, m := range []float64{1, 2, 5} {
		if w <= m*power*(1+1e-9) {
			return m * power
		}
	}
	return 10 * power
}
