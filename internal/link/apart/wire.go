package apart

import (
	"context"
	"errors"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// What goes through the pipes: requests one way, replies the other, each side
// one stream of encoding/gob. One request is under way at a time; a cancel may
// go past it. The two sides are always of one build, so nothing here has
// versions.

type verb int

const (
	hello verb = iota // the device and its secrets, before anything else
	connect
	read
	drop
	write
	readBack
	writeAll
	readAll
	ask
	cancel
)

// request is one call of a method of the driver. Of its fields those are set
// that the verb needs.
type request struct {
	Verb   verb
	Number int           // of the call; a cancel has that of the call it ends
	Within time.Duration // until the caller's time is up

	Device  device.Device
	Secrets map[string]secret
	Poll    int          // the number of a plan
	Points  []link.Point // of a plan that the far side does not have yet
	Value   packed
	Values  []packed // of the points, to be written together
	About   string   // what is asked
	With    []byte   // and about what
}

// secret is an entry of the vault, or why it could not be opened.
type secret struct {
	link.Secret
	Fault *fault
}

type reply struct {
	Fault   *fault
	Changed []change     // of a read: what differs from the last one
	Blocks  []link.Block // of a read, where they differ from the last ones:
	Told    bool         // then this is set
	Value   packed
	Values  []packed // of points that are read back together
	Answer  []byte
	Traffic []link.Traced
}

type change struct {
	Index int
	Value packed
}

// packed is a value.Value, whose fields do not travel.
type packed struct {
	Kind    value.Kind
	Quality value.Quality
	Bits    uint64
	Text    string
	Nanos   int64
}

func pack(v value.Value) packed {
	return packed{v.Kind, v.Quality, v.Bits(), v.Str(), v.Nanos()}
}

func (p packed) unpack() value.Value {
	var v value.Value
	if p.Kind == value.STRING {
		v.PutText(p.Quality, p.Text)
	} else {
		v.Put(p.Kind, p.Quality, p.Bits)
	}
	return v.AtNanos(p.Nanos)
}

func packAll(list []value.Value) []packed {
	out := make([]packed, len(list))
	for i, v := range list {
		out[i] = pack(v)
	}
	return out
}

func unpackAll(list []packed) []value.Value {
	out := make([]value.Value, len(list))
	for i, p := range list {
		out[i] = p.unpack()
	}
	return out
}

// Carried is an error that reaches the caller as itself, with all that is in
// it. Its type is registered with encoding/gob.
type Carried interface {
	error
	Carried()
}

// fault is an error of the far side: its text, what it is, and how its protocol
// explains it.
type fault struct {
	Text      string
	Explained say.Packed
	Is        []int // of known
	Carried   Carried
}

// known are the errors that are asked for by errors.Is.
var known = []error{link.ErrRefused, link.ErrNotSent, link.ErrForbidden, link.ErrNoAnswer, link.ErrFailed, context.DeadlineExceeded,
	context.Canceled}

func faultOf(err, explained error) *fault {
	f := &fault{Text: err.Error(), Explained: say.Pack(explained)}
	for i, k := range known {
		if errors.Is(err, k) {
			f.Is = append(f.Is, i)
		}
	}
	errors.As(err, &f.Carried)
	return f
}

func (f *fault) Error() string { return f.Text }

// Unwrap gives what the error was on the far side.
func (f *fault) Unwrap() []error {
	var out []error
	for _, i := range f.Is {
		out = append(out, known[i])
	}
	if f.Carried != nil {
		out = append(out, f.Carried)
	}
	return out
}

// err is nil where there is no fault.
func (f *fault) err() error {
	if f == nil {
		return nil
	}
	return f
}
