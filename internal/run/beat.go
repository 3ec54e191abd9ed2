package run

import (
	"context"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// A heartbeat both ways: we count a tag up so that the controller knows when we
// are gone, and watch one that it counts. The clock of a controller is set
// through tags, on connecting and again after some hours. Both are the
// release's affair alone, and begin with it. Each heartbeat has a goroutine of
// its own, which waits for no disk and no lock of an editor.

// beats are the heartbeats and clocks of a project's devices.
type beats struct {
	mu      sync.Mutex
	devices map[string]*beat
	stop    context.CancelFunc
	running sync.WaitGroup
}

// beat is how the heartbeat and clock of one device stand; it outlives a
// release.
type beat struct {
	mu      sync.Mutex
	count   int64
	failing string
	seen    value.Value
	changed time.Time
	up      bool
	clockAt time.Time // when the clock was last set
}

// watchLink is how often the link of a device with a clock is looked at.
const watchLink = 500 * time.Millisecond

// renewBeats runs the heartbeats and clocks of a release in the place of those
// of the one before; nil ends them.
func (r *Runs) renewBeats(release *project.Project) {
	r.beats.mu.Lock()
	defer r.beats.mu.Unlock()
	if r.beats.stop != nil {
		r.beats.stop()
		r.beats.running.Wait()
		r.beats.stop = nil
	}
	if release == nil {
		return
	}
	ctx, stop := context.WithCancel(context.Background())
	r.beats.stop = stop
	if r.beats.devices == nil {
		r.beats.devices = map[string]*beat{}
	}
	for id, d := range release.Devices {
		if d.Off {
			continue
		}
		b := r.beats.devices[id]
		if b == nil {
			b = &beat{changed: time.Now()}
			r.beats.devices[id] = b
		}
		if d.Heartbeat != nil {
			r.beats.every(ctx, r, "the heartbeat of "+d.Name, time.Duration(d.Heartbeat.Every)*time.Millisecond,
				func() { r.beatOnce(ctx, release, d, b) })
		}
		if d.Clock != nil {
			r.beats.every(ctx, r, "the clock of "+d.Name, watchLink, func() { r.mindClock(ctx, release, d, b) })
		}
	}
}

// every runs f at a rate in a goroutine of its own until ctx ends.
func (b *beats) every(ctx context.Context, r *Runs, what string, rate time.Duration, f func()) {
	b.running.Add(1)
	go func() {
		defer b.running.Done()
		tick := time.NewTicker(max(rate, 20*time.Millisecond))
		defer tick.Stop()
		for {
			r.o.Bounded(what, f)
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
			}
		}
	}()
}

// beatOnce counts up what the controller hears, and looks at what it counts.
func (r *Runs) beatOnce(ctx context.Context, release *project.Project, d *device.Device, b *beat) {
	h := d.Heartbeat
	if t, ok := release.Tag(h.In); ok {
		if v := r.read(Release, t.ID); !v.Quality.IsBad() {
			b.mu.Lock()
			if !v.Same(b.seen) {
				b.seen, b.changed = v, time.Now()
			}
			b.mu.Unlock()
		}
	}
	t, ok := release.Tag(h.Out)
	if !ok || r.o.Hub.Status(*d).State != link.Up {
		return
	}
	b.count++
	said := ""
	if sink, err := r.sinkAt(d, t); err != nil {
		said = err.Error()
	} else if raw := beatValue(t, b.count); true {
		if err := r.door.Beat(ctx, sink, raw, raw); err != nil {
			said = err.Error()
		}
	}
	if said != b.failing && said != "" {
		r.o.Log.Warn("a heartbeat is not taken", "device", d.Name, "reason", said)
	}
	b.failing = said
}

// beatValue counts within what the tag holds; a BOOL turns over.
func beatValue(t *tag.Tag, n int64) value.Value {
	switch {
	case t.Type.Kind == value.BOOL:
		return value.Bool(n%2 == 1)
	case t.Type.Kind.IsInteger():
		return value.Int(t.Type.Kind, n%100)
	}
	return value.Real(t.Type.Kind, float64(n%100))
}

// Heard tells whether a device's heartbeat was heard in time. A device without
// one is heard while its link is up.
func (r *Runs) Heard(id string) bool {
	release := r.Version(Release)
	if release == nil || release.Devices[id] == nil {
		return false
	}
	d := release.Devices[id]
	if d.Heartbeat == nil || d.Heartbeat.In == "" {
		return r.o.Hub.Status(*d).State == link.Up
	}
	r.beats.mu.Lock()
	b := r.beats.devices[id]
	r.beats.mu.Unlock()
	if b == nil {
		return false
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	return time.Since(b.changed) <= time.Duration(d.Heartbeat.Timeout)*time.Millisecond
}
