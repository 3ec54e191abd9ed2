package door

import (
	"context"
	"errors"
	"fmt"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// Command is one press or entry, with everything that it writes.
type Command struct {
	Who    Who
	Key    string    // made by the client; the same key is taken once
	At     time.Time // when the person acted, in the server's time
	Seen   string    // what the element showed then
	Typed  string    // what was entered, for the record of a refusal
	Reason string    // why, in the person's words
	// Ask is what is asked before it is sent, as a signature; it stands for every
	// step and returns who signed and which values were captured, as the records say
	// it. nil asks nothing.
	Ask     func(ctx context.Context) (audit.Witness, error)
	witness audit.Witness // what Ask returned
	Steps   []Step
}

// Step is one thing that a command does. Steps go in their order; one that does
// not end well ends them.
type Step struct {
	*Target
	// When passes the step over where it is false; nil is always true.
	When func() (bool, error)
	// Value is the engineering value to send, given the present one, asked for
	// when it is the step's turn.
	Value func(now value.Value) (value.Value, error)
	// Event does what a step keeps that writes nothing, and gives the text for the
	// record; in a trial it gives the text alone.
	Event func(ctx context.Context) (string, error)
	// Pulse is how long the value stands until Release is written; 0 for ever.
	Pulse   time.Duration
	Release value.Value
	// Answer waits for what the controller answers to the value; nil for nothing.
	Answer func(ctx context.Context) error
}

// Do carries out a command and says how it went. The error is a refusal, which
// is in the trail, or that something could not be kept.
func (d *Door) Do(ctx context.Context, c Command) (Outcome, error) {
	if err := d.enter(); err != nil {
		return Outcome{}, err
	}
	defer d.wg.Done()
	first := c.Steps[0]
	if err := d.begin(ctx, &c, first); err != nil {
		return Outcome{}, d.refuse(ctx, &c, first.Target, err)
	}
	defer d.finish(c.Key)
	var out Outcome
	for i, s := range c.Steps {
		if s.When != nil {
			if on, err := s.When(); err != nil {
				return out, d.refuse(ctx, &c, s.Target, err)
			} else if !on {
				out.Steps = i + 1
				continue
			}
		}
		done, err := d.step(ctx, &c, s, i)
		done.Steps = out.Steps
		if out = done; err != nil {
			return out, err
		}
		if out.Outcome != audit.Confirmed {
			return out, nil
		}
		out.Steps = i + 1
		// The next step is as young as the end of this one.
		c.At = time.Now()
	}
	if out.Outcome == "" {
		out.Outcome = audit.Confirmed // every step was passed over
	}
	return out, nil
}

// begin takes a command's key and asks what is asked before it waits.
func (d *Door) begin(ctx context.Context, c *Command, first Step) error {
	if c.Key == "" || len(c.Key) > 64 {
		return Refusing("a command needs a key of its own, of at most 64 characters")
	}
	if err := fresh(c.At); err != nil {
		return err
	}
	d.mu.Lock()
	if d.keys[c.Key] || d.presses[c.Key] != nil {
		d.mu.Unlock()
		return errTaken
	}
	d.keys[c.Key] = true
	d.mu.Unlock()
	if err := d.asked(ctx, c, first); err != nil {
		d.finish(c.Key)
		return err
	}
	return nil
}

func (d *Door) asked(ctx context.Context, c *Command, first Step) error {
	err := first.Guard.Right(ctx)
	if err != nil || c.Ask == nil {
		return err
	}
	c.witness, err = c.Ask(ctx)
	return err
}

func (d *Door) finish(key string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.keys, key)
}

// fresh refuses a command that is too old, or from a clock that runs ahead.
func fresh(at time.Time) error {
	switch age := time.Since(at); {
	case age > time.Minute || age < -MaxAge:
		return Refusing("this panel's clock and the server's differ: nothing was sent; load the page again")
	case age > MaxAge:
		return Refusing("the command is %.1f s old and was not carried out: the value may have changed meanwhile", age.Seconds())
	}
	return nil
}

// may asks everything that stands before a value.
func (t *Target) may(ctx context.Context) error {
	if err := t.Guard.Current(); err != nil {
		return err
	}
	if err := t.Guard.Right(ctx); err != nil {
		return err
	}
	return t.Guard.Interlock()
}

// fits refuses a value outside the tag's limits, those that other tags give
// included, or between its steps, and returns it raw.
func (t *Target) fits(v value.Value) (raw value.Value, err error) {
	if !t.Tag.Writable() {
		return raw, Refusing("%s can only be read", t.Path)
	}
	now, err := t.Tag.WithLimits(t.Read)
	if err != nil {
		return raw, Refusing("%s: %v", t.Path, err)
	}
	if err := now.CheckEntry(v); err != nil {
		return raw, Refusing("%v", err)
	}
	if raw, err = t.Tag.ToRaw(v); err != nil {
		return raw, Refusing("%v", err)
	}
	return raw, nil
}

