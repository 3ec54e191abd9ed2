package link

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
)

// Sink takes readings. It must not block.
type Sink func([]Reading)

// DeviceSubscriptions are what one owner wants of one device.
type DeviceSubscriptions struct {
	Device        device.Device
	Subscriptions []Subscription
}

// Protocol makes drivers for an endpoint and explains their errors.
type Protocol struct {
	New     func(endpoint string) Driver
	Explain func(err error, d device.Device) string
}

// Hub holds one connection per endpoint. Owners say what they want; each gets
// its own readings.
type Hub struct {
	protocol Protocol
	ctx      context.Context
	cancel   context.CancelFunc
	wg       sync.WaitGroup

	mu        sync.Mutex
	owners    map[string]owner
	endpoints map[string]*endpoint
}

type owner struct {
	sink    Sink
	devices []DeviceSubscriptions
}

// NewHub returns a hub whose connections are made by the protocol.
func NewHub(p Protocol) *Hub {
	ctx, cancel := context.WithCancel(context.Background())
	return &Hub{protocol: p, ctx: ctx, cancel: cancel, owners: map[string]owner{}, endpoints: map[string]*endpoint{}}
}

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
			if d.Device.Endpoint() == name && !d.Device.Off {
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
		e = newEndpoint(name, h.protocol)
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
		return value.Value{}, fmt.Errorf("%w: no connection to %s", ErrNotSent, d.Name)
	}
	w := &write{ctx: ctx, point: p, value: v, timeout: time.Duration(d.Timeout) * time.Millisecond, done: make(chan written, 1)}
	return e.write(w, urgent)
}

// Status tells how the link to a device stands.
func (h *Hub) Status(d device.Device) Status {
	h.mu.Lock()
	e := h.endpoints[d.Endpoint()]
	h.mu.Unlock()
	if e == nil || d.Off {
		return Status{State: Idle}
	}
	return e.status(byte(d.Unit))
}
