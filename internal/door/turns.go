package door

import (
	"context"
	"sync"
)

// turns lets one write to a tag go at a time. One more may wait; when a third
// comes, the one that waits is superseded.
type turns struct {
	mu   sync.Mutex
	tags map[string]*turn
}

type turn struct {
	awaiting bool      // what is under way only waits for its controller's answer
	waiting  chan bool // receives true when it is its turn, false when superseded
}

// wait returns when it is the caller's turn; the function it returns ends it.
func (q *turns) wait(ctx context.Context, tag string) (over func(), err error) {
	q.mu.Lock()
	if q.tags == nil {
		q.tags = map[string]*turn{}
	}
	t := q.tags[tag]
	if t == nil {
		q.tags[tag] = &turn{}
		q.mu.Unlock()
		return func() { q.next(tag) }, nil
	}
	if t.awaiting {
		q.mu.Unlock()
		return nil, Refusing("the controller has not yet answered the press before this one")
	}
	if t.waiting != nil {
		t.waiting <- false
	}
	mine := make(chan bool, 1)
	t.waiting = mine
	q.mu.Unlock()
	select {
	case mineNow := <-mine:
		if !mineNow {
			return nil, errSuperseded
		}
		return func() { q.next(tag) }, nil
	case <-ctx.Done():
		q.mu.Lock()
		if t.waiting == mine {
			t.waiting = nil
			q.mu.Unlock()
			return nil, ctx.Err()
		}
		q.mu.Unlock()
		if <-mine {
			q.next(tag)
		}
		return nil, ctx.Err()
	}
}

// await says that what is under way was sent and waits for an answer.
func (q *turns) await(tag string) {
	q.mu.Lock()
	defer q.mu.Unlock()
	q.tags[tag].awaiting = true
}

func (q *turns) next(tag string) {
	q.mu.Lock()
	defer q.mu.Unlock()
	t := q.tags[tag]
	if t.waiting == nil {
		delete(q.tags, tag)
		return
	}
	t.awaiting = false
	t.waiting <- true
	t.waiting = nil
}
