package link

import (
	"context"
	"errors"
	"reflect"
	"slices"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

type write struct {
	ctx   context.Context
	dev   device.Device
	point Point
	value value.Value
	done  chan written
}

// job is work with the driver that is neither a poll nor a write.
type job struct {
	ctx  context.Context
	f    func(Driver) error
	done chan error
}

type written struct {
	back value.Value
	err  error
}

// endpoint owns one connection. Its goroutine alone talks to the driver.
type endpoint struct {
	name     string
	protocol Protocol
	driver   Driver
	cancel   context.CancelFunc
	urgent   chan *write
	writes   chan *write
	jobs     chan *job
	renewed  chan *config
	closed   chan struct{} // when the goroutine has ended

	meters *Meters

	mu    sync.Mutex
	state Status
	units map[string]*unit
	views map[groupKey]GroupStatus
	ups   int
}

// unit is how one unit behind the endpoint fares.
type unit struct {
	silent    int // polls without an answer, in a row
	until     time.Time
	problem   error
	problemAt time.Time
	since     time.Time
	blocks    int
	points    int
	failing   int
}

func newEndpoint(name string, p Protocol, d device.Device, env Env) *endpoint {
	m := NewMeters()
	return &endpoint{name: name, protocol: p, driver: p.New(d, env, m), meters: m, views: map[groupKey]GroupStatus{}, jobs: make(chan *job),
		urgent: make(chan *write, 64), writes: make(chan *write, 256),
		renewed: make(chan *config, 1), closed: make(chan struct{}), units: map[string]*unit{},
		state: Status{State: Connecting, Since: time.Now()}}
}

// configure replaces the configuration; of several in a row the newest wins.
func (e *endpoint) configure(c *config) {
	for {
		select {
		case e.renewed <- c:
			return
		default:
			select {
			case <-e.renewed:
			default:
			}
		}
	}
}

func (e *endpoint) write(w *write, urgent bool) (value.Value, error) {
	e.mu.Lock()
	up := e.state.State == Up
	e.mu.Unlock()
	if !up {
		return value.Value{}, say.Errorf("%w: no connection to %s", ErrNotSent, e.name)
	}
	queue := e.writes
	if urgent {
		queue = e.urgent
	}
	select {
	case queue <- w:
	default:
		return value.Value{}, say.Errorf("%w: too many writes are waiting for %s", ErrNotSent, e.name)
	}
	// Whether a queued write was sent is known to the goroutine alone, so the
	// answer is waited for even when the caller's time is up.
	select {
	case r := <-w.done:
		return r.back, r.err
	case <-e.closed:
	}
	select {
	case r := <-w.done:
		return r.back, r.err
	default:
		return value.Value{}, say.Errorf("%w: the link was closed", ErrNotSent)
	}
}

// Backoff of connecting: from a quarter of a second, doubled, to five seconds.
const (
	firstRetry = 250 * time.Millisecond
	lastRetry  = 5 * time.Second
)

func (e *endpoint) run(ctx context.Context) {
	defer close(e.closed)
	defer func() { _ = Safely(e.driver.Close) }() // nothing is left to be done with it
	var c *config
	var retryAt time.Time
	retry := firstRetry
	timer := time.NewTimer(0)
	defer timer.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case next := <-e.renewed:
			c = e.adopt(c, next)
		case w := <-e.urgent:
			e.doWrite(w)
		case w := <-e.writes:
			e.doWrite(w)
		case j := <-e.jobs:
			e.doJob(j)
		case <-timer.C:
		}
		e.drainWrites()
		now := time.Now()
		if c != nil && !e.connected() {
			if now.Before(retryAt) {
				timer.Reset(min(retryAt.Sub(now), 100*time.Millisecond))
				continue
			}
			if err := e.connect(ctx, c); err != nil {
				retryAt, retry = time.Now().Add(retry), min(2*retry, lastRetry)
				timer.Reset(100 * time.Millisecond)
				continue
			}
			retry = firstRetry
		}
		if c != nil {
			timer.Reset(e.pollDue(ctx, c))
		}
	}
}

// adopt plans a new configuration; groups that did not change keep their plan,
// with what it has learned, and their next due time.
func (e *endpoint) adopt(old, next *config) *config {
	now := time.Now()
	n := 0
	for key, g := range next.groups {
		if old != nil {
			if o := old.groups[key]; o != nil && reflect.DeepEqual(o.dev, g.dev) && samePoints(o.points, g.points) {
				g.poll, g.values, g.due, g.kept, g.missed = o.poll, o.values, o.due, o.kept, o.missed
				o.poll = nil // it goes on in the new one
				continue
			}
		}
		g.poll = nothing{}
		if err := Safely(func() error { g.poll = e.driver.Plan(g.points, g.dev); return nil }); err != nil {
			g.poll = nothing{err}
		}
		g.values = make([]value.Value, len(g.points))
		// Groups start apart, so that they do not all fall due together.
		g.due = now.Add(time.Duration(n) * 5 * time.Millisecond)
		n++
	}
	if old != nil {
		for _, o := range old.groups {
			if o.poll != nil {
				o.poll.Close()
			}
		}
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	e.views = map[groupKey]GroupStatus{}
	for id := range next.devices {
		if e.units[id] == nil {
			e.units[id] = &unit{since: now}
		}
	}
	return next
}

// ErrFailed is wrapped when a driver panicked: a link that panics is a link
// that failed.
var ErrFailed = say.New("the driver failed")

// Safely turns a panic of a driver into an error.
func Safely(f func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = say.Errorf("%w: %v", ErrFailed, p)
		}
	}()
	return f()
}

