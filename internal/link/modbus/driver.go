// Package modbus is the driver for Modbus TCP.
package modbus

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

// Driver is one connection to an endpoint, shared by the units behind it.
type Driver struct {
	dev      device.Device
	env      link.Env
	meters   *link.Meters
	conn     net.Conn
	in       *bufio.Reader
	tx       uint16
	out, buf []byte
}

// Protocol is what the hub needs to know of Modbus TCP.
var Protocol = link.Protocol{New: func(d device.Device, env link.Env, m *link.Meters) link.Driver { return New(d, env, m) },
	Explain: Explain, Requests: Requests}

// New returns a driver for a device's endpoint that is not connected yet.
func New(d device.Device, env link.Env, m *link.Meters) *Driver {
	return &Driver{dev: d, env: env, meters: m, buf: make([]byte, modbus.MaxPDU)}
}

// Connect opens the connection; the context bounds how long it may take.
func (d *Driver) Connect(ctx context.Context) error {
	d.Close()
	if err := d.env.Check(d.dev); err != nil {
		return err
	}
	conn, err := (&net.Dialer{}).DialContext(ctx, "tcp", d.dev.Endpoint())
	if err != nil {
		return err
	}
	d.conn, d.in = conn, bufio.NewReader(conn)
	return nil
}

// Close ends the connection.
func (d *Driver) Close() error {
	if d.conn == nil {
		return nil
	}
	err := d.conn.Close()
	d.conn = nil
	return err
}

// unitMeter is the meter of a unit behind this endpoint.
func (d *Driver) unitMeter(unit byte) *link.Meter {
	return d.meters.Of(link.UnitKey(device.Device{Protocol: device.ModbusTCP, Unit: int(unit)}))
}

// request sends a PDU and returns the answer's, which lies in the driver's
// buffer until the next request. Late answers to earlier requests are skipped.
func (d *Driver) request(ctx context.Context, unit byte, pdu []byte, timeout time.Duration) (answer []byte, err error) {
	one := [1][]byte{pdu}
	err = d.exchange(ctx, unit, one[:], timeout, func(_ int, a []byte) { answer = a })
	return answer, err
}

// exchange sends several PDUs at once and hands over each answer as it comes,
// in whatever order the device gives them. An answer lies in the driver's
// buffer until the next.
func (d *Driver) exchange(ctx context.Context, unit byte, pdus [][]byte, timeout time.Duration, take func(i int, answer []byte)) error {
	if d.conn == nil {
		return say.Errorf("%w: no connection", link.ErrNotSent)
	}
	if err := ctx.Err(); err != nil {
		return say.Errorf("%w: %w", link.ErrNotSent, err)
	}
	meter := d.unitMeter(unit)
	start := time.Now()
	d.conn.SetDeadline(start.Add(timeout))
	conn := d.conn
	stop := context.AfterFunc(ctx, func() { conn.SetDeadline(time.Unix(1, 0)) })
	defer stop()
	first := d.tx + 1
	d.out = d.out[:0]
	for _, pdu := range pdus {
		d.tx++
		d.out = modbus.AppendFrame(d.out, modbus.Header{Transaction: d.tx, Unit: unit}, pdu)
	}
	if _, err := d.conn.Write(d.out); err != nil {
		return d.failed(meter, "broken connection", say.Errorf("the connection broke while sending: %w", err))
	}
	sent := len(d.out) / len(pdus)
	var answered uint32
	for left := len(pdus); left > 0; {
		h, answer, err := modbus.ReadFrame(d.in, d.buf)
		i := int(h.Transaction - first)
		var malformed modbus.Malformed
		switch {
		case errors.Is(err, os.ErrDeadlineExceeded) || isTimeout(err):
			if d.in.Buffered() > 0 {
				// Half an answer: what follows can't be told apart any more.
				d.Close()
			}
			err := say.Errorf("%w (%d ms)", link.ErrNoAnswer, timeout.Milliseconds())
			meter.Failed("no answer in time", err)
			return err
		case errors.As(err, &malformed):
			return d.failed(meter, "not a Modbus answer", err)
		case err != nil:
			return d.failed(meter, "broken connection", err)
		case i >= len(pdus) || answered&(1<<i) != 0:
			continue
		case h.Unit != unit && h.Unit != 0 && h.Unit != 255:
			return d.failed(meter, "not a Modbus answer", modbus.Malformed(fmt.Sprintf("unit %d was asked, %d answered", unit, h.Unit)))
		}
		answered |= 1 << i
		left--
		meter.Request(time.Since(start), sent, len(answer)+8)
		if len(answer) == 2 && answer[0]&0x80 != 0 {
			meter.Failed("exception", modbus.Exception(answer[1]))
		}
		take(i, answer)
	}
	return nil
}

func isTimeout(err error) bool {
	var ne net.Error
	return errors.As(err, &ne) && ne.Timeout()
}

// failed counts an error after which the connection is of no more use.
func (d *Driver) failed(m *link.Meter, kind string, err error) error {
	m.Failed(kind, err)
	d.Close()
	return err
}

var readFunction = map[device.Space]byte{
	device.Coil: modbus.ReadCoils, device.Discrete: modbus.ReadDiscreteInputs,
	device.Input: modbus.ReadInput, device.Holding: modbus.ReadHolding,
}

