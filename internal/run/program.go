package run

import (
	"context"
	"sync"
	"sync/atomic"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// running is a project version with the engine that runs it.
type running struct {
	applying sync.Mutex // one version at a time
	program  *engine.Program
	version  atomic.Pointer[project.Project]
	runner   atomic.Pointer[engine.Runner]
	// board counts what happens to the alarms, from a number that no earlier run
	// of the server can have reached.
	board    atomic.Int64
	controls controls
	// standIns tells which devices a stand-in replaces; nil for none.
	standIns atomic.Pointer[func(device string) bool]
}

func (x *running) standIn(device string) bool {
	f := x.standIns.Load()
	return f != nil && (*f)(device)
}

func (r *Runs) running(name Program) *running {
	switch name {
	case Release:
		return &r.release
	case Try:
		return &r.try
	}
	return &r.draft
}

// Version is what a program runs; nil where it does not run.
func (r *Runs) Version(name Program) *project.Project { return r.running(name).version.Load() }

// Runner is the engine of a program; nil where it does not run.
func (r *Runs) Runner(name Program) *engine.Runner { return r.running(name).runner.Load() }

// Board counts what happened to a program's alarms.
func (r *Runs) Board(name Program) int64 { return r.running(name).board.Load() }

// Run puts a version into the engine of a program, starting it the first time,
// and asks the links for what it needs.
func (r *Runs) Run(name Program, version *project.Project) {
	x := r.running(name)
	x.applying.Lock()
	defer x.applying.Unlock()
	x.program = engine.Compile(version, x.program, engine.Options{StandIn: x.standIn})
	program := x.program
	var resting map[int32]bool
	if runner := x.runner.Load(); runner != nil {
		runner.Do(func(e *engine.Engine) {
			e.Apply(program, time.Now())
			resting, _ = e.Demand(time.Now())
		})
	} else {
		runner = r.start(name, program)
		runner.Do(func(e *engine.Engine) {
			r.restore(e, version, name)
			resting, _ = e.Demand(time.Now())
		})
		x.runner.Store(runner)
	}
	if program.LinksChanged() || devicesDiffer(x.version.Load(), version) {
		r.subscribe(name, version, program, resting)
	}
	x.version.Store(version)
	x.board.Add(1)
	r.feeds.renew(r, name)
	r.records.Renew()
}

// start starts an engine. The alarms of the release alone are annunciated and
// kept.
func (r *Runs) start(name Program, program *engine.Program) *engine.Runner {
	x := r.running(name)
	x.board.Store(time.Now().UnixMilli())
	if name == Release {
		return engine.Run(program, r.records.Journal.Standing(context.Background()), r.alarmsHappened, r.o.EngineFailed)
	}
	return engine.Run(program, nil, func([]engine.AlarmEvent) { x.board.Add(1) }, r.o.EngineFailed)
}

// alarmsHappened keeps what happened to the alarms of the release.
func (r *Runs) alarmsHappened(events []engine.AlarmEvent) {
	r.records.Journal.Alarms(r.Version(Release), events)
	for _, e := range events {
		if e.On == alarm.Raise {
			r.records.Logs.Raised(e.Alarm, e.At)
		}
	}
	r.release.board.Add(1)
	r.o.AlarmsChanged()
}

// RunRelease runs a release with what was changed at the Desk over it.
func (r *Runs) RunRelease(plain *project.Project) {
	r.plain.Store(plain)
	r.overlay()
	r.renewBeats(r.Version(Release))
}

// Plain is the release without what was changed at the Desk; nil before the
// first.
func (r *Runs) Plain() *project.Project { return r.plain.Load() }

// overlay runs the release with the limits of this moment over it.
func (r *Runs) overlay() { r.Run(Release, r.plain.Load().WithLimits(r.layer.limitTexts())) }

// RunTry begins a trial of a version, in which stand-ins replace devices.
func (r *Runs) RunTry(version *project.Project, standIn func(device string) bool) {
	r.EndTry()
	r.try.standIns.Store(&standIn)
	r.Run(Try, version)
}

// EndTry ends a trial, where one is under way.
func (r *Runs) EndTry() {
	r.try.applying.Lock()
	defer r.try.applying.Unlock()
	runner := r.try.runner.Swap(nil)
	if runner == nil {
		return
	}
	r.feeds.closeProgram(Try)
	r.o.Hub.Set(r.owner(Try), nil, nil)
	r.try.version.Store(nil)
	r.try.program = nil
	runner.Close()
}

// devicesDiffer tells whether two versions have other devices.
func devicesDiffer(a, b *project.Project) bool {
	if a == nil || len(a.Devices) != len(b.Devices) {
		return true
	}
	for id, d := range b.Devices {
		if a.Devices[id] != d {
			return true
		}
	}
	return false
}

// Reading is a tag's present value.
type Reading struct {
	Value value.Value
	Raw   value.Value
	Known bool
}

// ReadTags returns the present values of tags in a program.
func (r *Runs) ReadTags(name Program, ids []string) []Reading {
	out := make([]Reading, len(ids))
	if runner := r.Runner(name); runner != nil {
		runner.Do(func(e *engine.Engine) {
			for i, id := range ids {
				out[i].Value, out[i].Raw, out[i].Known = e.Read(id)
			}
		})
	}
	return out
}

// read is the present value of one tag.
func (r *Runs) read(name Program, id string) value.Value {
	return r.ReadTags(name, []string{id})[0].Value
}

// eachEngine runs f in the engines that the running layer lies over.
func (r *Runs) eachEngine(f func(*engine.Engine)) {
	for _, name := range []Program{Draft, Release} {
		if runner := r.Runner(name); runner != nil {
			runner.Do(f)
		}
	}
}
