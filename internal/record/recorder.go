package record

import (
	"context"
	"log/slog"
	"maps"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// Recorder keeps the course of the tags that alarms look at: those of the
// draft and of the release, as the release reads them, or the draft where
// nothing is released yet. It looks at a copy that the engine hands over, so
// that a slow disk holds nothing up.
type Recorder struct {
	source func() Source
	store  *store.Samples
	log    *slog.Logger
	again  chan struct{}
	quit   chan struct{}
	done   chan struct{}

	bands   map[string]float64
	ids     []string
	filters []history.Filter
	runner  *engine.Runner
	sub     *engine.Sub
	values  []value.Value
	raw     []value.Value
	fresh   []int32
	batch   []store.TagSample
	said    bool // that they cannot be written
}

// Source is what there is to record, and who knows its values.
type Source struct {
	Runner *engine.Runner
	// Bands are the tags, each with the band within which a move is not worth
	// keeping, in its unit.
	Bands map[string]float64
}

const (
	every       = time.Second
	days        = 30
	prunes      = 6 * time.Hour
	longest     = 10 * time.Minute // without a sample though nothing moves
	mostWaiting = 200_000          // samples that wait while the disk does not take them
)

func newRecorder(s *store.Samples, o Options) *Recorder {
	r := &Recorder{source: o.Source, store: s, log: o.Log, again: make(chan struct{}, 1), quit: make(chan struct{}), done: make(chan struct{})}
	r.Renew()
	go o.Bounded("the recorder", r.loop)
	return r
}

// Renew has it look again at what is to be recorded.
func (r *Recorder) Renew() {
	select {
	case r.again <- struct{}{}:
	default:
	}
}

func (r *Recorder) close() {
	close(r.quit)
	<-r.done
	r.store.Close()
}

func (r *Recorder) loop() {
	defer close(r.done)
	tick, prune := time.NewTicker(every), time.NewTicker(prunes)
	defer tick.Stop()
	defer prune.Stop()
	r.prune()
	for {
		var changed <-chan struct{}
		if r.sub != nil {
			changed = r.sub.Changed()
		}
		select {
		case <-r.quit:
			r.write()
			return
		case <-r.again:
			r.attach()
		case <-changed:
			r.take()
		case <-tick.C:
			r.write()
		case <-prune.C:
			r.prune()
		}
	}
}

// attach follows the tags that are to be recorded now.
func (r *Recorder) attach() {
	now := r.source()
	runner, bands := now.Runner, now.Bands
	if runner == nil || runner == r.runner && maps.Equal(bands, r.bands) {
		return
	}
	kept := map[string]history.Filter{}
	for i, id := range r.ids {
		kept[id] = r.filters[i]
	}
	if r.sub != nil {
		r.runner.Do(func(e *engine.Engine) { e.Unsubscribe(r.sub) })
	}
	r.bands, r.runner, r.ids = bands, runner, project.SortedKeys(bands)
	r.filters = make([]history.Filter, len(r.ids))
	for i, id := range r.ids {
		r.filters[i] = kept[id]
		r.filters[i].Band, r.filters[i].Every = bands[id], longest
	}
	r.values, r.raw = make([]value.Value, len(r.ids)), make([]value.Value, len(r.ids))
	r.sub = nil
	runner.Do(func(e *engine.Engine) { r.sub = e.Subscribe(r.ids) })
}

// take looks at what changed. Samples stand at the time that the engine saw
// them, so that the signals of one alarm are on one clock.
func (r *Recorder) take() {
	r.fresh = r.sub.Take(r.values, r.raw, r.fresh[:0])
	now := time.Now()
	var room [2]history.Sample
	for _, i := range r.fresh {
		s, ok := history.Of(r.values[i], now)
		if !ok {
			continue
		}
		for _, keep := range r.filters[i].Take(s, room[:0]) {
			r.batch = append(r.batch, store.TagSample{Tag: r.ids[i], Sample: keep})
		}
	}
}

func (r *Recorder) write() {
	if len(r.batch) == 0 {
		return
	}
	if err := r.store.Append(context.Background(), r.batch); err != nil {
		if !r.said {
			r.said = true
			r.log.Error("samples cannot be written: they wait in memory", "error", err)
		}
		if over := len(r.batch) - mostWaiting; over > 0 {
			r.batch = r.batch[over:]
		}
		return
	}
	r.batch, r.said = r.batch[:0], false
}

func (r *Recorder) prune() {
	if err := r.store.Prune(context.Background(), time.Now().AddDate(0, 0, -days).UnixNano()); err != nil {
		r.log.Error("pruning samples", "error", err)
	}
}

// Course reads the samples of a tag between two times, in nanoseconds since
// 1970, at most most of them.
func (r *Recorder) Course(ctx context.Context, tag string, from, to int64) ([]history.Sample, error) {
	return r.store.Read(ctx, tag, from, to, mostSamples)
}
