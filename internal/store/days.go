package store

import (
	"context"
	"errors"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
)

// levels are the widths of the buckets that are kept of whole days; each has a key
// of its own within the day's.
var levels = []int64{5 * minute, 60 * minute}

// levelOf is the widest level of which a width is a multiple; false for none.
func levelOf(width int64) (level int, ok bool) {
	for i, l := range levels {
		if width%l == 0 {
			level, ok = i, true
		}
	}
	return level, ok
}

// pack keeps the buckets of a day that is in blocks whole.
func (m *month) pack(ctx context.Context, id string, day int64, list []history.Bucket) error {
	return inTx(ctx, m.db, func(tx *sqlx.Tx) error {
		for i, width := range levels {
			if _, err := tx.ExecContext(ctx, "INSERT OR REPLACE INTO day (key, data) VALUES (?, ?)", dayKey(day, m.numberOf(id))+int64(i),
				history.EncodeBuckets(nil, width, history.Widen(list, width))); err != nil {
				return err
			}
		}
		return nil
	})
}

// packedDay are the buckets of a day at a level where they are kept; nil where
// they are not.
func (m *month) packedDay(ctx context.Context, id string, day int64, level int) ([]history.Bucket, error) {
	n := m.numberOf(id)
	if n == 0 {
		return nil, nil
	}
	var data []byte
	err := m.db.GetContext(ctx, &data, "SELECT data FROM day WHERE key = ?", dayKey(day, n)+int64(level))
	if err := notFound(err); errors.Is(err, ErrNotFound) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	return history.DecodeBuckets(data)
}
