package link

import (
	"context"
	"maps"
	"slices"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Sink takes readings. It must not block.
type Sink func([]Reading)

// DeviceSubscriptions are what one owner wants of one device.
type DeviceSubscriptions struct {
	Device        device.Device
	Subscriptions []Subscription
}

// Hub holds one connection per endpoint. Owners say what they want; each gets
// its own readings.
type Hub struct {
	protocols map[string]Protocol // by device.Device.Protocol
	env       Env
	ctx       context.Context
	cancel    context.CancelFunc
	wg        sync.WaitGroup

	mu        sync.Mutex
	owners    map[string]owner
	endpoints map[string]*endpoint
}

type owner struct {
	sink    Sink
	devices []DeviceSubscriptions
}

// NewHub returns a hub that speaks some protocols.
func NewHub(protocols map[string]Protocol, env Env) *Hub {
	ctx, cancel := context.WithCancel(context.Background())
	return &Hub{protocols: protocols, env: env, ctx: ctx, cancel: cancel, owners: map[string]owner{}, endpoints: map[string]*endpoint{}}
}

// Env is what the hub's drivers may ask of the server, for connections beside
// the hub's.
func (h *Hub) Env() Env { return h.env }

// Close ends every connection and waits for their goroutines.
func (h *Hub) Close() {
	h.cancel()
	h.wg.Wait()
}

// Set replaces what an owner wants; no devices takes the owner out. Endpoints
// that nobody wants any more are closed, the others go on without a break.
func (h *Hub) Set(name string, devices []DeviceSubscriptions, sink Sink) {
	h.mu.Lock()
	defer h.mu.Unlock()
	touched := map[string]bool{}
	for _, d := range h.owners[name].devices {
		touched[d.Device.Endpoint()] = true
	}
	for _, d := range devices {
		touched[d.Device.Endpoint()] = true
	}
	if len(devices) == 0 {
		delete(h.owners, name)
	} else {
		h.owners[name] = owner{sink, devices}
	}
	for ep := range touched {
		h.renew(ep)
	}
}

// renew hands an endpoint its new configuration.
func (h *Hub) renew(name string) {
	c := &config{}
	for _, id := range slices.Sorted(maps.Keys(h.owners)) {
		o := h.owners[id]
		for _, d := range o.devices {
			if d.Device.Endpoint() == name && !d.Device.Off && !d.Device.Nowhere() && h.protocols[d.Device.Protocol].New != nil {
				c.add(d, o.sink)
			}
		}
	}
	e := h.endpoints[name]
	if len(c.groups) == 0 && len(c.devices) == 0 {
		if e != nil {
			e.cancel()
			delete(h.endpoints, name)
		}
		return
	}
	if e == nil {
		ctx, cancel := context.WithCancel(h.ctx)
		first := c.first()
		e = newEndpoint(first.Address(), h.protocols[first.Protocol], first, h.env)
		e.cancel = cancel
		h.endpoints[name] = e
		h.wg.Add(1)
		go func() {
			defer h.wg.Done()
			e.run(ctx)
		}()
	}
	e.configure(c)
}

// Write sends a raw value and reads it back. It is refused at once while the
// link is down, never queued for later. urgent goes ahead of other writes.
func (h *Hub) Write(ctx context.Context, d device.Device, p Point, v value.Value, urgent bool) (value.Value, error) {
	h.mu.Lock()
	e := h.endpoints[d.Endpoint()]
	h.mu.Unlock()
	if e == nil {
		return value.Value{}, say.Errorf("%w: no connection to %s", ErrNotSent, d.Name)
	}
	return e.write(&write{ctx: ctx, dev: d, point: p, value: v, done: make(chan written, 1)}, urgent)
}

// Use runs f with the driver of a device's endpoint, between two requests, so
// that a controller that takes one connection only is asked over that one.
// Where nothing is connected, a connection of its own is made and ended.
func (h *Hub) Use(ctx context.Context, d device.Device, f func(Driver) error) error {
	p := h.protocols[d.Protocol]
	if p.New == nil {
		return say.Errorf("%w: a %s device has no link", ErrNotSent, d.Protocol)
	}
	if d.Nowhere() {
		return say.Errorf("%w: %s has no host yet", ErrNotSent, d.Name)
	}
	if err := h.env.Check(d); err != nil {
		return err
	}
	h.mu.Lock()
	e := h.endpoints[d.Endpoint()]
	h.mu.Unlock()
	if e != nil && e.connected() {
		return e.use(ctx, f)
	}
	driver := p.New(d, h.env, NewMeters())
	dial, cancel := context.WithTimeout(ctx, time.Duration(d.Timeout)*time.Millisecond)
	defer cancel()
	if err := driver.Connect(dial); err != nil {
		return p.Explain(err, d)
	}
	defer driver.Close()
	if err := f(driver); err != nil {
		return p.Explain(err, d)
	}
	return nil
}

// Status tells how the link to a device stands.
func (h *Hub) Status(d device.Device) Status {
	h.mu.Lock()
	e := h.endpoints[d.Endpoint()]
	h.mu.Unlock()
	if d.Protocol == device.StandIn && !d.Off {
		return Status{State: Up}
	}
	if e == nil || d.Off || d.Nowhere() {
		return Status{State: Idle}
	}
	return e.status(UnitKey(d))
}

// Share tells how many points of a device some owners read, and whether others
// read over the same connection.
func (h *Hub) Share(mine func(owner string) bool, d device.Device) (points int, shared bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	own := map[Point]bool{}
	for id, o := range h.owners {
		for _, x := range o.devices {
			switch {
			case x.Device.Endpoint() != d.Endpoint():
			case !mine(id):
				shared = true
			case UnitKey(x.Device) == UnitKey(d):
				for _, s := range x.Subscriptions {
					own[s.Point] = true
				}
			}
		}
	}
	return len(own), shared
}

// Diagnose tells all that is known of the link to a device.
func (h *Hub) Diagnose(d device.Device) (Status, Traffic, []GroupStatus) {
	s := h.Status(d)
	h.mu.Lock()
	e := h.endpoints[d.Endpoint()]
	h.mu.Unlock()
	if e == nil {
		return s, Traffic{Kinds: []ErrorKind{}, Windows: []Window{}}, []GroupStatus{}
	}
	return s, e.meters.Of(UnitKey(d)).Traffic(time.Now()), e.groups(UnitKey(d))
}
