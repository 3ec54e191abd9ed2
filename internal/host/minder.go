package host

import (
	"context"
	"errors"
	"runtime"
	"sync"
	"syscall"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/link"
)

// The minder looks after a project while it runs: it tells the system tags,
// keeps the retained values, notices what nobody needs any more, ends what is
// overdue, and records what is owed.

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

func (p *Project) startMinder() {
	p.minder.quit, p.minder.done = make(chan struct{}), make(chan struct{})
	go p.mind() // its rounds are bounded one by one
}

func (p *Project) stopMinder() {
	if p.minder.quit == nil {
		return
	}
	close(p.minder.quit)
	<-p.minder.done
	p.keepRetained()
}

func (p *Project) mind() {
	defer close(p.minder.done)
	tick := time.NewTicker(mindEvery)
	defer tick.Stop()
	for round := 0; ; round++ {
		select {
		case <-p.minder.quit:
			return
		case <-tick.C:
		}
		now := time.Now()
		if round%demandEvery == 0 {
			p.bounded("what is read", func() { p.mindDemand(now) })
		}
		if round%slowEvery == 0 {
			p.bounded("the minder", func() { p.mindSlow(now) })
		}
	}
}

// mindSlow is a round of what is looked after once a second.
func (p *Project) mindSlow(now time.Time) {
	p.tellSystem(now)
	p.minder.sentinel.watch(p, now)
	p.keepRetained()
	p.door.Settle(context.Background())
	p.tellUnrecorded()
	if err := p.records.Trail.SealEnd(context.Background()); err != nil {
		p.host.log.Warn("the end of the trail is not sealed", "project", p.id, "error", err)
	}
	p.fold()
	p.endOverdue(now)
	p.endOverdueTurn(now)
}

// fold folds the logs of writes in while nobody waits for it.
func (p *Project) fold() {
	folds := p.records.Fold()
	folds["state"], folds["project"] = p.state.Fold, p.store.Fold
	for name, fold := range folds {
		// A full disk is said already.
		if err := fold(context.Background()); err != nil && !errors.Is(err, ErrFull) {
			p.host.log.Warn("the log of writes is not folded in", "project", p.id, "database", name, "error", err)
		}
	}
}

// unrecorded is how much of what was done waits for the disk.
func (p *Project) unrecorded() int { return p.door.Owed() + p.records.Journal.Failing() }

// tellUnrecorded tells the desks when that begins and when it is over.
func (p *Project) tellUnrecorded() {
	now := p.unrecorded() > 0
	if now != p.minder.unrecorded {
		p.minder.unrecorded = now
		p.release.board.Add(1)
		p.alarmNews()
	}
}

// mindDemand asks the links anew when other tags are needed than before.
func (p *Project) mindDemand(now time.Time) {
	for _, name := range []Program{Draft, Release, Try} {
		r := p.running(name)
		runner := r.runner.Load()
		if runner == nil {
			continue
		}
		var resting map[int32]bool
		changed := false
		runner.Do(func(e *engine.Engine) { resting, changed = e.Demand(now) })
		if !changed {
			continue
		}
		p.editing.Lock()
		if version := r.project.Load(); version != nil && r.runner.Load() == runner {
			p.subscribe(name, version, r.program, resting)
		}
		p.editing.Unlock()
	}
}

// keeper is the program whose internal tags are kept over a restart: the
// release once there is one.
func (p *Project) keeper() Program {
	if p.Released() == nil {
		return Draft
	}
	return Release
}

// keepRetained stores the values of retained tags that changed by themselves;
// those that somebody entered are kept as they are written.
func (p *Project) keepRetained() {
	runner := p.running(p.keeper()).runner.Load()
	if runner == nil {
		return
	}
	p.layer.retaining.Lock()
	defer p.layer.retaining.Unlock()
	var now map[string]value.Value
	if !runner.Do(func(e *engine.Engine) { now = e.Retained() }) {
		return
	}
	texts := make(map[string]string, len(now))
	for id, v := range now {
		texts[id] = v.Text()
	}
	if err := p.retain(context.Background(), texts); err != nil {
		p.host.log.Error("retained values were not kept", "project", p.id, "error", err)
	}
}

