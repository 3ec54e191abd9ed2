// Package broker runs an MQTT broker on a listener, for the stand-in plant and
// for tests, so that closing it waits for every connection it took.
package broker

import (
	"fmt"
	"io"
	"log/slog"
	"net"
	"sync"

	mqtt "github.com/mochi-mqtt/server/v2"
	"github.com/mochi-mqtt/server/v2/listeners"
)

// Serve starts a broker on a listener, which it then owns. The hook decides
// who may sign in and take part; settings are the hook's own.
func Serve(l net.Listener, hook mqtt.Hook, settings any) (*mqtt.Server, error) {
	b := mqtt.New(&mqtt.Options{InlineClient: true, Logger: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err := b.AddHook(hook, settings); err != nil {
		l.Close()
		return nil, fmt.Errorf("the broker's rules: %w", err)
	}
	if err := b.AddListener(&door{l: l, open: map[net.Conn]bool{}}); err != nil {
		l.Close()
		return nil, fmt.Errorf("the broker's listener: %w", err)
	}
	if err := b.Serve(); err != nil {
		l.Close()
		return nil, fmt.Errorf("the broker does not start: %w", err)
	}
	return b, nil
}

// door takes connections and knows each until it has ended. The library's own
// listener forgets those that were accepted as it closed.
type door struct {
	l    net.Listener
	ends sync.WaitGroup

	mu     sync.Mutex
	open   map[net.Conn]bool
	closed bool
}

func (d *door) ID() string                { return "door" }
func (d *door) Address() string           { return d.l.Addr().String() }
func (d *door) Protocol() string          { return "tcp" }
func (d *door) Init(_ *slog.Logger) error { return nil }

// Serve takes connections until the door closes.
func (d *door) Serve(establish listeners.EstablishFn) {
	for {
		c, err := d.l.Accept()
		if err != nil {
			return
		}
		if !d.enter(c) {
			c.Close()
			return
		}
		go func() {
			defer d.leave(c)
			// What ended a client's connection is the client's matter.
			_ = establish(d.ID(), c)
		}()
	}
}

func (d *door) enter(c net.Conn) bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.closed {
		return false
	}
	d.open[c] = true
	d.ends.Add(1)
	return true
}

func (d *door) leave(c net.Conn) {
	d.mu.Lock()
	delete(d.open, c)
	d.mu.Unlock()
	d.ends.Done()
}

// Close says goodbye to the clients, cuts what is still connected and waits
// until every connection has ended.
func (d *door) Close(goodbye listeners.CloseFn) {
	d.mu.Lock()
	d.closed = true
	d.mu.Unlock()
	d.l.Close()
	goodbye(d.ID())
	d.mu.Lock()
	for c := range d.open {
		c.Close()
	}
	d.mu.Unlock()
	d.ends.Wait()
}