// explain says an error in plain words.
func (e *endpoint) explain(err error, d device.Device) error {
	if errors.Is(err, ErrFailed) {
		return err
	}
	return e.protocol.Explain(err, d)
}

// nothing is the poll of points that a driver could not plan.
type nothing struct{ why error }

func (n nothing) Read(context.Context, []value.Value, func()) error { return n.why }
func (n nothing) Blocks() []Block                                   { return nil }
func (n nothing) Close()                                            {}

func samePoints(a, b []Point) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] != b[i] {
			return false
		}
	}
	return true
}

func (e *endpoint) connected() bool {
	e.mu.Lock()
	defer e.mu.Unlock()
	return e.state.State == Up
}

func (e *endpoint) connect(ctx context.Context, c *config) error {
	timeout := 5 * time.Second
	var dev device.Device
	for _, d := range c.devices {
		dev = d
		timeout = min(timeout, time.Duration(d.Timeout)*time.Millisecond)
	}
	dial, cancel := context.WithTimeout(ctx, timeout)
	defer cancel()
	if err := Safely(func() error { return e.driver.Connect(dial) }); err != nil {
		e.lost(c, err, dev)
		return err
	}
	now := time.Now()
	e.mu.Lock()
	if e.ups++; e.ups > 1 {
		for unit := range e.units {
			e.meters.Of(unit).Reconnected()
		}
	}
	e.state.State, e.state.Since = Up, now
	for _, u := range e.units {
		u.silent, u.until = 0, time.Time{}
	}
	e.mu.Unlock()
	for _, g := range c.groups {
		g.due = now
	}
	return nil
}

// lost records that the connection is gone and makes every value bad.
func (e *endpoint) lost(c *config, err error, dev device.Device) {
	now := time.Now()
	_ = Safely(e.driver.Close) // it is made anew in any case
	e.mu.Lock()
	if e.state.State != Down {
		e.state.State, e.state.Since = Down, now
	}
	e.state.Problem, e.state.ProblemAt = e.explain(err, dev), now
	e.mu.Unlock()
	for _, g := range c.groups {
		g.fail(value.BadNotConnected, now)
	}
}

// pollDue reads every group that is due and returns the time to the next.
func (e *endpoint) pollDue(ctx context.Context, c *config) time.Duration {
	next := time.Second
	for _, g := range c.groups {
		now := time.Now()
		if wait := g.due.Sub(now); wait > 0 {
			next = min(next, wait)
			continue
		}
		if now.Sub(g.due) > g.key.every && !g.due.IsZero() {
			g.missed++
		} else {
			g.kept++
		}
		// Due times stay on their grid; periods that passed are not caught up.
		for g.due = g.due.Add(g.key.every); !g.due.After(now); {
			g.due = now.Add(g.key.every)
		}
		next = min(next, g.due.Sub(now))
		if e.resting(g.key.unit, now) {
			g.fail(value.BadNoAnswer, now)
			continue
		}
		err := Safely(func() error { return g.poll.Read(ctx, g.values, e.drainWrites) })
		if ctx.Err() != nil {
			return 0
		}
		g.took = time.Since(now)
		now = time.Now()
		if err == nil {
			e.succeeded(c, g)
			g.deliver(now)
			continue
		}
		if !e.silence(g, err, now) {
			e.lost(c, err, g.dev)
			return firstRetry
		}
	}
	return max(next, 0)
}

func (e *endpoint) resting(id string, now time.Time) bool {
	e.mu.Lock()
	defer e.mu.Unlock()
	u := e.units[id]
	return u != nil && now.Before(u.until)
}

// succeeded records a poll that went through.
func (e *endpoint) succeeded(c *config, g *group) {
	g.failing = 0
	for i := range g.values {
		if g.values[i].Quality == value.BadRefused {
			g.failing++
		}
	}
	blocks := g.poll.Blocks()
	e.mu.Lock()
	defer e.mu.Unlock()
	e.views[g.key] = GroupStatus{Every: g.key.every, Points: len(g.points), Kept: g.kept, Missed: g.missed, Took: g.took, Blocks: blocks}
	u := e.units[g.key.unit]
	if u.silent > 0 {
		u.since = time.Now()
	}
	u.silent, u.blocks, u.points, u.failing = 0, 0, 0, 0
	for _, o := range c.groups {
		if o.key.unit == g.key.unit {
			u.blocks += active(e.views[o.key].Blocks)
			u.points += len(o.points)
			u.failing += o.failing
		}
	}
}

