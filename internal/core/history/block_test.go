package history

import (
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"testing"

	"readyrail/internal/core/value"
)

const second = int64(1e9)

// random is a course of a kind as devices have them: n samples, some of them bad.
func random(r *rand.Rand, k value.Kind, n int, bad float64) *Column {
	c := &Column{Kind: k}
	at, f := 1_700_000_000*second, r.Float64()*100
	step := []int64{second, 1e6, 1e5, 1}[r.IntN(4)]
	for range n {
		at += (1 + r.Int64N(5)) * step
		f += r.NormFloat64()
		var v value.Value
		switch {
		case r.Float64() < bad:
			v = value.Bad(k, []value.Quality{value.BadNoAnswer, value.BadGone}[r.IntN(2)])
		case k == value.STRING:
			v = value.Str(fmt.Sprintf("L-%d", r.IntN(9)))
		case k == value.BOOL:
			v = value.Bool(r.IntN(2) == 1)
		case k.IsReal():
			v = value.Real(k, f)
		default:
			low, high := k.IntRange()
			v = value.Int(k, low+int64(r.Uint64N(uint64(high)-uint64(low))))
		}
		c.Append(at, v)
	}
	return c
}

func same(a, b *Column) error {
	if a.Kind != b.Kind || !reflect.DeepEqual(a.At, b.At) || !reflect.DeepEqual(a.Qualities, b.Qualities) {
		return fmt.Errorf("times or qualities differ")
	}
	for i := range a.At {
		if !a.Value(i).Same(b.Value(i)) {
			return fmt.Errorf("sample %d is %v, not %v", i, b.Value(i), a.Value(i))
		}
	}
	return nil
}

// Whatever is stored comes back, of every kind and at every length of a frame.
func TestABlockComesBack(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	var coder Coder
	for _, k := range storedKinds[1:] {
		for _, n := range []int{1, 2, 127, 128, 129, 130, 1024, MaxBlock} {
			c := random(r, k, n, []float64{0, 0, 0.1, 1}[r.IntN(4)])
			data := coder.Encode(nil, c)
			var back Column
			if err := coder.Decode(data, &back); err != nil {
				t.Fatalf("%v × %d: %v", k, n, err)
			}
			if err := same(c, &back); err != nil {
				t.Errorf("%v × %d: %v", k, n, err)
			}
		}
	}
}

// The ends of the numbers come back too, and what is no number.
func TestTheEndsOfNumbersComeBack(t *testing.T) {
	var coder Coder
	for k, list := range map[value.Kind][]uint64{
		value.LREAL: {0, math.Float64bits(math.Copysign(0, -1)), math.Float64bits(math.MaxFloat64), math.Float64bits(-math.MaxFloat64),
			math.Float64bits(math.SmallestNonzeroFloat64), math.Float64bits(math.Inf(1)), math.Float64bits(math.Inf(-1)), math.Float64bits(0.1),
			math.Float64bits(1e15)},
		value.REAL: {0, math.Float64bits(float64(float32(0.1))), math.Float64bits(-math.MaxFloat32), math.Float64bits(math.Copysign(0, -1))},
		value.LINT: {0, math.MaxUint64, 1 << 63, 1<<63 - 1, 1, 1 << 63}, value.ULINT: {math.MaxUint64, 0, math.MaxUint64},
	} {
		c := &Column{Kind: k}
		for i, b := range list {
			var v value.Value
			v.Put(k, value.Good, b)
			c.Append(int64(i)-3, v)
		}
		var back Column
		if err := coder.Decode(coder.Encode(nil, c), &back); err != nil {
			t.Fatal(k, err)
		}
		if err := same(c, &back); err != nil {
			t.Errorf("%v: %v", k, err)
		}
	}
}

