package host

import (
	"context"
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
// release's affair alone, and begin with it.

// beat is how the heartbeat and clock of one device stand.
type beat struct {
	sent    time.Time
	count   int64
	busy    bool // a write is on its way
	failing string

	seen    value.Value
	changed time.Time

	up      bool
	clockAt time.Time // when the clock was last set
}

// mindBeats does what is due.
func (p *Project) mindBeats(now time.Time) {
	release := p.Released()
	if release == nil {
		return
	}
	for id, d := range release.Devices {
		if d.Off || d.Heartbeat == nil && d.Clock == nil {
			continue
		}
		p.minder.mu.Lock()
		b := p.minder.beats[id]
		if b == nil {
			b = &beat{changed: now}
			p.minder.beats[id] = b
		}
		p.minder.mu.Unlock()
		up := p.host.hub.Status(*d).State == link.Up
		p.mindBeat(release, d, b, up, now)
	}
}

func (p *Project) mindBeat(release *project.Project, d *device.Device, b *beat, up bool, now time.Time) {
	p.minder.mu.Lock()
	defer p.minder.mu.Unlock()
	connected := up && !b.up
	b.up = up
	if h := d.Heartbeat; h != nil {
		if t, ok := release.Tag(h.In); ok {
			if v := p.ReadTags(Release, []string{t.ID})[0].Value; !v.Quality.IsBad() && !v.Same(b.seen) {
				b.seen, b.changed = v, now
			}
		}
		if t, ok := release.Tag(h.Out); ok && up && !b.busy && now.Sub(b.sent) >= time.Duration(h.Every)*time.Millisecond {
			b.busy, b.sent = true, now
			b.count++
			v := beatValue(t, b.count)
			go p.sendBeat(d, t, v, b)
		}
	}
	if c := d.Clock; c != nil && up && (connected || now.Sub(b.clockAt) >= time.Duration(c.Hours)*time.Hour) {
		b.clockAt = now
		go p.setClock(release, d, now)
	}
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

// sendBeat writes a raw value past the door for people: it is the server's own.
func (p *Project) sendBeat(d *device.Device, t *tag.Tag, v value.Value, b *beat) {
	err := p.writeOwn(d, t, v)
	p.minder.mu.Lock()
	defer p.minder.mu.Unlock()
	b.busy = false
	said := ""
	if err != nil {
		said = err.Error()
	}
	if said != b.failing && said != "" {
		p.host.log.Warn("a heartbeat is not taken", "device", d.Name, "reason", said)
	}
	b.failing = said
}

func (p *Project) writeOwn(d *device.Device, t *tag.Tag, raw value.Value) error {
	pt, ok := point(d, t)
	if !ok {
		return refused("the tag has no good address")
	}
	_, err := p.host.hub.Write(context.Background(), *d, pt, raw, false)
	return err
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
	p.minder.mu.Lock()
	defer p.minder.mu.Unlock()
	b := p.minder.beats[id]
	return b != nil && time.Since(b.changed) <= time.Duration(d.Heartbeat.Timeout)*time.Millisecond
}

// setClock writes the parts of date and time in their order.
func (p *Project) setClock(release *project.Project, d *device.Device, now time.Time) {
	at := now.Local()
	if d.Clock.UTC {
		at = now.UTC()
	}
	numbers := map[string]int64{"unix": now.Unix(), "year": int64(at.Year()), "month": int64(at.Month()), "day": int64(at.Day()),
		"hour": int64(at.Hour()), "minute": int64(at.Minute()), "second": int64(at.Second()), "set": 1}
	for _, part := range d.Clock.Parts() {
		t, ok := release.Tag(part.Tag)
		if !ok {
			continue
		}
		v, err := value.FromFloat(t.Kind(), float64(numbers[part.Name]))
		if err == nil {
			v, err = t.ToRaw(v)
		}
		if err == nil {
			err = p.writeOwn(d, t, v)
		}
		if err != nil {
			p.host.log.Warn("a controller's clock was not set", "device", d.Name, "part", part.Name, "reason", err)
			return
		}
	}
}