// step takes one step down the road.
func (d *Door) step(ctx context.Context, c *Command, s Step, n int) (Outcome, error) {
	if s.Event != nil {
		return d.event(ctx, c, s, n)
	}
	no := func(why error) (Outcome, error) { return Outcome{}, d.refuse(ctx, c, s.Target, why) }
	if err := s.may(ctx); err != nil {
		return no(err)
	}
	if v, err := s.Value(s.Read(s.Tag.ID)); err != nil {
		return no(err)
	} else if _, err := s.fits(v); err != nil {
		return no(err)
	} else if err := d.unheld(s.Target, v); err != nil {
		return no(err)
	}
	over, err := d.turns.wait(ctx, s.lane())
	if err != nil {
		return no(err)
	}
	release := over
	defer func() { release() }()
	// Its turn: what it is worth now.
	before := s.Read(s.Tag.ID)
	v, err := s.Value(before)
	if err != nil {
		return no(err)
	}
	raw, err := s.fits(v)
	if err == nil {
		err = s.may(ctx)
	}
	if err == nil {
		err = fresh(c.At)
	}
	if err != nil {
		return no(err)
	}
	var p *pulse
	if s.Pulse > 0 {
		if p, err = d.beginPulse(ctx, c, s); err != nil {
			return no(err)
		}
	}
	in, err := d.intend(ctx, c, s.Target, v, before, n)
	if err != nil {
		p.drop(ctx)
		return Outcome{}, err
	}
	// The disk may have been slow: everything is asked again, right before.
	if err := d.last(ctx, c, s); err != nil {
		p.drop(ctx)
		d.conclude(ctx, in, ended(audit.Rejected, err))
		return Outcome{}, err
	}
	out := s.send(ctx, v, raw, false)
	switch {
	case p != nil:
		release = func() {} // the pulse has the turn until it ends
		out = p.run(out, over)
	case s.Answer != nil && out.Outcome == audit.Confirmed:
		d.turns.await(s.lane())
		// Sent, it is seen through to its answer even when the browser goes away.
		if err := s.Answer(context.WithoutCancel(ctx)); err != nil {
			out = ended(audit.Unanswered, err)
		}
	}
	out.Old, out.New = in.Old, in.New
	return out, d.conclude(ctx, in, out)
}

// last is what is asked between the intent and the value.
func (d *Door) last(ctx context.Context, c *Command, s Step) error {
	if err := fresh(c.At); err != nil {
		return err
	}
	if err := s.may(ctx); err != nil {
		return err
	}
	if d.ctx.Err() != nil {
		return errEnding
	}
	return nil
}

// send hands a value to its sink and says how that went. It never repeats a
// value whose fate is unknown.
func (t *Target) send(ctx context.Context, v, raw value.Value, urgent bool) Outcome {
	back, err := write(ctx, t.Sink, v, raw, urgent)
	switch {
	case errors.Is(err, link.ErrRefused), errors.Is(err, link.ErrNotSent), errors.Is(err, ErrGone):
		return ended(audit.Rejected, err)
	case err != nil:
		return ended(audit.Unknown, say.Errorf("sent, but no answer came: %w", err))
	case back.Quality.IsBad():
		return ended(audit.Unknown, say.New("sent and taken, but it could not be read back"))
	case !back.Same(raw):
		return ended(audit.Differs, say.Errorf("read back as %s", t.Tag.Show(t.Tag.ToEngineering(back), true)))
	}
	return Outcome{Outcome: audit.Confirmed}
}

// write hands a value over; a sink that panics is one that did not answer.
func write(ctx context.Context, sink Sink, eng, raw value.Value, urgent bool) (back value.Value, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = say.Errorf("the way to it failed: %v", p)
		}
	}()
	return sink.Write(ctx, eng, raw, urgent)
}

// event records what a button records.
func (d *Door) event(ctx context.Context, c *Command, s Step, n int) (Outcome, error) {
	if err := s.may(ctx); err != nil {
		return Outcome{}, d.refuse(ctx, c, s.Target, err)
	}
	r := c.record(s.Target)
	r.What, r.Key, r.Outcome = audit.Event, stepKey(c.Key, n), audit.Confirmed
	var err error
	if r.New, err = s.Event(ctx); err != nil {
		return Outcome{}, d.refuse(ctx, c, s.Target, err)
	}
	if s.Trial {
		return Outcome{Outcome: audit.Confirmed, New: r.New}, nil
	}
	if err := d.ledger.keep(ctx, r); err != nil {
		return Outcome{}, err
	}
	return Outcome{Outcome: audit.Confirmed, New: r.New}, nil
}

// Beat writes a raw value for the server itself, as a heartbeat: without a
// record, a turn or a look at the disk.
func (d *Door) Beat(ctx context.Context, sink Sink, eng, raw value.Value) error {
	if err := d.enter(); err != nil {
		return err
	}
	defer d.wg.Done()
	_, err := write(ctx, sink, eng, raw, false)
	return err
}

// shown is a value as the trail keeps it.
func shown(t *tag.Tag, v value.Value) string {
	if v.Quality.IsBad() {
		return fmt.Sprintf("— (%s)", v.Quality.Reason())
	}
	return t.Show(v, true)
}

// refuse keeps a refusal in the trail and hands it on.
func (d *Door) refuse(ctx context.Context, c *Command, t *Target, why error) error {
	if t != nil && t.Trial {
		return why
	}
	r := c.record(t)
	r.What, r.Outcome, r.Reason, r.New = audit.Refused, audit.Rejected, why.Error(), c.Typed
	if errors.Is(why, errSuperseded) {
		r.Outcome = audit.Superseded
	}
	if c.Reason != "" {
		r.Reason += " (given reason: " + c.Reason + ")"
	}
	if len(r.New) > 300 {
		r.New = r.New[:300]
	}
	d.ledger.owe(ctx, r)
	return why
}

// Refuse keeps the refusal of a command that found no target.
func (d *Door) Refuse(ctx context.Context, c Command, screen, element string, why error) error {
	return d.refuse(ctx, &c, &Target{Screen: screen, Element: element}, why)
}
