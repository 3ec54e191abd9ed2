package door

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// The tests run in bubbles in which time passes only while everything waits,
// so that milliseconds can be counted.

var ctx = context.Background()

// answer is what a made-up device does with one write.
type answer struct {
	takes time.Duration
	err   error
	reads string // what is read back where it is not what was written; "bad" for nothing
}

// device is a made-up device with one BOOL and one number in it.
type device struct {
	mu      sync.Mutex
	script  []answer // of the writes to come; the last one stands for the rest
	at      map[string]value.Value
	written []string // "+0ms jog=1 urgent"
	begun   time.Time
	kept    int
}

// sink is the way to one of its values.
type sink struct {
	*device
	name string
}

func (s sink) Write(_ context.Context, _, raw value.Value, urgent bool) (value.Value, error) {
	s.mu.Lock()
	a := answer{takes: 5 * time.Millisecond}
	if len(s.script) > 0 {
		if a = s.script[0]; len(s.script) > 1 {
			s.script = s.script[1:]
		}
	}
	s.mu.Unlock()
	time.Sleep(a.takes)
	s.mu.Lock()
	defer s.mu.Unlock()
	line := fmt.Sprintf("+%d %s=%s", time.Since(s.begun).Milliseconds(), s.name, raw.Text())
	if urgent {
		line += "!"
	}
	if a.err != nil {
		s.written = append(s.written, line+" "+a.err.Error())
		return value.Value{}, a.err
	}
	s.written = append(s.written, line)
	s.at[s.name] = raw
	if a.reads == "bad" {
		return value.Bad(raw.Kind, value.BadNoAnswer), nil
	}
	if a.reads != "" {
		return value.Parse(value.Type{Kind: raw.Kind}, a.reads)
	}
	return raw, nil
}

func (s sink) Keep() func() {
	count := func(by int) {
		s.mu.Lock()
		defer s.mu.Unlock()
		s.kept += by
	}
	count(1)
	return func() { count(-1) }
}

// guard is what a command rests on; each may be taken away while it lasts.
type guard struct {
	mu                        sync.Mutex
	current, right, interlock error
	bad                       bool // the tags read bad
}

func (g *guard) Current() error              { g.mu.Lock(); defer g.mu.Unlock(); return g.current }
func (g *guard) Right(context.Context) error { g.mu.Lock(); defer g.mu.Unlock(); return g.right }
func (g *guard) Interlock() error            { g.mu.Lock(); defer g.mu.Unlock(); return g.interlock }

// disk is a made-up trail and table of leases.
type disk struct {
	mu      sync.Mutex
	takes   time.Duration // an append
	fails   error
	records []audit.Record
	leases  map[string]Lease
}

func (k *disk) AppendAll(ctx context.Context, list []audit.Record) ([]audit.Record, error) {
	out := slices.Clone(list)
	for i := range list {
		var err error
		if out[i], err = k.Append(ctx, list[i]); err != nil {
			return out, err
		}
	}
	return out, nil
}

func (k *disk) Append(_ context.Context, r audit.Record) (audit.Record, error) {
	time.Sleep(k.delay())
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.fails != nil {
		return r, k.fails
	}
	for _, o := range k.records {
		if r.What == audit.Intent && o.What == audit.Intent && o.Key == r.Key {
			return r, audit.ErrTaken
		}
	}
	r.Seq = int64(len(k.records) + 1)
	k.records = append(k.records, r)
	return r, nil
}

func (k *disk) delay() time.Duration { k.mu.Lock(); defer k.mu.Unlock(); return k.takes }

func (k *disk) Put(_ context.Context, l Lease) error {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.fails != nil {
		return k.fails
	}
	k.leases[l.ID] = l
	return nil
}

func (k *disk) Drop(_ context.Context, id string) error {
	k.mu.Lock()
	defer k.mu.Unlock()
	delete(k.leases, id)
	return nil
}

func (k *disk) List(context.Context) (out []Lease, err error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	for _, l := range k.leases {
		out = append(out, l)
	}
	return out, nil
}

// yard is a door with everything around it.
type yard struct {
	*testing.T
	door  *Door
	disk  *disk
	dev   *device
	guard *guard
	keys  int
	ended bool
}

var (
	quiet = slog.New(slog.NewTextHandler(io.Discard, nil))
	tom   = Who{ID: "tom", Name: "Tom Alder", Panel: "Kiln house"}
	iris  = Who{ID: "iris", Name: "Iris Rowan", Panel: "Office 2"}
)

// bubble runs a test in time of its own, and ends what it left open.
func bubble(t *testing.T, f func(y *yard)) {
	t.Helper()
	synctest.Test(t, func(t *testing.T) {
		y := newYard(t)
		f(y)
		if !y.ended {
			y.close(2 * time.Second)
		}
	})
}

