package history

import (
	"slices"
	"sort"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Column is a stretch of a tag's samples, oldest first, each at a time of its
// own. A sample holds until the next one.
type Column struct {
	Kind value.Kind
	At   []int64 // nanoseconds since 1970, UTC
	// Bits are those of value.Value; of a STRING they are the place of its text in
	// Texts.
	Bits      []uint64
	Qualities []value.Quality
	Texts     []string
}

// errDamaged says that stored bytes are not what was stored.
var errDamaged = say.New("what is stored of a tag's course is damaged")

// Len is the number of samples.
func (c *Column) Len() int { return len(c.At) }

// Append adds a value at a time that is later than the last.
func (c *Column) Append(at int64, v value.Value) {
	bits := v.Bits()
	switch {
	case v.Quality.IsBad():
		bits = 0
	case c.Kind == value.STRING:
		bits = c.text(v.Str())
	}
	c.At, c.Bits, c.Qualities = append(c.At, at), append(c.Bits, bits), append(c.Qualities, v.Quality)
}

// text is the place of a text among those of the column.
func (c *Column) text(s string) uint64 {
	for i := len(c.Texts) - 1; i >= 0; i-- {
		if c.Texts[i] == s {
			return uint64(i)
		}
	}
	c.Texts = append(c.Texts, s)
	return uint64(len(c.Texts) - 1)
}

// Value is sample i, with its time.
func (c *Column) Value(i int) value.Value {
	var v value.Value
	q := c.Qualities[i]
	switch {
	case c.Kind != value.STRING:
		v.Put(c.Kind, q, c.Bits[i])
	case q.IsBad():
		v.PutText(q, "")
	default:
		v.PutText(q, c.Texts[c.Bits[i]])
	}
	v.PutNanos(c.At[i])
	return v
}

// Sample is sample i as a number; of a text, its place alone.
func (c *Column) Sample(i int) Sample {
	s := Sample{At: c.At[i], Quality: c.Qualities[i]}
	if !s.Quality.IsBad() {
		s.Value = c.float(i)
	}
	return s
}

func (c *Column) float(i int) float64 {
	var v value.Value
	v.Put(c.Kind, value.Good, c.Bits[i])
	return v.Float()
}

// Reset empties the column and keeps its room.
func (c *Column) Reset(k value.Kind) {
	c.Kind, c.At, c.Bits, c.Qualities, c.Texts = k, c.At[:0], c.Bits[:0], c.Qualities[:0], nil
}

// Slice is samples [from, to), on the same room.
func (c *Column) Slice(from, to int) Column {
	return Column{c.Kind, c.At[from:to], c.Bits[from:to], c.Qualities[from:to], c.Texts}
}

// Copy is what lies from one sample up to another, with memory of its own.
func (c *Column) Copy(from, to int) Column {
	return Column{Kind: c.Kind, At: slices.Clone(c.At[from:to]), Bits: slices.Clone(c.Bits[from:to]),
		Qualities: slices.Clone(c.Qualities[from:to]), Texts: slices.Clone(c.Texts)}
}

// Add appends samples [from, to) of another column of the kind.
func (c *Column) Add(o *Column, from, to int) {
	if c.Kind == value.STRING {
		for i := from; i < to; i++ {
			c.Append(o.At[i], o.Value(i))
		}
		return
	}
	c.At, c.Bits, c.Qualities = append(c.At, o.At[from:to]...), append(c.Bits, o.Bits[from:to]...),
		append(c.Qualities, o.Qualities[from:to]...)
}

// After is the place of the first sample that is later than a time.
func (c *Column) After(at int64) int {
	return sort.Search(len(c.At), func(i int) bool { return c.At[i] > at })
}

// Merge puts two columns of a kind together by time; of two samples of one time
// that of b counts.
func Merge(a, b *Column) Column {
	if a.Len() == 0 || b.Len() == 0 || a.At[a.Len()-1] < b.At[0] {
		out := Column{Kind: b.Kind}
		if a.Len() > 0 {
			out.Kind = a.Kind
		}
		out.Add(a, 0, a.Len())
		out.Add(b, 0, b.Len())
		return out
	}
	out := Column{Kind: a.Kind}
	i, j := 0, 0
	for i < a.Len() || j < b.Len() {
		switch {
		case j == b.Len() || i < a.Len() && a.At[i] < b.At[j]:
			out.Add(a, i, i+1)
			i++
		default:
			if i < a.Len() && a.At[i] == b.At[j] {
				i++
			}
			out.Add(b, j, j+1)
			j++
		}
	}
	return out
}
