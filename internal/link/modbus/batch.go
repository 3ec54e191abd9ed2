package modbus

import (
	"context"
	"errors"
	"slices"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

// mostTogether is how many registers function 23 writes (Modbus 1.1b3, 6.17).
const mostTogether = 121

// Requests parts points into those that one request writes: registers without a
// gap between them by function 16 or 23, coils by function 15. Nothing that
// nobody asked for is written, so a gap ends a request. A bit of a register goes
// alone.
func Requests(d device.Device, points []link.Point) [][]int {
	order := inOrder(points, func(p *link.Point) device.Address { return p.WriteAddr })
	var out [][]int
	from, end, count := 0, 0, 0
	for n, i := range order {
		p := &points[i]
		size := device.Registers(p.Type)
		most := min(d.MaxBlock, modbus.MaxWriteRegisters)
		if d.Together {
			most = min(most, mostTogether)
		}
		if p.WriteAddr.Space == device.Coil {
			most = min(16*d.MaxBlock, modbus.MaxWriteBits)
		}
		follows := n > 0 && joins(&points[order[n-1]], p) && int(p.WriteAddr.Offset) == end && count+size <= most
		if follows {
			count += size
		} else {
			from, count = n, size
			out = append(out, nil)
		}
		out[len(out)-1] = order[from : n+1 : n+1]
		end = int(p.WriteAddr.Offset) + size
	}
	return out
}

// inOrder are the places of points by their addresses, those of one address as they
// come.
func inOrder(points []link.Point, at func(*link.Point) device.Address) []int {
	keys := make([]int64, len(points))
	for i := range points {
		a := at(&points[i])
		keys[i] = int64(a.Space)<<48 | int64(a.Offset)<<24 | int64(i)
	}
	slices.Sort(keys)
	order := make([]int, len(keys))
	for n, key := range keys {
		order[n] = int(key & (1<<24 - 1))
	}
	return order
}

// joins tells whether two points can be written by one request.
func joins(a, b *link.Point) bool {
	whole := func(p *link.Point) bool {
		return p.WriteAddr.Space == device.Coil || p.WriteAddr.Space == device.Holding && p.WriteAddr.Bit < 0
	}
	return a.WriteAddr.Space == b.WriteAddr.Space && a.Unit == b.Unit && whole(a) && whole(b)
}

// WriteBatch writes neighbouring points by one request.
func (d *Driver) WriteBatch(ctx context.Context, dev device.Device, points []link.Point, values []value.Value) error {
	if len(points) == 1 {
		return d.Write(ctx, dev, points[0], values[0])
	}
	first := points[0].WriteAddr
	if first.Space == device.Coil {
		bits := make([]bool, len(points))
		for i, v := range values {
			bits[i] = v.Bool()
		}
		return refusals(d.WriteCoils(ctx, points[0].Unit, first.Offset, bits, timeoutOf(dev)))
	}
	regs, err := make([]uint16, 0, modbus.MaxWriteRegisters), error(nil)
	for i := range points {
		p := &points[i]
		if regs, err = modbus.AppendEncode(regs, values[i], p.Type, p.Order); err != nil {
			return say.Errorf("%w: %w", link.ErrNotSent, err)
		}
	}
	pdu := modbus.AppendWriteRegisters(make([]byte, 0, 6+2*len(regs)), first.Offset, regs)
	if dev.Together {
		pdu = modbus.AppendReadWrite(nil, first.Offset, len(regs), first.Offset, regs)
	}
	answer, err := d.request(ctx, points[0].Unit, pdu, timeoutOf(dev))
	if err != nil {
		return err
	}
	if dev.Together {
		return refusals(modbus.ParseRegisters(answer, modbus.ReadWrite, make([]uint16, len(regs))))
	}
	return refusals(modbus.ParseWritten(answer, pdu))
}

// refusals marks an answer of the device that it does not take a value.
func refusals(err error) error {
	var e modbus.Exception
	if errors.As(err, &e) {
		return say.Errorf("%w: %w", link.ErrRefused, e)
	}
	return err
}

// ReadBatch reads points from where they are written.
func (d *Driver) ReadBatch(ctx context.Context, dev device.Device, points []link.Point) ([]value.Value, error) {
	there := points
	for i := range points {
		if points[i].Addr != points[i].WriteAddr {
			if &there[0] == &points[0] {
				there = slices.Clone(points)
			}
			there[i].Addr = points[i].WriteAddr
		}
	}
	out := make([]value.Value, len(there))
	return out, d.Plan(there, dev).Read(ctx, out, func() {})
}
