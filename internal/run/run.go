// Package run is a project at work: its programs, the screens and tags that
// people look at, the links that it asks for, what its devices are told by
// themselves, and the door through which every value leaves. It asks nobody's
// rights. Its goroutines end with Close.
package run

import (
	"context"
	"log/slog"
	"sync/atomic"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/engine"
	"readyrail/internal/link"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// Program names one of the programs that a project runs.
type Program string

// The programs.
const (
	Draft   Program = "draft"   // what is being edited, live for the Workshop
	Release Program = "release" // what the Desk runs
	Try     Program = "try"     // the draft for looking: nothing it does reaches a device
)

var programs = []Program{Draft, Release, Try}

// Options are what runs needs of the project that it is of.
type Options struct {
	ID  string // of the project, by which links know who asks
	Dir string // whose disk is watched
	Log *slog.Logger
	Hub *link.Hub
	// Bounded runs a part; a panic in it is an error of the project.
	Bounded func(part string, f func())
	// EngineFailed is told of a panic in an engine, with every round that fails.
	EngineFailed func(problem any)
	// AlarmsChanged is told that the alarms of the release, or what is owed to the
	// disk, stand otherwise.
	AlarmsChanged func()
	// System is the value of a system tag that lies outside of the programs.
	System func(program Program, s engine.SystemTag, now time.Time) (v value.Value, known bool)
	// EverySecond is called once a second.
	EverySecond func(now time.Time)
}

// Runs are the programs of one project and what lies over them.
type Runs struct {
	o       Options
	state   *store.State
	records *record.Records
	door    *door.Door
	layer   layer

	draft, release, try running
	// plain is the release without what was changed at the Desk.
	plain atomic.Pointer[project.Project]

	beats  beats
	feeds  feeds
	pages  pages
	minder minder
}

func refused(format string, args ...any) error { return door.Refusing(format, args...) }

// patience bounds what is waited for when a project opens and closes.
const (
	recoverWithin = 2 * time.Second // devices let go what was held, before the rest starts
	closeWithin   = 3 * time.Second // devices let go what is held
)

// New returns the runs of a project of which nothing runs yet.
func New(o Options) *Runs { return &Runs{o: o} }

// Open lets go what was held when the server last ended, and gives what was cut
// off then its outcome, before anything else runs.
func (r *Runs) Open(ctx context.Context, state *store.State, records *record.Records) error {
	r.state, r.records = state, records
	if err := r.layer.load(ctx, state); err != nil {
		return err
	}
	r.door = door.New(records.Trail, leases{state}, r.sinkOfLease, r.o.Log)
	within, cancel := context.WithTimeout(ctx, recoverWithin)
	defer cancel()
	if err := r.door.Recover(within); err != nil {
		return err
	}
	return r.closeIntents(ctx)
}

// closeIntents gives the intents that a crash cut off their outcome: unknown.
func (r *Runs) closeIntents(ctx context.Context) error {
	open, err := r.records.Trail.Open(ctx)
	if err != nil {
		return err
	}
	for _, intent := range open {
		if _, err := r.records.Trail.Append(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Outcome, Intent: intent.Seq,
			Outcome: audit.Unknown, Reason: "the server ended before the outcome was known"}); err != nil {
			return err
		}
	}
	return nil
}

// Begin begins to look after what runs; the programs run from their first
// version on.
func (r *Runs) Begin() { r.startMinder() }

// Close lets go what is held, keeps what is retained and ends everything; it may
// be called of runs that were opened in part, or not at all.
func (r *Runs) Close() {
	if r.door == nil {
		return
	}
	r.renewBeats(nil)
	ctx, cancel := context.WithTimeout(context.Background(), closeWithin)
	r.door.Close(ctx)
	cancel()
	r.stopMinder()
	r.feeds.closeAll()
	for _, name := range programs {
		r.o.Hub.Set(r.owner(name), nil, nil)
		if runner := r.Runner(name); runner != nil {
			runner.Close()
		}
	}
}

// Door is the one way by which values leave.
func (r *Runs) Door() *door.Door { return r.door }

// Unrecorded is how much of what was done waits for the disk.
func (r *Runs) Unrecorded() int { return r.door.Owed() + r.records.Journal.Failing() }

// note keeps something beside the alarms in the journal.
func (r *Runs) note(kind, what, name, text string) {
	r.records.Journal.Event(store.Entry{At: time.Now().UnixNano(), Kind: kind, What: what, Name: name, Text: text})
}
