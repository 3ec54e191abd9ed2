package record

import (
	"context"
	"math"
	"slices"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

// merged hands over every sample of tags in a range in order of time, until it is
// told to stop; last says that no other one has the same time.
func (r *Recorder) merged(ctx context.Context, tags []string, from, to int64,
	do func(at int64, tag int, v *value.Value, last bool) bool) error {
	ctx, end := context.WithCancel(ctx)
	defer end()
	list := make([]*cursor, 0, len(tags))
	for i, id := range tags {
		c := &cursor{store: r.store, id: id, tag: i, parts: make(chan part, 1)}
		go c.read(ctx, from, to)
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

// cursor is where the course of one tag is read. It is read a part of the time
// after the other, so that nothing is held open while others are read, and the next
// part while this one is looked at.
type cursor struct {
	store  *store.Samples
	id     string
	tag    int
	parts  chan part
	left   []history.Column // of the part that is looked at
	column history.Column
	i      int
}

// part is what was read of a part of the time.
type part struct {
	columns []history.Column
	err     error
}

// partLong is how much of the time is read at once.
const partLong = int64(6 * time.Hour)

// read reads parts until the range or the context ends.
func (c *cursor) read(ctx context.Context, from, to int64) {
	defer close(c.parts)
	last := int64(math.MinInt64) // the newest that was read
	for from < to {
		end := min(from+partLong, to)
		var p part
		p.err = c.store.Each(ctx, c.id, from, end, func(column *history.Column) error {
			// What holds as a part begins was read with the part before.
			if n := column.After(last); n < column.Len() {
				last = column.At[column.Len()-1]
				p.columns = append(p.columns, column.Copy(n, column.Len()))
			}
			return nil
		})
		select {
		case c.parts <- p:
		case <-ctx.Done():
			return
		}
		if from = end; p.err != nil {
			return
		}
	}
}

// fill goes on to the next column that has a sample; false at the end.
func (c *cursor) fill(ctx context.Context) (bool, error) {
	for len(c.left) == 0 {
		p, more := <-c.parts
		if !more || p.err != nil {
			if p.err == nil {
				p.err = ctx.Err()
			}
			return false, p.err
		}
		c.left = p.columns
	}
	c.column, c.i, c.left = c.left[0], 0, c.left[1:]
	return true, nil
}
