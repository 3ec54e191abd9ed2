package store

import (
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// tailOf is what is kept of a tag and in no block yet, oldest first: columns of
// kinds that it had, and the one that grows.
type tailOf struct {
	number int64 // of the tag among the seconds; 0 where it is not known yet

	done  []history.Column
	now   history.Column
	until int64 // of the newest sample in a block; 0 for none
	taken int64 // of the newest one that is being put into a block
	held  held  // what that sample was
	known bool  // held is read
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
func (t *tailOf) add(v value.Value) bool {
	if at, _ := t.last(); v.Nanos() <= at {
		return false
	}
	if t.now.Kind != v.Kind && t.now.Len() > 0 {
		t.done = append(t.done, t.now)
		t.now = history.Column{}
	}
	t.now.Kind = v.Kind
	t.now.Append(v.Nanos(), v)
	return true
}

// insert gives samples their places that are not the newest, and tells by how many
// there are more.
func (t *tailOf) insert(list []value.Value) int {
	was := t.len()
	woven := weave(t.columns(), list)
	t.done, t.now = woven[:len(woven)-1], woven[len(woven)-1]
	return t.len() - was
}

// len is how many samples there are.
func (t *tailOf) len() int {
	n := t.now.Len()
	for i := range t.done {
		n += t.done[i].Len()
	}
	return n
}

// forget drops what is from before a time.
func (t *tailOf) forget(before int64) {
	for len(t.done) > 0 {
		c := &t.done[0]
		n := c.After(before - 1)
		if n == 0 {
			return
		}
		if n < c.Len() {
			t.done[0] = part(c, n, c.Len())
			return
		}
		t.done = t.done[1:]
	}
	if n := t.now.After(before - 1); n > 0 {
		t.now = part(&t.now, n, t.now.Len())
	}
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

// due is how many samples of a tag become blocks now.
func (t *tailOf) due(id string, now int64) int {
	n := t.len()
	if n >= dueAt(id) || len(t.done) > 0 || n > 0 && (now-t.first() >= greatestAge || t.first() < startOfMonth(now)) {
		return n
	}
	return 0
}

// settled drops what became a block.
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
