package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// Keys have the day of the month above 48 bits, the tag above 24, the second of
// the day above 7, and a number for the blocks that begin in one second.
func blockKey(at, n int64) int64 {
	t := time.Unix(0, at).UTC()
	second := int64(t.Hour()*3600 + t.Minute()*60 + t.Second())
	return int64(t.Day())<<48 | n<<24 | second<<7
}

// dayKey is the first key of a tag on a day; that of the next tag follows its
// last.
func dayKey(at, n int64) int64 { return int64(time.Unix(0, at).UTC().Day())<<48 | n<<24 }

// held is what a tag was last, and when; without a time nothing is known.
type held struct {
	at    int64
	value float64
	good  bool
}

func heldAt(c *history.Column, i int) held {
	s := c.Sample(i)
	return held{s.At, s.Value, !s.Quality.IsBad() && c.Kind != value.STRING}
}

// piece is a column that becomes a block, with what held before it.
type piece struct {
	tag    string
	column history.Column
	held   held
}

// last is the time of a piece's last sample.
func (p *piece) last() int64 { return p.column.At[p.column.Len()-1] }

// minBuckets is how many samples a block has at least for which buckets are
// kept; of fewer, what is asked is folded from the samples.
const minBuckets = 100

// buckets are those of a minute over a piece, from what held before it to its
// last sample; nil for a text or a short one, and where samples are so rare that
// there would be more buckets than samples.
func (p *piece) buckets() []byte {
	n := p.column.Len()
	if n < minBuckets || p.column.Kind == value.STRING || p.last()-p.column.At[0] > int64(n)*minute {
		return nil
	}
	f := history.Folder{Width: minute}
	if p.held.at > 0 {
		f.Begin(p.held.at, p.held.value, p.held.good)
	}
	f.Add(&p.column)
	return history.EncodeBuckets(nil, minute, f.Take())
}

// pieceOf is how many samples a block has.
const pieceOf = 1024

// blockAge is how long after its first sample a block has its last at most. What
// held at a time is looked for as far back.
const blockAge = int64(26 * time.Hour)

// piecesOf cuts a column into what becomes blocks, none of them longer than a
// block's age.
func piecesOf(tag string, c *history.Column, before held) []piece {
	var out []piece
	for from := 0; from < c.Len(); {
		to := min(c.Len(), from+pieceOf)
		if end := c.After(c.At[from] + blockAge - aDay/12); end < to {
			to = end
		}
		out = append(out, piece{tag, c.Slice(from, to), before})
		before = heldAt(c, to-1)
		from = to
	}
	return out
}

// add stores pieces as blocks, all of them or none.
func (m *month) add(ctx context.Context, list []piece, coder *history.Coder) error {
	return m.replace(ctx, func(*sqlx.Tx) error { return nil }, list, coder)
}

