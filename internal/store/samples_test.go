package store

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

func openSamples(t *testing.T, dir string) *Samples {
	t.Helper()
	s, err := OpenSamples(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// course reads a course as pairs of a time after from and a value; a bad one is
// "bad".
func (s *Samples) course(t *testing.T, id string, from, to time.Time) (out []string) {
	t.Helper()
	if err := s.Each(context.Background(), id, from.UnixNano(), to.UnixNano(), func(c *history.Column) error {
		for i := range c.At {
			text := c.Value(i).Text()
			if c.Qualities[i].IsBad() {
				text = "bad"
			}
			out = append(out, fmt.Sprintf("%v %s", time.Unix(0, c.At[i]).Sub(from), text))
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	return out
}

var noon = time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)

func tagValue(id string, at time.Time, v value.Value) TagValue {
	return TagValue{Tag: id, Value: v.At(at)}
}

// What is kept is read back, before and after it became blocks, over a restart,
// over the turn of a day and of a month.
func TestSamplesComeBack(t *testing.T) {
	t.Parallel()
	ctx, dir := context.Background(), t.TempDir()
	turn := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	s := openSamples(t, dir)
	var list []TagValue
	for i := -5; i <= 5; i++ {
		list = append(list, tagValue("k.dry", turn.Add(time.Duration(i)*time.Hour), value.Real(value.REAL, float64(i))))
	}
	list = append(list, tagValue("load", turn, value.Str("L-2611-04")), tagValue("other", turn, value.Bad(value.BOOL, value.BadStale)))
	if err := s.Keep(ctx, list); err != nil {
		t.Fatal(err)
	}
	look := func(when string) {
		t.Helper()
		for _, c := range []struct {
			from, to time.Duration
			want     string
		}{
			{-90 * time.Minute, 90 * time.Minute, "[-30m0s -2 30m0s -1 1h30m0s 0 2h30m0s 1]"}, // with what held
			{30 * time.Minute, 3 * time.Hour, "[-30m0s 0 30m0s 1 1h30m0s 2]"},
			{time.Hour, 2 * time.Hour, "[0s 1]"},
			{-10 * time.Hour, -6 * time.Hour, "[]"},
			{4*time.Hour + 1, 4*time.Hour + 2, "[-1ns 4]"},
		} {
			if got := fmt.Sprint(s.course(t, "k.dry", turn.Add(c.from), turn.Add(c.to))); got != c.want {
				t.Errorf("%s, %v to %v: %v, not %v", when, c.from, c.to, got, c.want)
			}
		}
		if got := fmt.Sprint(s.course(t, "load", turn, turn.Add(time.Hour)), s.course(t, "other", turn, turn.Add(1)),
			s.course(t, "nobody", turn, turn.Add(time.Hour))); got != "[0s L-2611-04] [0s bad] []" {
			t.Errorf("%s: %s", when, got)
		}
	}
	look("fresh")
	s.Close()
	s = openSamples(t, dir)
	look("after a restart")
	if err := s.Settle(ctx, turn.Add(30*time.Hour)); err != nil {
		t.Fatal(err)
	}
	look("in blocks")
	if n := len(s.months.names()); n != 2 {
		t.Errorf("%d months", n)
	}
	s.Close()
	s = openSamples(t, dir)
	look("in blocks, after a restart")
	// From where the server ended nothing is known; it ended twice.
	if got := fmt.Sprint(s.course(t, "k.dry", turn.Add(5*time.Hour), turn.Add(9*time.Hour))); got != "[0s 5 1ns bad 2ns bad]" {
		t.Errorf("after the end: %s", got)
	}
	// What is too old goes, a whole month with its file.
	if err := s.Prune(ctx, turn.UnixNano(), nil); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(s.course(t, "k.dry", turn.Add(-9*time.Hour), turn.Add(90*time.Minute))); got != "[9h0m0s 0 10h0m0s 1]" {
		t.Errorf("after pruning: %s", got)
	}
	if n := len(s.months.names()); n != 1 {
		t.Errorf("%d months left", n)
	}
}

// A kind that changes, a clock that is stepped back and a second time of the same
// moment lose and double nothing that is there: what is late finds its place.
func TestSamplesOfOddOrder(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s := openSamples(t, t.TempDir())
	for _, x := range []TagValue{
		tagValue("a", noon, value.Int(value.INT, 1)), tagValue("a", noon.Add(time.Second), value.Int(value.INT, 2)),
		tagValue("a", noon.Add(time.Second), value.Int(value.INT, 9)), tagValue("a", noon.Add(-time.Hour), value.Int(value.INT, 8)),
		tagValue("a", noon.Add(2*time.Second), value.Real(value.REAL, 2.5)), tagValue("a", noon.Add(3*time.Second), value.Str("x")),
	} {
		if err := s.Keep(ctx, []TagValue{x}); err != nil {
			t.Fatal(err)
		}
	}
	for range 2 {
		if got := fmt.Sprint(s.course(t, "a", noon.Add(-2*time.Hour), noon.Add(time.Hour))); got !=
			"[1h0m0s 8 2h0m0s 1 2h0m1s 2 2h0m2s 2.5 2h0m3s x]" {
			t.Errorf("%s", got)
		}
		if err := s.Settle(ctx, noon.Add(25*time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
}

// plain is what is kept as rows in memory, to compare with.
type plain map[string]*history.Column

func (p plain) keep(list []TagValue) {
	for _, x := range list {
		c := p[x.Tag]
		if c == nil {
			c = &history.Column{Kind: x.Kind}
			p[x.Tag] = c
		}
		if n := c.Len(); n == 0 || x.Nanos() > c.At[n-1] {
			c.Append(x.Nanos(), x.Value)
		} else if i := c.After(x.Nanos()); i == 0 || c.At[i-1] != x.Nanos() {
			woven := history.Column{Kind: c.Kind}
			woven.Add(c, 0, i)
			woven.Append(x.Nanos(), x.Value)
			woven.Add(c, i, n)
			*c = woven
		}
	}
}

// Whatever comes in what order, whenever it becomes blocks and whenever the
// server ends: the answers are those of plain rows.
func TestSamplesAreThoseOfPlainRows(t *testing.T) {
	t.Parallel()
	for name, late := range map[string]int{"in order": 0, "some late": 12, "many late": 300} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			rounds := 400
			if late > 0 {
				rounds = 160
			}
			samplesAreThoseOfPlainRows(t, rounds, late)
		})
	}
}

// samplesAreThoseOfPlainRows keeps up to so many samples late now and then.
func samplesAreThoseOfPlainRows(t *testing.T, rounds, late int) {
	ctx, dir := context.Background(), t.TempDir()
	r := rand.New(rand.NewPCG(21, 22))
	s, rows := openSamples(t, dir), plain{}
	now := time.Date(2026, 2, 27, 22, 0, 0, 0, time.UTC)
	begin := now
	kinds := []value.Kind{value.LREAL, value.BOOL, value.DINT, value.STRING}
	level := 50.0
	for round := range rounds {
		var list []TagValue
		for range r.IntN(300) {
			now = now.Add(time.Duration(r.IntN(8000)+1) * time.Millisecond)
			n := r.IntN(8)
			level += r.NormFloat64()
			v, _ := value.FromFloat(value.LREAL, math.Round(level*10)/10)
			switch k := kinds[n%4]; k {
			case value.BOOL:
				v = value.Bool(r.IntN(2) == 0)
			case value.DINT:
				v = value.Int(k, r.Int64N(1000))
			case value.STRING:
				v = value.Str(fmt.Sprint("L", r.IntN(5)))
			}
			if r.IntN(40) == 0 {
				v = value.Bad(v.Kind, value.BadNoAnswer)
			}
			list = append(list, tagValue(fmt.Sprint("t", n), now, v))
		}
		if late > 0 && round%5 == 0 {
			from := begin.Add(-time.Duration(r.IntN(40)) * 24 * time.Hour)
			at := from.Add(time.Duration(r.Int64N(int64(now.Sub(from)))))
			for range 1 + r.IntN(late) {
				at = at.Add(time.Duration(r.IntN(100_000)-50_000) * time.Millisecond)
				if n := r.IntN(2) * 4; at.Before(now) {
					list = append(list, tagValue(fmt.Sprint("t", n), at, value.Real(value.LREAL, float64(r.IntN(1000)))))
				}
			}
		}
		if err := s.Keep(ctx, list); err != nil {
			t.Fatal(err)
		}
		rows.keep(list)
		if round%7 == 3 {
			if err := s.Settle(ctx, now); err != nil {
				t.Fatal(err)
			}
		}
		if round%90 == 50 {
			s.Close()
			s = openSamples(t, dir)
			at := s.Alive()
			for id, c := range rows { // from the end on nothing is known
				if got := s.tails[id]; got != nil {
					c.Append(got.now.At[got.now.Len()-1], value.Bad(c.Kind, value.BadUnrecorded))
				}
			}
			now = time.Unix(0, max(at, now.UnixNano())).UTC().Add(time.Minute)
		}
	}
	days := 0
	for _, name := range s.months.names() {
		m, _ := s.months.file(name, false)
		var n int
		if err := m.db.GetContext(ctx, &n, "SELECT count(*) FROM day"); err != nil {
			t.Fatal(err)
		}
		days += n
	}
	if days == 0 {
		t.Error("no whole day is kept: its answers are not looked at")
	}
	if err := s.Settle(ctx, now); err != nil { // what is late is in its place
		t.Fatal(err)
	}
	span := now.Sub(begin)
	for range rounds {
		id := fmt.Sprint("t", r.IntN(8))
		from := begin.Add(time.Duration(r.Int64N(int64(span)))).Truncate(time.Minute).UnixNano()
		to := from + (1+r.Int64N(int64(span)/int64(time.Minute)))*int64(time.Minute)
		want := rows[id]
		low := max(0, want.After(from)-1)
		if want.Len() > 0 && want.At[low] > from {
			low = 0
		}
		var got history.Column
		err := s.Each(ctx, id, from, to, func(c *history.Column) error {
			if got.Len() == 0 {
				got.Kind = c.Kind
			}
			got.Add(c, 0, c.Len())
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
		high := want.After(to - 1)
		if got.Len() != max(0, high-low) {
			t.Fatalf("%s: %d samples, not %d", id, got.Len(), high-low)
		}
		for i := range got.At {
			if got.At[i] != want.At[low+i] || !got.Value(i).Same(want.Value(low+i)) {
				t.Fatalf("%s: sample %d is %v, not %v", id, i, got.Value(i), want.Value(low+i))
			}
		}
		sameBuckets(t, s, id, want, from, to)
		sameBetween(t, s, id, want, from+r.Int64N(minute), to+r.Int64N(minute))
	}
}

// sameBuckets compares with what is folded of plain rows.
func sameBuckets(t *testing.T, s *Samples, id string, c *history.Column, from, to int64) {
	t.Helper()
	for _, width := range []int64{int64(10 * time.Second), minute, 5 * minute, 30 * minute, 120 * minute} {
		from, to := from-from%width, to-to%width
		got, err := s.Buckets(context.Background(), id, from, to, width)
		if err != nil {
			t.Fatal(err)
		}
		f := history.Folder{Width: width}
		f.Add(c)
		f.Until(s.Alive())
		var want []history.Bucket
		for _, b := range f.Take() {
			if b.From >= from && b.From < to {
				want = append(want, b)
			}
		}
		if len(got) != len(want) {
			t.Fatalf("%s in steps of %v: %d buckets, not %d", id, time.Duration(width), len(got), len(want))
		}
		for i := range got {
			a, b := got[i], want[i]
			if a.From != b.From || a.Count != b.Count || a.Known != b.Known || a.Good != b.Good || !near(a.Least, b.Least) ||
				!near(a.Most, b.Most) || !near(a.First, b.First) || !near(a.Last, b.Last) || !near(a.Sum, b.Sum) {
				t.Fatalf("%s in steps of %v: bucket %d is %+v, not %+v", id, time.Duration(width), i, a, b)
			}
		}
	}
}

// sameBetween compares one bucket of any range with what plain rows say.
func sameBetween(t *testing.T, s *Samples, id string, c *history.Column, from, to int64) {
	t.Helper()
	got, ok, err := s.Between(context.Background(), id, from, to)
	if err != nil {
		t.Fatal(err)
	}
	var count, known, good int64
	least, most, sum := math.Inf(1), math.Inf(-1), 0.0
	for i := range c.At {
		v, end := c.Sample(i), s.Alive()
		if i+1 < c.Len() {
			end = c.At[i+1]
		}
		begin := max(v.At, from)
		end = min(end, to)
		inside := v.At >= from && v.At < to
		if end <= begin && !inside {
			continue
		}
		long := max(0, end-begin)
		known += long
		if v.Quality.IsBad() || c.Kind == value.STRING {
			continue
		}
		good += long
		sum += v.Value * float64(long) / 1e9
		least, most = min(least, v.Value), max(most, v.Value)
		if inside {
			count++
		}
	}
	if !ok {
		if known > 0 {
			t.Fatalf("%s: nothing is known, not %d", id, known)
		}
		return
	}
	if got.Count != count || got.Known != known || got.Good != good || !near(got.Sum, sum) ||
		good > 0 && (!near(got.Least, least) || !near(got.Most, most)) {
		t.Fatalf("%s from %d to %d: %+v, not count %d, known %d, good %d, sum %v, %v to %v", id, from, to, got, count, known, good, sum, least, most)
	}
}

func near(a, b float64) bool {
	return math.IsNaN(a) && math.IsNaN(b) || math.Abs(a-b) <= 1e-6*(1+math.Abs(b))
}

// Rows of the seconds go once they are in blocks; what slow tags still need of
// old ones is put together.
func TestRowsOfSecondsGo(t *testing.T) {
	t.Parallel()
	ctx, dir := context.Background(), t.TempDir()
	s := openSamples(t, dir)
	count := func() (n int) {
		t.Helper()
		if err := s.seconds.db.GetContext(ctx, &n, "SELECT count(*) FROM second"); err != nil {
			t.Fatal(err)
		}
		return n
	}
	for i := range 1000 {
		at := noon.Add(time.Duration(i) * time.Second)
		list := []TagValue{tagValue("quick", at, value.Int(value.DINT, int64(i)))}
		if i%400 == 0 {
			list = append(list, tagValue("slow", at, value.Bool(i%800 == 0)))
		}
		if err := s.Keep(ctx, list); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Settle(ctx, noon.Add(1000*time.Second)); err != nil || count() != 1000 {
		t.Errorf("%v: %d rows while a slow tag needs them", err, count())
	}
	if err := s.Settle(ctx, noon.Add(3*time.Hour)); err != nil || count() != 1 {
		t.Errorf("%v: %d rows after they were put together", err, count())
	}
	// What comes after that is not put together again at once.
	for i := range 3 {
		second := noon.Add(3*time.Hour + time.Duration(i)*time.Second)
		if err := s.Keep(ctx, []TagValue{tagValue("quick", second, value.Int(value.DINT, 1))}); err != nil {
			t.Fatal(err)
		}
		if err := s.Settle(ctx, noon.Add(time.Duration(3*3600+i)*time.Second)); err != nil || count() != 2+i {
			t.Errorf("%v: %d rows", err, count())
		}
	}
	if err := s.Settle(ctx, noon.Add(6*time.Hour)); err != nil || count() != 1 {
		t.Errorf("%v: %d rows", err, count())
	}
	s.Close()
	s = openSamples(t, dir)
	if got := fmt.Sprint(s.course(t, "slow", noon, noon.Add(900*time.Second))); got != "[0s true 6m40s false 13m20s true]" {
		t.Errorf("%s", got)
	}
	if got := s.course(t, "quick", noon, noon.Add(999*time.Second+1)); len(got) != 1000 {
		t.Errorf("%d samples", len(got))
	}
	if err := s.Settle(ctx, noon.Add(50*time.Hour)); err != nil || count() != 0 {
		t.Errorf("%v: %d rows when all is in blocks", err, count())
	}
}

// Files of an earlier version, a row for each sample, are brought over.
func TestPlainRowsOfEarlierVersionsAreBroughtOver(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	if err := os.MkdirAll(filepath.Join(dir, "samples"), 0o700); err != nil {
		t.Fatal(err)
	}
	old, err := migrations.ReadFile("migrations/samples/0001_samples.sql")
	if err != nil {
		t.Fatal(err)
	}
	db, err := sqlx.Open("sqlite", filepath.Join(dir, "samples", "2026-03.db"))
	if err != nil {
		t.Fatal(err)
	}
	db.MustExec(string(old))
	db.MustExec(`CREATE TABLE goose_db_version (id INTEGER PRIMARY KEY AUTOINCREMENT, version_id INTEGER NOT NULL, is_applied INTEGER NOT NULL,
		tstamp TIMESTAMP DEFAULT (datetime('now')));
		INSERT INTO goose_db_version (version_id, is_applied) VALUES (0, 1), (1, 1); INSERT INTO tag (id) VALUES ('k.dry')`)
	tx := db.MustBegin()
	for i := range 3000 {
		quality := 18 // good
		if i == 5 {
			quality = 3
		}
		tx.MustExec("INSERT INTO sample (tag, at, value, quality) VALUES (1, ?, ?, ?)", noon.Add(time.Duration(i)*time.Second).UnixNano(),
			float64(i)/10, quality)
	}
	if err := tx.Commit(); err != nil {
		t.Fatal(err)
	}
	db.Close()
	s := openSamples(t, dir)
	got := s.course(t, "k.dry", noon, noon.Add(2999*time.Second+1))
	if len(got) != 3000 || got[7] != "7s 0.7" || got[5] != "5s bad" {
		t.Errorf("%d samples: %v", len(got), got[:min(len(got), 9)])
	}
}

// What comes late while blocks are made is in its place afterwards, none of it lost
// and none twice, over a restart too.
func TestWhatIsLateWhileBlocksAreMade(t *testing.T) {
	t.Parallel()
	ctx, dir := context.Background(), t.TempDir()
	s := openSamples(t, dir)
	done := make(chan error)
	go func() {
		for range 60 {
			if err := s.Settle(ctx, noon.Add(30*time.Hour)); err != nil {
				done <- err
				return
			}
		}
		done <- nil
	}()
	r, kept := rand.New(rand.NewPCG(5, 6)), map[int]bool{}
	for n := range 6000 {
		at := n
		if n%3 > 0 {
			at = max(0, n-r.IntN(40))
		}
		if kept[at] {
			continue
		}
		kept[at] = true
		v := value.Real(value.LREAL, float64(at))
		if err := s.Keep(ctx, []TagValue{tagValue("a", noon.Add(time.Duration(at)*time.Second), v)}); err != nil {
			t.Fatal(err)
		}
	}
	if err := <-done; err != nil {
		t.Fatal(err)
	}
	look := func(when string) {
		t.Helper()
		if err := s.Settle(ctx, noon.Add(30*time.Hour)); err != nil {
			t.Fatal(err)
		}
		n, last := 0, -1.0
		if err := s.Each(ctx, "a", noon.UnixNano(), noon.Add(2*time.Hour).UnixNano(), func(c *history.Column) error {
			for i := range c.At {
				if c.Qualities[i].IsBad() {
					continue
				}
				v := c.Value(i).Float()
				if v <= last || time.Duration(c.At[i]-noon.UnixNano()) != time.Duration(v)*time.Second {
					t.Errorf("%s: %v follows %v", when, v, last)
				}
				n, last = n+1, v
			}
			return nil
		}); err != nil {
			t.Fatal(err)
		}
		if n != len(kept) {
			t.Errorf("%s: %d samples, not %d", when, n, len(kept))
		}
	}
	look("as it ran")
	s.Close()
	s = openSamples(t, dir)
	look("after a restart")
}

// What is from long before what is kept by now is read after a restart.
func TestOldSamplesOfATagAreRead(t *testing.T) {
	t.Parallel()
	ctx, dir := context.Background(), t.TempDir()
	s := openSamples(t, dir)
	old := noon.AddDate(0, -6, 0)
	for _, x := range []TagValue{tagValue("b", noon.AddDate(0, -1, 0), value.Int(value.INT, 1)), tagValue("b", noon, value.Int(value.INT, 2)),
		tagValue("a", old, value.Int(value.INT, 7)), tagValue("a", old.Add(time.Minute), value.Int(value.INT, 8))} {
		if err := s.Keep(ctx, []TagValue{x}); err != nil {
			t.Fatal(err)
		}
	}
	for _, when := range []string{"as it ran", "after a restart", "after another"} {
		if err := s.Settle(ctx, noon.Add(48*time.Hour)); err != nil {
			t.Fatal(err)
		}
		if got := fmt.Sprint(s.course(t, "a", old, old.Add(time.Hour))); got != "[0s 7 1m0s 8]" {
			t.Errorf("%s: %s", when, got)
		}
		s.Close()
		s = openSamples(t, dir)
	}
}