// A block takes what it may: bytes a sample, for courses as plants have them.
func TestSizesOfBlocks(t *testing.T) {
	const n = 1024
	r := rand.New(rand.NewPCG(3, 4))
	jitter := func(i int) int64 { return int64(i)*second + r.Int64N(20)*1e6 }
	walk := 60.0
	for _, c := range []struct {
		name string
		kind value.Kind
		at   func(i int) int64
		v    func(i int) value.Value
		most float64
	}{
		{"one decimal at milliseconds", value.LREAL, jitter,
			func(int) value.Value {
				walk += r.NormFloat64() * 0.3
				return value.Real(value.LREAL, math.Round(walk*10)/10)
			}, 2},
		{"REAL", value.REAL, jitter, func(int) value.Value { walk += r.NormFloat64() * 0.02; return value.Real(value.REAL, walk) }, 3},
		{"LREAL with full noise", value.LREAL, jitter,
			func(int) value.Value { walk += r.NormFloat64() * 0.02; return value.Real(value.LREAL, walk) }, 7},
		{"edges of a BOOL", value.BOOL, func(i int) int64 { return int64(i)*300*second + r.Int64N(100_000)*1e6 },
			func(i int) value.Value { return value.Bool(i%2 == 1) }, 5},
	} {
		col := &Column{Kind: c.kind}
		for i := range n {
			col.Append(c.at(i), c.v(i))
		}
		var coder Coder
		if got := float64(len(coder.Encode(nil, col))) / n; got > c.most {
			t.Errorf("%s: %.2f bytes a sample, more than %v", c.name, got, c.most)
		} else {
			t.Logf("%s: %.2f bytes a sample", c.name, got)
		}
	}
}

// What is damaged is refused or read as something, and never ends the program.
func FuzzDecode(f *testing.F) {
	r := rand.New(rand.NewPCG(5, 6))
	var coder Coder
	for _, k := range storedKinds[1:] {
		f.Add(coder.Encode(nil, random(r, k, 200, 0.1)))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		var c Column
		if coder.Decode(data, &c) != nil {
			if c.Len() > 0 {
				t.Error("a refused block left samples")
			}
			return
		}
		for i := range c.At {
			c.Value(i)
		}
		_, _ = DecodeBuckets(data)
	})
}

// Cut at each place, and with each byte turned over: the same.
func TestADamagedBlockIsRefused(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	var coder Coder
	for _, k := range storedKinds[1:] {
		data := coder.Encode(nil, random(r, k, 150, 0.05))
		for i := range data {
			var c Column
			if err := coder.Decode(data[:i], &c); err == nil && i < len(data)-8 {
				t.Errorf("%v: cut at %d of %d it is taken", k, i, len(data))
			}
			turned := append([]byte{}, data...)
			turned[i] ^= 0xff
			var other Column
			_ = coder.Decode(turned, &other)
		}
	}
}

func TestColumnsMergeByTime(t *testing.T) {
	col := func(pairs ...int64) *Column {
		c := &Column{Kind: value.DINT}
		for i := 0; i < len(pairs); i += 2 {
			c.Append(pairs[i], value.Int(value.DINT, pairs[i+1]))
		}
		return c
	}
	for name, c := range map[string]struct{ a, b, want *Column }{
		"one after the other": {col(1, 10, 2, 20), col(3, 30), col(1, 10, 2, 20, 3, 30)},
		"a late one":          {col(1, 10, 4, 40), col(2, 20), col(1, 10, 2, 20, 4, 40)},
		"the same time":       {col(1, 10, 2, 20), col(2, 21, 3, 30), col(1, 10, 2, 21, 3, 30)},
		"nothing before":      {col(), col(1, 10), col(1, 10)},
		"nothing after":       {col(1, 10), col(), col(1, 10)},
	} {
		if got := Merge(c.a, c.b); same(c.want, &got) != nil {
			t.Errorf("%s: %v %v", name, got.At, got.Bits)
		}
	}
}

func BenchmarkEncode(b *testing.B) { benchmarkBlocks(b, true) }
func BenchmarkDecode(b *testing.B) { benchmarkBlocks(b, false) }

func benchmarkBlocks(b *testing.B, encode bool) {
	r := rand.New(rand.NewPCG(9, 9))
	c := &Column{Kind: value.REAL}
	walk := 50.0
	for i := range 1024 {
		walk += r.NormFloat64() * 0.02
		c.Append(int64(i)*second+r.Int64N(20)*1e6, value.Real(value.REAL, walk))
	}
	var coder Coder
	data := coder.Encode(nil, c)
	var back Column
	for b.Loop() {
		if encode {
			data = coder.Encode(data[:0], c)
		} else {
			back.Reset(c.Kind)
			if err := coder.Decode(data, &back); err != nil {
				b.Fatal(err)
			}
		}
	}
	b.ReportMetric(1024*float64(b.N)/b.Elapsed().Seconds()/1e6, "Msamples/s")
}
