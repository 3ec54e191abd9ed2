package history

import (
	"encoding/binary"
	"math"

	"readyrail/internal/core/value"
)

// Bucket is what a tag did in a stretch of time. Values are stepped: each holds
// until the next one (OPC UA Part 13, 5.4.3.3: Stepped). Uncertain values count
// as good ones.
type Bucket struct {
	From int64 // nanoseconds since 1970, UTC
	// Count is the number of good samples within (Part 13, 5.4.3.12: Count).
	Count int64
	// Known and Good are how long of it anything is known, and how long it is good
	// (DurationGood), in nanoseconds.
	Known, Good int64
	// Least, Most, First and Last are of the good values that held within,
	// carried-in ones too (Minimum2, Maximum2); NaN where there is none.
	Least, Most, First, Last float64
	// Sum is the integral of the good values over time, in units times seconds
	// (Total2); Sum by Good in seconds is the time-weighted mean (TimeAverage2).
	Sum float64
}

// Mean is the time-weighted mean of the good values; NaN where there is none.
func (b *Bucket) Mean() float64 {
	if b.Good == 0 {
		return b.Last
	}
	return b.Sum / (float64(b.Good) / 1e9)
}

func empty(from int64) Bucket {
	none := math.NaN()
	return Bucket{From: from, Least: none, Most: none, First: none, Last: none}
}

// Join adds what came right after, or a part of the same stretch.
func (b *Bucket) Join(next *Bucket) {
	b.Count, b.Known, b.Good, b.Sum = b.Count+next.Count, b.Known+next.Known, b.Good+next.Good, b.Sum+next.Sum
	if math.IsNaN(next.Last) {
		return
	}
	if math.IsNaN(b.Last) {
		b.Least, b.Most, b.First, b.Last = next.Least, next.Most, next.First, next.Last
		return
	}
	b.Least, b.Most, b.Last = min(b.Least, next.Least), max(b.Most, next.Most), next.Last
}

// hold adds a value that holds for a time; good tells whether it counts.
func (b *Bucket) hold(v float64, good bool, long int64) {
	b.Known += long
	if !good {
		return
	}
	b.Good += long
	b.Sum += v * (float64(long) / 1e9)
	if math.IsNaN(b.Last) {
		b.Least, b.Most, b.First = v, v, v
	}
	b.Least, b.Most, b.Last = min(b.Least, v), max(b.Most, v), v
}

// Folder folds a course into buckets of one width that lie on whole multiples of
// it since 1970. It is fed the samples in their order, of one column after
// another, and gives each bucket once.
type Folder struct {
	Width int64 // nanoseconds
	out   []Bucket
	begun bool
	at    int64 // up to which it is folded
	value float64
	good  bool
}

// Begin says what holds from a time on; the course begins there.
func (f *Folder) Begin(at int64, v float64, good bool) {
	f.begun, f.at, f.value, f.good = true, at, v, good
}

// Cut says that nothing is known from the last sample on.
func (f *Folder) Cut() { f.begun = false }

// Add folds the samples of a column in.
func (f *Folder) Add(c *Column) {
	for i, at := range c.At {
		s := c.Sample(i)
		good := !s.Quality.IsBad() && c.Kind != value.STRING
		f.Until(at)
		f.begun, f.at, f.value, f.good = true, at, s.Value, good
		b := f.bucket(at)
		if good {
			b.Count++
		}
		b.hold(f.value, good, 0)
	}
}

// Until folds what holds in up to a time.
func (f *Folder) Until(at int64) {
	for f.begun && f.at < at {
		b := f.bucket(f.at)
		end := min(at, b.From+f.Width)
		b.hold(f.value, f.good, end-f.at)
		f.at = end
	}
}

// bucket is the one that a time lies in; times only rise.
func (f *Folder) bucket(at int64) *Bucket {
	from := Floor(at, f.Width)
	if n := len(f.out); n > 0 && f.out[n-1].From == from {
		return &f.out[n-1]
	}
	f.out = append(f.out, empty(from))
	return &f.out[len(f.out)-1]
}

