package store

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// Samples are a project's samples/YYYY-MM.db: the course of its tags, a file
// for each month in UTC.
type Samples struct {
	dir     string
	reserve *Reserve

	mu   sync.Mutex
	open map[string]*month
}

type month struct {
	db      *database
	numbers map[string]int64 // of tags, by id
}

// TagSample is a sample of a tag.
type TagSample struct {
	Tag string
	history.Sample
}

// OpenSamples opens a project's samples.
func OpenSamples(dir string, r *Reserve) (*Samples, error) {
	dir = filepath.Join(dir, "samples")
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	return &Samples{dir: dir, reserve: r, open: map[string]*month{}}, nil
}

// Close closes every month.
func (s *Samples) Close() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	var first error
	for name, m := range s.open {
		if err := m.db.Close(); err != nil && first == nil {
			first = err
		}
		delete(s.open, name)
	}
	return first
}

const monthForm = "2006-01"

func monthOf(nanos int64) string { return time.Unix(0, nanos).UTC().Format(monthForm) }

// month opens a month's file; made tells whether to make one that is not there.
// It is called with mu held.
func (s *Samples) month(name string, made bool) (*month, error) {
	if m := s.open[name]; m != nil {
		return m, nil
	}
	path := filepath.Join(s.dir, name+".db")
	if _, err := os.Stat(path); err != nil && !made {
		return nil, nil
	}
	db, err := open(path, "samples", normal, s.reserve)
	if err != nil {
		return nil, err
	}
	db.yields = true
	m := &month{db: db, numbers: map[string]int64{}}
	var rows []struct {
		N  int64
		ID string
	}
	if err := db.SelectContext(context.Background(), &rows, "SELECT n, id FROM tag"); err != nil {
		db.Close()
		return nil, err
	}
	for _, r := range rows {
		m.numbers[r.ID] = r.N
	}
	s.open[name] = m
	return m, nil
}

// Append keeps samples; those of one month all or none. A sample of a tag and
// a time that is there already replaces it.
func (s *Samples) Append(ctx context.Context, list []TagSample) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	by := map[string][]TagSample{}
	for _, x := range list {
		name := monthOf(x.At)
		by[name] = append(by[name], x)
	}
	for name, part := range by {
		m, err := s.month(name, true)
		if err != nil {
			return err
		}
		if err := m.append(ctx, part); err != nil {
			return err
		}
	}
	return nil
}

func (m *month) append(ctx context.Context, list []TagSample) error {
	fresh := map[string]int64{}
	err := inTx(ctx, m.db, func(tx *sqlx.Tx) error {
		insert, err := tx.PrepareContext(ctx, "INSERT OR REPLACE INTO sample (tag, at, value, quality) VALUES (?, ?, ?, ?)")
		if err != nil {
			return err
		}
		for _, x := range list {
			n, ok := m.numbers[x.Tag]
			if !ok {
				n, ok = fresh[x.Tag]
			}
			if !ok {
				r, err := tx.ExecContext(ctx, "INSERT INTO tag (id) VALUES (?)", x.Tag)
				if err != nil {
					return err
				}
				if n, err = r.LastInsertId(); err != nil {
					return err
				}
				fresh[x.Tag] = n
			}
			if _, err := insert.ExecContext(ctx, n, x.At, x.Value, int64(x.Quality)); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	for id, n := range fresh {
		m.numbers[id] = n
	}
	return nil
}

// Read returns the course of a tag in [from, to), oldest first, with the last
// sample before it where there is one in the same month or the one before. At
// most limit samples are read, the newest of them.
func (s *Samples) Read(ctx context.Context, id string, from, to int64, limit int) ([]history.Sample, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := []history.Sample{}
	for _, name := range s.months(to) {
		m, err := s.month(name, false)
		if err != nil {
			return nil, err
		}
		n, ok := m.numbers[id]
		if !ok {
			continue
		}
		var rows []struct {
			At, Quality int64
			Value       float64
		}
		if err := m.db.SelectContext(ctx, &rows, "SELECT at, value, quality FROM sample WHERE tag = ? AND at >= ? AND at < ? ORDER BY at DESC LIMIT ?", n, from, to, limit-len(out)); err != nil {
			return nil, err
		}
		if len(out)+len(rows) < limit && monthOf(from) <= name {
			var before []struct {
				At, Quality int64
				Value       float64
			}
			if err := m.db.SelectContext(ctx, &before, "SELECT at, value, quality FROM sample WHERE tag = ? AND at < ? ORDER BY at DESC LIMIT 1",
				n, from); err != nil {
				return nil, err
			}
			rows = append(rows, before...)
		}
		for _, r := range rows {
			out = append(out, history.Sample{At: r.At, Value: r.Value, Quality: value.Quality(r.Quality)})
		}
		if len(out) >= limit || len(out) > 0 && out[len(out)-1].At <= from {
			break
		}
	}
	for i, j := 0, len(out)-1; i < j; i, j = i+1, j-1 {
		out[i], out[j] = out[j], out[i]
	}
	return out, nil
}

// months lists the months that have a file, from that of a time back, newest
// first.
func (s *Samples) months(to int64) []string {
	files, _ := os.ReadDir(s.dir)
	var out []string
	for _, f := range files {
		name, ok := strings.CutSuffix(f.Name(), ".db")
		if _, err := time.Parse(monthForm, name); ok && err == nil && name <= monthOf(to) {
			out = append(out, name)
		}
	}
	sort.Sort(sort.Reverse(sort.StringSlice(out)))
	return out
}

// Prune forgets samples from before a time; a month that is wholly before it
// goes with its file.
func (s *Samples) Prune(ctx context.Context, before int64) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, name := range s.months(before) {
		m, err := s.month(name, false)
		if err != nil {
			return err
		}
		if name == monthOf(before) {
			if _, err := m.db.ExecContext(ctx, "DELETE FROM sample WHERE at < ?", before); err != nil {
				return err
			}
			continue
		}
		delete(s.open, name)
		if err := m.db.Close(); err != nil {
			return err
		}
		for _, end := range []string{"", "-wal", "-shm"} {
			if err := os.Remove(filepath.Join(s.dir, name+".db"+end)); err != nil && !os.IsNotExist(err) {
				return fmt.Errorf("forgetting the samples of %s: %w", name, err)
			}
		}
	}
	return nil
}
