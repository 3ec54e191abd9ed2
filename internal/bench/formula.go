package bench

import (
	"fmt"
	"math"
	"runtime"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/value"
)

// perCall measures how long one call takes: the best of several rounds, as
// everything else on the machine only adds.
func perCall(f func(n int)) time.Duration {
	n := 1000
	for {
		start := time.Now()
		f(n)
		if time.Since(start) > 20*time.Millisecond {
			break
		}
		n *= 2
	}
	best := time.Duration(math.MaxInt64)
	for range 9 {
		start := time.Now()
		f(n)
		best = min(best, time.Since(start))
	}
	return best * 1000 / time.Duration(n) // picoseconds as Duration's unit, see nanos
}

// nanos turns perCall's result into nanoseconds.
func nanos(d time.Duration) float64 { return float64(d) / 1000 }

type cell struct {
	f float64
	b bool
	i int64
}

// formulas compares five expressions with plain Go closures over a slice.
func formulas() ([]Figure, error) {
	names := map[string]int32{"Dry": 0, "Wet": 1, "Mode": 2, "Run": 3, "Fault": 4, "Speed": 5}
	slots := []value.Value{value.Real(value.LREAL, 71.5), value.Real(value.LREAL, 58.5), value.Int(value.INT, 2), value.Bool(true),
		value.Bool(false), value.Real(value.LREAL, 82)}
	cells := []cell{{f: 71.5}, {f: 58.5}, {i: 2}, {b: true}, {b: false}, {f: 82}}
	scope := formula.Scope{
		Tag:  func(id string) (int32, value.Kind, bool) { s, ok := names[id]; return s, slots[s].Kind, ok },
		Path: func(id string) (string, bool) { return id, true },
	}
	resolve := func(p string) (string, bool) { _, ok := names[p]; return p, ok }
	cases := []struct {
		name, text string
		plain      any // a closure that the compiler cannot see through
	}{
		{"sum", "Dry - Wet", func(c []cell) float64 { return c[0].f - c[1].f }},
		{"compare", "Dry > 70 and Run", func(c []cell) bool { return c[0].f > 70 && c[3].b }},
		{"choose", "Mode == 2 ? Speed : 0.0", func(c []cell) float64 {
			if c[2].i == 2 {
				return c[5].f
			}
			return 0
		}},
		{"logic", "Run and not Fault or Dry < 20", func(c []cell) bool { return c[3].b && !c[4].b || c[0].f < 20 }},
		{"count", "number(Run) + number(Fault) + Mode * 2", func(c []cell) int64 {
			n := c[2].i * 2
			if c[3].b {
				n++
			}
			if c[4].b {
				n++
			}
			return n
		}},
	}
	var out []Figure
	worst := 0.0
	for _, c := range cases {
		stored, err := formula.Store(c.text, resolve, nil)
		if err != nil {
			return nil, err
		}
		prog, err := formula.Compile(stored, scope)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", c.text, err)
		}
		frame := &formula.Frame{Slots: slots}
		var last value.Value
		ours := perCall(func(n int) {
			for range n {
				prog.EvalTo(&last, frame)
			}
		})
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		for range 10000 {
			prog.EvalTo(&last, frame)
		}
		runtime.ReadMemStats(&after)
		if last.Quality != value.Good {
			return nil, fmt.Errorf("%s has quality %v", c.text, last.Quality)
		}
		plain := perCall(func(n int) { callPlain(c.plain, cells, n) })
		f := ratio("formula/"+c.name, "ns", nanos(ours), nanos(plain), 6)
		out = append(out, f)
		worst = math.Max(worst, f.Ratio)
		if a := float64(after.Mallocs-before.Mallocs) / 10000; a > 0.01 {
			out = append(out, below("formula/"+c.name+"/allocations", "each", a, 0))
		}
	}
	return append(out, below("formula/worst", "×", worst, 6)), nil
}

// callPlain calls a closure n times and keeps its results, so that no call can
// be left out.
func callPlain(f any, cells []cell, n int) {
	switch f := f.(type) {
	case func([]cell) float64:
		sum := 0.0
		for range n {
			sum += f(cells)
		}
		kept.f = sum
	case func([]cell) bool:
		for range n {
			kept.b = f(cells) != kept.b
		}
	case func([]cell) int64:
		for range n {
			kept.i += f(cells)
		}
	}
}

// kept is where results go.
var kept cell
