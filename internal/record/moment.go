package record

import (
	"context"
	"math"

	"readyrail/internal/core/value"
)

// Moment fills in what tags were at a time, in nanoseconds: of each the value
// that held then. What nothing is known of stays as it is.
func (r *Recorder) Moment(ctx context.Context, tags []string, at int64, into []value.Value) error {
	for i, id := range tags {
		v, err := r.store.At(ctx, id, at)
		if err != nil {
			return err
		}
		if v.Kind == into[i].Kind {
			into[i] = v
		}
	}
	return nil
}

// furthest is how far the next change is looked for.
const furthest = int64(30 * 24 * 3600 * 1e9)

// Change is when one of some tags was kept next after a time, or last before it,
// in nanoseconds; ok is false where none was.
func (r *Recorder) Change(ctx context.Context, tags []string, at int64, forth bool) (when int64, ok bool, err error) {
	if forth {
		err = r.merged(ctx, tags, at+1, min(at+furthest, r.store.Alive()+1), func(t int64, _ int, _ *value.Value, _ bool) bool {
			if t > at {
				when, ok = t, true
			}
			return !ok
		})
		return when, ok, err
	}
	when = math.MinInt64
	for _, id := range tags {
		v, err := r.store.At(ctx, id, at-1)
		if err != nil {
			return 0, false, err
		}
		if v.Kind != value.None {
			when, ok = max(when, v.Nanos()), true
		}
	}
	return when, ok, nil
}
