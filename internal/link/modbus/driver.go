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
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

// Driver is one connection to an endpoint, shared by the units behind it.
type Driver struct {
	endpoint string
	conn     net.Conn
	in       *bufio.Reader
	tx       uint16
	out, buf []byte
	stats    link.Stats
}

// New returns a driver for host:port that is not connected yet.
func New(endpoint string) *Driver {
	return &Driver{endpoint: endpoint, buf: make([]byte, modbus.MaxPDU)}
}

// Connect opens the connection; the context bounds how long it may take.
func (d *Driver) Connect(ctx context.Context) error {
	d.Close()
	conn, err := (&net.Dialer{}).DialContext(ctx, "tcp", d.endpoint)
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

// Stats counts requests since the driver was made.
func (d *Driver) Stats() link.Stats { return d.stats }

// request sends a PDU and returns the answer's, which lies in the driver's
// buffer until the next request. Late answers to earlier requests are skipped.
func (d *Driver) request(ctx context.Context, unit byte, pdu []byte, timeout time.Duration) ([]byte, error) {
	if d.conn == nil {
		return nil, fmt.Errorf("%w: no connection", link.ErrNotSent)
	}
	if err := ctx.Err(); err != nil {
		return nil, fmt.Errorf("%w: %w", link.ErrNotSent, err)
	}
	d.tx++
	d.stats.Requests++
	start := time.Now()
	d.conn.SetDeadline(start.Add(timeout))
	conn := d.conn
	stop := context.AfterFunc(ctx, func() { conn.SetDeadline(time.Unix(1, 0)) })
	defer stop()
	d.out = modbus.AppendFrame(d.out[:0], modbus.Header{Transaction: d.tx, Unit: unit}, pdu)
	if _, err := d.conn.Write(d.out); err != nil {
		return nil, d.failed(fmt.Errorf("the connection broke while sending: %w", err))
	}
	for {
		h, answer, err := modbus.ReadFrame(d.in, d.buf)
		switch {
		case errors.Is(err, os.ErrDeadlineExceeded) || isTimeout(err):
			d.stats.Errors++
			if d.in.Buffered() > 0 {
				// Half an answer: what follows can't be told apart any more.
				d.Close()
			}
			return nil, fmt.Errorf("%w (%d ms)", link.ErrNoAnswer, timeout.Milliseconds())
		case err != nil:
			return nil, d.failed(err)
		case h.Transaction != d.tx:
			continue
		case h.Unit != unit && h.Unit != 0 && h.Unit != 255:
			return nil, d.failed(modbus.Malformed(fmt.Sprintf("unit %d was asked, %d answered", unit, h.Unit)))
		}
		d.stats.RoundTrip = time.Since(start)
		return answer, nil
	}
}

func isTimeout(err error) bool {
	var ne net.Error
	return errors.As(err, &ne) && ne.Timeout()
}

// failed counts an error after which the connection is of no more use.
func (d *Driver) failed(err error) error {
	d.stats.Errors++
	d.Close()
	return err
}

var readFunction = map[device.Space]byte{
	device.Coil: modbus.ReadCoils, device.Discrete: modbus.ReadDiscreteInputs,
	device.Input: modbus.ReadInput, device.Holding: modbus.ReadHolding,
}

// ReadOne reads one point with a request of its own.
func (d *Driver) ReadOne(ctx context.Context, p link.Point, timeout time.Duration) (value.Value, error) {
	f := readFunction[p.Addr.Space]
	n := device.Registers(p.Type)
	pdu, err := d.request(ctx, p.Unit, modbus.AppendRead(nil, f, p.Addr.Offset, n), timeout)
	if err != nil {
		return value.Value{}, err
	}
	if p.Addr.Space.IsBits() {
		bits := make([]bool, 1)
		if err := modbus.ParseBits(pdu, f, bits); err != nil {
			return value.Value{}, err
		}
		return value.Bool(bits[0]), nil
	}
	regs := make([]uint16, n)
	if err := modbus.ParseRegisters(pdu, f, regs); err != nil {
		return value.Value{}, err
	}
	return modbus.Decode(regs, p.Type, p.Addr.Bit, p.Order), nil
}

// Write writes one point: a coil by function 5, one register by 6, several by
// 16. A bit of a register is read, changed and written back; nothing else goes
// over the connection in between, but the controller itself may change other
// bits of the word in that time.
func (d *Driver) Write(ctx context.Context, p link.Point, v value.Value, timeout time.Duration) error {
	pdu, err := d.writeRequest(ctx, p, v, timeout)
	if err != nil {
		return err
	}
	answer, err := d.request(ctx, p.Unit, pdu, timeout)
	if err != nil {
		return err
	}
	err = modbus.ParseWritten(answer, pdu)
	var e modbus.Exception
	if errors.As(err, &e) {
		return fmt.Errorf("%w: %w", link.ErrRefused, e)
	}
	return err
}

func (d *Driver) writeRequest(ctx context.Context, p link.Point, v value.Value, timeout time.Duration) ([]byte, error) {
	at := p.Addr.Offset
	switch {
	case p.Addr.Space == device.Coil:
		return modbus.AppendWriteCoil(nil, at, v.Bool()), nil
	case p.Addr.Space != device.Holding:
		return nil, fmt.Errorf("%w: %s can only be read", link.ErrRefused, p.Addr)
	case p.Addr.Bit >= 0:
		whole := p
		whole.Addr.Bit, whole.Type = device.NoBit, value.Type{Kind: value.UINT}
		word, err := d.ReadOne(ctx, whole, timeout)
		if err != nil {
			return nil, fmt.Errorf("%w: the word could not be read first: %w", link.ErrNotSent, err)
		}
		w := uint16(word.Int()) &^ (1 << p.Addr.Bit)
		if v.Bool() {
			w |= 1 << p.Addr.Bit
		}
		regs, err := modbus.Encode(value.Int(value.UINT, int64(w)), whole.Type, p.Order)
		if err != nil {
			return nil, err
		}
		return modbus.AppendWriteRegister(nil, at, regs[0]), nil
	}
	regs, err := modbus.Encode(v, p.Type, p.Order)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", link.ErrNotSent, err)
	}
	if len(regs) == 1 {
		return modbus.AppendWriteRegister(nil, at, regs[0]), nil
	}
	return modbus.AppendWriteRegisters(nil, at, regs), nil
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
