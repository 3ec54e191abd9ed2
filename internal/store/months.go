package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// months are a project's samples/YYYY-MM.db: the courses of its tags in blocks,
// a file for each month in UTC. A block lies in the month of its first sample.
type months struct {
	dir     string
	reserve *Reserve

	mu   sync.Mutex
	open map[string]*month
}

type month struct {
	name    string
	db      *database
	mu      sync.RWMutex
	numbers map[string]int64 // of tags, by id
	until   map[string]int64 // times of their newest samples
}

// Lengths of time, in nanoseconds.
const (
	minute = int64(time.Minute)
	aDay   = int64(24 * time.Hour)
)

const monthForm = "2006-01"

// startOfMonth is when the month of a time begins, in UTC.
func startOfMonth(nanos int64) int64 {
	t := time.Unix(0, nanos).UTC()
	return time.Date(t.Year(), t.Month(), 1, 0, 0, 0, 0, time.UTC).UnixNano()
}

func monthOf(nanos int64) string { return time.Unix(0, nanos).UTC().Format(monthForm) }

func startOfDay(at int64) int64 { return history.Floor(at, aDay) }

// file opens a month's file; made tells whether to make one that is not there.
func (s *months) file(name string, made bool) (*month, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
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
	m := &month{name: name, db: db, numbers: map[string]int64{}, until: map[string]int64{}}
	var rows []struct {
		N, Until int64
		ID       string
	}
	err = db.SelectContext(context.Background(), &rows, "SELECT n, id, until FROM tag")
	for _, r := range rows {
		m.numbers[r.ID], m.until[r.ID] = r.N, r.Until
	}
	if err == nil {
		err = m.bringOver(context.Background())
	}
	if err != nil {
		db.Close()
		return nil, say.Errorf("%s.db: %w", name, err)
	}
	s.open[name] = m
	return m, nil
}

// names lists the months that have a file, oldest first.
func (s *months) names() []string {
	files, _ := os.ReadDir(s.dir)
	var out []string
	for _, f := range files {
		name, ok := strings.CutSuffix(f.Name(), ".db")
		if _, err := time.Parse(monthForm, name); ok && err == nil {
			out = append(out, name)
		}
	}
	sort.Strings(out)
	return out
}

func (s *months) close() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	var errs []error
	for name, m := range s.open {
		errs = append(errs, m.db.Close())
		delete(s.open, name)
	}
	return errors.Join(errs...)
}

// drop forgets what is from before a day: days one by one, and a month with its
// file. Tags that have a time of their own go by that.
func (s *months) drop(ctx context.Context, before int64, own map[string]int64) error {
	newest := before
	for _, t := range own {
		newest = max(newest, t)
	}
	for _, name := range s.names() {
		if name > monthOf(newest) {
			break
		}
		m, err := s.file(name, false)
		if err != nil || m == nil {
			return err
		}
		next, err := time.Parse(monthForm, name)
		if err != nil {
			return err
		}
		end := next.AddDate(0, 1, 0).UnixNano()
		left, err := m.forgetOld(ctx, end, before, own)
		if err == nil && !left {
			err = s.remove(m)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// remove deletes a month's file.
func (s *months) remove(m *month) error {
	s.mu.Lock()
	delete(s.open, m.name)
	s.mu.Unlock()
	if err := m.db.Close(); err != nil {
		return err
	}
	for _, ending := range []string{"", "-wal", "-shm"} {
		if err := os.Remove(filepath.Join(s.dir, m.name+".db"+ending)); err != nil && !os.IsNotExist(err) {
			return say.Errorf("forgetting the samples of %s: %w", m.name, err)
		}
	}
	return nil
}

// forgetOld forgets what is too old of a month that ends at a time; left tells
// whether the file has anything that stays.
func (m *month) forgetOld(ctx context.Context, end, before int64, own map[string]int64) (left bool, err error) {
	var apart []int64 // numbers of tags that do not go with the others
	by := map[int64][]int64{}
	left = before < end
	for id, t := range own {
		if n := m.numberOf(id); n != 0 {
			apart, by[t] = append(apart, n), append(by[t], n)
			left = left || t < end
		}
	}
	if !left {
		return false, nil
	}
	if err := m.forgetOf(ctx, end, before, "NOT IN", apart); err != nil {
		return true, err
	}
	for t, numbers := range by {
		if err := m.forgetOf(ctx, end, t, "IN", numbers); err != nil {
			return true, err
		}
	}
	return true, nil
}

// forgetOf forgets the days before a time of the tags that are in a list, or not,
// of a month that ends at a time.
func (m *month) forgetOf(ctx context.Context, end, before int64, in string, numbers []int64) error {
	if before <= startOfMonth(end-1) {
		return nil
	}
	until := int64(32) << 48
	if before < end {
		until = dayKey(before, 0)
	}
	list := "[" + strings.Trim(strings.ReplaceAll(fmt.Sprint(numbers), " ", ","), "[]") + "]"
	for _, table := range keyed {
		if _, err := m.db.ExecContext(ctx, "DELETE FROM "+table+" WHERE key < ? AND ((key >> 24) & 0xffffff) "+in+
			" (SELECT value FROM json_each(?))", until, list); err != nil {
			return err
		}
	}
	return nil
}

// keyed are the tables whose keys have a day and a tag.
var keyed = []string{"block", "minutes", "day"}

// number is a tag's number in the file, given where it has none.
func (m *month) number(ctx context.Context, tx *sqlx.Tx, id string, fresh map[string]int64) (n int64, err error) {
	if n = m.numberOf(id); n == 0 {
		n = fresh[id]
	}
	if n == 0 {
		r, err := tx.ExecContext(ctx, "INSERT INTO tag (id) VALUES (?)", id)
		if err != nil {
			return 0, err
		}
		if n, err = r.LastInsertId(); err != nil {
			return 0, err
		}
		fresh[id] = n
	}
	return n, nil
}

// numberOf is a tag's number in the file; 0 for none, or no file.
func (m *month) numberOf(id string) int64 {
	if m == nil {
		return 0
	}
	m.mu.RLock()
	defer m.mu.RUnlock()
	return m.numbers[id]
}

// bringOver makes blocks of the plain rows that earlier versions kept, tag by tag;
// what is in blocks already, as the server ended in between, is not made again.
func (m *month) bringOver(ctx context.Context) error {
	var tags []int64
	if err := m.db.SelectContext(ctx, &tags, "SELECT DISTINCT tag FROM sample"); err != nil || len(tags) == 0 {
		return err
	}
	ids := map[int64]string{}
	for id, n := range m.numbers {
		ids[n] = id
	}
	var coder history.Coder
	for _, n := range tags {
		var rows []struct {
			At, Quality int64
			Value       float64
		}
		if err := m.db.SelectContext(ctx, &rows, "SELECT at, value, quality FROM sample WHERE tag = ? AND at > ? ORDER BY at", n,
			m.until[ids[n]]); err != nil {
			return err
		}
		c := history.Column{Kind: value.LREAL}
		for _, r := range rows {
			// These numbers were the stored ones from the beginning.
			c.Append(r.At, value.Real(value.LREAL, r.Value).With(history.QualityStored(r.Quality)))
		}
		if err := m.add(ctx, piecesOf(ids[n], &c, held{}), &coder); err != nil {
			return err
		}
		if _, err := m.db.ExecContext(ctx, "DELETE FROM sample WHERE tag = ?", n); err != nil {
			return err
		}
	}
	return nil
}
