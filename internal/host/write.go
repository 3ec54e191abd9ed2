package host

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/device"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/link"
)

// MaxAge is how old a command may be when it is carried out. An older one is
// refused, never queued: what its person saw is no longer what is there.
const MaxAge = time.Second

// Outcome is how a command ended.
type Outcome struct {
	Outcome string `json:"outcome"` // see package audit
	Reason  string `json:"reason"`
	Old     string `json:"old"`
	New     string `json:"new"`
}

// check asks everything that stands before a write: right, range and step,
// interlock, and the state of the tag. It is asked again right before the
// intent is kept.
func (p *Project) check(ctx context.Context, who Actor, t *target, v value.Value) error {
	if !t.tag.Writable() {
		return refused("%s can only be read", t.path)
	}
	if err := p.Require(ctx, who, access.View, t.screen.Area); err != nil {
		return err
	}
	if err := p.Require(ctx, who, access.Operate, t.area); err != nil {
		return err
	}
	if err := p.entryFits(t, v); err != nil {
		return err
	}
	return p.interlock(t)
}

// interlock refuses while the element's enabled binding, or the condition of
// the step, is not true. A bad value holds it.
func (p *Project) interlock(t *target) error {
	if on, ok := t.element.Props["enabled"].(bool); ok && !on {
		return refused("%s is switched off on this screen", t.name)
	}
	for _, stored := range []string{t.element.Bind["enabled"], t.when} {
		if stored == "" {
			continue
		}
		result := p.evaluate(t, stored)
		text := formula.Show(stored, t.release.Path)
		switch {
		case result.Quality.IsBad():
			return refused("the interlock %s holds: %s", text, result.Quality.Reason())
		case !result.Bool():
			return refused("the interlock holds: %s is not true", text)
		}
	}
	return nil
}

// evaluate computes a stored formula with the values of the target's program.
func (p *Project) evaluate(t *target, stored string) value.Value {
	result := value.Bad(value.BOOL, value.BadConfig)
	p.running(t.program).runner.Load().Do(func(e *engine.Engine) {
		if prog, err := formula.Compile(stored, engineScope(e, t.release)); err == nil {
			result = e.Eval(prog)
		}
	})
	return result
}

// engineScope is the scope of formulas that run on an engine's own slots.
func engineScope(e *engine.Engine, version *project.Project) formula.Scope {
	return formula.Scope{Path: version.Path, Tag: func(id string) (int32, value.Kind, bool) {
		slot, ok := e.Program().Slot(id)
		if !ok {
			return 0, 0, false
		}
		return slot, e.Program().Tag(slot).Kind(), true
	}}
}

// Write carries out a command: it is the one door through which every value
// leaves. The intent is on disk before the device hears of it.
func (p *Project) Write(ctx context.Context, who Actor, c Command) (Outcome, error) {
	if c.Program == Try {
		return p.tryWrite(ctx, who, c)
	}
	t, err := p.target(c)
	if err != nil {
		return Outcome{}, p.refuse(ctx, who, c, nil, err)
	}
	if t.action == screen.ActionRecord {
		return p.recordEvent(ctx, who, c, t)
	}
	if t.action == screen.ActionHold {
		return Outcome{}, p.refuse(ctx, who, c, t, refused("%s is held, not pressed once", t.name))
	}
	if err := p.asked(ctx, who, &c, t); err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, err)
	}
	v, err := p.wanted(t, c)
	if err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, refused("%v", err))
	}
	if err := p.check(ctx, who, t, v); err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, err)
	}
	turn, err := p.queue.wait(ctx, t.tag.ID)
	if err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, err)
	}
	defer turn()
	return p.send(ctx, who, c, t, v)
}

