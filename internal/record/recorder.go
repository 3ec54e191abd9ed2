package record

import (
	"cmp"
	"context"
	"log/slog"
	"maps"
	"slices"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// Recorder keeps the course of every tag: as the release reads it, or the draft
// where nothing is released yet. It looks at a copy that the engine hands over,
// so that a slow disk holds nothing up, and needs no tag to be read for its sake.
type Recorder struct {
	source func() Source
	store  *store.Samples
	log    *slog.Logger
	again  chan struct{}
	quit   chan struct{}
	done   chan struct{}
	settle chan struct{} // closed once what settles has ended

	clock   history.Clock
	bands   map[string]float64
	ids     []string
	named   []store.TagValue
	filters []history.Filter
	runner  *engine.Runner
	sub     *engine.Sub
	values  []value.Value
	fresh   []int32
	room    []value.Value
	batch   []store.TagValue
	said    bool // that they cannot be written
}

// Source is what there is to record, and who knows its values.
type Source struct {
	Runner *engine.Runner
	// Bands are the tags, each with the band within which a move is not worth
	// keeping, in its unit.
	Bands map[string]float64
	// Days are those that are kept for a time of their own, and Keep is for all
	// others.
	Days map[string]int
	Keep project.RecorderBounds
}

// Longest is how long a tag is without a sample though nothing moves.
const Longest = 10 * time.Minute

const (
	every       = time.Second
	settles     = 10 * time.Second
	prunes      = 6 * time.Hour
	mostWaiting = 200_000 // samples that wait while the disk does not take them
)

// Reading is a recorder that only reads what a store has.
func Reading(s *store.Samples) *Recorder { return &Recorder{store: s} }

func newRecorder(s *store.Samples, o Options) *Recorder {
	r := &Recorder{source: o.Source, store: s, log: o.Log, again: make(chan struct{}, 1), quit: make(chan struct{}), done: make(chan struct{}),
		settle: make(chan struct{})}
	r.Renew()
	go o.Bounded("the recorder", r.loop)
	go o.Bounded("the samples' store", r.settling)
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
	<-r.settle
	r.store.Close()
}

func (r *Recorder) loop() {
	defer close(r.done)
	tick := time.NewTicker(every)
	defer tick.Stop()
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
		}
	}
}

// settling turns what was kept into blocks and forgets what is too old, beside
// the recorder: neither waits for the other.
func (r *Recorder) settling() {
	defer close(r.settle)
	ctx, cancel := context.WithCancel(context.Background())
	go func() { <-r.quit; cancel() }()
	tick, prune := time.NewTicker(settles), time.NewTicker(prunes)
	defer tick.Stop()
	defer prune.Stop()
	r.prune(ctx)
	for {
		select {
		case <-r.quit:
			return
		case now := <-tick.C:
			if err := r.store.Settle(ctx, now); err != nil && ctx.Err() == nil {
				r.log.Error("samples are not put into blocks", "error", err)
			}
		case <-prune.C:
			r.prune(ctx)
		}
	}
}

// attach follows the tags that are to be recorded now. Of those that are no
// longer, nothing is known from now on.
func (r *Recorder) attach() {
	now := r.source()
	runner, bands := now.Runner, now.Bands
	if runner == nil || runner == r.runner && maps.Equal(bands, r.bands) {
		return
	}
	gone := func(id string) bool { _, still := bands[id]; return !still }
	if runner == r.runner && len(bands) == len(r.bands) && !slices.ContainsFunc(r.ids, gone) {
		r.bands = bands
		for i, id := range r.ids {
			r.filters[i].Band = bands[id]
		}
		return
	}
	kept := map[string]history.Filter{}
	for i, id := range r.ids {
		if _, still := bands[id]; still {
			kept[id] = r.filters[i]
		} else if v := r.values[i]; v.Kind != value.None {
			r.batch = append(r.batch, store.TagValue{Tag: id, Value: value.Bad(v.Kind, value.BadUnrecorded).At(r.clock.Now())})
		}
	}
	if r.sub != nil {
		r.runner.Do(func(e *engine.Engine) { e.Unsubscribe(r.sub) })
	}
	r.bands, r.runner, r.ids = bands, runner, project.SortedKeys(bands)
	r.filters = make([]history.Filter, len(r.ids))
	for i, id := range r.ids {
		r.filters[i] = kept[id]
		r.filters[i].Band, r.filters[i].Every = bands[id], Longest
	}
	r.values, r.named = make([]value.Value, len(r.ids)), make([]store.TagValue, len(r.ids))
	for i, id := range r.ids {
		r.named[i] = r.store.Named(id)
	}
	r.sub = nil
	runner.Do(func(e *engine.Engine) { r.sub = e.Follow(r.ids) })
}

