package modbus

import (
	"context"
	"errors"
	"sort"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

// retryRefused is how long an address that the device refused is left alone.
const retryRefused = 10 * time.Second

// poll is a set of points merged into blocks.
type poll struct {
	d       *Driver
	unit    byte
	timeout time.Duration
	points  []link.Point
	blocks  []block
	regs    [modbus.MaxReadRegisters]uint16
	bits    [modbus.MaxReadBits]bool
}

// block is one request: the registers or bits from start, and which points lie
// in them.
type block struct {
	space   device.Space
	start   int
	count   int
	members []int // indices of points, by offset
	retry   time.Time
}

// Plan merges points into the fewest requests that the protocol's and the
// device's limits allow: neighbours are read together while the gap between
// them is at most MaxGap registers (or 16 times as many bits).
func (d *Driver) Plan(points []link.Point, dev device.Device) link.Poll {
	p := &poll{d: d, timeout: time.Duration(dev.Timeout) * time.Millisecond, points: points}
	if len(points) > 0 {
		p.unit = points[0].Unit
	}
	order := make([]int, len(points))
	for i := range order {
		order[i] = i
	}
	sort.Slice(order, func(i, j int) bool {
		a, b := points[order[i]].Addr, points[order[j]].Addr
		if a.Space != b.Space {
			return a.Space < b.Space
		}
		return a.Offset < b.Offset
	})
	for _, i := range order {
		a := points[i].Addr
		start, end := int(a.Offset), int(a.Offset)+device.Registers(points[i].Type)
		gap, limit := dev.MaxGap, min(dev.MaxBlock, modbus.MaxReadRegisters)
		if a.Space.IsBits() {
			gap, limit = 16*gap, min(16*dev.MaxBlock, modbus.MaxReadBits)
		}
		if n := len(p.blocks); n > 0 {
			b := &p.blocks[n-1]
			if b.space == a.Space && start <= b.start+b.count+gap && max(end, b.start+b.count)-b.start <= limit {
				b.count = max(b.count, end-b.start)
				b.members = append(b.members, i)
				continue
			}
		}
		p.blocks = append(p.blocks, block{space: a.Space, start: start, count: end - start, members: []int{i}})
	}
	return p
}

// Requests counts the blocks that are not being left alone.
func (p *poll) Requests() int {
	n := 0
	for i := range p.blocks {
		if p.blocks[i].retry.IsZero() {
			n++
		}
	}
	return n
}

// Read reads every block.
func (p *poll) Read(ctx context.Context, out []value.Value, yield func()) error {
	for i := 0; i < len(p.blocks); i++ {
		if i > 0 {
			yield()
		}
		b := &p.blocks[i]
		if !b.retry.IsZero() && time.Now().Before(b.retry) {
			p.mark(b, out, value.BadRefused)
			continue
		}
		err := p.readBlock(ctx, b, out)
		var e modbus.Exception
		switch {
		case err == nil:
			b.retry = time.Time{}
		case errors.As(err, &e) && (e == modbus.GatewayPath || e == modbus.GatewayTarget):
			return err
		case errors.As(err, &e) && (e == modbus.IllegalAddress || e == modbus.IllegalValue) && len(b.members) > 1:
			// Split until the bad address stands alone.
			p.split(i)
			i--
		case errors.As(err, &e):
			b.retry = time.Now().Add(retryRefused)
			p.mark(b, out, value.BadRefused)
		default:
			return err
		}
	}
	return nil
}

func (p *poll) mark(b *block, out []value.Value, q value.Quality) {
	for _, m := range b.members {
		out[m] = value.Bad(p.points[m].Type.Kind, q)
	}
}

// split halves a block between two of its points.
func (p *poll) split(i int) {
	b := p.blocks[i]
	half := len(b.members) / 2
	left, right := p.span(b.space, b.members[:half]), p.span(b.space, b.members[half:])
	p.blocks = append(p.blocks[:i], append([]block{left, right}, p.blocks[i+1:]...)...)
}

func (p *poll) span(space device.Space, members []int) block {
	b := block{space: space, start: int(p.points[members[0]].Addr.Offset), members: members}
	for _, m := range members {
		b.count = max(b.count, int(p.points[m].Addr.Offset)+device.Registers(p.points[m].Type)-b.start)
	}
	return b
}

func (p *poll) readBlock(ctx context.Context, b *block, out []value.Value) error {
	f := readFunction[b.space]
	var request [5]byte
	pdu, err := p.d.request(ctx, p.unit, modbus.AppendRead(request[:0], f, uint16(b.start), b.count), p.timeout)
	if err != nil {
		return err
	}
	if b.space.IsBits() {
		bits := p.bits[:b.count]
		if err := modbus.ParseBits(pdu, f, bits); err != nil {
			return err
		}
		for _, m := range b.members {
			out[m] = value.Bool(bits[int(p.points[m].Addr.Offset)-b.start])
		}
		return nil
	}
	regs := p.regs[:b.count]
	if err := modbus.ParseRegisters(pdu, f, regs); err != nil {
		return err
	}
	for _, m := range b.members {
		pt := &p.points[m]
		at := int(pt.Addr.Offset) - b.start
		out[m] = modbus.Decode(regs[at:at+device.Registers(pt.Type)], pt.Type, pt.Addr.Bit, pt.Order)
	}
	return nil
}
