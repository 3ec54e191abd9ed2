package bench

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

const (
	logTags     = 2000
	logSeconds  = 300
	plainRows   = 200 // seconds of them
	logAtLeast  = 2.0 // million samples a second
	logTimes    = 10  // as plain rows
	trendPens   = 8
	trendDays   = 31
	trendPixels = 1000
)

// logs measures how quickly samples are stored, durable and with their roll-ups,
// beside plain rows, and how large they are.
func logs() ([]Figure, error) {
	rate, err := logRate()
	if err != nil {
		return nil, err
	}
	plain, err := plainRate()
	if err != nil {
		return nil, err
	}
	out := []Figure{
		above("log: samples stored and durable, with roll-ups", "M/s", rate, logAtLeast),
		{Name: "log: the same, beside plain rows", Value: rate, Unit: "M/s", Limit: plain, Ratio: rate / plain,
			Goal: fmt.Sprintf("≥ %d×", logTimes), Met: rate >= logTimes*plain},
	}
	return append(out, logSizes()...), nil
}

// walk is a course of a number as plants have them: one decimal, a sample a
// second or thereabouts, to the millisecond.
type walk struct {
	r     *rand.Rand
	level float64
}

func (w *walk) next() value.Value {
	w.level += w.r.NormFloat64() * 0.3
	return value.Real(value.LREAL, math.Round(w.level*10)/10)
}

func logRate() (float64, error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	s, err := store.OpenSamples(dir, nil)
	if err != nil {
		return 0, err
	}
	defer s.Close()
	ctx, begin := context.Background(), time.Now().Truncate(time.Second).Add(-time.Hour)
	named, walks := make([]store.TagValue, logTags), make([]walk, logTags)
	for i := range named {
		named[i], walks[i] = s.Named(fmt.Sprintf("t%04d", i)), walk{rand.New(rand.NewPCG(1, uint64(i))), 60}
	}
	rows := make([][]store.TagValue, logSeconds)
	for sec := range rows {
		rows[sec] = make([]store.TagValue, logTags)
		for i := range named {
			at := begin.Add(time.Duration(sec)*time.Second + time.Duration(walks[i].r.IntN(20))*time.Millisecond)
			rows[sec][i] = named[i]
			rows[sec][i].Value = walks[i].next().At(at)
		}
	}
	from := time.Now()
	for _, list := range rows {
		if err := s.Keep(ctx, list); err != nil {
			return 0, err
		}
	}
	if err := s.Settle(ctx, begin.Add(25*time.Hour)); err != nil { // all of it becomes blocks
		return 0, err
	}
	return logTags * logSeconds / time.Since(from).Seconds() / 1e6, nil
}

// plainRate stores the same as rows in batches of a second, by the key and with
// the cache that suit them best.
func plainRate() (float64, error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	db, err := sqlx.Open("sqlite", "file:"+filepath.Join(dir, "plain.db")+
		"?_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=cache_size(-200000)")
	if err != nil {
		return 0, err
	}
	defer db.Close()
	if _, err := db.Exec(`CREATE TABLE sample (at INTEGER, tag INTEGER, value REAL, quality INTEGER, PRIMARY KEY (at, tag))
		WITHOUT ROWID`); err != nil {
		return 0, err
	}
	w := walk{rand.New(rand.NewPCG(2, 2)), 60}
	begin, from := time.Now().UnixNano(), time.Now()
	for sec := range int64(plainRows) {
		tx, err := db.Beginx()
		if err != nil {
			return 0, err
		}
		insert, err := tx.Prepare("INSERT INTO sample VALUES (?, ?, ?, ?)")
		if err != nil {
			return 0, err
		}
		for i := range logTags {
			if _, err := insert.Exec(begin+sec*int64(time.Second)+int64(w.r.IntN(20))*1e6, i, w.next().Float(), 18); err != nil {
				return 0, err
			}
		}
		if err := tx.Commit(); err != nil {
			return 0, err
		}
	}
	return logTags * plainRows / time.Since(from).Seconds() / 1e6, nil
}

