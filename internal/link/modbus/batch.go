package modbus

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"readyrail/internal/core/device"
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
	order := make([]int, len(points))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := points[a].WriteAddr, points[b].WriteAddr
		if x.Space != y.Space {
			return int(x.Space) - int(y.Space)
		}
		return int(x.Offset) - int(y.Offset)
	})
	var out [][]int
	end, count := 0, 0
	for n, i := range order {
		p := points[i]
		size := device.Registers(p.Type)
		most := min(d.MaxBlock, modbus.MaxWriteRegisters)
		if d.Together {
			most = min(most, mostTogether)
		}
		if p.WriteAddr.Space == device.Coil {
			most = min(16*d.MaxBlock, modbus.MaxWriteBits)
		}
		follows := n > 0 && joins(points[order[n-1]], p) && int(p.WriteAddr.Offset) == end && count+size <= most
		if follows {
			out[len(out)-1] = append(out[len(out)-1], i)
			count += size
		} else {
			out = append(out, []int{i})
			count = size
		}
		end = int(p.WriteAddr.Offset) + size
	}
	return out
}

// joins tells whether two points can be written by one request.
func joins(a, b link.Point) bool {
	whole := func(p link.Point) bool {
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
	var regs []uint16
	for i, p := range points {
		words, err := modbus.Encode(values[i], p.Type, p.Order)
		if err != nil {
			return fmt.Errorf("%w: %w", link.ErrNotSent, err)
		}
		regs = append(regs, words...)
	}
	pdu := modbus.AppendWriteRegisters(nil, first.Offset, regs)
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
		return fmt.Errorf("%w: %w", link.ErrRefused, e)
	}
	return err
}

// ReadBatch reads points from where they are written.
func (d *Driver) ReadBatch(ctx context.Context, dev device.Device, points []link.Point) ([]value.Value, error) {
	there := slices.Clone(points)
	for i := range there {
		there[i].Addr = there[i].WriteAddr
	}
	out := make([]value.Value, len(there))
	return out, d.Plan(there, dev).Read(ctx, out, func() {})
}