// send does what is left once it is a command's turn: everything is checked
// again, the intent kept, the value sent and read back, the outcome kept.
func (p *Project) send(ctx context.Context, who Actor, c Command, t *target, v value.Value) (Outcome, error) {
	if err := p.check(ctx, who, t, v); err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, err)
	}
	if t.release != p.running(t.program).project.Load() {
		return Outcome{}, p.refuse(ctx, who, c, t, refused("a new release came meanwhile: look again"))
	}
	if age := time.Since(c.At); age > MaxAge || age < -MaxAge {
		return Outcome{}, p.refuse(ctx, who, c, t, refused("the command is %.1f s old and was not carried out: the value may have changed meanwhile", age.Seconds()))
	}
	raw, err := t.tag.ToRaw(v)
	if err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, refused("%v", err))
	}
	intent, err := p.intend(ctx, who, c, t, v)
	if err != nil {
		return Outcome{}, err
	}
	end := func(out Outcome) Outcome { return out }
	if t.action == screen.ActionPulse {
		if end, err = p.pulse(ctx, who, c, t); err != nil {
			return Outcome{}, errors.Join(err, p.conclude(ctx, intent, Outcome{Outcome: audit.Rejected, Reason: err.Error()}))
		}
	}
	out := p.carryOut(ctx, t, v, raw, false)
	if r, asks := t.request(); asks && out.Outcome == audit.Confirmed {
		// Sent, it is seen through to its answer even when the browser goes away.
		if err := p.answered(context.WithoutCancel(ctx), t.program, r); err != nil {
			out = Outcome{Outcome: audit.Unanswered, Reason: err.Error()}
		}
	}
	out = end(out)
	out.Old, out.New = intent.Old, intent.New
	return out, p.conclude(ctx, intent, out)
}

// request is what a button that asks and waits does beyond writing.
func (t *target) request() (Request, bool) {
	if t.action != screen.ActionRequest {
		return Request{}, false
	}
	answer, ok := t.release.Tag(t.element.Text("answer"))
	if !ok {
		return Request{}, false
	}
	wanted, err := answer.ParseEntry(t.element.Text("answerValue"))
	seconds, _ := t.element.Props["within"].(float64)
	if seconds <= 0 {
		seconds = 5
	}
	return Request{answer.ID, wanted, time.Duration(min(seconds, 600) * float64(time.Second))}, err == nil
}

// intend keeps the intent. The same key is taken once.
func (p *Project) intend(ctx context.Context, who Actor, c Command, t *target, v value.Value) (audit.Record, error) {
	if c.Key == "" || len(c.Key) > 64 {
		return audit.Record{}, refused("a command needs a key of its own")
	}
	if taken, err := p.audit.HasKey(ctx, c.Key); err != nil || taken {
		return audit.Record{}, errors.Join(err, refused("this command was taken already"))
	}
	now := p.ReadTags(t.program, []string{t.tag.ID})[0]
	r := p.record(who, c, t)
	r.What, r.Old, r.New, r.Key = audit.Intent, shownValue(t.tag, now.Value), t.tag.Show(v, true), c.Key
	// The intent must be kept even when the person's browser goes away now.
	return p.audit.Append(context.WithoutCancel(ctx), r)
}

func (p *Project) record(who Actor, c Command, t *target) audit.Record {
	r := audit.Record{At: time.Now().UnixNano(), Person: who.ID, Name: who.Name, Panel: who.Panel, Screen: c.Screen, Element: c.Element, Old: c.Seen, New: c.Value, Reason: c.Reason}
	if t != nil {
		r.Element, r.Path = t.name, t.path
		if t.tag != nil {
			r.Tag = t.tag.ID
		}
		if t.screen != nil {
			r.Screen = t.screenName(c.Args)
		}
	}
	return r
}

// refuse keeps a refusal in the trail and hands it on.
func (p *Project) refuse(ctx context.Context, who Actor, c Command, t *target, why error) error {
	r := p.record(who, c, t)
	r.What, r.Outcome, r.Reason = audit.Refused, audit.Rejected, why.Error()
	if errors.Is(why, errSuperseded) {
		r.Outcome = audit.Superseded
	}
	if c.Reason != "" {
		r.Reason = why.Error() + " (given reason: " + c.Reason + ")"
	}
	if len(r.New) > 300 {
		r.New = r.New[:300]
	}
	if _, err := p.audit.Append(context.WithoutCancel(ctx), r); err != nil {
		return errors.Join(why, err)
	}
	return why
}

