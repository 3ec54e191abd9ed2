package modbus

import (
	"context"
	"errors"
	"fmt"
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
	flight  int // requests on their way at once
	points  []link.Point
	blocks  []block
	batch   []int // blocks of the requests that are on their way
	pdus    [][]byte
	space   []byte // of the pdus
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
	p := &poll{d: d, timeout: timeoutOf(dev), flight: dev.InFlightLimit(), points: points}
	if len(points) > 0 {
		p.unit = points[0].Unit
	}
	order := inOrder(points, func(p *link.Point) device.Address { return p.Addr })
	from := 0 // of the block's first
	for n, i := range order {
		a := points[i].Addr
		start, end := int(a.Offset), int(a.Offset)+device.Registers(points[i].Type)
		gap, limit := dev.MaxGap, min(dev.MaxBlock, modbus.MaxReadRegisters)
		if a.Space.IsBits() {
			gap, limit = 16*gap, min(16*dev.MaxBlock, modbus.MaxReadBits)
		}
		if last := len(p.blocks); last > 0 {
			b := &p.blocks[last-1]
			if b.space == a.Space && start <= b.start+b.count+gap && max(end, b.start+b.count)-b.start <= limit {
				b.count = max(b.count, end-b.start)
				b.members = order[from : n+1 : n+1]
				continue
			}
		}
		p.blocks = append(p.blocks, block{space: a.Space, start: start, count: end - start, members: order[n : n+1 : n+1]})
		from = n
	}
	return p
}

// Blocks lists the requests; those that the device refused are left alone for
// a while.
func (p *poll) Blocks() []link.Block {
	out := make([]link.Block, len(p.blocks))
	for i := range p.blocks {
		b := &p.blocks[i]
		out[i] = link.Block{Name: fmt.Sprintf("%s:%d to %d", b.space, b.start, b.start+b.count-1), Points: len(b.members),
			Refused: !b.retry.IsZero()}
	}
	return out
}

// Close does nothing: the device keeps nothing for a poll.
func (p *poll) Close() {}

// Read reads every block.
func (p *poll) Read(ctx context.Context, out []value.Value, yield func()) error {
	for i := 0; i < len(p.blocks); {
		if i > 0 {
			yield()
		}
		p.batch, p.pdus, p.space = p.batch[:0], p.pdus[:0], p.space[:0]
		for ; i < len(p.blocks) && len(p.batch) < p.flight; i++ {
			b := &p.blocks[i]
			if !b.retry.IsZero() && time.Now().Before(b.retry) {
				p.mark(b, out, value.BadRefused)
				continue
			}
			n := len(p.space)
			p.space = modbus.AppendRead(p.space, readFunction[b.space], uint16(b.start), b.count)
			p.batch, p.pdus = append(p.batch, i), append(p.pdus, p.space[n:])
		}
		if len(p.batch) == 0 {
			return nil
		}
		split, err := p.readBatch(ctx, out)
		if err != nil {
			return err
		}
		if split >= 0 {
			i = split // from the block that was split on, which is two now
		}
	}
	return nil
}

// readBatch sends the requests and takes the answers. split is the first block
// that has to be read again in parts, -1 for none.
func (p *poll) readBatch(ctx context.Context, out []value.Value) (split int, err error) {
	split = -1
	var failed error
	err = p.d.exchange(ctx, p.unit, p.pdus, p.timeout, func(n int, pdu []byte) {
		i := p.batch[n]
		b := &p.blocks[i]
		err := p.take(b, pdu, out)
		var e modbus.Exception
		switch {
		case err == nil:
			b.retry = time.Time{}
		case errors.As(err, &e) && (e == modbus.GatewayPath || e == modbus.GatewayTarget):
			failed = err
		case errors.As(err, &e) && (e == modbus.IllegalAddress || e == modbus.IllegalValue) && len(b.members) > 1:
			if split < 0 || i < split {
				split = i
			}
		case errors.As(err, &e):
			b.retry = time.Now().Add(retryRefused)
			p.mark(b, out, value.BadRefused)
		default:
			failed = err
		}
	})
	if err == nil {
		err = failed
	}
	if err == nil && split >= 0 {
		// Split until the bad address stands alone.
		p.split(split)
	}
	return split, err
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

// take decodes an answer.
func (p *poll) take(b *block, pdu []byte, out []value.Value) error {
	f := readFunction[b.space]
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
