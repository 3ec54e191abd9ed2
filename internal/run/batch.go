package run

import (
	"context"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/engine"
	"readyrail/internal/link"
)

// batch is the way of several values of one version to where they go.
type batch struct {
	runs    *Runs
	program Program
	version *project.Project
}

// BatchOf is the way of values that go together, of a version that a program
// runs.
func (r *Runs) BatchOf(program Program, version *project.Project) door.Batch {
	return batch{r, program, version}
}

// device is the device behind a tag and how its link sees it; false where the
// value goes elsewhere: an internal tag, a stand-in, a trial.
func (b batch) device(t *tag.Tag) (*device.Device, link.Point, bool) {
	if t.Source != tag.Device || b.program == Try {
		return nil, link.Point{}, false
	}
	d := b.version.Devices[t.Device]
	if d == nil || d.Protocol == device.StandIn {
		return nil, link.Point{}, false
	}
	p, ok := point(d, t)
	return d, p, ok
}

// group is what goes over one link.
type group struct {
	device *device.Device
	parts  []int
	points []link.Point
}

// groups are the parts by the devices behind them, and those that go elsewhere.
func (b batch) groups(parts []*door.Part) (links []group, others []int) {
	at := map[string]int{}
	for i, p := range parts {
		d, pt, ok := b.device(p.Tag)
		if !ok {
			others = append(others, i)
			continue
		}
		n, known := at[d.ID]
		if !known {
			n = len(links)
			at[d.ID] = n
			links = append(links, group{device: d})
		}
		links[n].parts = append(links[n].parts, i)
		links[n].points = append(links[n].points, pt)
	}
	return links, others
}

func (b batch) Requests(parts []*door.Part) [][]int {
	links, others := b.groups(parts)
	var out [][]int
	for _, g := range links {
		for _, request := range b.runs.o.Hub.Requests(*g.device, g.points) {
			which := make([]int, len(request))
			for i, n := range request {
				which[i] = g.parts[n]
			}
			out = append(out, which)
		}
	}
	for _, i := range others {
		out = append(out, []int{i})
	}
	return out
}

func (b batch) Write(ctx context.Context, parts []*door.Part, raw []value.Value) error {
	d, _, ok := b.device(parts[0].Tag)
	if !ok {
		for i, p := range parts {
			sink, _, err := b.runs.SinkOf(b.program, b.version, p.Tag)
			if err != nil {
				return err
			}
			if _, err := sink.Write(ctx, p.Tag.ToEngineering(raw[i]), raw[i], false); err != nil {
				return err
			}
		}
		return nil
	}
	points := make([]link.Point, len(parts))
	for i, p := range parts {
		_, points[i], _ = b.device(p.Tag)
	}
	return b.runs.o.Hub.WriteBatch(ctx, *d, points, raw)
}

func (b batch) Read(ctx context.Context, parts []*door.Part) ([]value.Value, error) {
	out := make([]value.Value, len(parts))
	links, others := b.groups(parts)
	for _, g := range links {
		values, err := b.runs.o.Hub.ReadBatch(ctx, *g.device, g.points)
		if err != nil {
			return nil, err
		}
		for i, n := range g.parts {
			out[n] = values[i]
		}
		b.show(parts, g, values)
	}
	ids := make([]string, len(others))
	for i, n := range others {
		ids[i] = parts[n].Tag.ID
	}
	for i, reading := range b.runs.ReadTags(b.program, ids) {
		t := parts[others[i]].Tag
		raw, err := t.ToRaw(reading.Value)
		if err != nil || reading.Value.Quality.IsBad() {
			raw = value.Bad(t.Type.Kind, reading.Value.Quality)
		}
		out[others[i]] = raw
	}
	return out, nil
}

// show has what was read seen at once, and not only at the next poll.
func (b batch) show(parts []*door.Part, g group, values []value.Value) {
	now := time.Now()
	b.runs.eachEngine(func(e *engine.Engine) {
		var updates []engine.Update
		for i, n := range g.parts {
			if slot, ok := e.Program().Slot(parts[n].Tag.ID); ok && !g.points[i].Apart() && !values[i].Quality.IsBad() {
				updates = append(updates, engine.Update{Slot: slot, Value: values[i].At(now)})
			}
		}
		e.Update(updates, now)
	})
}
