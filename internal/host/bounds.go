package host

import (
	"fmt"
	"runtime/debug"
	"time"

	"readyrail/internal/store"
)

// bounded runs f; a panic in it is an error of this project, in log and
// journal, and never the end of the program.
func (p *Project) bounded(what string, f func()) {
	defer func() {
		if r := recover(); r != nil {
			p.host.log.Error("a part of a project failed", "project", p.id, "part", what, "problem", r, "stack", string(debug.Stack()))
			p.event(store.TroubleEntry, "failed", what, fmt.Sprint(r), Actor{})
		}
	}()
	f()
}

// engineFailed is told of a panic in an engine. It comes with every round that
// fails, and is said once a minute.
func (p *Project) engineFailed(problem any) {
	last, now := p.failedAt.Load(), time.Now().UnixNano()
	if now-last < int64(time.Minute) || !p.failedAt.CompareAndSwap(last, now) {
		return
	}
	p.host.log.Error("an engine failed", "project", p.id, "problem", problem, "stack", string(debug.Stack()))
	p.event(store.TroubleEntry, "failed", "engine", fmt.Sprint(problem), Actor{})
}

// begin runs f in a goroutine with that boundary.
func (p *Project) begin(what string, f func()) {
	go p.bounded(what, f)
}
