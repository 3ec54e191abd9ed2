package host

import (
	"context"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
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
func (p *Project) renewBeats(release *project.Project) {
	p.beats.mu.Lock()
	defer p.beats.mu.Unlock()
	if p.beats.stop != nil {
		p.beats.stop()
		p.beats.running.Wait()
		p.beats.stop = nil
	}
	if release == nil {
		return
	}
	ctx, stop := context.WithCancel(context.Background())
	p.beats.stop = stop
	if p.beats.devices == nil {
		p.beats.devices = map[string]*beat{}
	}
	for id, d := range release.Devices {
		if d.Off {
			continue
		}
		b := p.beats.devices[id]
		if b == nil {
			b = &beat{changed: time.Now()}
			p.beats.devices[id] = b
		}
		if d.Heartbeat != nil {
			p.beats.every(ctx, p, "the heartbeat of "+d.Name, time.Duration(d.Heartbeat.Every)*time.Millisecond,
				func() { p.beatOnce(ctx, release, d, b) })
		}
		if d.Clock != nil {
			p.beats.every(ctx, p, "the clock of "+d.Name, watchLink, func() { p.mindClock(ctx, release, d, b) })
		}
	}
}

// every runs f at a rate in a goroutine of its own until ctx ends.
func (b *beats) every(ctx context.Context, p *Project, what string, rate time.Duration, f func()) {
	b.running.Add(1)
	go func() {
		defer b.running.Done()
		tick := time.NewTicker(max(rate, 20*time.Millisecond))
		defer tick.Stop()
		for {
			p.bounded(what, f)
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
			}
		}
	}()
}

// beatOnce counts up what the controller hears, and looks at what it counts.
func (p *Project) beatOnce(ctx context.Context, release *project.Project, d *device.Device, b *beat) {
	h := d.Heartbeat
	if t, ok := release.Tag(h.In); ok {
		if v := p.ReadTags(Release, []string{t.ID})[0].Value; !v.Quality.IsBad() {
			b.mu.Lock()
			if !v.Same(b.seen) {
				b.seen, b.changed = v, time.Now()
			}
			b.mu.Unlock()
		}
	}
	t, ok := release.Tag(h.Out)
	if !ok || p.host.hub.Status(*d).State != link.Up {
		return
	}
	b.count++
	said := ""
	if sink, err := p.sinkAt(d, t); err != nil {
		said = err.Error()
	} else if raw := beatValue(t, b.count); true {
		if err := p.door.Beat(ctx, sink, raw, raw); err != nil {
			said = err.Error()
		}
	}
	if said != b.failing && said != "" {
		p.host.log.Warn("a heartbeat is not taken", "device", d.Name, "reason", said)
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

// heard tells whether a device's heartbeat was heard in time. A device without
// one is heard while its link is up.
func (p *Project) heard(id string) bool {
	release := p.Released()
	if release == nil || release.Devices[id] == nil {
		return false
	}
	d := release.Devices[id]
	if d.Heartbeat == nil || d.Heartbeat.In == "" {
		return p.host.hub.Status(*d).State == link.Up
	}
	p.beats.mu.Lock()
	b := p.beats.devices[id]
	p.beats.mu.Unlock()
	if b == nil {
		return false
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	return time.Since(b.changed) <= time.Duration(d.Heartbeat.Timeout)*time.Millisecond
}

// mindClock sets a controller's clock when its link has come up, and again when
// it is time.
func (p *Project) mindClock(ctx context.Context, release *project.Project, d *device.Device, b *beat) {
	up := p.host.hub.Status(*d).State == link.Up
	connected := up && !b.up
	b.up = up
	now := time.Now()
	if !up || !connected && now.Sub(b.clockAt) < time.Duration(d.Clock.Hours)*time.Hour {
		return
	}
	b.clockAt = now
	if out, err := p.setClock(ctx, release, d, now); err != nil || out.Outcome != "confirmed" {
		p.host.log.Warn("a controller's clock was not set", "device", d.Name, "reason", out.Reason, "error", err)
	}
}

// setClock writes the parts of date and time in their order, as one command.
func (p *Project) setClock(ctx context.Context, release *project.Project, d *device.Device, now time.Time) (Outcome, error) {
	at := now.Local()
	if d.Clock.UTC {
		at = now.UTC()
	}
	numbers := map[string]int64{"unix": now.Unix(), "year": int64(at.Year()), "month": int64(at.Month()), "day": int64(at.Day()),
		"hour": int64(at.Hour()), "minute": int64(at.Minute()), "second": int64(at.Second()), "set": 1}
	order := door.Command{Who: door.Who{Name: serverName}, Key: newID("clock"), At: now}
	for _, part := range d.Clock.Parts() {
		t, ok := release.Tag(part.Tag)
		if !ok {
			continue
		}
		sink, kept, err := p.sinkOf(Release, release, t)
		if err != nil {
			return Outcome{}, err
		}
		path, _ := release.Path(t.ID)
		n := numbers[part.Name]
		order.Steps = append(order.Steps, door.Step{
			Target: &door.Target{Tag: t, Path: path, Element: "clock", Sink: sink, Device: kept, Guard: ownGuard{p, release},
				Read: func(id string) value.Value { return p.ReadTags(Release, []string{id})[0].Value }},
			Value: func(value.Value) (value.Value, error) { return value.FromFloat(t.Kind(), float64(n)) },
		})
	}
	if len(order.Steps) == 0 {
		return Outcome{Outcome: "confirmed"}, nil
	}
	return p.door.Do(ctx, order)
}

// serverName is what the trail calls the server where it acts by itself.
const serverName = "Ready Rail"
