package host

import (
	"fmt"
	"runtime/debug"
	"sync"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// bounded runs f; a panic in it is an error of this project, in log, journal
// and findings, and never the end of the program.
func (p *Project) bounded(what string, f func()) {
	defer func() {
		if r := recover(); r != nil {
			p.failed(what, r)
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
	p.failed("engine", problem)
}

func (p *Project) failed(what string, problem any) {
	p.host.log.Error("a part of a project failed", "project", p.id, "part", what, "problem", problem, "stack", string(debug.Stack()))
	if p.records != nil {
		p.event(store.TroubleEntry, "failed", what, fmt.Sprint(problem), Actor{})
	}
	p.failures.note(what, fmt.Sprint(problem))
}

// begin runs f in a goroutine with that boundary.
func (p *Project) begin(what string, f func()) {
	go p.bounded(what, f)
}

// failures are the parts of a project that failed since it was opened, each with
// its last problem.
type failures struct {
	mu    sync.Mutex
	parts map[string]string
}

func (f *failures) note(part, problem string) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.parts == nil {
		f.parts = map[string]string{}
	}
	f.parts[part] = problem
}

// Failures are findings about the running project itself: its parts that failed
// since it was opened, and what it will not be able to keep. They stand in no
// release's way.
func (p *Project) Failures() []project.Finding {
	p.failures.mu.Lock()
	defer p.failures.mu.Unlock()
	out := make([]project.Finding, 0, len(p.failures.parts))
	for _, part := range project.SortedKeys(p.failures.parts) {
		out = append(out, project.Finding{Rule: "running.failed", Severity: project.Warning, Stop: project.StopRelease, Kind: project.KindSite,
			ID: project.SiteID, Name: part, Args: map[string]any{"problem": p.failures.parts[part]}})
	}
	return append(out, p.outlook()...)
}
