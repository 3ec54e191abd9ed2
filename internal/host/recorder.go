package host

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

// recorder keeps the course of the tags that alarms look at: those of the
// draft and of the release, as the release reads them, or the draft where
// nothing is released yet. It looks at a copy that the engine hands over, so
// that a slow disk holds nothing up.
type recorder struct {
	p     *Project
	store *store.Samples
	log   *slog.Logger
	again chan struct{}
	quit  chan struct{}
	done  chan struct{}

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

const (
	recordEvery   = time.Second
	recordDays    = 30
	recordPrunes  = 6 * time.Hour
	recordLongest = 10 * time.Minute // without a sample though nothing moves
	recordMost    = 200_000          // samples that wait while the disk does not take them
)

func newRecorder(p *Project, s *store.Samples) *recorder {
	r := &recorder{p: p, store: s, log: p.host.log, again: make(chan struct{}, 1), quit: make(chan struct{}), done: make(chan struct{})}
	r.renew()
	p.begin("the recorder", r.loop)
	return r
}

// renew has it look again at what is to be recorded.
func (r *recorder) renew() {
	select {
	case r.again <- struct{}{}:
	default:
	}
}

func (r *recorder) close() {
	close(r.quit)
	<-r.done
	r.store.Close()
}

func (r *recorder) loop() {
	defer close(r.done)
	tick, prune := time.NewTicker(recordEvery), time.NewTicker(recordPrunes)
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
func (r *recorder) attach() {
	source := r.p.running(Release)
	if source.runner.Load() == nil {
		source = r.p.running(Draft)
	}
	bands := map[string]float64{}
	for _, version := range []*project.Project{r.p.draft.project.Load(), r.p.release.project.Load()} {
		if version != nil {
			maps.Copy(bands, version.Recorded())
		}
	}
	runner := source.runner.Load()
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
		r.filters[i].Band, r.filters[i].Every = bands[id], recordLongest
	}
	r.values, r.raw = make([]value.Value, len(r.ids)), make([]value.Value, len(r.ids))
	r.sub = nil
	runner.Do(func(e *engine.Engine) { r.sub = e.Subscribe(r.ids) })
}

// take looks at what changed. Samples stand at the time that the engine saw
// them, so that the signals of one alarm are on one clock.
func (r *recorder) take() {
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

func (r *recorder) write() {
	if len(r.batch) == 0 {
		return
	}
	if err := r.store.Append(context.Background(), r.batch); err != nil {
		if !r.said {
			r.said = true
			r.log.Error("samples cannot be written: they wait in memory", "error", err)
		}
		if over := len(r.batch) - recordMost; over > 0 {
			r.batch = r.batch[over:]
		}
		return
	}
	r.batch, r.said = r.batch[:0], false
}

func (r *recorder) prune() {
	if err := r.store.Prune(context.Background(), time.Now().AddDate(0, 0, -recordDays).UnixNano()); err != nil {
		r.log.Error("pruning samples", "error", err)
	}
}
