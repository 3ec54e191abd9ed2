package store

import (
	"context"
	"maps"
	"slices"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// wholeDay is a day of a tag that came to be in blocks whole.
type wholeDay struct {
	tag string
	day int64
}

// Settle turns what is due into blocks. It works in parts; samples are kept and
// read meanwhile.
func (s *Samples) Settle(ctx context.Context, now time.Time) error {
	s.settling.Lock()
	defer s.settling.Unlock()
	if err := s.mergeLate(ctx); err != nil {
		return err
	}
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

// settle is a part of it; done says that nothing is due any more.
func (s *Samples) settle(ctx context.Context, now int64) (done bool, err error) {
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
	return false, s.blocks(ctx, cut)
}

// blocks makes blocks of the oldest samples of tags, so many of each.
func (s *Samples) blocks(ctx context.Context, cut map[string]int) error {
	defer s.nothingTaken(cut)
	by := map[string][]piece{}
	for id, n := range cut {
		pieces, err := s.take(ctx, id, n)
		if err != nil {
			return err
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
			return err
		}
		s.mu.Lock()
		for i := range pieces {
			s.settled(&pieces[i])
		}
		s.mu.Unlock()
	}
	return nil
}

// nothingTaken says that no samples of tags are on their way into blocks any more.
func (s *Samples) nothingTaken(cut map[string]int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for id := range cut {
		s.tails[id].taken = 0
	}
}

// take copies the oldest samples of a tag as what becomes blocks.
func (s *Samples) take(ctx context.Context, id string, n int) ([]piece, error) {
	s.mu.Lock()
	t := s.tails[id]
	known, before := t.known, t.held
	columns := make([]history.Column, 0, 1+len(t.done))
	for _, c := range t.columns() {
		if take := min(n, c.Len()); take > 0 {
			columns = append(columns, part(&c, 0, take))
			n -= take
			t.taken = c.At[take-1] // what comes late from before it waits
		}
	}
	s.mu.Unlock()
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

// settled drops from the tail what became a block, and notes the days that are in blocks now.
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

// tidy forgets the rows whose samples are all in blocks, and puts those together
// that slow tags still need, now and then.
func (s *Samples) tidy(ctx context.Context, now int64) error {
	oldest, alive := s.oldest()
	if oldest > alive || now-oldest < restAfter || now-s.rested < restAfter {
		s.writing.Lock()
		defer s.writing.Unlock()
		oldest, _ = s.oldest() // something older may have come
		return s.seconds.drop(ctx, oldest)
	}
	// What takes long holds nobody up: the row is made before it is written.
	s.writing.Lock()
	left, upto := s.left()
	s.writing.Unlock()
	data := encodeRest(left, &s.coder)
	s.writing.Lock()
	defer s.writing.Unlock()
	err := s.seconds.rest(ctx, data, alive, upto)
	if err == nil {
		s.rested = now
	}
	return err
}

// oldest is the time of the oldest sample that is in no block, later than alive
// where all are.
func (s *Samples) oldest() (oldest, alive int64) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	oldest = s.alive + 1
	for _, t := range s.tails {
		if at := t.first(); at > 0 {
			oldest = min(oldest, at)
		}
	}
	return oldest, s.alive
}

// left copies what is in no block, by the numbers of the tags, and tells the last
// row that it came with. Nothing is kept meanwhile.
func (s *Samples) left() (left map[int64][]history.Column, upto int64) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	left = map[int64][]history.Column{}
	for id, t := range s.tails {
		for _, c := range t.columns() {
			if n := s.seconds.numbers[id]; c.Len() > 0 {
				left[n] = append(left[n], part(&c, 0, c.Len()))
			}
		}
	}
	return left, s.seconds.last
}
