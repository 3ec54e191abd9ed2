package engine

import (
	"sync"

	"readyrail/internal/core/value"
)

// watcher is a subscriber's interest in a slot.
type watcher struct {
	sub   *Sub
	local int32
}

// Sub is one subscriber's own copy of the values it asked for. The engine
// writes to it at each Tick; the subscriber takes what is new when it likes. A
// slow subscriber misses values in between, never the newest, and holds nobody
// up.
type Sub struct {
	ids    []string
	signal chan struct{}

	mu     sync.Mutex
	values []value.Value
	raw    []value.Value
	fresh  []int32
	marked []bool

	touched bool // used by the engine's goroutine alone
	follows bool
}

// Subscribe asks for tags by id. An id that the program does not have is bad
// until a later program has it.
func (e *Engine) Subscribe(ids []string) *Sub {
	s := &Sub{ids: ids, signal: make(chan struct{}, 1), values: make([]value.Value, len(ids)), raw: make([]value.Value, len(ids)),
		marked: make([]bool, len(ids))}
	e.subs[s] = struct{}{}
	e.attach(s)
	return s
}

// Follow is Subscribe for one who looks on: a tag that is read only while it is
// needed is not needed for this.
func (e *Engine) Follow(ids []string) *Sub {
	s := e.Subscribe(ids)
	s.follows = true
	return s
}

// needed tells whether somebody watches a slot who needs it read.
func (e *Engine) needed(slot int32) bool {
	for _, w := range e.watchers[slot] {
		if !w.sub.follows {
			return true
		}
	}
	return false
}

// Unsubscribe ends a subscription.
func (e *Engine) Unsubscribe(s *Sub) {
	delete(e.subs, s)
	for _, id := range s.ids {
		slot, ok := e.prog.slots[id]
		if !ok {
			continue
		}
		list := e.watchers[slot][:0]
		for _, w := range e.watchers[slot] {
			if w.sub != s {
				list = append(list, w)
			}
		}
		e.watchers[slot] = list
		if len(list) == 0 {
			e.watched[slot] = unwatched
		}
	}
}

// attach enters a subscription into the watchers and fills in every value.
func (e *Engine) attach(s *Sub) {
	s.mu.Lock()
	for local, id := range s.ids {
		v, raw := value.Bad(value.None, value.BadConfig), value.Value{}
		if slot, ok := e.prog.slots[id]; ok {
			e.watchers[slot] = append(e.watchers[slot], watcher{s, int32(local)})
			if e.watched[slot] == unwatched {
				e.watched[slot] = watchedQuiet
			}
			v, raw = e.frame.Slots[slot], e.raw[slot]
		}
		s.store(int32(local), v, raw)
	}
	s.mu.Unlock()
	s.wake()
}

// rewatch enters every subscription anew, after a program took over.
func (e *Engine) rewatch() {
	e.watchers, e.watched = make([][]watcher, len(e.prog.specs)), make([]uint8, len(e.prog.specs))
	for s := range e.subs {
		e.attach(s)
	}
}

func (s *Sub) store(local int32, v, raw value.Value) {
	s.values[local], s.raw[local] = v, raw
	if !s.marked[local] {
		s.marked[local] = true
		s.fresh = append(s.fresh, local)
	}
}

func (s *Sub) wake() {
	select {
	case s.signal <- struct{}{}:
	default:
	}
}

// deliver hands over what changed since the last time.
func (e *Engine) deliver() {
	if len(e.changed) == 0 {
		return
	}
	var touched []*Sub
	for _, slot := range e.changed {
		if e.watched[slot] == watchedNew {
			e.watched[slot] = watchedQuiet
		}
		for _, w := range e.watchers[slot] {
			if !w.sub.touched {
				w.sub.touched = true
				w.sub.mu.Lock()
				touched = append(touched, w.sub)
			}
			w.sub.store(w.local, e.frame.Slots[slot], e.raw[slot])
		}
	}
	e.changed = e.changed[:0]
	for _, s := range touched {
		s.touched = false
		s.mu.Unlock()
		s.wake()
	}
}

// Changed is signalled when there is something to take.
func (s *Sub) Changed() <-chan struct{} { return s.signal }

// Take copies what is new since the last Take into values and raw (either may
// be nil), which are as long as the ids, and returns the indices, appended to
// fresh.
func (s *Sub) Take(values, raw []value.Value, fresh []int32) []int32 {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, i := range s.fresh {
		s.marked[i] = false
		if values != nil {
			values[i] = s.values[i]
		}
		if raw != nil {
			raw[i] = s.raw[i]
		}
	}
	fresh = append(fresh, s.fresh...)
	s.fresh = s.fresh[:0]
	return fresh
}
