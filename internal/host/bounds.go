package host

import (
	"fmt"
	"runtime/debug"

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

// begin runs f in a goroutine with that boundary.
func (p *Project) begin(what string, f func()) {
	go p.bounded(what, f)
}