func newYard(t *testing.T) *yard {
	y := &yard{T: t, disk: &disk{leases: map[string]Lease{}}, dev: &device{at: map[string]value.Value{}, begun: time.Now()}, guard: &guard{}}
	y.open()
	return y
}

func (y *yard) open() {
	y.ended = false
	y.door = New(y.disk, y.disk, func(l Lease) (Sink, error) { return sink{y.dev, l.Path}, nil }, quiet)
}

func (y *yard) close(within time.Duration) {
	c, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	y.ended = true
	y.door.Close(c)
	// What still waits for a device sees that the door has closed.
	time.Sleep(time.Minute)
}

// target is a tag of the made-up device: a BOOL named by what moves, or a number.
func (y *yard) target(name string, kind value.Kind) *Target {
	t := &tag.Tag{ID: name, Name: name, Type: value.Type{Kind: kind}, Access: tag.ReadWrite, Source: tag.Device}
	if kind.IsNumber() {
		low, high := 0.0, 100.0
		t.Low, t.High = &low, &high
	}
	return &Target{Tag: t, Path: name, Sink: sink{y.dev, name}, Guard: y.guard, Read: func(string) value.Value {
		y.guard.mu.Lock()
		bad := y.guard.bad
		y.guard.mu.Unlock()
		if bad {
			return value.Bad(kind, value.BadNotConnected)
		}
		y.dev.mu.Lock()
		defer y.dev.mu.Unlock()
		if v, ok := y.dev.at[name]; ok {
			return v
		}
		v, _ := value.Parse(t.Type, map[bool]string{true: "false", false: "10"}[kind == value.BOOL])
		return v
	}}
}

// set is a command that writes a number.
func (y *yard) set(who Who, name string, n float64) Command {
	return y.command(who, Step{Target: y.target(name, value.LREAL),
		Value: func(value.Value) (value.Value, error) { return value.Real(value.LREAL, n), nil }})
}

func (y *yard) command(who Who, steps ...Step) Command {
	y.keys++
	return Command{Who: who, Key: fmt.Sprintf("key-%d", y.keys), At: time.Now(), Steps: steps}
}

func (y *yard) jog(name string) Step {
	return Step{Target: y.target(name, value.BOOL), Value: func(value.Value) (value.Value, error) { return value.Bool(true), nil },
		Release: value.Bool(false)}
}

// hold presses a button in the background and returns how that went.
func (y *yard) hold(who Who, s Step) (h *Hold, begun chan error) {
	y.Helper()
	c := y.command(who, s)
	h, err := y.door.Press(who, c.Key)
	if err != nil {
		y.Fatal(err)
	}
	begun = make(chan error, 1)
	go func() { begun <- h.Begin(ctx, c) }()
	return h, begun
}

// renew renews a press for a time, as a page does.
func (y *yard) renew(h *Hold, long time.Duration) {
	for end := time.Now().Add(long); time.Now().Before(end); time.Sleep(RenewEvery) {
		if y.door.Renew(h.who, h.key) != nil {
			return
		}
	}
}

func (y *yard) wrote(want ...string) {
	y.Helper()
	y.dev.mu.Lock()
	defer y.dev.mu.Unlock()
	if got := strings.Join(y.dev.written, ", "); got != strings.Join(want, ", ") {
		y.Errorf("written %q, want %q", got, strings.Join(want, ", "))
	}
}

// trail says of each record what, outcome and the beginning of its reason.
func (y *yard) trail(want ...string) {
	y.Helper()
	y.disk.mu.Lock()
	defer y.disk.mu.Unlock()
	got := []string{}
	for _, r := range y.disk.records {
		got = append(got, strings.TrimSpace(r.What+" "+r.Outcome))
	}
	if strings.Join(got, ", ") != strings.Join(want, ", ") {
		y.Errorf("trail %q, want %q", strings.Join(got, ", "), strings.Join(want, ", "))
	}
}

// on tells whether the device has a BOOL set.
func (y *yard) on(name string) bool {
	y.dev.mu.Lock()
	defer y.dev.mu.Unlock()
	return y.dev.at[name].Bool()
}

func (y *yard) left(n int) {
	y.Helper()
	y.disk.mu.Lock()
	defer y.disk.mu.Unlock()
	if len(y.disk.leases) != n {
		y.Errorf("%d leases are on disk, want %d", len(y.disk.leases), n)
	}
}

var (
	errWet     = errors.New("the rail is wet")
	errRefuses = fmt.Errorf("%w: illegal address", link.ErrRefused)
	errDown    = fmt.Errorf("%w: no connection", link.ErrNotSent)
	errSilence = errors.New("time-out")
)

func contextFor(d time.Duration) (context.Context, context.CancelFunc) {
	return context.WithTimeout(ctx, d)
}