// replace stores pieces as blocks in place of what drop deletes, at once.
func (m *month) replace(ctx context.Context, drop func(*sqlx.Tx) error, list []piece, coder *history.Coder) error {
	fresh := map[string]int64{}
	err := inTx(ctx, m.db, func(tx *sqlx.Tx) error {
		clear(fresh)
		if err := drop(tx); err != nil {
			return err
		}
		w, err := m.writer(ctx, tx)
		if err != nil {
			return err
		}
		for i := range list {
			n, err := m.number(ctx, tx, list[i].tag, fresh)
			if err == nil {
				err = w.put(ctx, n, &list[i], coder)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	for id, n := range fresh {
		m.numbers[id] = n
	}
	for i := range list {
		m.until[list[i].tag] = max(m.until[list[i].tag], list[i].last())
	}
	return nil
}

// blockWriter has the statements by which blocks are written in a transaction.
type blockWriter struct {
	block, minutes, until *sqlx.Stmt
	data                  []byte
}

func (m *month) writer(ctx context.Context, tx *sqlx.Tx) (w *blockWriter, err error) {
	w = &blockWriter{}
	for _, s := range []struct {
		into  **sqlx.Stmt
		query string
	}{{&w.block, "INSERT OR IGNORE INTO block (key, data) VALUES (?, ?)"}, {&w.minutes, "INSERT INTO minutes (key, data) VALUES (?, ?)"},
		{&w.until, "UPDATE tag SET until = max(until, ?) WHERE n = ?"}} {
		if *s.into, err = tx.PreparexContext(ctx, s.query); err != nil {
			return nil, err
		}
	}
	return w, nil
}

// put writes a block of a tag, with its buckets.
func (w *blockWriter) put(ctx context.Context, n int64, p *piece, coder *history.Coder) error {
	w.data = coder.Encode(w.data[:0], &p.column)
	key := blockKey(p.column.At[0], n)
	for ; ; key++ { // another block may begin in the same second
		r, err := w.block.ExecContext(ctx, key, w.data)
		if err != nil {
			return err
		}
		if written, err := r.RowsAffected(); err != nil || written > 0 {
			if err != nil {
				return err
			}
			break
		}
	}
	if buckets := p.buckets(); buckets != nil {
		if _, err := w.minutes.ExecContext(ctx, key, buckets); err != nil {
			return err
		}
	}
	_, err := w.until.ExecContext(ctx, p.last(), n)
	return err
}

// stored is a block as it lies there, or the buckets that are kept of it.
type stored struct {
	Key     int64
	Data    []byte // as far as Minutes is nil: else its head alone
	Minutes []byte
}

// days hands over the days that lie in [from, to) in part at least, each with its
// month's file; a month without one is left out.
func (s *months) days(from, to int64, do func(m *month, day int64) error) error {
	for day := startOfDay(from); day < to; day += aDay {
		m, err := s.file(monthOf(day), false)
		if err != nil {
			return err
		}
		if m != nil {
			if err := do(m, day); err != nil {
				return err
			}
		}
	}
	return nil
}

// before is the newest block of a tag that begins at a time or earlier; nil where
// none is near enough to hold then.
func (s *months) before(ctx context.Context, id string, at int64) (*stored, error) {
	for day := startOfDay(at); day > at-blockAge-aDay; day -= aDay {
		m, err := s.file(monthOf(day), false)
		if err != nil {
			return nil, err
		}
		n := m.numberOf(id)
		if n == 0 {
			continue
		}
		until := dayKey(day, n+1)
		if at < day+aDay {
			until = blockKey(at, n) + 1<<7
		}
		var rows []stored
		if err := m.db.SelectContext(ctx, &rows, "SELECT key, data FROM block WHERE key >= ? AND key < ? ORDER BY key DESC LIMIT 8",
			dayKey(day, n), until); err != nil {
			return nil, err
		}
		for i := range rows {
			if history.FirstOf(rows[i].Data) <= at {
				return &rows[i], nil
			}
		}
	}
	return nil, nil
}

// begin is when the block begins that holds at a time; the time itself where
// none does.
func (s *months) begin(ctx context.Context, id string, at int64) (int64, error) {
	first, err := s.before(ctx, id, at)
	if err != nil || first == nil {
		return at, err
	}
	return history.FirstOf(first.Data), nil
}

// head is how many bytes of a block tell its first sample's time.
const head = 16

// each hands over a tag's blocks that begin in [from, to), oldest first; where
// buckets will do, those of the blocks that have them.
func (s *months) each(ctx context.Context, id string, from, to int64, buckets bool, do func(stored) error) error {
	query := "SELECT key, data FROM block WHERE key >= ? AND key < ? ORDER BY key"
	if buckets {
		query = fmt.Sprintf(`SELECT b.key, CASE WHEN m.data IS NULL THEN b.data ELSE substr(b.data, 1, %d) END AS data, m.data AS minutes
			FROM block b LEFT JOIN minutes m ON m.key = b.key WHERE b.key >= ? AND b.key < ? ORDER BY b.key`, head)
	}
	return s.days(from, to, func(m *month, day int64) error {
		n := m.numberOf(id)
		if n == 0 {
			return nil
		}
		// A day is a part of a long read: who must not wait comes between.
		return atLeisure(ctx, func() error {
			var rows []stored
			if err := m.db.SelectContext(ctx, &rows, query, dayKey(day, n), dayKey(day, n+1)); err != nil {
				return err
			}
			for _, r := range rows {
				if at := history.FirstOf(r.Data); at < from || at >= to {
					continue
				}
				if err := do(r); err != nil {
					return err
				}
			}
			return nil
		})
	})
}
