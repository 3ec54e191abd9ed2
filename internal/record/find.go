package record

import (
	"context"
	"iter"
	"math"
	"slices"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
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
		c := &cursor{tag: i}
		next, stop := iter.Pull(r.columns(ctx, id, from, to, &c.err))
		defer stop()
		c.next = next
		if c.fill() {
			list = append(list, c)
		} else if c.err != nil {
			return c.err
		}
	}
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
		v := c.column.Value(c.i)
		if c.i++; c.i == c.column.Len() && !c.fill() {
			if c.err != nil {
				return c.err
			}
			list = slices.Delete(list, first, first+1)
		} else {
			after = min(after, c.column.At[c.i])
		}
		if !do(at, c.tag, &v, after != at) {
			return nil
		}
	}
	return ctx.Err()
}

// cursor is where the course of one tag is read.
type cursor struct {
	tag    int
	next   func() (*history.Column, bool)
	column *history.Column
	i      int
	err    error
}

// fill goes on to the next column that has a sample.
func (c *cursor) fill() bool {
	for {
		column, ok := c.next()
		if !ok {
			return false
		}
		if column.Len() > 0 {
			c.column, c.i = column, 0
			return true
		}
	}
}

// columns are the course of a tag, as a sequence; each is good until the next.
func (r *Recorder) columns(ctx context.Context, id string, from, to int64, err *error) iter.Seq[*history.Column] {
	return func(yield func(*history.Column) bool) {
		*err = r.store.Each(ctx, id, from, to, func(c *history.Column) error {
			if !yield(c) {
				return errStopped
			}
			return nil
		})
		if *err == errStopped {
			*err = nil
		}
	}
}