// active counts the blocks that are asked for each round.
func active(blocks []Block) int {
	n := 0
	for _, b := range blocks {
		if !b.Refused {
			n++
		}
	}
	return n
}

// groups tells how a device's polls fare, fastest first.
func (e *endpoint) groups(unit string) []GroupStatus {
	e.mu.Lock()
	defer e.mu.Unlock()
	out := []GroupStatus{}
	for key, v := range e.views {
		if key.unit == unit {
			out = append(out, v)
		}
	}
	slices.SortFunc(out, func(a, b GroupStatus) int { return int(a.Every - b.Every) })
	return out
}

// silence handles a failed poll. It returns false when the whole link has to
// be made anew; true when only the unit failed, which is then left alone for a
// while so that it holds up no other.
func (e *endpoint) silence(g *group, err error, now time.Time) bool {
	if !errors.Is(err, ErrNoAnswer) && !answered(err) {
		return false
	}
	e.mu.Lock()
	u := e.units[g.key.unit]
	u.silent++
	if u.silent == 1 {
		u.since = now
	}
	u.problem, u.problemAt = e.explain(err, g.dev), now
	alone := len(e.units) == 1
	if u.silent >= 2 && !alone {
		u.until = now.Add(min(time.Duration(u.silent)*time.Second, lastRetry))
	}
	again := u.silent >= 3 && alone
	e.mu.Unlock()
	if again {
		return false
	}
	g.fail(value.BadNoAnswer, now)
	return true
}

// answered tells whether an error is itself an answer of the far side, as when
// a gateway says that a unit behind it is silent.
func answered(err error) bool {
	var a interface{ Answered() bool }
	return errors.As(err, &a) && a.Answered()
}

// drainWrites does the writes that wait, urgent ones first.
func (e *endpoint) drainWrites() {
	for {
		select {
		case w := <-e.urgent:
			e.doWrite(w)
			continue
		default:
		}
		select {
		case w := <-e.urgent:
			e.doWrite(w)
		case w := <-e.writes:
			e.doWrite(w)
		default:
			return
		}
	}
}

func (e *endpoint) doWrite(w *write) {
	if err := w.ctx.Err(); err != nil {
		w.done <- written{err: say.Errorf("%w: it waited too long", ErrNotSent)}
		return
	}
	if !e.connected() {
		w.done <- written{err: say.Errorf("%w: no connection to %s", ErrNotSent, e.name)}
		return
	}
	// Once sent, a write is seen through to its answer.
	ctx := context.WithoutCancel(w.ctx)
	if err := Safely(func() error { return e.driver.Write(ctx, w.dev, w.point, w.value) }); err != nil {
		w.done <- written{err: err}
		return
	}
	var back value.Value
	err := Safely(func() (err error) { back, err = e.driver.ReadBack(ctx, w.dev, w.point); return err })
	if err != nil {
		back = value.Bad(w.value.Kind, value.BadNoAnswer)
	}
	w.done <- written{back: back}
}

// use hands a job to the goroutine and waits for it.
func (e *endpoint) use(ctx context.Context, f func(Driver) error) error {
	j := &job{ctx, f, make(chan error, 1)}
	select {
	case e.jobs <- j:
	case <-ctx.Done():
		return ctx.Err()
	case <-e.closed:
		return say.Errorf("%w: the link was closed", ErrNotSent)
	}
	select {
	case err := <-j.done:
		return err
	case <-e.closed:
		return say.Errorf("%w: the link was closed", ErrNotSent)
	}
}

func (e *endpoint) doJob(j *job) {
	switch {
	case j.ctx.Err() != nil:
		j.done <- j.ctx.Err()
	case !e.connected():
		j.done <- say.Errorf("%w: no connection to %s", ErrNotSent, e.name)
	default:
		j.done <- Safely(func() error { return j.f(e.driver) })
	}
}

func (e *endpoint) status(id string) Status {
	trip, requests, errs := e.meters.Of(id).Last()
	e.mu.Lock()
	defer e.mu.Unlock()
	s := e.state
	s.Requests, s.Errors, s.RoundTrip = requests, errs, trip
	for key, v := range e.views {
		if key.unit == id {
			s.Missed += v.Missed
		}
	}
	if u := e.units[id]; u != nil {
		s.Blocks, s.Points, s.Failing = u.blocks, u.points, u.failing
		if u.silent > 0 && s.State == Up {
			s.State, s.Since = Down, u.since
		}
		if u.problemAt.After(s.ProblemAt) {
			s.Problem, s.ProblemAt = u.problem, u.problemAt
		}
	}
	return s
}
