package modbus

import (
	"context"
	"errors"
	"io"
	"net"
	"syscall"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

// Test connects to a device of its own accord and reads one register. It
// returns the round-trip time, or why not as an error in plain words.
func Test(ctx context.Context, dev device.Device, env link.Env) (time.Duration, error) {
	d := New(dev, env, link.NewMeters())
	dial, cancel := context.WithTimeout(ctx, timeoutOf(dev))
	defer cancel()
	if err := d.Connect(dial); err != nil {
		return 0, Explain(err, dev)
	}
	defer d.Close()
	_, err := d.Read(ctx, byte(dev.Unit), device.Holding, 0, 1, timeoutOf(dev))
	var e modbus.Exception
	if errors.As(err, &e) && e != modbus.GatewayPath && e != modbus.GatewayTarget {
		// It is there and speaks Modbus; what it has at holding:0 is its own affair.
		err = nil
	}
	if err != nil {
		return 0, Explain(err, dev)
	}
	trip, _, _ := d.unitMeter(byte(dev.Unit)).Last()
	return trip, nil
}

// Explain puts a failure of the link into plain words, with a way to mend it.
func Explain(err error, dev device.Device) error {
	var e modbus.Exception
	var m modbus.Malformed
	var dns *net.DNSError
	switch {
	case errors.As(err, &dns):
		return say.Errorf("no host is known by the name %s: check the spelling, or give an IP address", dev.Host)
	case errors.Is(err, syscall.ECONNREFUSED):
		return say.Errorf("%s refused the connection: nothing listens on port %d there", dev.Host, dev.Port)
	case errors.Is(err, syscall.EHOSTUNREACH), errors.Is(err, syscall.ENETUNREACH):
		return say.Errorf("there is no way to %s from this server: check the network", dev.Host)
	case errors.As(err, &e) && (e == modbus.GatewayPath || e == modbus.GatewayTarget):
		return say.Errorf("%s answers, but not for unit %d: check the unit id", dev.Host, dev.Unit)
	case errors.As(err, &e):
		return e
	case errors.As(err, &m):
		return say.Errorf("what listens on %s does not speak Modbus TCP (%s)", dev.Endpoint(), string(m))
	case errors.Is(err, link.ErrForbidden):
		return err
	case errors.Is(err, link.ErrNoAnswer):
		return say.Errorf("%s took the connection, but unit %d gave no answer within %d ms: check the unit id and the time-out", dev.Host,
			dev.Unit, dev.Timeout)
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, syscall.ECONNRESET), errors.Is(err, syscall.EPIPE),
		errors.Is(err, net.ErrClosed):
		return say.Errorf("%s closed the connection", dev.Host)
	case errors.Is(err, context.DeadlineExceeded), isTimeout(err):
		return say.Errorf("no answer from %s within %d ms: check the host, the network and the firewall", dev.Host, dev.Timeout)
	}
	return say.Errorf("the link failed: %v", err)
}