// logSizes are the bytes that samples of some kinds have in a block.
func logSizes() []Figure {
	const n = 1024
	r := rand.New(rand.NewPCG(3, 4))
	second := func(i int) int64 { return int64(i)*1e9 + r.Int64N(20)*1e6 }
	level := 60.0
	noise := func(k value.Kind) func(int) value.Value {
		return func(int) value.Value { level += r.NormFloat64() * 0.02; return value.Real(k, level) }
	}
	w := walk{r, 60}
	var out []Figure
	for _, c := range []struct {
		name string
		kind value.Kind
		at   func(int) int64
		v    func(int) value.Value
		most float64
	}{
		{"decimals at milliseconds", value.LREAL, second, func(int) value.Value { return w.next() }, 2},
		{"REAL", value.REAL, second, noise(value.REAL), 3},
		{"LREAL with full noise", value.LREAL, second, noise(value.LREAL), 7},
		{"a BOOL's edge", value.BOOL, func(i int) int64 { return int64(i)*3e11 + r.Int64N(100_000)*1e6 },
			func(i int) value.Value { return value.Bool(i%2 == 1) }, 5},
	} {
		col := history.Column{Kind: c.kind}
		for i := range n {
			col.Append(c.at(i), c.v(i))
		}
		var coder history.Coder
		out = append(out, below("log: a sample, "+c.name, "bytes", float64(len(coder.Encode(nil, &col)))/n, c.most))
	}
	return out
}

// trends measures how soon a month of pens is read, at any zoom, also while
// samples are kept.
func trends() ([]Figure, error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	s, err := store.OpenSamples(dir, nil)
	if err != nil {
		return nil, err
	}
	defer s.Close()
	end := time.Now().Truncate(time.Hour)
	begin := end.AddDate(0, 0, -trendDays)
	if err := fillMonth(s, begin, end); err != nil {
		return nil, err
	}
	read := func(from, to time.Time, width time.Duration) (float64, error) {
		return median(func() error {
			for i := range trendPens {
				if _, err := s.Buckets(context.Background(), pen(i), from.UnixNano(), to.UnixNano(), int64(width)); err != nil {
					return err
				}
			}
			return nil
		})
	}
	month, err := read(begin, end, time.Hour)
	if err != nil {
		return nil, err
	}
	worst := 0.0
	for _, z := range []struct {
		span, width time.Duration
	}{{14 * 24 * time.Hour, 30 * time.Minute}, {83 * time.Hour, 5 * time.Minute}, {16 * time.Hour, time.Minute},
		{8 * time.Hour, 30 * time.Second}} {
		from := begin.Add(5 * 24 * time.Hour)
		took, err := read(from, from.Add(z.span), z.width)
		if err != nil {
			return nil, err
		}
		worst = max(worst, took)
	}
	raw, err := median(func() error {
		for i := range trendPens {
			from := begin.Add(9*24*time.Hour + 500*time.Second)
			if err := s.Each(context.Background(), pen(i), from.UnixNano(), from.Add(15*time.Minute).UnixNano(),
				func(*history.Column) error { return nil }); err != nil {
				return err
			}
		}
		return nil
	})
	return []Figure{
		below(fmt.Sprintf("trend: %d pens, %d days at 1 s", trendPens, trendDays), "ms", month, 40),
		below("trend: the worst other zoom", "ms", worst, 60),
		below("trend: raw, 15 minutes", "ms", raw, 20),
	}, err
}

func pen(i int) string { return fmt.Sprintf("pen%d", i) }

func fillMonth(s *store.Samples, begin, end time.Time) error {
	ctx := context.Background()
	walks := make([]walk, trendPens)
	for i := range walks {
		walks[i] = walk{rand.New(rand.NewPCG(5, uint64(i))), 60}
	}
	list := make([]store.TagValue, 0, trendPens*3600)
	for hour := begin; hour.Before(end); hour = hour.Add(time.Hour) {
		list = list[:0]
		for i := range walks {
			for sec := range 3600 {
				at := hour.Add(time.Duration(sec)*time.Second + time.Duration(walks[i].r.IntN(20))*time.Millisecond)
				list = append(list, store.TagValue{Tag: pen(i), Value: walks[i].next().At(at)})
			}
		}
		if err := s.Keep(ctx, list); err != nil {
			return err
		}
		if err := s.Settle(ctx, hour.Add(time.Hour)); err != nil {
			return err
		}
	}
	return nil
}

// median is the middle of some runs, in milliseconds, after one that warms up.
func median(f func() error) (float64, error) {
	var list []float64
	for range 6 {
		from := time.Now()
		if err := f(); err != nil {
			return 0, err
		}
		list = append(list, float64(time.Since(from).Microseconds())/1000)
	}
	list = list[1:]
	slices.Sort(list)
	return list[len(list)/2], nil
}
