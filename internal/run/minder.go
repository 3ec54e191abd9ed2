package run

import (
	"context"
	"time"

	"readyrail/internal/engine"
)

// The minder looks after a project while it runs: it tells the system tags,
// keeps the retained values, notices what nobody needs any more and what went
// wrong, and records what is owed.

const (
	mindEvery   = 100 * time.Millisecond
	demandEvery = 3  // rounds
	slowEvery   = 10 // rounds
)

type minder struct {
	quit, done chan struct{}
	sentinel   sentinel
	unrecorded bool // something that was done waits for the disk
}

func (r *Runs) startMinder() {
	r.minder.quit, r.minder.done = make(chan struct{}), make(chan struct{})
	go r.mind() // its rounds are bounded one by one
}

func (r *Runs) stopMinder() {
	if r.minder.quit == nil {
		return
	}
	close(r.minder.quit)
	<-r.minder.done
	r.keepRetained()
}

func (r *Runs) mind() {
	defer close(r.minder.done)
	tick := time.NewTicker(mindEvery)
	defer tick.Stop()
	for round := 0; ; round++ {
		select {
		case <-r.minder.quit:
			return
		case <-tick.C:
		}
		now := time.Now()
		if round%demandEvery == 0 {
			r.o.Bounded("what is read", func() { r.mindDemand(now) })
		}
		if round%slowEvery == 0 {
			r.o.Bounded("the minder", func() { r.mindSlow(now) })
		}
	}
}

// mindSlow is a round of what is looked after once a second.
func (r *Runs) mindSlow(now time.Time) {
	r.tellSystem(now)
	r.minder.sentinel.watch(r, now)
	r.keepRetained()
	r.door.Settle(context.Background())
	r.tellUnrecorded()
	r.o.EverySecond(now)
}

// tellUnrecorded tells the desks when what was done begins to wait for the disk,
// and when that is over.
func (r *Runs) tellUnrecorded() {
	if now := r.Unrecorded() > 0; now != r.minder.unrecorded {
		r.minder.unrecorded = now
		r.release.board.Add(1)
		r.o.AlarmsChanged()
	}
}

// mindDemand asks the links anew when other tags are needed than before.
func (r *Runs) mindDemand(now time.Time) {
	for _, name := range programs {
		x := r.running(name)
		runner := x.runner.Load()
		if runner == nil {
			continue
		}
		var resting map[int32]bool
		changed := false
		runner.Do(func(e *engine.Engine) { resting, changed = e.Demand(now) })
		if !changed {
			continue
		}
		x.applying.Lock()
		if version := x.version.Load(); version != nil && x.runner.Load() == runner {
			r.subscribe(name, version, x.program, resting)
		}
		x.applying.Unlock()
	}
}
