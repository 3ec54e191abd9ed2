package store

import (
	"cmp"
	"context"
	"maps"
	"slices"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// mergeLate writes the blocks anew among which late samples belong, row after row
// of them. A row goes once all of it has its place: where the server ends before,
// it is merged again, which adds nothing twice.
func (s *Samples) mergeLate(ctx context.Context) error {
	for {
		by, seq, err := s.seconds.late(ctx)
		if err != nil || seq == 0 {
			return err
		}
		for _, id := range slices.Sorted(maps.Keys(by)) {
			if err := s.merge(ctx, id, by[id]); err != nil {
				return err
			}
		}
		s.writing.Lock()
		err = s.seconds.merged(ctx, seq)
		s.writing.Unlock()
		if err != nil {
			return err
		}
	}
}

// merge gives late samples of a tag their places, month by month, and puts right
// what follows them.
func (s *Samples) merge(ctx context.Context, id string, late []value.Value) error {
	sortByTime(late)
	first, last := late[0].Nanos(), late[len(late)-1].Nanos()
	if err := s.ahead(ctx, id, last); err != nil {
		return err
	}
	defer s.nothingTaken(map[string]int{id: 0})
	for from := 0; from < len(late); {
		next := startOfMonth(startOfMonth(late[from].Nanos()) + 32*aDay)
		to := from
		for to < len(late) && late[to].Nanos() < next {
			to++
		}
		if err := s.mergeMonth(ctx, id, late[from:to]); err != nil {
			return err
		}
		from = to
	}
	follows, err := s.refold(ctx, id, last)
	if err != nil {
		return err
	}
	return s.unpackDays(ctx, id, first, last, follows)
}

// ahead has what is kept of a tag up to a time in blocks, and lets nothing more from
// before it into its tail. Where the server ended as some of it was on its way into
// blocks, samples that came late are from after the last.
func (s *Samples) ahead(ctx context.Context, id string, upto int64) error {
	for {
		s.mu.Lock()
		t := s.tail(id)
		n := 0
		if first := t.first(); first > 0 && first <= upto {
			n = t.len()
		} else {
			t.taken = upto
		}
		s.mu.Unlock()
		if n == 0 {
			return nil
		}
		if err := s.blocks(ctx, map[string]int{id: n}); err != nil {
			return err
		}
	}
}

// mergeMonth puts samples of one month among the blocks of it. Each goes to the
// block that it follows: what is there moves to no other day, so that who reads
// day by day meanwhile misses nothing.
func (s *Samples) mergeMonth(ctx context.Context, id string, late []value.Value) error {
	first, last := late[0].Nanos(), late[len(late)-1].Nanos()
	m, err := s.months.file(monthOf(first), true)
	if err != nil {
		return err
	}
	begin, err := s.months.begin(ctx, id, first)
	if err != nil {
		return err
	}
	begin = max(begin, startOfMonth(first)) // a block ends with its month
	var keys []int64
	var own []history.Column
	if err := s.months.each(ctx, id, begin, last+1, false, func(b stored) error {
		var c history.Column
		keys, own = append(keys, b.Key), append(own, c)
		return s.coder.Decode(b.Data, &own[len(own)-1])
	}); err != nil {
		return err
	}
	before, _, err := s.heldBefore(ctx, id, begin-1)
	if err != nil {
		return err
	}
	var pieces []piece
	var drop []int64
	added := 0
	put := func(own []history.Column, late []value.Value) {
		for _, c := range weave(own, late) {
			pieces = append(pieces, piecesOf(id, &c, before)...)
			before = heldAt(&c, c.Len()-1)
			added += c.Len()
		}
	}
	taken := 0
	upto := func(at int64) []value.Value {
		from := taken
		for taken < len(late) && late[taken].Nanos() < at {
			taken++
		}
		return late[from:taken]
	}
	for i := range own {
		if i == 0 {
			put(nil, upto(own[0].At[0]))
		}
		next := last + 1
		if i+1 < len(own) {
			next = own[i+1].At[0]
		}
		some := upto(next)
		if len(some) == 0 {
			before = heldAt(&own[i], own[i].Len()-1)
			continue
		}
		put(own[i:i+1], some)
		drop = append(drop, keys[i])
		added -= own[i].Len()
	}
	put(nil, upto(last+1))
	if err := m.replace(ctx, func(tx *sqlx.Tx) error { return dropKeys(ctx, tx, drop) }, pieces, &s.coder); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.count += int64(added)
	if t := s.tail(id); last > t.until {
		t.until, t.known = last, false
	}
	return nil
}

func dropKeys(ctx context.Context, tx *sqlx.Tx, keys []int64) error {
	for _, table := range []string{"block", "minutes"} {
		for _, key := range keys {
			if _, err := tx.ExecContext(ctx, "DELETE FROM "+table+" WHERE key = ?", key); err != nil {
				return err
			}
		}
	}
	return nil
}

func sortByTime(list []value.Value) {
	slices.SortStableFunc(list, func(a, b value.Value) int { return cmp.Compare(a.Nanos(), b.Nanos()) })
}

// weave puts samples, in order of time, into columns, one for each stretch of a
// kind. Of two of one time that of the columns stands, then the first.
func weave(own []history.Column, late []value.Value) (out []history.Column) {
	at := int64(-1 << 63)
	add := func(v value.Value) {
		if v.Nanos() == at {
			return
		}
		at = v.Nanos()
		if len(out) == 0 || out[len(out)-1].Kind != v.Kind {
			out = append(out, history.Column{Kind: v.Kind})
		}
		out[len(out)-1].Append(at, v)
	}
	n := 0
	for i := range own {
		c := &own[i]
		for j := range c.At {
			for ; n < len(late) && late[n].Nanos() < c.At[j]; n++ {
				add(late[n])
			}
			for ; n < len(late) && late[n].Nanos() == c.At[j]; n++ {
				continue // what is there stands
			}
			add(c.Value(j))
		}
	}
	for ; n < len(late); n++ {
		add(late[n])
	}
	return out
}

// refold reckons the buckets of the first block after a time anew, as what held
// before it may be another now, and tells when it begins; 0 for none.
func (s *Samples) refold(ctx context.Context, id string, after int64) (int64, error) {
	for day := startOfDay(after); day <= s.Alive(); day += aDay {
		m, err := s.months.file(monthOf(day), false)
		if err != nil {
			return 0, err
		}
		n := m.numberOf(id)
		if n == 0 {
			continue
		}
		var rows []stored
		if err := m.db.SelectContext(ctx, &rows, "SELECT key, data FROM block WHERE key >= ? AND key < ? ORDER BY key", dayKey(day, n),
			dayKey(day, n+1)); err != nil {
			return 0, err
		}
		for _, r := range rows {
			if at := history.FirstOf(r.Data); at > after {
				return at, s.refoldBlock(ctx, m, id, at, r)
			}
		}
	}
	return 0, nil
}

func (s *Samples) refoldBlock(ctx context.Context, m *month, id string, at int64, b stored) error {
	p := piece{tag: id}
	if err := s.coder.Decode(b.Data, &p.column); err != nil {
		return err
	}
	var err error
	if p.held, _, err = s.heldBefore(ctx, id, at-1); err != nil {
		return err
	}
	if buckets := p.buckets(); buckets != nil {
		_, err = m.db.ExecContext(ctx, "UPDATE minutes SET data = ? WHERE key = ?", buckets, b.Key)
	}
	return err
}

// unpackDays drops what was kept of whole days that are others now, to be packed
// anew: from that of the first late sample to that in which the course goes on as
// it did.
func (s *Samples) unpackDays(ctx context.Context, id string, first, last, follows int64) error {
	end := startOfDay(max(last, min(follows, last+blockAge))) + aDay
	if err := s.months.days(first, end, func(m *month, day int64) error {
		n := m.numberOf(id)
		if n == 0 {
			return nil
		}
		_, err := m.db.ExecContext(ctx, "DELETE FROM day WHERE key >= ? AND key < ?", dayKey(day, n), dayKey(day, n+1))
		return err
	}); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for day := startOfDay(first); day < end && day+aDay <= s.blocksUntil(s.tails[id]); day += aDay {
		s.whole = append(s.whole, wholeDay{id, day})
	}
	return nil
}
