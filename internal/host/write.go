package host

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/run"
)

// Outcome is how a command ended.
type Outcome = door.Outcome

// through is an actor as the door knows one.
func through(a Actor) door.Who {
	return door.Who{ID: a.ID, Name: a.Name, Panel: a.Panel, Session: a.Session}
}

// Write carries out what a person did to an element: everything that it writes,
// step by step. Where something is asked that the command doesn't answer, nothing
// is sent, and the error is an *Asks that says what.
func (p *Project) Write(ctx context.Context, who Actor, c Command) (Outcome, error) {
	order := door.Command{Who: through(who), Key: c.Key, At: c.At, Seen: c.Seen, Typed: c.Value}
	first, err := p.target(c)
	if err != nil {
		return Outcome{}, p.runs.Door().Refuse(ctx, order, c.Screen, c.Element, err)
	}
	refuse := func(err error) (Outcome, error) {
		return Outcome{}, p.runs.Door().Refuse(ctx, order, first.screenName(c.Args), first.name, err)
	}
	if order.Steps, err = p.steps(who, c, first); err == nil && first.action == screen.ActionHold {
		err = refused("%s is held, not pressed once", first.name)
	}
	if err == nil {
		order.Reason, err = tidyReason(c.Reason)
	}
	if err != nil {
		return refuse(err)
	}
	asked := first.release.AskedByElement(first.element, first.area, p.rolesOf(ctx, who, access.Operate))
	if asked.Any() && !c.answered() {
		// What cannot be done now is refused at once, and not after it was signed.
		guard := order.Steps[0].Guard
		if err := cmp.Or(guard.Right(ctx), guard.Interlock()); err != nil {
			return refuse(err)
		}
		return Outcome{}, p.asksOf(first.release, who, asked, c.Language)
	}
	sign := &undersigned{p, first.release, who, asked, c.Given, access.Operate, first.areas(), first.name}
	order.Ask = sign.check
	return p.runs.Door().Do(ctx, order)
}

// Press registers that a button is held; its lease counts from now. Begin says
// which button it is.
func (p *Project) Press(who Actor, key string) (*door.Hold, error) {
	return p.runs.Door().Press(through(who), key)
}

// Begin writes what a held button holds, and returns once that is done. A press
// that is refused is over.
func (p *Project) Begin(ctx context.Context, h *door.Hold, who Actor, c Command) error {
	order := door.Command{Who: through(who), Key: c.Key, At: c.At, Seen: c.Seen}
	first, err := p.target(c)
	if err != nil {
		h.Abandon(err)
		return p.runs.Door().Refuse(ctx, order, c.Screen, c.Element, err)
	}
	if first.action != screen.ActionHold {
		err = refused("%s is no button to hold", first.name)
	} else {
		order.Steps, err = p.steps(who, c, first)
	}
	if err != nil {
		h.Abandon(err)
		return p.runs.Door().Refuse(ctx, order, first.screenName(c.Args), first.name, err)
	}
	order.Steps = order.Steps[:1]
	return h.Begin(ctx, order)
}

// Renew keeps a held button; only its own person at its own panel can. It
// returns why the press is over when it is.
func (p *Project) Renew(who Actor, key string) error { return p.runs.Door().Renew(through(who), key) }

// LetGo ends a press.
func (p *Project) LetGo(who Actor, key string, why error) {
	p.runs.Door().LetGo(through(who), key, why)
}

// EndHolds ends what is held by whoever matches, in every project.
func (h *Host) EndHolds(match func(door.Who) bool, why error) {
	for _, p := range h.Projects() {
		p.runs.Door().EndWhere(match, why)
	}
}

// steps turns what an element does into what the door carries out.
func (p *Project) steps(who Actor, c Command, first *target) ([]door.Step, error) {
	var out []door.Step
	for _, t := range first.steps() {
		s, err := p.doorStep(who, c, t)
		if err != nil {
			return nil, err
		}
		out = append(out, s)
	}
	if len(out) == 0 {
		return nil, refused("this element does not write")
	}
	return out, nil
}

