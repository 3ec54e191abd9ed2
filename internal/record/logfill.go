package record

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

// Beside puts values of a file beside what the log has of a tag, and says which
// would come in. They are put into order of time; the last one holds for a step.
func (x *Log) Beside(ctx context.Context, tag string, file []value.Value, step time.Duration) (f history.Filling, err error) {
	var moments, changes bool
	if err := x.turn(func() {
		way := x.plan.log.How.Way
		moments, changes = way == history.AtMoments, way == history.AtChanges
	}); err != nil {
		return f, err
	}
	slices.SortStableFunc(file, func(a, b value.Value) int { return cmp.Compare(a.Nanos(), b.Nanos()) })
	if changes { // a row of a file has all tags, also those that stood still
		var kept []value.Value
		filter := history.Filter{Every: Longest}
		for _, v := range file {
			kept = filter.Take(v, kept)
		}
		file = kept
	}
	if len(file) == 0 {
		return f, nil
	}
	var own []history.Column
	from, to := file[0].Nanos(), file[len(file)-1].Nanos()+int64(step)+1
	if err := x.samples.Each(ctx, tag, from, to, func(c *history.Column) error {
		own = append(own, c.Copy(0, c.Len()))
		return nil
	}); err != nil {
		return f, err
	}
	return history.Fill(own, file, moments, int64(step)), nil
}

// ErrNoRoom refuses values that would push out what the log has, or that it would
// not keep.
var ErrNoRoom = say.New("the log has no room for them")

// Fill keeps values that come late, all of them or none: they are on disk and are
// read when it returns.
func (x *Log) Fill(ctx context.Context, list []store.TagValue) (err error) {
	if e := x.turn(func() {
		most := int64(x.plan.log.Keep.Count)
		if room := most - x.samples.Count(); most > 0 && int64(len(list)) > room {
			err = say.Errorf("%w: it keeps %d values and has room for %d more", ErrNoRoom, most, max(0, room))
		}
	}); e != nil || err != nil {
		return errors.Join(e, err)
	}
	if err := x.samples.Keep(ctx, list); err != nil {
		return err
	}
	if err := x.samples.Settle(ctx, time.Now()); err != nil {
		return err
	}
	return x.measure(ctx)
}
