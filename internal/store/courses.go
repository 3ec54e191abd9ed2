package store

import (
	"context"
	"math"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// view is what is kept of a tag beside its blocks, at a moment.
type view struct {
	tail  []history.Column
	until int64 // what begins later is in the tail
	held  held
	known bool
	alive int64
}

func (s *Samples) view(id string, to int64) view {
	s.mu.RLock()
	defer s.mu.RUnlock()
	v := view{alive: s.alive, until: s.looked - 1}
	t := s.tails[id]
	if t == nil {
		return v
	}
	if t.until > 0 {
		v.until = t.until
	}
	v.held, v.known = t.held, t.known
	for _, c := range t.columns() {
		if n := c.After(to - 1); n > 0 {
			v.tail = append(v.tail, part(&c, 0, n))
		}
	}
	return v
}

// Each hands over the course of a tag in [from, to) in columns, oldest first,
// with the sample that held at from before them where there is one. A column is
// good until do returns.
func (s *Samples) Each(ctx context.Context, id string, from, to int64, do func(*history.Column) error) error {
	v := s.view(id, to)
	begin, err := s.months.begin(ctx, id, from)
	if err != nil {
		return err
	}
	var before *history.Column // what held at from
	begun, handed := false, int64(math.MinInt64)
	hand := func(c *history.Column) error {
		// Where late samples come between while this reads, some may be read again.
		low, high := max(c.After(from-1), c.After(handed)), c.After(to-1)
		if low > 0 && !begun {
			last := part(c, low-1, low)
			before = &last
		}
		if low >= high {
			return nil
		}
		handed = c.At[high-1]
		if !begun && before != nil && c.At[low] > from {
			if err := do(before); err != nil {
				return err
			}
		}
		begun = true
		within := c.Slice(low, high)
		return do(&within)
	}
	var coder history.Coder
	var column history.Column
	err = s.months.each(ctx, id, begin, min(to, v.until+1), false, func(b stored) error {
		column.Reset(value.None)
		if err := coder.Decode(b.Data, &column); err != nil {
			return err
		}
		return hand(&column)
	})
	for i := range v.tail {
		if err == nil {
			err = hand(&v.tail[i])
		}
	}
	if err == nil && !begun && before != nil {
		err = do(before)
	}
	return err
}

// Read is the course as numbers, at most limit of them, the newest.
func (s *Samples) Read(ctx context.Context, id string, from, to int64, limit int) ([]history.Sample, error) {
	out := []history.Sample{}
	err := s.Each(ctx, id, from, to, func(c *history.Column) error {
		for i := range c.At {
			out = append(out, c.Sample(i))
		}
		if len(out) > 2*limit {
			out = append(out[:0], out[len(out)-limit:]...)
		}
		return nil
	})
	return out[max(0, len(out)-limit):], err
}

// At is what a tag was at a time; the zero Value where nothing is known.
func (s *Samples) At(ctx context.Context, id string, at int64) (v value.Value, err error) {
	kept := s.view(id, at+1)
	for i := len(kept.tail) - 1; i >= 0; i-- {
		if c := &kept.tail[i]; c.Len() > 0 {
			return c.Value(c.Len() - 1), nil
		}
	}
	b, err := s.months.before(ctx, id, at)
	if err != nil || b == nil {
		return v, err
	}
	var coder history.Coder
	var c history.Column
	if err := coder.Decode(b.Data, &c); err != nil {
		return v, err
	}
	if n := c.After(at); n > 0 {
		v = c.Value(n - 1)
	}
	return v, nil
}

// Buckets folds the course of a tag in [from, to) into buckets of a width, in
// nanoseconds; from and to are whole multiples of it. Those in which nothing is
// known are left out.
func (s *Samples) Buckets(ctx context.Context, id string, from, to, width int64) (out []history.Bucket, err error) {
	level, wide := levelOf(width)
	switch {
	case wide && to-from > 2*aDay:
		out, err = s.byDays(ctx, id, from, to, level)
	case width%minute == 0:
		out, err = s.minutes(ctx, id, from, to)
	default:
		f := history.Folder{Width: width}
		err = s.Each(ctx, id, from, to, func(c *history.Column) error { f.Add(c); return nil })
		f.Until(min(to, s.Alive()))
		out = f.Take()
	}
	if err != nil {
		return nil, err
	}
	return history.Widen(within(out, from, to), width), nil
}

// within are the buckets that begin in [from, to).
func within(list []history.Bucket, from, to int64) []history.Bucket {
	out := list[:0]
	for _, b := range list {
		if b.From >= from && b.From < to {
			out = append(out, b)
		}
	}
	return out
}

// byDays are the buckets of a range day by day: those that are kept of whole days,
// and of the stretches between them those of a minute.
func (s *Samples) byDays(ctx context.Context, id string, from, to int64, level int) (out []history.Bucket, err error) {
	open := from // what is not answered yet begins there
	between := func(end int64) error {
		if open >= end {
			return nil
		}
		list, err := s.minutes(ctx, id, open, end)
		out = append(out, within(list, open, end)...)
		return err
	}
	err = s.months.days(from, to, func(m *month, day int64) error {
		list, err := m.packedDay(ctx, id, day, level)
		if err != nil || list == nil {
			return err
		}
		if err := between(day); err != nil {
			return err
		}
		out = append(out, within(list, open, to)...)
		open = day + aDay
		return nil
	})
	if err == nil {
		err = between(to)
	}
	return out, err
}

// Between folds the course of a tag in [from, to) into one bucket, whatever from
// and to are; ok is false where nothing is known.
func (s *Samples) Between(ctx context.Context, id string, from, to int64) (out history.Bucket, ok bool, err error) {
	// The whole minutes within by their buckets, what is left by the samples.
	first, last := history.Floor(from+minute-1, minute), history.Floor(to, minute)
	parts := [][2]int64{{from, to}}
	if last-first > 30*minute {
		parts = [][2]int64{{from, first}, {first, last}, {last, to}}
	}
	for i, p := range parts {
		if p[0] >= p[1] {
			continue
		}
		var list []history.Bucket
		if i == 1 {
			list, err = s.Buckets(ctx, id, p[0], p[1], minute)
		} else {
			f := history.Folder{Width: aDay}
			err = s.Each(ctx, id, p[0], p[1], func(c *history.Column) error {
				if c.At[0] < p[0] { // what held at the beginning counts from there on
					h := heldAt(c, 0)
					f.Begin(p[0], h.value, h.good)
					rest := c.Slice(1, c.Len())
					c = &rest
				}
				f.Add(c)
				return nil
			})
			f.Until(min(p[1], s.Alive()))
			list = f.Take()
		}
		if err != nil {
			return out, false, err
		}
		for _, b := range list {
			if !ok {
				out, ok = b, true
			} else {
				out.Join(&b)
			}
		}
	}
	out.From = from
	return out, ok, nil
}

// minutes are the buckets of a minute, some in parts, by those that are kept of
// blocks: they reach from what held before a block to its last sample. Of a block
// without them the samples are folded.
func (s *Samples) minutes(ctx context.Context, id string, from, to int64) ([]history.Bucket, error) {
	v := s.view(id, to)
	begin, err := s.months.begin(ctx, id, from)
	if err != nil {
		return nil, err
	}
	f := history.Folder{Width: minute}
	var out []history.Bucket
	var coder history.Coder
	var column history.Column
	folding := false // what held is known to f
	fold := func(c *history.Column) error {
		if !folding {
			h, _, err := s.heldBefore(ctx, id, c.At[0]-1)
			if err != nil {
				return err
			}
			if h.at > 0 {
				f.Begin(h.at, h.value, h.good)
			}
			folding = true
		}
		f.Add(c)
		return nil
	}
	err = s.months.each(ctx, id, begin, min(to, v.until+1), true, func(b stored) error {
		if b.Minutes != nil {
			list, err := history.DecodeBuckets(b.Minutes)
			out = append(append(out, f.Take()...), list...)
			folding = false
			return err
		}
		column.Reset(value.None)
		if err := coder.Decode(b.Data, &column); err != nil {
			return err
		}
		return fold(&column)
	})
	if err != nil {
		return nil, err
	}
	out = append(out, f.Take()...)
	f.Cut()
	rest, err := s.heldOn(ctx, id, v, to)
	if err != nil {
		return nil, err
	}
	if rest.at > 0 {
		f.Begin(rest.at, rest.value, rest.good)
	}
	for i := range v.tail {
		f.Add(&v.tail[i])
	}
	f.Until(min(to, v.alive))
	return append(out, f.Take()...), nil
}

// heldOn is what held after the last block that begins before a time: until the
// tail goes on, or, where later blocks do, until that time. Nothing is to be
// added where the last block reaches beyond it.
func (s *Samples) heldOn(ctx context.Context, id string, v view, to int64) (held, error) {
	if v.until < to {
		if v.known || v.until <= 0 {
			return v.held, nil
		}
		h, _, err := s.heldBefore(ctx, id, v.until)
		return h, err
	}
	h, last, err := s.heldBefore(ctx, id, to-1)
	if !last {
		h = held{}
	}
	return h, err
}
