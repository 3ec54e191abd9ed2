package link

import (
	"maps"
	"slices"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
)

// config is what an endpoint has to do: groups of points by unit and rate,
// with who wants each.
type config struct {
	devices map[string]device.Device // by UnitKey
	groups  map[groupKey]*group
}

type groupKey struct {
	unit  string
	every time.Duration
}

// group is read as a whole, once a period.
type group struct {
	key    groupKey
	dev    device.Device
	points []Point
	index  map[Point]int
	wants  []*want

	poll    Poll
	values  []value.Value
	due     time.Time
	failing int // points that the device refuses
	kept    int // rounds that began in time
	missed  int
	took    time.Duration
}

// want is one subscriber's share of a group.
type want struct {
	sink    Sink
	handles []int32
	members []int
}

func (c *config) add(d DeviceSubscriptions, sink Sink) {
	if c.groups == nil {
		c.groups, c.devices = map[groupKey]*group{}, map[string]device.Device{}
	}
	unit := UnitKey(d.Device)
	c.devices[unit] = d.Device
	if len(d.Subscriptions) == 0 {
		c.probe(d.Device)
	}
	shares := map[groupKey]*want{}
	for _, s := range d.Subscriptions {
		key := groupKey{unit, s.Every}
		g := c.groups[key]
		if g == nil {
			g = &group{key: key, dev: d.Device, index: map[Point]int{}}
			c.groups[key] = g
		}
		w := shares[key]
		if w == nil {
			w = &want{sink: sink}
			shares[key] = w
			g.wants = append(g.wants, w)
		}
		i, ok := g.index[s.Point]
		if !ok {
			i = len(g.points)
			g.index[s.Point] = i
			g.points = append(g.points, s.Point)
		}
		w.handles = append(w.handles, s.Handle)
		w.members = append(w.members, i)
	}
}

// probeEvery is how often a device that nobody reads is asked whether it is
// still there.
const probeEvery = time.Second

// probe reads one register of a device without subscriptions, for nobody, so
// that its link state is known. Whether the register exists does not matter.
func (c *config) probe(d device.Device) {
	key := groupKey{UnitKey(d), probeEvery}
	if c.groups[key] != nil {
		return
	}
	if d.Protocol != device.ModbusTCP {
		c.groups[key] = &group{key: key, dev: d, index: map[Point]int{}}
		return
	}
	first := device.Address{Space: device.Holding, Bit: device.NoBit}
	p := Point{Unit: byte(d.Unit), Addr: first, WriteAddr: first, Type: value.Type{Kind: value.UINT}, Order: d.Order}
	c.groups[key] = &group{key: key, dev: d, points: []Point{p}, index: map[Point]int{p: 0}}
}

// deliver hands a group's values to all who want them.
func (g *group) deliver(now time.Time) {
	for _, w := range g.wants {
		out := make([]Reading, len(w.handles))
		for i, h := range w.handles {
			v := g.values[w.members[i]]
			if v.Nanos() == 0 {
				v = v.At(now)
			}
			out[i] = Reading{h, v}
		}
		w.sink(out)
	}
}

func (g *group) fail(q value.Quality, now time.Time) {
	for i, p := range g.points {
		g.values[i] = value.Bad(p.Type.Kind, q)
	}
	g.deliver(now)
}

// first is one of the devices; all of an endpoint share its connection.
func (c *config) first() device.Device {
	for _, unit := range slices.Sorted(maps.Keys(c.devices)) {
		return c.devices[unit]
	}
	return device.Device{}
}
