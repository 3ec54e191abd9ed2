package record

import (
	"context"
	"errors"
	"log/slog"
	"maps"
	"sync"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// Logs are the logs of a project at work, each in a goroutine of its own: a slow
// disk under one holds no other up.
type Logs struct {
	store   *store.Logs
	log     *slog.Logger
	source  func() (*engine.Runner, *project.Project)
	journal *Journal
	bounded func(part string, f func())

	again    chan struct{}
	quit     chan struct{}
	done     chan struct{}
	renewing sync.Mutex // over what is opened and closed
	runner   *engine.Runner
	version  *project.Project
	mu       sync.RWMutex
	open     map[string]*Log
}

func newLogs(s *store.Logs, j *Journal, o Options) *Logs {
	l := &Logs{store: s, journal: j, log: o.Log, source: o.Logs, bounded: o.Bounded, open: map[string]*Log{},
		again: make(chan struct{}, 1), quit: make(chan struct{}), done: make(chan struct{})}
	go o.Bounded("the logs", l.loop)
	return l
}

func (l *Logs) loop() {
	defer close(l.done)
	for {
		select {
		case <-l.quit:
			return
		case <-l.again:
			l.renew()
		}
	}
}

// Renew has every log look again at what it is to keep, soon: whoever edits does
// not wait for a log's disk.
func (l *Logs) Renew() {
	select {
	case l.again <- struct{}{}:
	default:
	}
}

// bring keeps what logs begin with.
func (l *Logs) bring(past map[string]PastLog) error {
	ctx := context.Background()
	for id, p := range past {
		samples, err := l.store.Samples(id)
		if err != nil {
			return err
		}
		if err := errors.Join(samples.Keep(ctx, p.Samples), samples.Close()); err != nil {
			return err
		}
		for _, s := range p.Spans {
			s.Log = id
			if _, err := l.store.AddSpan(ctx, s); err != nil {
				return err
			}
		}
	}
	return nil
}

// renew has logs that are new begin, those that are gone end and stay on disk, and
// the others look again at what they are to keep.
func (l *Logs) renew() {
	if l.source == nil {
		return
	}
	l.renewing.Lock()
	defer l.renewing.Unlock()
	runner, version := l.source()
	// An engine runs a moment before its version is known: it is told again then.
	if runner == nil || version == nil || runner == l.runner && version == l.version {
		return
	}
	l.runner, l.version = runner, version
	plans := planLogs(version)
	l.mu.RLock()
	gone := maps.Clone(l.open)
	l.mu.RUnlock()
	for i := range plans {
		p := &plans[i]
		if x := gone[p.log.ID]; x != nil {
			delete(gone, p.log.ID)
			x.renew(runner, p)
			continue
		}
		x, err := l.begin(runner, p)
		if err != nil {
			l.log.Error("a log cannot be kept", "log", p.log.Name, "error", err)
			continue
		}
		l.mu.Lock()
		l.open[p.log.ID] = x
		l.mu.Unlock()
	}
	for id, x := range gone {
		l.mu.Lock()
		delete(l.open, id)
		l.mu.Unlock()
		x.end()
	}
}

// begin opens what a log has and sets it to work.
func (l *Logs) begin(runner *engine.Runner, p *logPlan) (*Log, error) {
	ctx := context.Background()
	states, err := l.store.States(ctx)
	if err != nil {
		return nil, err
	}
	state, known := states[p.log.ID]
	if !known {
		state = store.LogState{ID: p.log.ID, Name: p.log.Name, State: store.LogOn, At: time.Now().UnixNano()}
		if p.log.While.Starts {
			state.State = store.LogOff
		}
		if err := l.store.Put(ctx, state); err != nil {
			return nil, err
		}
	}
	samples, err := l.store.Samples(p.log.ID)
	if err != nil {
		return nil, err
	}
	x := &Log{logs: l, samples: samples, state: state, do: make(chan func()), quit: make(chan struct{}), done: make(chan struct{}),
		settled: make(chan struct{})}
	if x.extent, err = samples.Extent(ctx); err == nil {
		err = x.recover(ctx)
	}
	if err != nil {
		samples.Close()
		return nil, err
	}
	x.attach(runner, p)
	x.publish(time.Now())
	go l.bounded("the log "+p.log.Name, x.loop)
	go l.bounded("the store of the log "+p.log.Name, x.settling)
	return x, nil
}

// Close writes out what waits and ends every log.
func (l *Logs) Close() {
	close(l.quit)
	<-l.done
	l.renewing.Lock()
	defer l.renewing.Unlock()
	for _, x := range l.all() {
		x.close()
	}
	l.store.Close()
}

func (l *Logs) all() []*Log {
	l.mu.RLock()
	defer l.mu.RUnlock()
	out := make([]*Log, 0, len(l.open))
	for _, id := range project.SortedKeys(l.open) {
		out = append(out, l.open[id])
	}
	return out
}

// Log finds a log that is at work; nil for none.
func (l *Logs) Log(id string) *Log {
	l.mu.RLock()
	defer l.mu.RUnlock()
	return l.open[id]
}

// Left lists how logs were left that are no longer at work: what they kept is
// still there.
func (l *Logs) Left(ctx context.Context) ([]store.LogState, error) {
	states, err := l.store.States(ctx)
	if err != nil {
		return nil, err
	}
	out := []store.LogState{}
	for _, id := range project.SortedKeys(states) {
		if l.Log(id) == nil {
			out = append(out, states[id])
		}
	}
	return out, nil
}

// Drop forgets what a log kept that is no longer at work.
func (l *Logs) Drop(ctx context.Context, id string) error {
	l.renewing.Lock()
	defer l.renewing.Unlock()
	if l.Log(id) != nil {
		return say.Errorf("the log is at work: take it out of the project first")
	}
	states, err := l.store.States(ctx)
	if err != nil {
		return err
	}
	if _, known := states[id]; !known {
		return say.Errorf("nothing is kept of a log %q", id)
	}
	return l.store.Drop(ctx, id)
}

// Raised tells the logs of an alarm that came.
func (l *Logs) Raised(alarm string, at time.Time) {
	for _, x := range l.all() {
		x.raised(alarm, at)
	}
}

// Spans lists a log's spans and marks; see store.Logs.
func (l *Logs) Spans(ctx context.Context, id, of, text string, before int64, limit int) ([]store.LogSpan, error) {
	return l.store.Spans(ctx, id, of, text, before, limit)
}

// NoteSpan gives a span its note.
func (l *Logs) NoteSpan(ctx context.Context, id string, seq int64, note string) error {
	return l.store.NoteSpan(ctx, id, seq, note)
}
