package store

import (
	"context"
	"errors"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// Samples are the courses of a project's tags. What comes in is on disk before
// Keep returns; Settle turns it into blocks of the months' files, with their
// buckets. Reads see both as one and wait for neither.
type Samples struct {
	seconds *seconds
	months  *months
	dir     string
	coder   history.Coder // of Settle

	settling sync.Mutex
	mu       sync.RWMutex
	tails    map[string]*tailOf
	alive    int64 // the newest time that is kept
	whole    []wholeDay
}

// wholeDay is a day of a tag that came to be in blocks whole.
type wholeDay struct {
	tag string
	day int64
}

// tailOf is what is kept of a tag and in no block yet, oldest first: columns of
// kinds that it had, and the one that grows.
type tailOf struct {
	done  []history.Column
	now   history.Column
	until int64 // of the newest sample in a block; 0 for none
	held  held  // what that sample was
	known bool  // held is read
}

// OpenSamples opens a project's samples.
func OpenSamples(dir string, r *Reserve) (*Samples, error) {
	dir = filepath.Join(dir, "samples")
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	s := &Samples{dir: dir, tails: map[string]*tailOf{}, months: &months{dir: dir, reserve: r, open: map[string]*month{}}}
	var err error
	if s.seconds, err = openSeconds(dir, r); err != nil {
		return nil, err
	}
	if err := s.recover(context.Background()); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// recover reads what is in no block, and says of every tag that nothing is known
// of it from the last moment that was kept on.
func (s *Samples) recover(ctx context.Context) error {
	names := s.months.names()
	for _, name := range names[max(0, len(names)-2):] {
		m, err := s.months.file(name, false)
		if err != nil {
			return err
		}
		for id, until := range m.until {
			t := s.tail(id)
			t.until = max(t.until, until)
			s.alive = max(s.alive, until)
		}
	}
	if err := s.seconds.each(ctx, func(id string, v value.Value) {
		s.tail(id).add(v)
		s.alive = max(s.alive, v.Nanos())
	}); err != nil {
		return err
	}
	if s.alive == 0 {
		return nil
	}
	var marks []TagValue
	for id, t := range s.tails {
		if at, kind := t.last(); at >= s.alive-blockAge && !t.marked() {
			marks = append(marks, TagValue{id, value.Bad(kind, value.BadUnrecorded).AtNanos(max(at, s.alive) + 1)})
		}
	}
	return s.Keep(ctx, marks)
}

func (s *Samples) tail(id string) *tailOf {
	t := s.tails[id]
	if t == nil {
		t = &tailOf{}
		s.tails[id] = t
	}
	return t
}

// last is the time of the newest sample and its kind.
func (t *tailOf) last() (int64, value.Kind) {
	if n := t.now.Len(); n > 0 {
		return t.now.At[n-1], t.now.Kind
	}
	if n := len(t.done); n > 0 {
		c := &t.done[n-1]
		return c.At[c.Len()-1], c.Kind
	}
	if t.now.Kind == value.None {
		return t.until, value.LREAL
	}
	return t.until, t.now.Kind
}

// marked tells whether the newest sample says that nothing is known.
func (t *tailOf) marked() bool {
	n := t.now.Len()
	return n > 0 && t.now.Qualities[n-1] == value.BadUnrecorded
}

// add appends a sample; one that is not newer than what is there is left out.
func (t *tailOf) add(v value.Value) {
	if at, _ := t.last(); v.Nanos() <= at {
		return
	}
	if t.now.Kind != v.Kind && t.now.Len() > 0 {
		t.done = append(t.done, t.now)
		t.now = history.Column{}
	}
	t.now.Kind = v.Kind
	t.now.Append(v.Nanos(), v)
}

// columns are those of a tail, oldest first.
func (t *tailOf) columns() []history.Column {
	if len(t.done) == 0 {
		return []history.Column{t.now}
	}
	return append(t.done[:len(t.done):len(t.done)], t.now)
}

// first is the time of the oldest sample; 0 for none.
func (t *tailOf) first() int64 {
	if len(t.done) > 0 {
		return t.done[0].At[0]
	}
	if t.now.Len() > 0 {
		return t.now.At[0]
	}
	return 0
}

// Close closes every file.
func (s *Samples) Close() error {
	s.settling.Lock()
	defer s.settling.Unlock()
	return errors.Join(s.months.close(), s.seconds.db.Close())
}

// Keep keeps samples, all of them or none; they are on disk when it returns. Each
// is later than what is kept of its tag; one that is not is left out. A tag that
// stands still is kept once a day at least: what held at a time is looked for no
// longer back than a block lasts.
func (s *Samples) Keep(ctx context.Context, list []TagValue) error {
	if len(list) == 0 {
		return nil
	}
	s.settling.Lock()
	defer s.settling.Unlock()
	return s.keep(ctx, list)
}

func (s *Samples) keep(ctx context.Context, list []TagValue) error {
	if err := s.seconds.keep(ctx, list); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, x := range list {
		s.tail(x.Tag).add(x.Value)
		s.alive = max(s.alive, x.Nanos())
	}
	return nil
}

// When what is kept becomes blocks: a tag's at enough samples, and at a greatest
// age. Where all tags move alike, they would all be due at once: each has a
// share more of its own.
const (
	enough      = 192
	share       = 192
	greatestAge = aDay
	atOnce      = 400                  // tags in one transaction
	restAfter   = int64(2 * time.Hour) // rows that old are put together
)

func dueAt(id string) int {
	sum := uint32(2166136261) // FNV-1a
	for i := range len(id) {
		sum = (sum ^ uint32(id[i])) * 16777619
	}
	return enough + int(sum%share)
}

// Settle turns what is due into blocks. It works in parts; samples are kept and
// read meanwhile.
func (s *Samples) Settle(ctx context.Context, now time.Time) error {
	for {
		done, err := s.settle(ctx, now.UnixNano())
		if err != nil {
			return err
		}
		if done {
			return s.packDays(ctx)
		}
	}
}

// packDays keeps the buckets of days that are in blocks whole. One that is
// missed, as the server ended before, is read from its blocks for good.
func (s *Samples) packDays(ctx context.Context) error {
	s.mu.Lock()
	list := s.whole
	s.whole = nil
	s.mu.Unlock()
	for _, w := range list {
		m, err := s.months.file(monthOf(w.day), false)
		if err != nil {
			return err
		}
		if m.numberOf(w.tag) == 0 {
			continue
		}
		buckets, err := s.minutes(ctx, w.tag, w.day, w.day+aDay)
		if err == nil {
			err = m.pack(ctx, w.tag, w.day, within(buckets, w.day, w.day+aDay))
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// settle is a part of it; done says that nothing is due any more.
func (s *Samples) settle(ctx context.Context, now int64) (done bool, err error) {
	by := map[string][]piece{}
	cut := map[string]int{}
	s.mu.RLock()
	for id, t := range s.tails {
		if len(cut) >= atOnce {
			break
		}
		if n := t.due(id, now); n > 0 {
			cut[id] = n
		}
	}
	s.mu.RUnlock()
	if len(cut) == 0 {
		return true, s.tidy(ctx, now)
	}
	for id, n := range cut {
		pieces, err := s.take(ctx, id, n)
		if err != nil {
			return false, err
		}
		for _, p := range pieces {
			name := monthOf(p.column.At[0])
			by[name] = append(by[name], p)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(by)) { // the oldest samples of a tag leave its tail first
		pieces := by[name]
		m, err := s.months.file(name, true)
		if err == nil {
			err = m.add(ctx, pieces, &s.coder)
		}
		if err != nil {
			return false, err
		}
		s.mu.Lock()
		for i := range pieces {
			s.settled(&pieces[i])
		}
		s.mu.Unlock()
	}
	return false, nil
}

// due is how many samples of a tag become blocks now.
func (t *tailOf) due(id string, now int64) int {
	n := 0
	for _, c := range t.columns() {
		n += c.Len()
	}
	if n >= dueAt(id) || len(t.done) > 0 || n > 0 && (now-t.first() >= greatestAge || t.first() < startOfMonth(now)) {
		return n
	}
	return 0
}

// take copies the oldest samples of a tag as what becomes blocks.
func (s *Samples) take(ctx context.Context, id string, n int) ([]piece, error) {
	s.mu.RLock()
	t := s.tails[id]
	known, before := t.known, t.held
	columns := make([]history.Column, 0, 1+len(t.done))
	for _, c := range t.columns() {
		if take := min(n, c.Len()); take > 0 {
			columns = append(columns, part(&c, 0, take))
			n -= take
		}
	}
	s.mu.RUnlock()
	if !known && t.until > 0 {
		var err error
		if before, _, err = s.heldBefore(ctx, id, t.until); err != nil {
			return nil, err
		}
	}
	var out []piece
	for i := range columns {
		c := &columns[i]
		for from := 0; from < c.Len(); {
			next := startOfMonth(startOfMonth(c.At[from]) + 32*aDay)
			to := c.After(next - 1)
			month := c.Slice(from, to)
			out = append(out, piecesOf(id, &month, before)...)
			before = heldAt(c, to-1)
			from = to
		}
	}
	return out, nil
}

// heldBefore reads what a tag was at a time by its blocks; last tells whether
// that was the last sample of its block.
func (s *Samples) heldBefore(ctx context.Context, id string, at int64) (h held, last bool, err error) {
	block, err := s.months.before(ctx, id, at)
	if err != nil || block == nil {
		return held{}, false, err
	}
	var c history.Column
	var coder history.Coder
	if err := coder.Decode(block.Data, &c); err != nil {
		return held{}, false, err
	}
	i := c.After(at) - 1
	return heldAt(&c, i), i == c.Len()-1, nil
}

// settled drops what became a block, and notes the days that are in blocks now.
func (s *Samples) settled(p *piece) {
	t := s.tails[p.tag]
	if t.until > 0 && p.column.Kind != value.STRING {
		for day := startOfDay(max(t.until, p.last()-mostWhole*aDay)); day+aDay <= p.last(); day += aDay {
			s.whole = append(s.whole, wholeDay{p.tag, day})
		}
	}
	t.settled(p)
}

// mostWhole bounds the days that one block may complete.
const mostWhole = 3

func (t *tailOf) settled(p *piece) {
	n := p.column.Len()
	t.until, t.held, t.known = p.column.At[n-1], heldAt(&p.column, n-1), true
	if len(t.done) > 0 {
		if n < t.done[0].Len() {
			t.done[0] = part(&t.done[0], n, t.done[0].Len())
		} else {
			t.done = t.done[1:]
		}
		return
	}
	t.now = part(&t.now, n, t.now.Len())
}

// part is samples [from, to) of a column in room of their own.
func part(c *history.Column, from, to int) history.Column {
	out := history.Column{Kind: c.Kind}
	out.Add(c, from, to)
	return out
}

// tidy forgets the rows whose samples are all in blocks, and puts those together
// that a few slow tags still need.
func (s *Samples) tidy(ctx context.Context, now int64) error {
	s.settling.Lock()
	defer s.settling.Unlock()
	s.mu.RLock()
	oldest, alive := s.alive+1, s.alive
	for _, t := range s.tails {
		if at := t.first(); at > 0 {
			oldest = min(oldest, at)
		}
	}
	s.mu.RUnlock()
	if oldest > alive || now-oldest < restAfter {
		return s.seconds.drop(ctx, oldest)
	}
	left := map[string]*history.Column{}
	s.mu.RLock()
	for id, t := range s.tails {
		// Columns of other kinds are due at once, and never here.
		if len(t.done) == 0 && t.now.Len() > 0 {
			c := part(&t.now, 0, t.now.Len())
			left[id] = &c
		}
	}
	s.mu.RUnlock()
	return s.seconds.rest(ctx, left, alive)
}

// Prune forgets what is from before a time, by whole days.
func (s *Samples) Prune(ctx context.Context, before int64) error {
	s.settling.Lock()
	defer s.settling.Unlock()
	return s.months.drop(ctx, before)
}

// Size is how many bytes the samples have on disk.
func (s *Samples) Size() (bytes int64) {
	files, _ := os.ReadDir(s.dir)
	for _, f := range files {
		if info, err := f.Info(); err == nil {
			bytes += info.Size()
		}
	}
	return bytes
}
