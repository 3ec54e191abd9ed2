package door

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// How long until a release value is written again that was not confirmed.
const (
	soon  = 20 * time.Millisecond  // nothing was sent
	later = 250 * time.Millisecond // it was sent and not read back as it is
)

// ErrGone is wrapped by a sink that no longer exists, as that of a trial that
// has ended: there is nothing left to let go.
var ErrGone = say.New("it is no longer there")

// letGo writes the release value ahead of everything else until it is
// confirmed, forgets the lease, and records the end. When ctx ends first, the
// lease stays on disk for the next start.
func (d *Door) letGo(ctx context.Context, c *claim, sink Sink, off value.Value, why string) (outcome string) {
	outcome = d.writeUntil(ctx, c, sink, off)
	if outcome == audit.Confirmed {
		d.drop(ctx, c)
	}
	if c.trial {
		return outcome
	}
	d.ledger.owe(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Lease, Person: c.Person, Name: c.Name, Panel: c.Panel,
		Screen: c.Screen, Element: c.Element, Tag: c.Tag, Path: c.Path, Old: "held", New: c.ReleaseValue, Outcome: outcome, Reason: why})
	return outcome
}

func (d *Door) writeUntil(ctx context.Context, c *claim, sink Sink, off value.Value) (outcome string) {
	var t tag.Tag
	if err := json.Unmarshal(c.TagDoc, &t); err != nil {
		d.log.Error("a lease cannot be read", "path", c.Path, "error", err)
		return audit.Unknown
	}
	raw, err := t.ToRaw(off)
	if err != nil {
		d.log.Error("a release value does not fit its tag", "path", c.Path, "error", err)
		return audit.Unknown
	}
	done := sink.Keep()
	defer done()
	for {
		// The write itself outlives ctx: whether it was sent is known to the link
		// alone.
		back, err := write(context.WithoutCancel(ctx), sink, off, raw, true)
		if err == nil && back.Same(raw) || errors.Is(err, ErrGone) {
			return audit.Confirmed
		}
		wait := later
		if errors.Is(err, link.ErrNotSent) {
			wait = soon
		}
		select {
		case <-ctx.Done():
			return audit.Unknown
		case <-time.After(wait):
		}
	}
}

// drop forgets a lease on disk. One that cannot be forgotten is let go again at
// the next start, which does no harm, and is said.
func (d *Door) drop(ctx context.Context, c *claim) {
	if c == nil || c.trial {
		return
	}
	if err := d.leases.Drop(context.WithoutCancel(ctx), c.ID); err != nil {
		d.log.Error("a lease that has ended is still kept: it is let go again at the next start", "path", c.Path, "error", err)
	}
}

// Recover lets go what was held when the server last ended. It gives each
// device until ctx ends before it returns, and goes on in the background where
// that was not enough; nobody else may hold the tag until then.
func (d *Door) Recover(ctx context.Context) error {
	rows, err := d.leases.List(ctx)
	if err != nil {
		return say.Errorf("reading what was held: %w", err)
	}
	done := make(chan struct{}, len(rows))
	for _, l := range rows {
		c := &claim{Lease: l}
		if c.release, err = releaseOf(l); err != nil {
			d.log.Error("a lease cannot be read", "path", l.Path, "error", err)
			done <- struct{}{}
			continue
		}
		sink, err := d.restore(l)
		if err != nil {
			d.log.Error("nobody can be told to let go", "path", l.Path, "error", err)
			done <- struct{}{}
			continue
		}
		d.mu.Lock()
		d.claims[l.Tag] = c
		d.wg.Add(1)
		d.mu.Unlock()
		go func() {
			defer d.wg.Done()
			d.letGo(d.ctx, c, sink, c.release, "the server had ended while it was held")
			d.unclaim(c)
			done <- struct{}{}
		}()
	}
	for range rows {
		select {
		case <-done:
		case <-ctx.Done():
			return nil
		}
	}
	return nil
}

func releaseOf(l Lease) (value.Value, error) {
	var t tag.Tag
	if err := json.Unmarshal(l.TagDoc, &t); err != nil {
		return value.Value{}, err
	}
	return value.Parse(t.EngineeringType(), l.ReleaseValue)
}

// pulseWait is how long a press waits for its pulse to end; the end itself is
// sought for as long as it takes.
const pulseWait = 2 * time.Second

// pulse is a value that stands for a time. It is a lease on disk from before it
// begins, so that a server that ends within it lets go when it starts again.
type pulse struct {
	door *Door
	step Step
	row  *claim
}

// beginPulse takes the tag for a pulse whose turn the caller has.
func (d *Door) beginPulse(ctx context.Context, c *Command, s Step) (*pulse, error) {
	row := &claim{Lease: lease(c, s), target: s.Target, release: s.Release, trial: s.Trial}
	d.mu.Lock()
	if err := d.freeLocked(row); err != nil {
		d.mu.Unlock()
		return nil, err
	}
	d.claims[s.lane()] = row
	d.mu.Unlock()
	row.giveBack = func() { d.unclaim(row) }
	if !s.Trial {
		if err := d.leases.Put(context.WithoutCancel(ctx), row.Lease); err != nil {
			row.giveBack()
			return nil, say.Errorf("keeping the pulse: %w", err)
		}
	}
	return &pulse{d, s, row}, nil
}

// drop gives up a pulse that did not begin; nil is none.
func (p *pulse) drop(ctx context.Context) {
	if p != nil {
		p.door.drop(ctx, p.row)
		p.row.giveBack()
	}
}

// run ends a pulse that was sent, after its time, and says how that went. over
// gives its turn back once it has ended.
func (p *pulse) run(sent Outcome, over func()) Outcome {
	d := p.door
	if sent.Outcome == audit.Rejected {
		p.drop(d.ctx)
		over()
		return sent
	}
	outcome := make(chan string, 1)
	d.wg.Add(1)
	go func() {
		defer d.wg.Done()
		select {
		case <-time.After(p.step.Pulse):
		case <-d.quit:
		}
		how := d.letGo(d.ctx, p.row, p.step.Sink, p.step.Release, "the pulse was over")
		// The tag is free before the press is answered: who hears that the
		// pulse has ended may press again.
		p.row.giveBack()
		over()
		outcome <- how
	}()
	select {
	case how := <-outcome:
		if how != audit.Confirmed {
			return ended(how, say.New("whether the pulse ended is not known"))
		}
		return sent
	case <-time.After(p.step.Pulse + pulseWait):
		return ended(audit.Unknown, say.New("the device has not confirmed the end of the pulse; it is sent until it does"))
	}
}
