package engine

import (
	"sync"
	"sync/atomic"
	"time"

	"readyrail/internal/core/alarm"
)

// TickEvery is how often changes go out to subscribers.
const TickEvery = 50 * time.Millisecond

// maxPending bounds the batches that wait for the engine; beyond it the oldest
// are dropped, since a newer value of the same tag is on its way.
const maxPending = 4096

// Runner gives an engine its goroutine.
type Runner struct {
	engine *Engine
	beat   atomic.Int64
	late   atomic.Int64 // of the last tick, nanoseconds
	work   chan job
	wake   chan struct{}
	quit   chan struct{}
	told   func([]AlarmEvent) // nil where nobody wants to know
	failed func(any)          // is told of a panic; nil where nobody wants to know
	done   chan struct{}

	mu      sync.Mutex
	pending [][]Update
}

// job is work in the engine's goroutine; done is closed once it is finished and
// what it did to alarms has been told.
type job struct {
	f    func(*Engine)
	done chan struct{}
}

// Run starts a program in a goroutine of its own. kept is how its alarms stood
// before; told, which may be nil, is called in that goroutine with what happens
// to them, and must not block. A panic ends no program: failed, which may be nil,
// is told of it, and the beat stands still while rounds fail.
func Run(prog *Program, kept map[string]alarm.Kept, told func([]AlarmEvent), failed func(any)) *Runner {
	r := &Runner{engine: New(prog, time.Now()), told: told, failed: failed, work: make(chan job), wake: make(chan struct{}, 1),
		quit: make(chan struct{}), done: make(chan struct{})}
	r.engine.Keep(kept, time.Now())
	r.beat.Store(time.Now().UnixNano())
	go r.loop()
	return r
}

// Close stops the engine and waits for it.
func (r *Runner) Close() {
	close(r.quit)
	<-r.done
}

// Beat is when the engine last completed a round. It comes from the engine's
// own goroutine, so that a stuck engine cannot look alive.
func (r *Runner) Beat() time.Time { return time.Unix(0, r.beat.Load()) }

// Late tells by how much the last tick came later than it was due, and how many batches
// of values wait.
func (r *Runner) Late() (by time.Duration, waiting int) {
	r.mu.Lock()
	defer r.mu.Unlock()
	return time.Duration(r.late.Load()), len(r.pending)
}

// Push hands over a batch of raw values; it never blocks. The runner keeps the
// slice.
func (r *Runner) Push(batch []Update) {
	r.mu.Lock()
	if len(r.pending) >= maxPending {
		r.pending = r.pending[1:]
	}
	r.pending = append(r.pending, batch)
	r.mu.Unlock()
	select {
	case r.wake <- struct{}{}:
	default:
	}
}

// Do runs f in the engine's goroutine and waits for it, and for what it did to
// alarms to be told. It returns false when the engine has been closed, and for a
// nil Runner.
func (r *Runner) Do(f func(*Engine)) bool {
	if r == nil {
		return false
	}
	j := job{f, make(chan struct{})}
	select {
	case r.work <- j:
		<-j.done
		return true
	case <-r.done:
		return false
	}
}

func (r *Runner) loop() {
	defer close(r.done)
	tick := time.NewTicker(TickEvery)
	defer tick.Stop()
	for {
		select {
		case <-r.quit:
			return
		case j := <-r.work:
			r.bounded(func() { j.f(r.engine); r.tell() })
			close(j.done)
		case <-r.wake:
			r.bounded(func() { r.drain(); r.tell() })
		case due := <-tick.C:
			r.late.Store(int64(time.Since(due)))
			r.bounded(func() {
				r.drain()
				r.engine.Tick(time.Now())
				r.tell()
				r.beat.Store(time.Now().UnixNano())
			})
		}
	}
}

func (r *Runner) bounded(f func()) {
	defer func() {
		if p := recover(); p != nil && r.failed != nil {
			r.failed(p)
		}
	}()
	f()
}

// tell hands on what happened to alarms.
func (r *Runner) tell() {
	if events := r.engine.TakeAlarmEvents(); len(events) > 0 && r.told != nil {
		r.told(events)
	}
}

func (r *Runner) drain() {
	r.mu.Lock()
	batches := r.pending
	r.pending = nil
	r.mu.Unlock()
	now := time.Now()
	for _, b := range batches {
		r.engine.Update(b, now)
	}
}
