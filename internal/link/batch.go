package link

import (
	"context"
	"errors"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Batcher is a driver that writes several points by one request, and reads
// several back.
type Batcher interface {
	// WriteBatch writes the points of one request, as Protocol.Requests has
	// parted them. An error that wraps ErrRefused means that none was taken.
	WriteBatch(ctx context.Context, d device.Device, points []Point, values []value.Value) error
	// ReadBatch reads points from where they are written, in the fewest
	// requests. A point that the device refuses gets a bad quality.
	ReadBatch(ctx context.Context, d device.Device, points []Point) ([]value.Value, error)
}

// Requests parts points that are written together: the numbers of those that go
// in one request each. A protocol that says nothing of it writes each alone.
func (h *Hub) Requests(d device.Device, points []Point) [][]int {
	if p := h.protocols[d.Protocol]; p.Requests != nil {
		return p.Requests(d, points)
	}
	out := make([][]int, len(points))
	for i := range points {
		out[i] = []int{i}
	}
	return out
}

// WriteBatch writes the points of one request. It is refused at once while the
// link is down; ErrNotSent tells that nothing left.
func (h *Hub) WriteBatch(ctx context.Context, d device.Device, points []Point, values []value.Value) error {
	return h.atOnce(ctx, d, func(ctx context.Context, driver Driver) error { return WriteAll(ctx, driver, d, points, values) })
}

// WriteAll writes the points of one request, by a driver that does so or one after
// the other.
func WriteAll(ctx context.Context, driver Driver, d device.Device, points []Point, values []value.Value) error {
	if b, ok := driver.(Batcher); ok {
		return b.WriteBatch(ctx, d, points, values)
	}
	for i := range points {
		if err := driver.Write(ctx, d, points[i], values[i]); err != nil {
			return err
		}
	}
	return nil
}

// ReadBatch reads points from where they are written. A point that could not be
// read is bad.
func (h *Hub) ReadBatch(ctx context.Context, d device.Device, points []Point) (out []value.Value, err error) {
	err = h.atOnce(ctx, d, func(ctx context.Context, driver Driver) error {
		out, err = ReadAll(ctx, driver, d, points)
		return err
	})
	return out, err
}

// ReadAll reads points from where they are written, by a driver that reads several
// together or one after the other.
func ReadAll(ctx context.Context, driver Driver, d device.Device, points []Point) (out []value.Value, err error) {
	if b, ok := driver.(Batcher); ok {
		return b.ReadBatch(ctx, d, points)
	}
	out = make([]value.Value, len(points))
	for i := range points {
		if out[i], err = driver.ReadBack(ctx, d, points[i]); errors.Is(err, ErrRefused) {
			out[i] = value.Bad(points[i].Type.Kind, value.BadRefused)
		} else if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// atOnce does something over a connection that stands, between two requests of
// others. Begun, it is seen through.
func (h *Hub) atOnce(ctx context.Context, d device.Device, f func(context.Context, Driver) error) error {
	h.mu.Lock()
	e := h.endpoints[d.Endpoint()]
	h.mu.Unlock()
	if e == nil || !e.connected() {
		return say.Errorf("%w: no connection to %s", ErrNotSent, d.Name)
	}
	begun := false
	err := e.use(ctx, func(driver Driver) error {
		begun = true
		return f(context.WithoutCancel(ctx), driver)
	})
	if err != nil && !begun && !errors.Is(err, ErrNotSent) {
		err = say.Errorf("%w: %w", ErrNotSent, err)
	}
	return err
}