// Floor is the newest whole multiple of a width since 1970 that is not after a
// time.
func Floor(at, width int64) int64 { return at - (at%width+width)%width }

// Take gives what is folded, and begins a new list; what holds holds on.
func (f *Folder) Take() []Bucket {
	out := f.out
	f.out = nil
	return out
}

// Widen joins buckets, in their order, into ones of a width that theirs divides.
func Widen(list []Bucket, width int64) []Bucket {
	var out []Bucket
	for i := range list {
		from := Floor(list[i].From, width)
		if n := len(out); n == 0 || out[n-1].From != from {
			out = append(out, empty(from))
		}
		out[len(out)-1].Join(&list[i])
	}
	return out
}

// Buckets are stored in columns: a number of them, their width, the first one's
// time and the steps from each to the next, then one column after another. Real
// numbers are stored as the bits of 64, packed as differences of ordered ones.

// EncodeBuckets appends buckets of a width.
func EncodeBuckets(out []byte, width int64, list []Bucket) []byte {
	out = binary.AppendUvarint(out, uint64(len(list)))
	if len(list) == 0 {
		return out
	}
	out = binary.AppendVarint(binary.AppendUvarint(out, uint64(width)), list[0].From)
	numbers := make([]uint64, len(list))
	column := func(of func(i int) uint64) {
		for i := range list {
			numbers[i] = of(i)
		}
		out = Pack(out, numbers)
	}
	column(func(i int) uint64 {
		if i == 0 {
			return 0
		}
		return uint64((list[i].From - list[i-1].From) / width)
	})
	column(func(i int) uint64 { return uint64(list[i].Count) })
	column(func(i int) uint64 { return uint64(width - min(width, list[i].Known)) })
	column(func(i int) uint64 { return uint64(list[i].Known - list[i].Good) })
	for _, of := range bucketReals {
		before := uint64(0)
		column(func(i int) uint64 {
			o := ordered(value.LREAL, math.Float64bits(*of(&list[i])))
			z := zigzag(o - before)
			before = o
			return z
		})
	}
	return out
}

var bucketReals = []func(*Bucket) *float64{
	func(b *Bucket) *float64 { return &b.Least }, func(b *Bucket) *float64 { return &b.Most }, func(b *Bucket) *float64 { return &b.First },
	func(b *Bucket) *float64 { return &b.Last }, func(b *Bucket) *float64 { return &b.Sum },
}

// mostBuckets bounds what is believed of a stored number of buckets.
const mostBuckets = 100_000

// DecodeBuckets reads what EncodeBuckets made.
func DecodeBuckets(in []byte) ([]Bucket, error) {
	count, size := binary.Uvarint(in)
	if size <= 0 || count > mostBuckets {
		return nil, errDamaged
	}
	if count == 0 {
		return nil, nil
	}
	in = in[size:]
	wide, size := binary.Uvarint(in)
	if size <= 0 || wide == 0 {
		return nil, errDamaged
	}
	in = in[size:]
	from, size := binary.Varint(in)
	if size <= 0 {
		return nil, errDamaged
	}
	in = in[size:]
	width, list, numbers := int64(wide), make([]Bucket, count), make([]uint64, count)
	var err error
	column := func(do func(i int, v uint64)) {
		if err == nil {
			if in, err = Unpack(in, numbers); err == nil {
				for i, v := range numbers {
					do(i, v)
				}
			}
		}
	}
	column(func(i int, v uint64) { from += int64(v) * width; list[i].From = from })
	column(func(i int, v uint64) { list[i].Count = int64(v) })
	column(func(i int, v uint64) { list[i].Known = width - int64(v) })
	column(func(i int, v uint64) { list[i].Good = list[i].Known - int64(v) })
	for _, of := range bucketReals {
		before := uint64(0)
		column(func(i int, z uint64) {
			before += unzigzag(z)
			*of(&list[i]) = math.Float64frombits(unordered(value.LREAL, before))
		})
	}
	return list, err
}
