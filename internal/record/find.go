package record

import (
	"context"
	"math"
	"slices"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

// Condition is what is looked for: a formula that gives a BOOL, and the tags that
// its slots stand for.
type Condition struct {
	Program *formula.Program
	Tags    []string
	Kinds   []value.Kind
	Least   int64 // the shortest stretch that counts, in nanoseconds
}

// Find hands over the stretches of [from, to), in nanoseconds, in which a
// condition held, in order of time, with the values of its tags at the begin of
// each; until found returns false. Where one of its tags is not known the
// condition does not hold.
func (r *Recorder) Find(ctx context.Context, c *Condition, from, to int64, found func(history.Span, []value.Value) bool) error {
	frame := formula.Frame{Slots: make([]value.Value, len(c.Tags))}
	for i, k := range c.Kinds {
		frame.Slots[i] = value.Bad(k, value.BadWaiting)
	}
	began := make([]value.Value, len(c.Tags))
	s := history.Stretches{Least: c.Least, Found: func(x history.Span) bool { return found(x, slices.Clone(began)) }}
	var v value.Value
	was := false
	err := r.merged(ctx, c.Tags, from, to, func(at int64, tag int, next *value.Value, last bool) bool {
		frame.Slots[tag] = *next
		if next.Kind != c.Kinds[tag] {
			// It was of another type then: nothing is known of what the formula needs.
			frame.Slots[tag] = value.Bad(c.Kinds[tag], value.BadInput)
		}
		if !last {
			return true
		}
		c.Program.EvalTo(&v, &frame)
		on := v.Kind == value.BOOL && !v.Quality.IsBad() && v.Bool()
		if on && !was {
			copy(began, frame.Slots)
		}
		was = on
		return s.Step(max(at, from), on)
	})
	if err == nil {
		s.Until(min(to, r.store.Alive()))
	}
	return err
}

// merged hands over every sample of tags in a range in order of time, until it is
// told to stop; last says that no other one has the same time.
func (r *Recorder) merged(ctx context.Context, tags []string, from, to int64,
	do func(at int64, tag int, v *value.Value, last bool) bool) error {
	list := make([]*cursor, 0, len(tags))
	for i, id := range tags {
		c := &cursor{store: r.store, id: id, tag: i, part: from, to: to, last: math.MinInt64}
		switch more, err := c.fill(ctx); {
		case err != nil:
			return err
		case more:
			list = append(list, c)
		}
	}
	var v value.Value // one for all: each that do sees would be on the heap
	for len(list) > 0 {
		first, at, after := 0, int64(math.MaxInt64), int64(math.MaxInt64)
		for i, c := range list {
			if t := c.column.At[c.i]; t < at {
				first, at, after = i, t, at
			} else {
				after = min(after, t)
			}
		}
		c := list[first]
		v = c.column.Value(c.i)
		more := true
		if c.i++; c.i == c.column.Len() {
			var err error
			if more, err = c.fill(ctx); err != nil {
				return err
			}
		}
		if more {
			after = min(after, c.column.At[c.i])
		} else {
			list = slices.Delete(list, first, first+1)
		}
		if !do(at, c.tag, &v, after != at) {
			return nil
		}
	}
	return ctx.Err()
}

// cursor is where the course of one tag is read, a part of the time after the
// other: none is held open while others are read.
type cursor struct {
	store    *store.Samples
	id       string
	tag      int
	part, to int64 // where the next part begins, and all ends
	last     int64 // the newest that was read
	read     []history.Column
	column   history.Column
	i        int
}

// partLong is how much of the time is read at once.
const partLong = int64(12 * time.Hour)

// fill goes on to the next column that has a sample; false at the end.
func (c *cursor) fill(ctx context.Context) (bool, error) {
	for len(c.read) == 0 {
		if c.part >= c.to {
			return false, ctx.Err()
		}
		end := min(c.part+partLong, c.to)
		err := c.store.Each(ctx, c.id, c.part, end, func(column *history.Column) error {
			// What holds as a part begins was read with the part before.
			if n := column.After(c.last); n < column.Len() {
				c.last = column.At[column.Len()-1]
				c.read = append(c.read, column.Copy(n, column.Len()))
			}
			return nil
		})
		if err != nil {
			return false, err
		}
		c.part = end
	}
	c.column, c.i, c.read = c.read[0], 0, c.read[1:]
	return true, nil
}
