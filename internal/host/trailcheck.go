package host

import (
	"context"
	"sync"
	"time"

	"readyrail/internal/core/audit"
)

// TrailState says whether a trail is whole, and what that rests on.
type TrailState struct {
	Records int64
	// Parts are those that were closed before; their records are in files.
	Parts []audit.Part
	// Head is the farthest of those that it was compared with; Elsewhere tells
	// whether it lies outside of the data folder. Without such a one, who has the
	// server can have made all of it anew.
	Head      audit.KeptHead
	Elsewhere bool
	// Unwritten is why the folder for heads did not take the newest.
	Unwritten error
}

// VerifyTrail checks the seals of the whole trail and compares it with the heads that
// are kept of it; told, where it is there, is told how many hold so far.
func (p *Project) VerifyTrail(ctx context.Context, told func(records int64)) (state TrailState, err error) {
	s := p.host.signing
	v := audit.Verifier{Told: told}
	state.Head, state.Elsewhere, err = hold(&v, p.id, p.folder(), s.public(), s.folder)
	if err != nil {
		return state, err
	}
	s.mu.Lock()
	state.Unwritten = s.last[p.id].problem
	s.mu.Unlock()
	if state.Parts, err = p.records.Trail.Parts(ctx); err != nil {
		return state, err
	}
	state.Records, err = p.records.Trail.Verify(ctx, &v)
	return state, err
}

// TrailCheck is how the check of a trail's seals stands: the one that is under way, and
// how the last one ended.
type TrailCheck struct {
	Busy    bool
	Checked int64     // records that hold so far
	Of      int64     // records that there were when it began
	At      time.Time // when the last one ended; zero where there was none
	State   TrailState
	Err     error
}

// trailCheck is the check of one project.
type trailCheck struct {
	mu  sync.Mutex
	now TrailCheck
}

// CheckTrail begins to check the trail's seals, unless that is under way already. It goes
// on whoever waits for it.
func (p *Project) CheckTrail() {
	c := &p.trailCheck
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.now.Busy {
		return
	}
	end, _ := p.records.Trail.End()
	c.now.Busy, c.now.Checked, c.now.Of = true, 0, end-p.records.Trail.Before()
	p.host.minding.Go(func() {
		state, err := p.VerifyTrail(p.host.alive, func(n int64) {
			c.mu.Lock()
			defer c.mu.Unlock()
			c.now.Checked = n
		})
		c.mu.Lock()
		defer c.mu.Unlock()
		if p.host.alive.Err() == nil {
			c.now = TrailCheck{At: time.Now(), State: state, Err: err}
		}
	})
}

// TrailChecked is how the check of the trail's seals stands.
func (p *Project) TrailChecked() TrailCheck {
	p.trailCheck.mu.Lock()
	defer p.trailCheck.mu.Unlock()
	return p.trailCheck.now
}
