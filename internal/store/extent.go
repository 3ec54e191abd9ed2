package store

import (
	"context"
	"fmt"
	"time"

	"readyrail/internal/core/history"
)

// Extent is how much is kept.
type Extent struct {
	Bytes int64 // on disk, without what is free to be used again
	Count int64 // samples
	First int64 // time of the oldest, in nanoseconds since 1970; 0 for none
}

// Extent measures how much is kept.
func (s *Samples) Extent(ctx context.Context) (e Extent, err error) {
	if err := s.countAll(ctx); err != nil {
		return e, err
	}
	if e.Bytes, err = s.Size(ctx); err != nil {
		return e, err
	}
	e.First, err = s.First(ctx)
	e.Count = s.Count()
	return e, err
}

// First is the time of the oldest sample, in nanoseconds since 1970; 0 for none.
func (s *Samples) First(ctx context.Context) (first int64, err error) {
	for _, name := range s.months.names() {
		m, err := s.months.file(name, false)
		if err != nil {
			return first, err
		}
		if m == nil || first != 0 {
			continue
		}
		if first, err = m.oldest(ctx); err != nil {
			return first, err
		}
	}
	s.mu.RLock()
	defer s.mu.RUnlock()
	for _, t := range s.tails {
		if at := t.first(); at > 0 && (first == 0 || at < first) {
			first = at
		}
	}
	return first, nil
}

// Size is how many bytes are kept on disk, without what is free to be used again.
func (s *Samples) Size(ctx context.Context) (size int64, err error) {
	files := []*database{s.seconds.db}
	for _, name := range s.months.names() {
		m, err := s.months.file(name, false)
		if err != nil {
			return size, err
		}
		if m != nil {
			files = append(files, m.db)
		}
	}
	for _, db := range files {
		var bytes int64
		if err := db.GetContext(ctx, &bytes, `SELECT (page_count - freelist_count) * page_size
			FROM pragma_page_count, pragma_freelist_count, pragma_page_size`); err != nil {
			return size, err
		}
		size += bytes
	}
	return size, nil
}

// TagExtent is how much is kept of a tag: the time of its first block, or of its
// first sample where it is in none, and the bytes of its blocks.
func (s *Samples) TagExtent(ctx context.Context, id string) (first, bytes int64, err error) {
	for _, name := range s.months.names() {
		m, err := s.months.file(name, false)
		if err != nil {
			return first, bytes, err
		}
		n := m.numberOf(id)
		if n == 0 {
			continue
		}
		for day := int64(1); day <= 31; day++ {
			var row struct {
				First []byte
				Bytes int64
			}
			if err := m.db.GetContext(ctx, &row, `SELECT (SELECT substr(data, 1, 16) FROM block WHERE key >= ? AND key < ? ORDER BY key LIMIT 1) AS first,
				coalesce(sum(length(data)), 0) AS bytes FROM block WHERE key >= ? AND key < ?`,
				day<<48|n<<24, day<<48|(n+1)<<24, day<<48|n<<24, day<<48|(n+1)<<24); err != nil {
				return first, bytes, err
			}
			if at := history.FirstOf(row.First); first == 0 {
				first = at
			}
			bytes += row.Bytes
		}
	}
	s.mu.RLock()
	defer s.mu.RUnlock()
	if t := s.tails[id]; t != nil && first == 0 {
		first = t.first()
	}
	return first, bytes, nil
}

// Count is how many samples are kept, once Extent counted them; what is kept
// since is counted at once.
func (s *Samples) Count() int64 {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return s.count
}

// countAll counts what is kept, the first time and after something was forgotten.
func (s *Samples) countAll(ctx context.Context) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	s.mu.RLock()
	counted, count := s.counted, int64(0)
	for _, t := range s.tails {
		for _, c := range t.columns() {
			count += int64(c.Len())
		}
	}
	s.mu.RUnlock()
	if counted {
		return nil
	}
	for _, name := range s.months.names() {
		m, err := s.months.file(name, false)
		if err != nil {
			return err
		}
		n, err := m.count(ctx)
		if err != nil {
			return err
		}
		count += n
	}
	s.mu.Lock()
	s.count, s.counted = count, true
	s.mu.Unlock()
	return nil
}

// count is how many samples a month has in blocks.
func (m *month) count(ctx context.Context) (count int64, err error) {
	rows, err := m.db.QueryxContext(ctx, fmt.Sprintf("SELECT substr(data, 1, %d) FROM block", head))
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	for rows.Next() {
		var begin []byte
		if err := rows.Scan(&begin); err != nil {
			return 0, err
		}
		count += int64(history.CountOf(begin))
	}
	return count, rows.Err()
}

// oldest is the time of the first sample of a month's first day; 0 for none.
func (m *month) oldest(ctx context.Context) (oldest int64, err error) {
	var heads [][]byte
	if err := m.db.SelectContext(ctx, &heads, fmt.Sprintf(`SELECT substr(data, 1, %d) FROM block
		WHERE key < (SELECT ((min(key) >> 48) + 1) << 48 FROM block)`, head)); err != nil {
		return 0, err
	}
	for _, h := range heads {
		if at := history.FirstOf(h); oldest == 0 || at < oldest {
			oldest = at
		}
	}
	return oldest, nil
}

// Forget forgets what is from before a time: blocks whole, and of what is in no
// block each sample.
func (s *Samples) Forget(ctx context.Context, before int64) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	if err := s.months.drop(ctx, before, nil); err != nil {
		return err
	}
	m, err := s.months.file(monthOf(before), false)
	if err == nil && m != nil {
		err = m.forget(ctx, before)
	}
	if err != nil {
		return err
	}
	s.mu.Lock()
	for _, t := range s.tails {
		t.forget(before)
	}
	s.counted = false
	s.mu.Unlock()
	left, upto := s.left()
	return s.seconds.rest(ctx, encodeRest(left, &history.Coder{}), s.Alive(), upto)
}

// forget forgets the blocks of a day that begin before a time. What was kept of
// the day as a whole goes with them: it is no longer whole.
func (m *month) forget(ctx context.Context, before int64) error {
	second := (before - startOfDay(before)) / int64(time.Second)
	first, next := dayKey(before, 0), dayKey(before, 0)+1<<48
	for _, table := range []string{"block", "minutes"} {
		if _, err := m.db.ExecContext(ctx, "DELETE FROM "+table+" WHERE key >= ? AND key < ? AND ((key >> 7) & 0x1ffff) < ?",
			first, next, second); err != nil {
			return err
		}
	}
	_, err := m.db.ExecContext(ctx, "DELETE FROM day WHERE key >= ? AND key < ?", first, next)
	return err
}