func (p *Project) doorStep(who Actor, c Command, t *target) (door.Step, error) {
	guard := &deskGuard{p: p, who: who, c: c, t: t}
	s := door.Step{Target: &door.Target{Screen: t.screenName(c.Args), Element: t.name, Guard: guard, Trial: t.program == run.Try}}
	if t.when != "" {
		s.When = func() (bool, error) {
			v := p.evaluate(t, t.when)
			if v.Quality.IsBad() {
				return false, refused("a condition of this button cannot be told now: %s", v.Quality.Reason())
			}
			return v.Bool(), nil
		}
	}
	if t.action == screen.ActionRecord {
		s.Event = func(context.Context) (string, error) { return p.reads(t, t.element.Text("event")), nil }
		return s, nil
	}
	if t.action == screen.ActionLog {
		s.Event = func(ctx context.Context) (string, error) { return p.logStep(ctx, who, c, t) }
		return s, nil
	}
	if t.tag == nil {
		return s, refused("this element has no tag")
	}
	sink, kept, err := p.runs.SinkOf(t.program, t.release, t.tag)
	if err != nil {
		return s, err
	}
	s.Tag, s.Path, s.Sink, s.Device = t.tag, t.path, sink, kept
	s.Read = func(id string) value.Value { return p.ReadTags(t.program, []string{id})[0].Value }
	s.Stop, s.Excludes, s.Group = t.element.Flag("stop"), t.excludes(), t.element.Text("exclusive")
	s.Value = func(now value.Value) (value.Value, error) { return t.wanted(c, now) }
	if t.action == screen.ActionHold || t.action == screen.ActionPulse {
		if s.Release, err = t.tag.ParseEntry(t.element.Text("release")); err != nil {
			return s, refused("the value when %s is let go: %v", t.name, err)
		}
	}
	if t.action == screen.ActionPulse {
		ms, _ := t.element.Number("pulse")
		s.Pulse = time.Duration(min(max(ms, 20), 10_000)) * time.Millisecond
	}
	if r, asks := t.request(); asks {
		s.Answer = func(ctx context.Context) error { return p.answered(ctx, t.program, r) }
	}
	return s, nil
}

// wanted is the engineering value that a command means, given the present one.
func (t *target) wanted(c Command, now value.Value) (value.Value, error) {
	text := c.Value
	switch t.action {
	case screen.ActionSet, screen.ActionRequest, screen.ActionPulse:
		text = t.element.Text("value")
	case screen.ActionHold:
		text = "true"
	case screen.ActionToggle:
		// The button's own step means what its person saw; a further one turns what
		// is there.
		if t.number > 0 {
			if now.Quality.IsBad() || now.Kind != value.BOOL {
				return value.Value{}, refused("%s has no value to turn", t.path)
			}
			return value.Bool(!now.Bool()), nil
		}
	case screen.ActionStep:
		by, _ := t.element.Number("by")
		if now.Quality.IsBad() || !now.Kind.IsNumber() {
			return value.Value{}, refused("%s has no value to step from", t.path)
		}
		v, err := value.FromFloat(t.tag.Kind(), now.Float()+by)
		if err != nil {
			return v, refused("%v", err)
		}
		return v, nil
	}
	v, err := t.tag.ParseEntry(text)
	if err != nil {
		return v, refused("%v", err)
	}
	return v, nil
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

// WriteDraft writes a tag of the draft within one's turn. The value is checked
// and recorded as at the Desk.
func (p *Project) WriteDraft(ctx context.Context, who Actor, id, text, key string) (Outcome, error) {
	draft := p.Draft()
	t, ok := draft.Tag(id)
	if !ok {
		return Outcome{}, ErrNotFound
	}
	path, _ := draft.Path(id)
	order := door.Command{Who: through(who), Key: key, At: time.Now(), Typed: text}
	sink, kept, err := p.runs.SinkOf(run.Draft, draft, t)
	if err != nil {
		return Outcome{}, p.runs.Door().Refuse(ctx, order, "", testValue, err)
	}
	order.Steps = []door.Step{{
		Target: &door.Target{Tag: t, Path: path, Element: testValue, Sink: sink, Device: kept, Guard: turnGuard{p, who, t, path},
			Read: func(id string) value.Value { return p.ReadTags(run.Draft, []string{id})[0].Value }},
		Value: func(value.Value) (value.Value, error) {
			v, err := t.ParseEntry(text)
			if err != nil {
				return v, refused("%v", err)
			}
			return v, nil
		},
	}}
	return p.runs.Door().Do(ctx, order)
}

// testValue is what the trail names a write from the draft by.
const testValue = "loop check"

// shownValue is a value as the trail keeps it.
func shownValue(t *tag.Tag, v value.Value) string {
	if v.Quality.IsBad() {
		return fmt.Sprintf("— (%s)", v.Quality.Reason())
	}
	return t.Show(v, true)
}