// Read reads count registers of a space, or bits of a bit space as 0 and 1, with
// one request.
func (d *Driver) Read(ctx context.Context, unit byte, space device.Space, start uint16, count int, timeout time.Duration) ([]uint16,
	error) {
	f := readFunction[space]
	pdu, err := d.request(ctx, unit, modbus.AppendRead(nil, f, start, count), timeout)
	if err != nil {
		return nil, err
	}
	regs := make([]uint16, count)
	if !space.IsBits() {
		return regs, modbus.ParseRegisters(pdu, f, regs)
	}
	bits := make([]bool, count)
	err = modbus.ParseBits(pdu, f, bits)
	for i, b := range bits {
		if b {
			regs[i] = 1
		}
	}
	return regs, err
}

func (d *Driver) readAt(ctx context.Context, p link.Point, a device.Address, timeout time.Duration) (value.Value, error) {
	regs, err := d.Read(ctx, p.Unit, a.Space, a.Offset, device.Registers(p.Type), timeout)
	if err != nil {
		return value.Value{}, err
	}
	if a.Space.IsBits() {
		return value.Bool(regs[0] == 1), nil
	}
	return modbus.Decode(regs, p.Type, a.Bit, p.Order), nil
}

// ReadBack reads a point from where it is written.
func (d *Driver) ReadBack(ctx context.Context, dev device.Device, p link.Point) (value.Value, error) {
	return d.readAt(ctx, p, p.WriteAddr, timeoutOf(dev))
}

func timeoutOf(dev device.Device) time.Duration {
	return time.Duration(dev.Timeout) * time.Millisecond
}

// Write writes one point: a coil by function 5, one register by 6, several by
// 16 or, where the device wants it, by 23. A bit of a register is written by
// function 22; where the engineer allows it, by reading the word, changing the
// bit and writing it back: nothing else goes over the connection in between,
// but the controller itself may change other bits of the word in that time.
func (d *Driver) Write(ctx context.Context, dev device.Device, p link.Point, v value.Value) error {
	pdu, err := d.writeRequest(ctx, dev, p, v)
	if err != nil {
		return err
	}
	answer, err := d.request(ctx, p.Unit, pdu, timeoutOf(dev))
	if err != nil {
		return err
	}
	if pdu[0] == modbus.ReadWrite {
		err = modbus.ParseRegisters(answer, modbus.ReadWrite, make([]uint16, device.Registers(p.Type)))
	} else {
		err = modbus.ParseWritten(answer, pdu)
	}
	var e modbus.Exception
	switch {
	case errors.As(err, &e) && e == modbus.IllegalFunction && pdu[0] == modbus.MaskWrite:
		return say.Errorf("%w: it does not know function 22, which sets one bit of a register: let the device's bits be written by word",
			link.ErrRefused)
	case errors.As(err, &e):
		return say.Errorf("%w: %w", link.ErrRefused, e)
	}
	return err
}

func (d *Driver) writeRequest(ctx context.Context, dev device.Device, p link.Point, v value.Value) ([]byte, error) {
	at := p.WriteAddr.Offset
	switch {
	case p.WriteAddr.Space == device.Coil:
		return modbus.AppendWriteCoil(nil, at, v.Bool()), nil
	case p.WriteAddr.Space != device.Holding:
		return nil, say.Errorf("%w: %s can only be read", link.ErrRefused, p.WriteAddr)
	case p.WriteAddr.Bit >= 0:
		return d.bitRequest(ctx, dev, p, v)
	}
	regs, err := modbus.Encode(v, p.Type, p.Order)
	switch {
	case err != nil:
		return nil, say.Errorf("%w: %w", link.ErrNotSent, err)
	case dev.Together:
		return modbus.AppendReadWrite(nil, at, len(regs), at, regs), nil
	case len(regs) == 1:
		return modbus.AppendWriteRegister(nil, at, regs[0]), nil
	}
	return modbus.AppendWriteRegisters(nil, at, regs), nil
}

// bitRequest is the request that sets one bit of a register.
func (d *Driver) bitRequest(ctx context.Context, dev device.Device, p link.Point, v value.Value) ([]byte, error) {
	bit := uint16(1) << p.WriteAddr.Bit
	if p.Order.SwapsBytes() {
		bit = bit>>8 | bit<<8
	}
	set := uint16(0)
	if v.Bool() {
		set = bit
	}
	if dev.BitWrite != device.ByWord {
		return modbus.AppendMaskWrite(nil, p.WriteAddr.Offset, ^bit, set), nil
	}
	regs, err := d.Read(ctx, p.Unit, device.Holding, p.WriteAddr.Offset, 1, timeoutOf(dev))
	if err != nil {
		return nil, say.Errorf("%w: the word could not be read first: %w", link.ErrNotSent, err)
	}
	return modbus.AppendWriteRegister(nil, p.WriteAddr.Offset, regs[0]&^bit|set), nil
}

// WriteCoils sets neighbouring coils in one request, by function 15.
func (d *Driver) WriteCoils(ctx context.Context, unit byte, start uint16, bits []bool, timeout time.Duration) error {
	pdu := modbus.AppendWriteCoils(nil, start, bits)
	answer, err := d.request(ctx, unit, pdu, timeout)
	if err != nil {
		return err
	}
	return modbus.ParseWritten(answer, pdu)
}
