package record

import (
	"context"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// Rows hands over the values of tags in [from, to), in nanoseconds, until do
// returns false: one row for each time at which one of them was kept, or where
// every is not 0 one at each of its multiples, as they stood then. A tag of which
// nothing is known has a value that is bad. What values lie in is used again.
func (r *Recorder) Rows(ctx context.Context, tags []string, kinds []value.Kind, from, to, every int64,
	do func(at int64, values []value.Value) bool) error {
	now := make([]value.Value, len(tags))
	for i, k := range kinds {
		now[i] = value.Bad(k, value.BadWaiting)
	}
	mark := from
	if every > 0 {
		mark = history.Floor(from+every-1, every)
	}
	end := min(to, r.store.Alive()+1)
	going := true
	err := r.merged(ctx, tags, from, to, func(at int64, tag int, v *value.Value, last bool) bool {
		for ; every > 0 && going && mark < at && mark < end; mark += every {
			going = do(mark, now)
		}
		now[tag] = *v
		if every == 0 && last && at >= from {
			going = do(at, now)
		}
		return going
	})
	for ; every > 0 && going && err == nil && mark < end; mark += every {
		going = do(mark, now)
	}
	return err
}
