// Package link connects devices to the engines. A driver speaks one protocol;
// the hub shares one connection per endpoint among everybody who wants values
// from it, merges their reads and lets writes go ahead of reads.
package link

import (
	"context"
	"encoding/json"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Point is one value in a device, as a driver needs to know it: a register
// address, or text for protocols that name their values. WriteAddr and
// WriteText are where it is written, the same as where it is read unless the
// controller wants otherwise.
type Point struct {
	Unit      byte
	Addr      device.Address
	WriteAddr device.Address
	Text      string
	WriteText string
	Type      value.Type
	Order     device.Order
}

// Apart tells whether the point is written elsewhere than it is read.
func (p Point) Apart() bool { return p.WriteAddr != p.Addr || p.WriteText != p.Text }

// Subscription asks for a point at a rate. Handle is the subscriber's own
// number for it.
type Subscription struct {
	Handle int32
	Point  Point
	Every  time.Duration
}

// Reading is a raw value for a handle; its quality says how the read went.
type Reading struct {
	Handle int32
	Value  value.Value
}

// Poll is a set of points that a driver has planned to read together.
type Poll interface {
	// Read reads every point once, in the order they were planned in, and
	// stores raw values into out. Between two requests it calls yield, in which
	// the caller may write. A point that the device refuses gets a bad quality;
	// an error means that the device or the link failed as a whole. A driver to
	// which values come of themselves gives the newest.
	Read(ctx context.Context, out []value.Value, yield func()) error
	// Blocks says what a Read asks for at present.
	Blocks() []Block
	// Close ends what the device keeps for the set.
	Close()
}

// Block is one request of a poll, or one subscription.
type Block struct {
	Name    string `json:"name"` // "holding:0 to 47"
	Points  int    `json:"points"`
	Refused bool   `json:"refused,omitempty"` // the device does not give it; it is tried again now and then
}

// Driver speaks a protocol over one connection. Its methods are called by one
// goroutine at a time.
type Driver interface {
	Connect(ctx context.Context) error
	// Plan prepares reading points of one device under its settings.
	Plan(points []Point, d device.Device) Poll
	// Write writes a raw value. An error that wraps ErrRefused means that the
	// device did not take it; any other error leaves open whether it did.
	Write(ctx context.Context, d device.Device, p Point, v value.Value) error
	// ReadBack reads a point from where it is written.
	ReadBack(ctx context.Context, d device.Device, p Point) (value.Value, error)
	Close() error
}

// Asked is a driver that answers more than this package knows of: what lies in
// its device, whether it can be reached. Questions and answers are JSON, so that
// they travel; the driver's package has a function for each.
type Asked interface {
	Ask(ctx context.Context, question string, about []byte) ([]byte, error)
}

// Ask puts a question to a driver and reads the answer into out.
func Ask(ctx context.Context, d Driver, question string, about, out any) error {
	asked, ok := d.(Asked)
	if !ok {
		return say.Errorf("%w: the device answers no questions of this kind", ErrNotSent)
	}
	with, err := json.Marshal(about)
	if err != nil {
		return err
	}
	answer, err := asked.Ask(ctx, question, with)
	if err != nil {
		return err
	}
	return json.Unmarshal(answer, out)
}

// Secret is a credential out of the vault.
type Secret struct {
	User, Password   string
	Certificate, Key []byte // PEM
}

// Env is what a driver may ask of the server that it runs in.
type Env struct {
	// Secret opens an entry of the vault by its name, for a host to which it is
	// sent.
	Secret func(name, host string) (Secret, error)
	// Allow refuses hosts that the server's allow-list does not name.
	Allow func(host string) error
}

// Check asks whether a device may be reached at all.
func (e Env) Check(d device.Device) error {
	if e.Allow == nil {
		return nil
	}
	return e.Allow(d.Host)
}

// Open opens the credential that a device names; without one it is empty.
func (e Env) Open(d device.Device) (Secret, error) {
	if d.Credential == "" || e.Secret == nil {
		return Secret{}, nil
	}
	return e.Secret(d.Credential, d.Host)
}

// Protocol makes drivers and explains their errors.
type Protocol struct {
	New     func(d device.Device, env Env, m *Meters) Driver
	Explain func(err error, d device.Device) error
	// Requests parts points that are written together, as Hub.Requests tells it;
	// nil where each is written alone.
	Requests func(d device.Device, points []Point) [][]int
}

// ErrRefused is wrapped when a device answered that it does not take a value.
var ErrRefused = say.New("the device refused")

// ErrNotSent is wrapped when a value was not sent at all.
var ErrNotSent = say.New("not sent")

// ErrForbidden is wrapped when the server's allow-list does not name a host.
var ErrForbidden = say.New("this server does not reach it")

// ErrNoAnswer is wrapped when a device did not answer in time.
var ErrNoAnswer = say.New("no answer in time")

// State of the link to an endpoint.
type State string

// The states.
const (
	Idle       State = "idle" // nothing asks for it
	Connecting State = "connecting"
	Up         State = "up"
	Down       State = "down"
)

// Status is how the link to one device stands.
type Status struct {
	State     State
	Since     time.Time
	Problem   error // the last failure in plain words; nil while all is well
	ProblemAt time.Time
	RoundTrip time.Duration
	Requests  int64
	Errors    int64
	Blocks    int // requests that one round of all polls takes
	Points    int
	Failing   int // points that the device refuses
	Missed    int // polls that began more than a period late
}

// GroupStatus is how one poll of a device fares.
type GroupStatus struct {
	Every  time.Duration
	Points int
	Kept   int // rounds that began within a period of their time
	Missed int
	Took   time.Duration // by the last round
	Blocks []Block
}

// UnitKey tells the devices behind one endpoint apart: by their unit where they
// have one, elsewhere by their id.
func UnitKey(d device.Device) string {
	if d.Protocol == device.ModbusTCP {
		return string([]byte{'u', byte(d.Unit)})
	}
	return d.ID
}