// take looks at what changed. Samples stand at the time that the engine saw
// them, to the millisecond, so that the signals of one alarm are on one clock.
func (r *Recorder) take() {
	r.fresh = r.sub.Take(r.values, nil, r.fresh[:0])
	now := r.clock.Now()
	for _, i := range r.fresh {
		if v := r.values[i]; v.Kind != value.None {
			r.room = r.filters[i].Take(v.At(now), r.room[:0])
			r.add(i, r.room)
		}
	}
}

func (r *Recorder) add(i int32, list []value.Value) {
	for _, v := range list {
		r.batch = append(r.batch, r.named[i])
		r.batch[len(r.batch)-1].Value = v
	}
}

// write keeps what came since the last time, and what has stood for long.
func (r *Recorder) write() {
	now := r.clock.Now().UnixNano()
	for i := range r.filters {
		if r.room = r.filters[i].Due(now, r.room[:0]); len(r.room) > 0 {
			r.add(int32(i), r.room)
		}
	}
	if err := r.store.Keep(context.Background(), r.batch); err != nil {
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

func (r *Recorder) prune(ctx context.Context) {
	source := r.source()
	if source.Runner == nil {
		return // nothing is known of what is to be kept
	}
	if err := r.bound(ctx, source, time.Now()); err != nil && ctx.Err() == nil {
		r.log.Error("pruning samples", "error", err)
	}
}

// bound forgets what is older than it may be, and days more while all of it is
// larger than it may be; the last two days stay.
func (r *Recorder) bound(ctx context.Context, source Source, now time.Time) error {
	longer := make(map[string]int64, len(source.Days))
	for id, days := range source.Days {
		longer[id] = now.AddDate(0, 0, -days).UnixNano()
	}
	most := int64(source.Keep.MB) * 1e6
	for days := cmp.Or(source.Keep.Days, project.UsualDays); ; days-- {
		if err := r.store.Prune(ctx, now.AddDate(0, 0, -days).UnixNano(), longer); err != nil {
			return err
		}
		size, err := r.store.Size(ctx)
		if err != nil || most == 0 || size <= most || days <= 2 {
			return err
		}
		clear(longer) // there is no room for what would be kept longer
	}
}

// Alive is the newest time that anything is kept of, in nanoseconds since 1970.
func (r *Recorder) Alive() int64 { return r.store.Alive() }

// Kept is since when anything is kept, in nanoseconds since 1970, and the bytes of
// all of it.
func (r *Recorder) Kept(ctx context.Context) (first, bytes int64, err error) {
	if bytes, err = r.store.Size(ctx); err == nil {
		first, err = r.store.First(ctx)
	}
	return first, bytes, err
}

// Extent is since when something is kept of a tag, in nanoseconds since 1970, and
// the bytes that it takes; see store.Samples.
func (r *Recorder) Extent(ctx context.Context, tag string) (first, bytes int64, err error) {
	return r.store.TagExtent(ctx, tag)
}

// Course reads the samples of a tag between two times, in nanoseconds since
// 1970, at most most of them.
func (r *Recorder) Course(ctx context.Context, tag string, from, to int64) ([]history.Sample, error) {
	return r.store.Read(ctx, tag, from, to, mostSamples)
}
