package history

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
)

func TestEdgesArePaired(t *testing.T) {
	for _, c := range []struct {
		first, second []int64
		end           int64
		pairs         string
		without       string
	}{
		{nil, nil, 100, "[]", "[]"},
		{[]int64{10, 50}, []int64{17, 58}, 100, "[{10 7} {50 8}]", "[]"},
		{[]int64{10}, []int64{10}, 100, "[{10 0}]", "[]"},
		{[]int64{10, 50}, []int64{5, 58}, 100, "[{50 8}]", "[10]"},           // what came before answers nothing
		{[]int64{10, 50}, []int64{17, 20, 58}, 100, "[{10 7} {50 8}]", "[]"}, // the first of two
		{[]int64{10, 20, 30}, []int64{31}, 100, "[{30 1}]", "[10 20]"},
		{[]int64{10}, []int64{100}, 100, "[]", "[10]"}, // beyond the end
		{[]int64{10, 50}, []int64{50}, 100, "[{50 0}]", "[10]"},
	} {
		pairs, without := PairEdges(c.first, c.second, c.end)
		if fmt.Sprint(pairs) != c.pairs || fmt.Sprint(without) != c.without {
			t.Errorf("%v and %v: %v, without %v", c.first, c.second, pairs, without)
		}
	}
}

func TestSpread(t *testing.T) {
	if s := SpreadOf([]float64{2, 4, 4, 4, 5, 5, 7, 9}); s != (Spread{8, 2, 9, 5, 2, 4.5}) {
		t.Errorf("%+v", s)
	}
	if s := SpreadOf(nil); s.Count != 0 || !math.IsNaN(s.Mean) || !math.IsNaN(s.Median) {
		t.Errorf("%+v", s)
	}
}

func TestBinsHoldEverything(t *testing.T) {
	from, width, counts := Bins([]float64{1, 1.5, 4, 9}, 10)
	if from != 1 || width != 1 || fmt.Sprint(counts) != "[2 0 0 1 0 0 0 0 1]" {
		t.Error(from, width, counts)
	}
	if _, width, counts := Bins([]float64{3, 3}, 10); width != 1 || fmt.Sprint(counts) != "[2]" {
		t.Error(width, counts)
	}
	random := rand.New(rand.NewPCG(1, 2))
	for range 500 {
		list := make([]float64, 1+random.IntN(50))
		scale := math.Pow(10, float64(random.IntN(9)-4))
		for i := range list {
			list[i] = random.NormFloat64() * scale
		}
		from, width, counts := Bins(list, 20)
		sum := 0
		for _, n := range counts {
			sum += n
		}
		for _, v := range list {
			if v < from || v > from+width*float64(len(counts))*(1+1e-9) {
				t.Fatalf("%v lies outside %v + %d × %v", v, from, len(counts), width)
			}
		}
		if sum != len(list) || len(counts) > 22 {
			t.Fatalf("%d of %d in %d parts", sum, len(list), len(counts))
		}
	}
}

func TestStretches(t *testing.T) {
	for _, c := range []struct {
		least int64
		steps string // a sign a moment: + so, - not, blank unchanged
		want  string
	}{
		{0, "", "[]"},
		{0, "- + -", "[{2 4}]"},
		{0, "+  -  +", "[{0 3} {6 7}]"}, // what holds at the end ends there
		{3, "+ - +   -", "[{4 8}]"},
		{0, "++-+-", "[{0 2} {3 4}]"},
	} {
		found := []Span{}
		s := Stretches{Least: c.least, Found: func(x Span) bool { found = append(found, x); return true }}
		for i, sign := range c.steps {
			if sign != ' ' {
				s.Step(int64(i), sign == '+')
			}
		}
		s.Until(int64(len(c.steps)))
		if fmt.Sprint(found) != c.want {
			t.Errorf("%q: %v", c.steps, found)
		}
	}
	n := 0
	s := Stretches{Found: func(Span) bool { n++; return n < 2 }}
	for i := range int64(10) {
		s.Step(i, i%2 == 0)
	}
	s.Until(10)
	if n != 2 {
		t.Errorf("%d found where two were wanted", n)
	}
}
