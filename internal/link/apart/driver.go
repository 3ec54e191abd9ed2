// Package apart runs a link in a process of its own, so that what its library
// does with a hostile answer (a panic in a goroutine that nobody else can
// guard, memory without end) ends that link and nothing else.
//
// Wrap makes the near side out of a protocol: drivers that pass every call to a
// process over its standard input and output. Serve is the far side, in which
// the protocol's own driver runs. Secrets and the allow-list are asked on the
// near side; nothing is called back.
package apart

import (
	"context"
	"errors"
	"maps"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// Wrap gives a protocol whose drivers run in processes started by a command.
// secrets names what a device's driver may ask of the vault beside its own
// credential; nil is nothing.
func Wrap(p link.Protocol, command []string, secrets func(device.Device) []string) link.Protocol {
	return link.Protocol{
		Requests: p.Requests,
		New: func(d device.Device, env link.Env, m *link.Meters) link.Driver {
			return &driver{command: command, secrets: secrets, dev: d, env: env, meters: m}
		},
		Explain: func(err error, d device.Device) error {
			var f *fault
			if errors.As(err, &f) {
				return f.Explained.Err()
			}
			if errors.Is(err, link.ErrFailed) {
				return err
			}
			return p.Explain(err, d)
		},
	}
}

// driver is the near side of a link. Each connection has a process of its own.
type driver struct {
	command []string
	secrets func(device.Device) []string
	dev     device.Device
	env     link.Env
	meters  *link.Meters

	process *process // nil while there is none
	made    int      // counts processes, so that a poll knows when its plan is gone
	plans   int
}

// longest bounds a call whose caller sets no time.
const longest = 2 * time.Minute

// Connect starts a process and connects in it.
func (d *driver) Connect(ctx context.Context) error {
	d.Close()
	if err := d.start(ctx); err != nil {
		return err
	}
	_, err := d.call(ctx, &request{Verb: connect})
	return err
}

func (d *driver) start(ctx context.Context) error {
	if err := d.env.Check(d.dev); err != nil {
		return err
	}
	p, err := begin(d.command)
	if err != nil {
		return say.Errorf("%w: its process does not start: %w", link.ErrFailed, err)
	}
	d.process = p
	d.made++
	_, err = d.call(ctx, &request{Verb: hello, Device: d.dev, Secrets: d.given()})
	return err
}

// given are the secrets that the far side may ask for.
func (d *driver) given() map[string]secret {
	out := map[string]secret{}
	if d.env.Secret == nil {
		return out
	}
	names := map[string]bool{}
	if d.secrets != nil {
		for _, n := range d.secrets(d.dev) {
			names[n] = true
		}
	}
	if d.dev.Credential != "" {
		names[d.dev.Credential] = true
	}
	for n := range maps.Keys(names) {
		s, err := d.env.Secret(n, d.dev.Host)
		e := secret{Secret: s}
		if err != nil {
			e.Fault = faultOf(err, err)
		}
		out[n] = e
	}
	return out
}

// Close ends the process.
func (d *driver) Close() error {
	if d.process != nil {
		d.process.end()
		d.process = nil
	}
	return nil
}

func (d *driver) call(ctx context.Context, r *request) (*reply, error) {
	if d.process == nil {
		return nil, say.Errorf("%w: no connection", link.ErrNotSent)
	}
	ctx, done := context.WithTimeout(ctx, longest)
	defer done()
	out, err := d.process.call(ctx, r)
	if err != nil {
		return nil, err
	}
	for _, t := range out.Traffic {
		d.meters.Note(t)
	}
	return out, out.Fault.err()
}

// Plan keeps the points; the far side plans them at the first read.
func (d *driver) Plan(points []link.Point, dev device.Device) link.Poll {
	d.plans++
	return &poll{d: d, id: d.plans, points: points, dev: dev, values: make([]value.Value, len(points))}
}

// Write writes a raw value.
func (d *driver) Write(ctx context.Context, dev device.Device, p link.Point, v value.Value) error {
	_, err := d.call(ctx, &request{Verb: write, Device: dev, Points: []link.Point{p}, Value: pack(v)})
	return err
}

// ReadBack reads a point from where it is written.
func (d *driver) ReadBack(ctx context.Context, dev device.Device, p link.Point) (value.Value, error) {
	out, err := d.call(ctx, &request{Verb: readBack, Device: dev, Points: []link.Point{p}})
	if err != nil {
		return value.Value{}, err
	}
	return out.Value.unpack(), nil
}

// WriteBatch writes points together, as the far side's driver does.
func (d *driver) WriteBatch(ctx context.Context, dev device.Device, points []link.Point, values []value.Value) error {
	_, err := d.call(ctx, &request{Verb: writeAll, Device: dev, Points: points, Values: packAll(values)})
	return err
}

// ReadBatch reads points back together.
func (d *driver) ReadBatch(ctx context.Context, dev device.Device, points []link.Point) ([]value.Value, error) {
	out, err := d.call(ctx, &request{Verb: readAll, Device: dev, Points: points})
	if err != nil {
		return nil, err
	}
	if len(out.Values) != len(points) {
		return nil, say.Errorf("%w: %d values were read back, not %d", link.ErrFailed, len(out.Values), len(points))
	}
	return unpackAll(out.Values), nil
}

// Ask puts a question to the far side's driver, which need not be connected.
func (d *driver) Ask(ctx context.Context, question string, about []byte) ([]byte, error) {
	if d.process == nil {
		if err := d.start(ctx); err != nil {
			return nil, err
		}
	}
	out, err := d.call(ctx, &request{Verb: ask, About: question, With: about})
	if err != nil {
		return nil, err
	}
	return out.Answer, nil
}

// poll is the near side of a plan.
type poll struct {
	d      *driver
	id     int
	points []link.Point
	dev    device.Device
	made   int // the process that knows the plan
	values []value.Value
	blocks []link.Block
}

func (p *poll) Read(ctx context.Context, out []value.Value, yield func()) error {
	yield()
	r := &request{Verb: read, Poll: p.id}
	if p.made != p.d.made {
		r.Points, r.Device = p.points, p.dev
	}
	got, err := p.d.call(ctx, r)
	if err != nil {
		return err
	}
	p.made = p.d.made
	for _, c := range got.Changed {
		p.values[c.Index] = c.Value.unpack()
	}
	if got.Told {
		p.blocks = got.Blocks
	}
	copy(out, p.values)
	return nil
}

func (p *poll) Blocks() []link.Block { return p.blocks }

func (p *poll) Close() {
	if p.made == p.d.made && p.d.process != nil {
		ctx, done := context.WithTimeout(context.Background(), farewell)
		defer done()
		_, _ = p.d.call(ctx, &request{Verb: drop, Poll: p.id}) // a process that is gone has forgotten it
	}
	p.made = 0
}
