package host

import (
	"context"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
)

// Try runs the draft for looking: on stand-ins, or on what is read from the
// devices. It has no way to write to a link: an entry reaches a stand-in or an
// internal tag of this run alone, and is in no trail.

type trying struct {
	mu   sync.Mutex
	info *TryInfo
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
	p.editing.Lock()
	defer p.editing.Unlock()
	p.stopTryLocked()
	standIn := func(device string) bool { return !real[device] }
	p.try.standIns.Store(&standIn)
	p.trying.mu.Lock()
	p.trying.info = &TryInfo{Live: live, Person: who.Name, Since: time.Now()}
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
