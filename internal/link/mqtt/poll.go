package mqtt

import (
	"context"
	"fmt"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// poll is a set of topics. The broker sends; Read hands out the newest.
type poll struct {
	d       *Driver
	dev     device.Device
	points  []link.Point
	topics  []device.Topic
	filters []string
	members map[string]int // points by filter
	made    int
}

// Plan prepares the topics; they are subscribed to at the first Read.
func (d *Driver) Plan(points []link.Point, dev device.Device) link.Poll {
	p := &poll{d: d, dev: dev, points: points, topics: make([]device.Topic, len(points)), members: map[string]int{}}
	for i, pt := range points {
		t, err := device.ParseTopic(pt.Text)
		if err != nil {
			continue
		}
		p.topics[i] = t
		if p.members[t.Name] == 0 {
			p.filters = append(p.filters, t.Name)
		}
		p.members[t.Name]++
	}
	if dev.Will != "" && p.members[dev.Will] == 0 {
		p.filters = append(p.filters, dev.Will)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, f := range p.filters {
		if d.topics[f] == nil {
			d.topics[f] = &topic{}
		}
		d.topics[f].users++
	}
	return p
}

// Read hands out the newest values. While the far side has said that it is
// gone, all of them are bad.
func (p *poll) Read(ctx context.Context, out []value.Value, yield func()) error {
	if err := p.d.alive(); err != nil {
		return err
	}
	yield()
	if p.made != p.d.made {
		for _, f := range p.filters {
			if err := p.d.follow(ctx, f); err != nil {
				return err
			}
		}
		p.made = p.d.made
	}
	p.d.mu.Lock()
	defer p.d.mu.Unlock()
	gone := false
	if w := p.d.topics[p.dev.Will]; p.dev.Will != "" && w != nil && !w.at.IsZero() {
		gone = string(w.payload) == p.dev.WillGone
	}
	oldest := time.Now().Add(-time.Duration(p.dev.MaxSilence) * time.Second)
	for i, pt := range p.points {
		t := p.d.topics[p.topics[i].Name]
		switch {
		case t == nil:
			out[i] = value.Bad(pt.Type.Kind, value.BadConfig)
		case gone:
			out[i] = value.Bad(pt.Type.Kind, value.BadGone)
		case t.at.IsZero():
			out[i] = value.Bad(pt.Type.Kind, value.BadWaiting)
		case p.dev.MaxSilence > 0 && t.at.Before(oldest):
			out[i] = value.Bad(pt.Type.Kind, value.BadStale)
		default:
			out[i] = decode(t.payload, p.topics[i].Path, pt.Type).At(t.at)
		}
	}
	return nil
}

// Blocks lists the topics.
func (p *poll) Blocks() []link.Block {
	out := make([]link.Block, len(p.filters))
	for i, f := range p.filters {
		out[i] = link.Block{Name: f, Points: p.members[f]}
		if f == p.dev.Will {
			out[i].Name = fmt.Sprintf("%s (says whether the far side is there)", f)
		}
	}
	return out
}

// Close gives up topics that nobody else follows.
func (p *poll) Close() {
	var drop []string
	p.d.mu.Lock()
	for _, f := range p.filters {
		t := p.d.topics[f]
		if t.users--; t.users == 0 {
			delete(p.d.topics, f)
			drop = append(drop, f)
		}
	}
	p.d.mu.Unlock()
	if len(drop) > 0 && p.d.client != nil {
		p.d.client.Unsubscribe(drop...)
	}
}
