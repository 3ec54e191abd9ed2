// Package link connects devices to the engines. A driver speaks one protocol;
// the hub shares one connection per endpoint among everybody who wants values
// from it, merges their reads and lets writes go ahead of reads.
package link

import (
	"context"
	"errors"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
)

// Point is one value in a device, as a driver needs to know it.
type Point struct {
	Unit  byte
	Addr  device.Address
	Type  value.Type
	Order device.Order
}

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
	// an error means that the device or the link failed as a whole.
	Read(ctx context.Context, out []value.Value, yield func()) error
	// Requests is how many requests a Read makes at present.
	Requests() int
}

// Driver speaks a protocol over one connection. Its methods are called by one
// goroutine at a time.
type Driver interface {
	Connect(ctx context.Context) error
	// Plan prepares reading points of one unit under a device's settings.
	Plan(points []Point, d device.Device) Poll
	// Write writes a raw value. An error that wraps ErrRefused means that the
	// device did not take it; any other error leaves open whether it did.
	Write(ctx context.Context, p Point, v value.Value, timeout time.Duration) error
	// ReadOne reads one point.
	ReadOne(ctx context.Context, p Point, timeout time.Duration) (value.Value, error)
	Close() error
	// Stats counts what went over the connection since it was made.
	Stats() Stats
}

// Stats counts traffic.
type Stats struct {
	Requests  int64
	Errors    int64
	RoundTrip time.Duration // of the last answered request
}

// ErrRefused is wrapped when a device answered that it does not take a value.
var ErrRefused = errors.New("the device refused")

// ErrNotSent is wrapped when a value was not sent at all.
var ErrNotSent = errors.New("not sent")

// ErrNoAnswer is wrapped when a device did not answer in time.
var ErrNoAnswer = errors.New("no answer in time")

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
	Problem   string // the last failure in plain words; empty while all is well
	ProblemAt time.Time
	RoundTrip time.Duration
	Requests  int64
	Errors    int64
	Blocks    int // requests that one round of all polls takes
	Points    int
	Failing   int // points that the device refuses
	Missed    int // polls that began more than a period late
}
