package host

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// The commissioning turn: one person at a time may write from the draft, to the
// devices that are named, until an end. Taking and ending it is in the trail,
// as is each write.

// Turn is the turn as people see it.
type Turn struct {
	Person  string    `json:"person"`
	Mine    bool      `json:"mine"`
	Devices []string  `json:"devices" doc:"ids"`
	Reason  string    `json:"reason"`
	Until   time.Time `json:"until"`
}

// turn is the turn as it is kept; over is over a change of it.
type turn struct {
	over sync.Mutex
	kept atomic.Pointer[store.Turn]
}

func (t *turn) load(ctx context.Context, s *store.State) error {
	kept, err := s.Turn(ctx)
	switch {
	case errors.Is(err, ErrNotFound):
		return nil
	case err == nil:
		t.kept.Store(&kept)
	}
	return err
}

// MaxTurn is how long a turn may be at most.
const MaxTurn = 12 * time.Hour

// Turn returns the turn under way; nil when there is none.
func (p *Project) Turn(who Actor) *Turn {
	t := p.turn.kept.Load()
	if t == nil || time.Now().UnixNano() >= t.Until {
		return nil
	}
	out := &Turn{Person: t.Name, Mine: t.Person == who.ID, Reason: t.Reason, Until: time.Unix(0, t.Until), Devices: []string{}}
	_ = json.Unmarshal([]byte(t.Devices), &out.Devices) // written by us; damaged it names no device
	return out
}

// TakeTurn begins a turn, or changes one's own.
func (p *Project) TakeTurn(ctx context.Context, who Actor, devices []string, reason string, long time.Duration) error {
	if err := p.Require(ctx, who, access.Commission, ""); err != nil {
		return err
	}
	reason = strings.TrimSpace(reason)
	names := []string{}
	for _, id := range devices {
		d := p.Draft().Devices[id]
		if d == nil {
			return refused("a device that was chosen no longer exists")
		}
		names = append(names, d.Name)
	}
	switch {
	case len(names) == 0:
		return refused("a turn names the devices that may be written to")
	case reason == "" || len(reason) > 300:
		return refused("a turn needs a reason, of at most 300 characters")
	case long < time.Minute || long > MaxTurn:
		return refused("a turn is one minute to %d hours", int(MaxTurn.Hours()))
	}
	p.turn.over.Lock()
	defer p.turn.over.Unlock()
	if t := p.Turn(who); t != nil && !t.Mine {
		return refused("%s has the turn until %s", t.Person, t.Until.Format("15:04"))
	}
	doc, err := json.Marshal(devices)
	if err != nil {
		return err
	}
	t := &store.Turn{Person: who.ID, Name: who.Name, Devices: string(doc), Reason: reason, Until: time.Now().Add(long).UnixNano()}
	if err := p.Record(ctx, who, audit.Turn, "took the commissioning turn on "+strings.Join(names, ", ")+" until "+time.Unix(0,
		t.Until).Format("15:04")+": "+reason); err != nil {
		return err
	}
	if err := p.state.PutTurn(ctx, t); err != nil {
		return err
	}
	p.turn.kept.Store(t)
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"turn/1"}})
	return nil
}

// EndTurn ends one's own turn; who manages people may end another's.
func (p *Project) EndTurn(ctx context.Context, who Actor) error {
	p.turn.over.Lock()
	defer p.turn.over.Unlock()
	t := p.Turn(who)
	if t == nil {
		return refused("nobody has the turn")
	}
	if !t.Mine {
		if err := p.Require(ctx, who, access.People, ""); err != nil {
			return err
		}
	}
	return p.endTurn(ctx, who, "ended the commissioning turn of "+t.Person)
}

// endTurn is called within a change of the turn.
func (p *Project) endTurn(ctx context.Context, who Actor, why string) error {
	if err := p.Record(ctx, who, audit.Turn, why); err != nil {
		return err
	}
	if err := p.state.PutTurn(ctx, nil); err != nil {
		return err
	}
	p.turn.kept.Store(nil)
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"turn/1"}})
	return nil
}

func (p *Project) endOverdueTurn(now time.Time) {
	p.turn.over.Lock()
	defer p.turn.over.Unlock()
	t := p.turn.kept.Load()
	if t == nil || now.UnixNano() < t.Until {
		return
	}
	if err := p.endTurn(context.Background(), Actor{Name: run.ServerName}, "the commissioning turn of "+t.Name+" was over"); err != nil {
		p.host.log.Error("a commissioning turn was not ended", "error", err)
	}
}

// Request writes a value and waits until another tag has a value: the
// controller's answer. It is what a button does that asks and waits, and what a
// transfer does step by step.
type Request struct {
	Confirm string        // id of the tag that answers
	Wanted  value.Value   // engineering
	Within  time.Duration // until it counts as unanswered
}

// errUnanswered is the reason of an outcome whose answer did not come.
var errUnanswered = say.New("the controller took the value but did not answer in time")

// answered waits for the answer to a request in a program's values.
func (p *Project) answered(ctx context.Context, program run.Program, r Request) error {
	runner := p.runs.Runner(program)
	if runner == nil {
		return errUnanswered
	}
	var sub *engine.Sub
	if !runner.Do(func(e *engine.Engine) { sub = e.Subscribe([]string{r.Confirm}) }) {
		return errUnanswered
	}
	defer runner.Do(func(e *engine.Engine) { e.Unsubscribe(sub) })
	over := time.NewTimer(r.Within)
	defer over.Stop()
	now := make([]value.Value, 1)
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-over.C:
			return errUnanswered
		case <-sub.Changed():
			sub.Take(now, nil, nil)
			if v := now[0]; !v.Quality.IsBad() && v.Kind == r.Wanted.Kind && v.Bits() == r.Wanted.Bits() && v.Str() == r.Wanted.Str() {
				return nil
			}
		}
	}
}
