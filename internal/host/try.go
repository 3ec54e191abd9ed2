package host

import (
	"context"
	"sync/atomic"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
)

// Try runs the draft for looking: on stand-ins, or on what is read from the
// devices. It has no way to write to a link: an entry reaches a stand-in or an
// internal tag of this run alone, and is in no trail. It has a copy of the plant's
// recipes, which is thrown away with it.

type trying struct {
	info  atomic.Pointer[TryInfo]
	shelf atomic.Pointer[Shelf] // its copy of the recipes
}

// TryInfo is how the draft is tried.
type TryInfo struct {
	// Live are the ids of the devices whose real values are read; every other one
	// is replaced by a stand-in.
	Live   []string  `json:"live"`
	Person string    `json:"person"`
	Since  time.Time `json:"since"`
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
	return p.Alone(func() error {
		p.trying.shelf.Swap(nil).discard()
		recipes, err := p.copied(ctx)
		if err != nil {
			return err
		}
		p.trying.shelf.Store(recipes)
		p.trying.info.Store(&TryInfo{Live: live, Person: who.Name, Since: time.Now()})
		p.runs.RunTry(p.Draft(), func(device string) bool { return !real[device] })
		p.tellTry(who)
		return nil
	})
}

// StopTry ends the run.
func (p *Project) StopTry(ctx context.Context, who Actor) error {
	if err := p.Require(ctx, who, access.Engineer, ""); err != nil {
		return err
	}
	return p.Alone(func() error {
		p.trying.info.Store(nil)
		p.trying.shelf.Swap(nil).discard()
		p.runs.EndTry()
		p.tellTry(who)
		return nil
	})
}

func (p *Project) tellTry(who Actor) {
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"try/1"}})
}

// TryInfo tells how the draft is tried; nil when it is not.
func (p *Project) TryInfo() *TryInfo { return p.trying.info.Load() }
