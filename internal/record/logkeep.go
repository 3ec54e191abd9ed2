package record

import (
	"context"
	"errors"
	"time"

	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// settling turns what a log has into blocks, and keeps it within its bounds.
func (x *Log) settling() {
	defer close(x.settled)
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	go func() { <-x.quit; cancel() }()
	tick := time.NewTicker(settles)
	defer tick.Stop()
	for {
		select {
		case <-x.quit:
			return
		case now := <-tick.C:
			err := x.samples.Settle(ctx, now)
			if err == nil {
				err = x.bound(ctx, now)
			}
			if err != nil && ctx.Err() == nil && !errors.Is(err, ErrEnded) {
				x.logs.log.Error("a log is not kept within its bounds", "log", x.state.ID, "error", err)
			}
		}
	}
}

// leftFree is the share of a bound that is free once the oldest went: more goes
// than has to, so that it does not go at every value.
const leftFree = 0.02

// bound lets the oldest of a log go where it is older, larger or more than it may
// be, or ends the log where it is to end then.
func (x *Log) bound(ctx context.Context, now time.Time) error {
	var keep struct {
		days  int
		stops bool
	}
	var bounds []float64
	e, err := x.samples.Extent(ctx)
	if err != nil {
		return err
	}
	if x.turn(func() {
		x.extent = e
		keep.days, keep.stops = x.plan.log.Keep.Days, x.plan.log.Keep.Stops
		bounds = x.bounds(e)
	}) != nil {
		return nil
	}
	before := now.AddDate(0, 0, -keep.days).UnixNano()
	over := 0.0
	for _, b := range bounds {
		over = max(over, b)
	}
	switch {
	case over >= 1 && keep.stops:
		x.turn(func() { x.fill(now) })
	case over > 1 && e.First > 0:
		// As if it came evenly; what is still too much goes the next time.
		share := 1 - (1-leftFree)/over
		before = max(before, e.First+int64(share*float64(x.samples.Alive()-e.First)))
	}
	if e.First == 0 || before <= e.First {
		return nil
	}
	if err := x.samples.Forget(ctx, before); err != nil {
		return err
	}
	return errors.Join(x.logs.store.PruneSpans(ctx, x.state.ID, before), x.measure(ctx))
}

// measure measures what the log has now.
func (x *Log) measure(ctx context.Context) error {
	e, err := x.samples.Extent(ctx)
	if err != nil {
		return err
	}
	return x.turn(func() {
		x.extent = e
		x.publish(time.Now())
	})
}

// Cleared is what was cleared of a log.
type Cleared struct {
	From, To int64 // nanoseconds since 1970
	Count    int64
}

// ErrNotExported refuses to clear what is nowhere else.
var ErrNotExported = say.New("nothing of this log was written out and verified since it was cleared last: export it first")

// Clear forgets what was written out and verified.
func (x *Log) Clear(ctx context.Context) (c Cleared, err error) {
	upto := int64(0)
	if err := x.turn(func() { upto = x.state.Upto }); err != nil {
		return c, err
	}
	was, err := x.samples.Extent(ctx)
	if err != nil {
		return c, err
	}
	if upto == 0 || was.First > upto {
		return c, ErrNotExported
	}
	if err := x.samples.Forget(ctx, upto+1); err != nil {
		return c, err
	}
	err = errors.Join(x.logs.store.PruneSpans(ctx, x.state.ID, upto+1), x.measure(ctx))
	return Cleared{was.First, upto, was.Count - x.samples.Count()}, err
}

// Unwritten are the log's spans that were not written out yet as files of their
// own, in order of their begins; those that last have no end.
func (x *Log) Unwritten(ctx context.Context) ([]store.LogSpan, error) {
	return x.logs.store.Unwritten(ctx, x.state.ID)
}

// Exported says that what the log has up to a time was written out and verified,
// and the span of a number as a file of its own; 0 for none.
func (x *Log) Exported(upto, span int64) (err error) {
	if span != 0 {
		if err := x.logs.store.SpanWritten(context.Background(), span); err != nil {
			return err
		}
	}
	return errors.Join(x.turn(func() {
		next := x.state
		next.Exported, next.Upto = time.Now().UnixNano(), max(upto, next.Upto)
		if err = x.logs.store.Put(context.Background(), next); err == nil {
			x.state = next
			x.publish(time.Now())
		}
	}), err)
}

// Tags are the ids of those that the log keeps now.
func (x *Log) Tags() (out []string) {
	x.turn(func() {
		for _, t := range x.plan.tags {
			out = append(out, t.id)
		}
	})
	return out
}
