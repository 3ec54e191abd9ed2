package host

import (
	"context"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/device"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// Try runs the draft for looking: on stand-ins, or on what is read from the
// devices. It has no way to write to a link: an entry reaches a stand-in or an
// internal tag of this run alone, and is in no trail.

type trying struct {
	mu    sync.Mutex
	info  *TryInfo
	holds map[string]*tryHeld
}

// TryInfo is how the draft is tried.
type TryInfo struct {
	// Live are the ids of the devices whose real values are read; every other one
	// is replaced by a stand-in.
	Live   []string  `json:"live"`
	Person string    `json:"person"`
	Since  time.Time `json:"since"`
}

type tryHeld struct {
	timer *time.Timer
	over  func()
}

// StartTry begins a run, anew where one is under way.
func (p *Project) StartTry(ctx context.Context, who Actor, live []string) error {
	if err := p.Require(ctx, who, access.Engineer, ""); err != nil {
		return err
	}
	draft := p.Draft()
	real := map[string]bool{}
	for _, id := range live {
		if draft.Devices[id] == nil {
			return refused("a device that was chosen no longer exists")
		}
		real[id] = draft.Devices[id].Protocol != device.StandIn
	}
	p.editing.Lock()
	defer p.editing.Unlock()
	p.stopTryLocked()
	standIn := func(device string) bool { return !real[device] }
	p.try.standIns.Store(&standIn)
	p.trying.mu.Lock()
	p.trying.info = &TryInfo{Live: live, Person: who.Name, Since: time.Now()}
	p.trying.holds = map[string]*tryHeld{}
	p.trying.mu.Unlock()
	p.run(Try, p.Draft())
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"try/1"}})
	return nil
}

// StopTry ends the run.
func (p *Project) StopTry(ctx context.Context, who Actor) error {
	if err := p.Require(ctx, who, access.Engineer, ""); err != nil {
		return err
	}
	p.editing.Lock()
	defer p.editing.Unlock()
	p.stopTryLocked()
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"try/1"}})
	return nil
}

func (p *Project) stopTryLocked() {
	p.trying.mu.Lock()
	p.trying.info = nil
	for _, h := range p.trying.holds {
		h.timer.Stop()
	}
	p.trying.holds = nil
	p.trying.mu.Unlock()
	runner := p.try.runner.Swap(nil)
	if runner == nil {
		return
	}
	p.feeds.closeProgram(Try)
	p.host.hub.Set(p.owner(Try), nil, nil)
	p.try.project.Store(nil)
	p.try.program = nil
	runner.Close()
}

// TryInfo tells how the draft is tried; nil when it is not.
func (p *Project) TryInfo() *TryInfo {
	p.trying.mu.Lock()
	defer p.trying.mu.Unlock()
	return p.trying.info
}

// tryTarget finds an element in the run and checks the entry as at the Desk,
// with the engineer's right in place of the operator's.
func (p *Project) tryTarget(ctx context.Context, who Actor, c Command) (*target, value.Value, error) {
	if err := p.Require(ctx, who, access.Engineer, ""); err != nil {
		return nil, value.Value{}, err
	}
	t, err := p.target(c)
	if err != nil {
		return nil, value.Value{}, err
	}
	if t.action == screen.ActionRecord {
		return nil, value.Value{}, refused("a trial keeps no events")
	}
	v, err := p.wanted(t, c)
	if err != nil {
		return nil, v, refused("%v", err)
	}
	if !t.tag.Writable() {
		return nil, v, refused("%s can only be read", t.path)
	}
	if err := p.entryFits(t, v); err != nil {
		return nil, v, err
	}
	return t, v, p.interlock(t)
}

// trySet puts a value into the run.
func (p *Project) trySet(t *target, v value.Value) error {
	done := false
	runner := p.try.runner.Load()
	if runner == nil {
		return refused("the draft is no longer tried: start it again")
	}
	runner.Do(func(e *engine.Engine) {
		if t.tag.Source == tag.Internal {
			done = e.SetInternal(t.tag.ID, v, time.Now())
		} else {
			done = e.SetStandIn(t.tag.ID, v, time.Now())
		}
	})
	if !done {
		return refused("%s is read from its device here, and Try does not write to devices: put the device on its stand-in", t.path)
	}
	return nil
}

func (p *Project) tryWrite(ctx context.Context, who Actor, c Command) (Outcome, error) {
	t, v, err := p.tryTarget(ctx, who, c)
	if err != nil {
		return Outcome{}, err
	}
	if err := p.trySet(t, v); err != nil {
		return Outcome{}, err
	}
	if r, asks := t.request(); asks {
		if err := p.answered(ctx, Try, r); err != nil {
			return Outcome{Outcome: audit.Unanswered, Reason: err.Error(), New: t.tag.Show(v, true)}, nil
		}
	}
	return Outcome{Outcome: audit.Confirmed, New: t.tag.Show(v, true)}, nil
}

// tryHold is a held button of the run: it ends like one at the Desk, when
// nobody renews it.
func (p *Project) tryHold(ctx context.Context, who Actor, c Command) (string, error) {
	c.Value = "true"
	t, v, err := p.tryTarget(ctx, who, c)
	if err != nil {
		return "", err
	}
	if t.action != screen.ActionHold {
		return "", refused("%s is no button to hold", t.name)
	}
	if err := p.trySet(t, v); err != nil {
		return "", err
	}
	off, err := t.tag.ParseEntry(t.element.Text("release"))
	if err != nil {
		off = value.Bool(false)
	}
	id := newID("try")
	h := &tryHeld{over: func() { _ = p.trySet(t, off) }} // a run that has ended has nothing to let go
	p.trying.mu.Lock()
	defer p.trying.mu.Unlock()
	if p.trying.holds == nil {
		return "", refused("the draft is no longer tried: start it again")
	}
	p.trying.holds[id] = h
	h.timer = time.AfterFunc(LeaseTime, func() { p.trying.letGo(id) })
	return id, nil
}

func (t *trying) renew(id string) bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	h := t.holds[id]
	return h != nil && h.timer.Reset(LeaseTime)
}

func (t *trying) letGo(id string) bool {
	t.mu.Lock()
	h := t.holds[id]
	delete(t.holds, id)
	t.mu.Unlock()
	if h == nil {
		return false
	}
	h.timer.Stop()
	h.over()
	return true
}