// carryOut sends a raw value and says how it went. It never repeats a value
// whose fate is unknown.
func (p *Project) carryOut(ctx context.Context, t *target, v, raw value.Value, urgent bool) Outcome {
	if t.tag.Source == tag.Internal {
		done := false
		p.running(t.program).runner.Load().Do(func(e *engine.Engine) { done = e.SetInternal(t.tag.ID, v, time.Now()) })
		if !done {
			return Outcome{Outcome: audit.Rejected, Reason: "the tag has changed with a new release"}
		}
		return Outcome{Outcome: audit.Confirmed}
	}
	d := t.release.Devices[t.tag.Device]
	if d == nil {
		return Outcome{Outcome: audit.Rejected, Reason: "the tag's device no longer exists"}
	}
	if d.Protocol == device.StandIn {
		p.eachEngine(func(e *engine.Engine) { e.SetStandIn(t.tag.ID, v, time.Now()) })
		return Outcome{Outcome: audit.Confirmed}
	}
	pt, ok := point(d, t.tag)
	if !ok {
		return Outcome{Outcome: audit.Rejected, Reason: "the tag has no good address"}
	}
	back, err := p.host.hub.Write(ctx, *d, pt, raw, urgent)
	switch {
	case errors.Is(err, link.ErrRefused), errors.Is(err, link.ErrNotSent):
		return Outcome{Outcome: audit.Rejected, Reason: err.Error()}
	case err != nil:
		return Outcome{Outcome: audit.Unknown, Reason: "sent, but no answer came: " + err.Error()}
	case back.Quality.IsBad():
		return Outcome{Outcome: audit.Unknown, Reason: "sent and taken, but it could not be read back"}
	case !back.Same(raw):
		return Outcome{Outcome: audit.Differs, Reason: "read back as " + t.tag.Show(t.tag.ToEngineering(back), true)}
	}
	// What was read back shows at once and not only at the next poll.
	if !pt.Apart() {
		p.running(t.program).runner.Load().Do(func(e *engine.Engine) {
			if slot, ok := e.Program().Slot(t.tag.ID); ok {
				e.Update([]engine.Update{{Slot: slot, Value: back.At(time.Now())}}, time.Now())
			}
		})
	}
	return Outcome{Outcome: audit.Confirmed}
}

func (p *Project) conclude(ctx context.Context, intent audit.Record, out Outcome) error {
	_, err := p.audit.Append(context.WithoutCancel(ctx), audit.Record{At: time.Now().UnixNano(), What: audit.Outcome, Intent: intent.Seq, Outcome: out.Outcome, Reason: out.Reason})
	if err != nil {
		return fmt.Errorf("keeping the outcome of record %s: %w", strconv.FormatInt(intent.Seq, 10), err)
	}
	return nil
}

// writeQueue lets one write to a tag go at a time. One more may wait; when a
// third comes, the one that waits is superseded.
type writeQueue struct {
	mu   sync.Mutex
	tags map[string]*tagQueue
}

type tagQueue struct {
	busy    bool
	waiting chan bool // receives true when it is its turn, false when superseded
}

var errSuperseded = &Refused{"a later entry to the same tag went first"}

// wait returns when it is the caller's turn; the function it returns ends it.
func (q *writeQueue) wait(ctx context.Context, tag string) (done func(), err error) {
	q.mu.Lock()
	if q.tags == nil {
		q.tags = map[string]*tagQueue{}
	}
	t := q.tags[tag]
	if t == nil {
		t = &tagQueue{}
		q.tags[tag] = t
	}
	if !t.busy {
		t.busy = true
		q.mu.Unlock()
		return func() { q.next(t) }, nil
	}
	if t.waiting != nil {
		t.waiting <- false
	}
	mine := make(chan bool, 1)
	t.waiting = mine
	q.mu.Unlock()
	select {
	case turn := <-mine:
		if !turn {
			return nil, errSuperseded
		}
		return func() { q.next(t) }, nil
	case <-ctx.Done():
		q.mu.Lock()
		if t.waiting == mine {
			t.waiting = nil
			q.mu.Unlock()
			return nil, ctx.Err()
		}
		q.mu.Unlock()
		if <-mine {
			q.next(t)
		}
		return nil, ctx.Err()
	}
}

func (q *writeQueue) next(t *tagQueue) {
	q.mu.Lock()
	defer q.mu.Unlock()
	if t.waiting != nil {
		t.waiting <- true
		t.waiting = nil
		return
	}
	t.busy = false
}
