package run

import (
	"strings"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/engine"
	"readyrail/internal/link"
)

func (r *Runs) owner(name Program) string { return r.o.ID + "/" + string(name) }

// point is how the link sees a tag; false when the tag has no good address.
func point(d *device.Device, t *tag.Tag) (link.Point, bool) {
	if _, err := d.CheckTag(t); err != nil || d.Protocol == device.StandIn {
		return link.Point{}, false
	}
	p := link.Point{Type: t.Type}
	if d.Protocol != device.ModbusTCP {
		p.Text, p.WriteText = t.Address, t.Address
		if t.WriteAddress != "" {
			p.WriteText = t.WriteAddress
		}
		return p, true
	}
	p.Unit, p.Order = byte(d.Unit), d.TagOrder(t)
	p.Addr, _ = device.ParseAddress(t.Address)
	p.WriteAddr = p.Addr
	if t.WriteAddress != "" {
		p.WriteAddr, _ = device.ParseAddress(t.WriteAddress)
	}
	return p, true
}

// subscribe tells the hub what a program needs, less the tags that rest as
// nobody needs them. A device without tags is kept connected too, so that its
// link state shows; one that a stand-in replaces is left alone.
func (r *Runs) subscribe(name Program, version *project.Project, program *engine.Program, resting map[int32]bool) {
	by := map[string]*link.DeviceSubscriptions{}
	for id, d := range version.Devices {
		if d.Protocol != device.StandIn && !r.running(name).standIn(id) {
			by[id] = &link.DeviceSubscriptions{Device: *d}
		}
	}
	// In the order of paths, so that what did not change is asked for alike.
	ids := version.SortedTags()
	asked := make([]*link.Subscription, len(ids))
	project.InShares(len(ids), func(from, to int) {
		for i := from; i < to; i++ {
			t := version.Tags[ids[i]]
			ds := by[t.Device]
			if t.Source != tag.Device || ds == nil {
				continue
			}
			slot, ok := program.Slot(t.ID)
			pt, fits := point(&ds.Device, t)
			if ok && fits && !resting[slot] {
				asked[i] = &link.Subscription{Handle: slot, Point: pt, Every: ds.Device.PollEvery(t)}
			}
		}
	})
	many := map[string]int{}
	for i, s := range asked {
		if s != nil {
			many[version.Tags[ids[i]].Device]++
		}
	}
	for id, ds := range by {
		ds.Subscriptions = make([]link.Subscription, 0, many[id])
	}
	for i, s := range asked {
		if s != nil {
			ds := by[version.Tags[ids[i]].Device]
			ds.Subscriptions = append(ds.Subscriptions, *s)
		}
	}
	var list []link.DeviceSubscriptions
	for _, id := range project.SortedKeys(by) {
		list = append(list, *by[id])
	}
	runner := r.Runner(name)
	r.o.Hub.Set(r.owner(name), list, func(rs []link.Reading) {
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
	State     link.State `json:"state" enum:"up,down,connecting,idle"`
	Since     time.Time  `json:"since"`
	Problem   say.Text   `json:"problem"`
	ProblemAt time.Time  `json:"problemAt"`
	RoundTrip float64    `json:"roundTripMs"`
	Requests  int64      `json:"requests"`
	Errors    int64      `json:"errors"`
	Blocks    int        `json:"blocks"`
	Points    int        `json:"points"`
	Failing   int        `json:"failing"`
	Missed    int        `json:"missed"`
	Shared    bool       `json:"shared" doc:"another project reads over the same connection: requests, errors and round trips are of both"`
}

// Links tells how the links of a program's devices stand.
func (r *Runs) Links(name Program) []LinkStatus {
	out := []LinkStatus{}
	version := r.Version(name)
	if version == nil {
		return out
	}
	for _, id := range project.SortedKeys(version.Devices) {
		d := version.Devices[id]
		out = append(out, r.LinkStatus(id, d, r.o.Hub.Status(*d)))
	}
	return out
}

// LinkStatus tells how the link to a device stands, as the hub has it.
func (r *Runs) LinkStatus(id string, d *device.Device, s link.Status) LinkStatus {
	out := LinkStatus{Device: id, Name: d.Name, State: s.State, Since: s.Since, Problem: say.Text{Why: s.Problem}, ProblemAt: s.ProblemAt,
		RoundTrip: float64(s.RoundTrip.Microseconds()) / 1000,
		Requests:  s.Requests, Errors: s.Errors, Blocks: s.Blocks, Failing: s.Failing, Missed: s.Missed}
	// A connection may be shared with another project: the points are this one's.
	out.Points, out.Shared = r.o.Hub.Share(func(owner string) bool { return strings.HasPrefix(owner, r.o.ID+"/") }, *d)
	return out
}