// retain stores values of retained tags, as far as they differ from what is
// stored. It returns once they are on disk. The caller has the lock of
// retaining, until the engine has the values too.
func (p *Project) retain(ctx context.Context, texts map[string]string) error {
	changed := map[string]string{}
	p.layer.mu.Lock()
	for id, text := range texts {
		if p.layer.retained[id] != text {
			changed[id] = text
		}
	}
	p.layer.mu.Unlock()
	if len(changed) == 0 {
		return nil
	}
	if err := p.state.PutRetained(context.WithoutCancel(ctx), changed); err != nil {
		return err
	}
	p.layer.mu.Lock()
	defer p.layer.mu.Unlock()
	for id, text := range changed {
		p.layer.retained[id] = text
	}
	return nil
}

// load is what this process asks of its machine.
type load struct {
	mu     sync.Mutex
	at     time.Time
	cpu    time.Duration
	share  float64 // of one core, in percent
	memory float64 // MB
}

// measure reads the process's own figures, at most once a second.
func (l *load) measure(now time.Time) (share, memory float64) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if now.Sub(l.at) < 900*time.Millisecond {
		return l.share, l.memory
	}
	var u syscall.Rusage
	if syscall.Getrusage(syscall.RUSAGE_SELF, &u) == nil {
		cpu := time.Duration(u.Utime.Nano() + u.Stime.Nano())
		if !l.at.IsZero() {
			l.share = float64(cpu-l.cpu) / float64(now.Sub(l.at)) * 100
		}
		l.cpu = cpu
	}
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	l.memory = float64(m.Sys) / (1 << 20)
	l.at = now
	return l.share, l.memory
}

// tellSystem sets the system tags that the engine cannot know by itself.
func (p *Project) tellSystem(now time.Time) {
	for _, name := range []Program{Draft, Release, Try} {
		r := p.running(name)
		runner, version := r.runner.Load(), r.project.Load()
		if runner == nil || version == nil {
			continue
		}
		var systems []engine.SystemTag
		runner.Do(func(e *engine.Engine) { systems = e.Program().Systems() })
		// What is asked of others is asked outside of the engine.
		values := make([]value.Value, len(systems))
		known := make([]bool, len(systems))
		for i, s := range systems {
			values[i], known[i] = p.systemValue(s, version.Devices, now)
		}
		runner.Do(func(e *engine.Engine) {
			for i, s := range systems {
				if known[i] {
					e.SetSystem(s.Slot, values[i], now)
				}
			}
		})
	}
}

func (p *Project) systemValue(s engine.SystemTag, devices map[string]*device.Device, now time.Time) (value.Value, bool) {
	whole := func(n int64) (value.Value, bool) { return value.Int(value.LINT, n), true }
	status := func() link.Status {
		if d := devices[s.Device]; d != nil {
			return p.host.hub.Status(*d)
		}
		return link.Status{}
	}
	switch s.Name {
	case "link.up":
		return value.Bool(status().State == link.Up), true
	case "link.roundTrip":
		return value.Real(value.LREAL, float64(status().RoundTrip.Microseconds())/1000), true
	case "link.errors":
		return whole(status().Errors)
	case "link.heartbeat":
		return value.Bool(p.heard(s.Device)), true
	case "links.down":
		down := int64(0)
		for _, d := range devices {
			if st := p.host.hub.Status(*d); st.State == link.Down || st.State == link.Connecting {
				down++
			}
		}
		return value.Int(value.INT, down), true
	case "desks":
		p.news.mu.Lock()
		defer p.news.mu.Unlock()
		return value.Int(value.INT, int64(len(p.news.listeners))), true
	case "release":
		if info := p.ReleaseInfo(); info != nil {
			return whole(info.Number)
		}
		return whole(0)
	case "server.load":
		share, _ := p.host.load.measure(now)
		return value.Real(value.LREAL, share), true
	case "server.memory":
		_, memory := p.host.load.measure(now)
		return value.Real(value.LREAL, memory), true
	case "server.uptime":
		return whole(int64(now.Sub(p.host.started).Seconds()))
	}
	return value.Value{}, false
}
