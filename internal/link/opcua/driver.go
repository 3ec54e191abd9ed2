// Package opcua is the driver for OPC UA (IEC 62541): values come by
// subscription, and a connection serves one user with one security.
package opcua

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"github.com/gopcua/opcua"
	"github.com/gopcua/opcua/id"
	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// aliveEvery is how often the server is asked for its state, so that a silent
// one is noticed while no value changes.
const aliveEvery = time.Second

// Driver is one session with a server.
type Driver struct {
	dev    device.Device
	env    link.Env
	meter  *link.Meter
	client *opcua.Client
	made   int // counts connections, so that a poll knows when its subscription is gone

	asked time.Time // when the server was last asked for its state

	mu    sync.Mutex
	types map[string]*structure // by data type, as far as they have been read
	kinds map[string]nodeType   // by node
}

// Protocol is what the hub needs to know of OPC UA.
var Protocol = link.Protocol{New: func(d device.Device, env link.Env, m *link.Meters) link.Driver { return New(d, env, m) },
	Explain: Explain, Requests: Requests}

// New returns a driver that is not connected yet.
func New(d device.Device, env link.Env, m *link.Meters) *Driver {
	return &Driver{dev: d, env: env, meter: m.Of(link.UnitKey(d)), types: map[string]*structure{}, kinds: map[string]nodeType{}}
}

func timeoutOf(d device.Device) time.Duration { return time.Duration(d.Timeout) * time.Millisecond }

// Connect opens a session. A server certificate that no engineer has trusted is
// refused with an *Untrusted.
func (d *Driver) Connect(ctx context.Context) error {
	d.Close()
	if err := d.env.Check(d.dev); err != nil {
		return err
	}
	options, err := d.security(ctx)
	if err != nil {
		return err
	}
	options = append(options, opcua.AutoReconnect(false), opcua.ApplicationName("Ready Rail"), opcua.ApplicationURI(applicationURI),
		opcua.ProductURI("urn:ready-rail"),
		opcua.SessionName("Ready Rail"), opcua.RequestTimeout(timeoutOf(d.dev)), opcua.DialTimeout(timeoutOf(d.dev)))
	c, err := opcua.NewClient(d.dev.Address(), options...)
	if err != nil {
		return err
	}
	if err := c.Connect(ctx); err != nil {
		return err
	}
	d.client = c
	d.made++
	d.asked = time.Time{}
	d.mu.Lock()
	d.types, d.kinds = map[string]*structure{}, map[string]nodeType{}
	d.mu.Unlock()
	return nil
}

// Close ends the session.
func (d *Driver) Close() error {
	if d.client == nil {
		return nil
	}
	ctx, cancel := context.WithTimeout(context.Background(), 500*time.Millisecond)
	defer cancel()
	err := d.client.Close(ctx)
	d.client = nil
	return err
}

// timed runs one request and notes its round trip or failure.
func (d *Driver) timed(ctx context.Context, f func(context.Context) error) error {
	if d.client == nil {
		return say.Errorf("%w: no connection", link.ErrNotSent)
	}
	ctx, cancel := context.WithTimeout(ctx, timeoutOf(d.dev))
	defer cancel()
	start := time.Now()
	err := f(ctx)
	switch {
	case err == nil:
		d.meter.Request(time.Since(start), 0, 0)
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, ua.StatusBadTimeout):
		err = say.Errorf("%w (%d ms)", link.ErrNoAnswer, d.dev.Timeout)
		d.meter.Failed("no answer in time", err)
	default:
		d.meter.Failed("refused or broken", err)
	}
	return err
}

// alive asks for the server's state now and then.
func (d *Driver) alive(ctx context.Context) error {
	if time.Since(d.asked) < aliveEvery {
		return nil
	}
	d.asked = time.Now()
	v, err := d.read(ctx, ua.NewNumericNodeID(0, id.Server_ServerStatus_State), ua.AttributeIDValue)
	if err != nil {
		return err
	}
	if v.Value != nil {
		if state, ok := v.Value.Value().(int32); ok && state != int32(ua.ServerStateRunning) {
			return say.Errorf("the server is in state %s", ua.ServerState(state))
		}
	}
	return nil
}

// read reads one attribute. A bad status is an error unless the value carries
// it.
func (d *Driver) read(ctx context.Context, node *ua.NodeID, attribute ua.AttributeID) (*ua.DataValue, error) {
	list, err := d.readAll(ctx, []*ua.NodeID{node}, attribute)
	if err != nil {
		return nil, err
	}
	return list[0], nil
}

// readAll reads an attribute of several nodes by one request.
func (d *Driver) readAll(ctx context.Context, nodes []*ua.NodeID, attribute ua.AttributeID) (out []*ua.DataValue, err error) {
	request := &ua.ReadRequest{TimestampsToReturn: ua.TimestampsToReturnBoth}
	for _, n := range nodes {
		request.NodesToRead = append(request.NodesToRead,
			&ua.ReadValueID{NodeID: n, AttributeID: attribute, DataEncoding: &ua.QualifiedName{}})
	}
	err = d.timed(ctx, func(ctx context.Context) error {
		res, err := d.client.Read(ctx, request)
		if err != nil {
			return err
		}
		if len(res.Results) != len(nodes) {
			return say.Errorf("the server answered a read of %d values with %d", len(nodes), len(res.Results))
		}
		out = res.Results
		return nil
	})
	return out, err
}

// ReadBack reads a point from where it is written.
func (d *Driver) ReadBack(ctx context.Context, _ device.Device, p link.Point) (value.Value, error) {
	n, err := parse(p.WriteText)
	if err != nil {
		return value.Value{}, err
	}
	if len(n.members) > 0 {
		d.learn(ctx, n.id)
	}
	v, err := d.read(ctx, n.id, ua.AttributeIDValue)
	if err != nil {
		return value.Value{}, err
	}
	return d.convert(v, n, p.Type), nil
}

// Write writes one value in the type that the server has for it.
func (d *Driver) Write(ctx context.Context, dev device.Device, p link.Point, v value.Value) error {
	return d.WriteBatch(ctx, dev, []link.Point{p}, []value.Value{v})
}

// writing is what the server is asked to write. An element of an array is written by
// its index (IEC 62541-4, 5.10.4.2); a member of a structure by reading the whole,
// changing the member and writing it back.
func (d *Driver) writing(ctx context.Context, p link.Point, v value.Value) (*ua.WriteValue, error) {
	n, err := parse(p.WriteText)
	if err != nil {
		return nil, err
	}
	typ, err := d.typeOf(ctx, n.id)
	if err != nil {
		return nil, say.Errorf("its type could not be read: %w", err)
	}
	out := &ua.WriteValue{NodeID: n.id, AttributeID: ua.AttributeIDValue, Value: &ua.DataValue{EncodingMask: ua.DataValueValue}}
	switch {
	case len(n.members) == 0:
		out.Value.Value, err = variant(v, typ.builtin)
	case len(n.members) == 1 && n.members[0].Name == "" && typ.structure == nil:
		out.IndexRange = fmt.Sprint(n.members[0].Index)
		out.Value.Value, err = element(v, typ.builtin)
	default:
		out.Value.Value, err = d.patched(ctx, n, typ, v)
	}
	return out, err
}
