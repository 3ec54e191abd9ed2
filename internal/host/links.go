package host

import (
	"context"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/link"
	"readyrail/internal/link/modbus"
)

func (p *Project) owner(name Program) string { return p.id + "/" + string(name) }

// point is how the link sees a tag; false when the tag has no good address.
func point(d *device.Device, t *tag.Tag) (link.Point, bool) {
	a, err := device.ParseAddress(t.Address)
	if err != nil || a.Fit(t.Type) != nil {
		return link.Point{}, false
	}
	return link.Point{Unit: byte(d.Unit), Addr: a, Type: t.Type, Order: d.TagOrder(t)}, true
}

// subscribe tells the hub what a program needs. A device without tags is kept
// connected too, so that its link state shows.
func (p *Project) subscribe(name Program, version *project.Project, program *engine.Program) {
	by := map[string]*link.DeviceSubscriptions{}
	for id, d := range version.Devices {
		by[id] = &link.DeviceSubscriptions{Device: *d}
	}
	for id, t := range version.Tags {
		ds := by[t.Device]
		if t.Source != tag.Device || ds == nil {
			continue
		}
		slot, ok := program.Slot(id)
		pt, fits := point(&ds.Device, t)
		if ok && fits {
			ds.Subscriptions = append(ds.Subscriptions, link.Subscription{Handle: slot, Point: pt, Every: ds.Device.PollEvery(t)})
		}
	}
	var list []link.DeviceSubscriptions
	for _, id := range project.SortedKeys(by) {
		list = append(list, *by[id])
	}
	runner := p.running(name).runner.Load()
	p.host.hub.Set(p.owner(name), list, func(rs []link.Reading) {
		batch := make([]engine.Update, len(rs))
		for i, r := range rs {
			batch[i] = engine.Update{Slot: r.Handle, Value: r.Value}
		}
		runner.Push(batch)
	})
}

// LinkStatus is how the link to a device stands.
type LinkStatus struct {
	Device    string     `json:"device"`
	Name      string     `json:"name"`
	State     link.State `json:"state"`
	Since     time.Time  `json:"since"`
	Problem   string     `json:"problem"`
	ProblemAt time.Time  `json:"problemAt"`
	RoundTrip float64    `json:"roundTripMs"`
	Requests  int64      `json:"requests"`
	Errors    int64      `json:"errors"`
	Blocks    int        `json:"blocks"`
	Points    int        `json:"points"`
	Failing   int        `json:"failing"`
	Missed    int        `json:"missed"`
}

// Links tells how the links of a program's devices stand.
func (p *Project) Links(name Program) []LinkStatus {
	out := []LinkStatus{}
	version := p.running(name).project.Load()
	if version == nil {
		return out
	}
	for _, id := range project.SortedKeys(version.Devices) {
		d := version.Devices[id]
		s := p.host.hub.Status(*d)
		out = append(out, LinkStatus{id, d.Name, s.State, s.Since, s.Problem, s.ProblemAt, float64(s.RoundTrip.Microseconds()) / 1000,
			s.Requests, s.Errors, s.Blocks, s.Points, s.Failing, s.Missed})
	}
	return out
}

// TestDevice tries a device's settings with a connection of its own.
func TestDevice(ctx context.Context, d device.Device) (roundTrip time.Duration, err error) {
	if field, err := d.Check(); err != nil {
		return 0, refused("%s: %v", field, err)
	}
	rtt, err := modbus.Test(ctx, d)
	if err != nil {
		return 0, refused("%v", err)
	}
	return rtt, nil
}

// Reading is a tag's present value.
type Reading struct {
	Value value.Value
	Raw   value.Value
	Known bool
}

// ReadTags returns the present values of tags in a program.
func (p *Project) ReadTags(name Program, ids []string) []Reading {
	out := make([]Reading, len(ids))
	if runner := p.running(name).runner.Load(); runner != nil {
		runner.Do(func(e *engine.Engine) {
			for i, id := range ids {
				out[i].Value, out[i].Raw, out[i].Known = e.Read(id)
			}
		})
	}
	return out
}
