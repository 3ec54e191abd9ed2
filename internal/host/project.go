package host

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"runtime/debug"
	"sync"
	"sync/atomic"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/door"
	"readyrail/internal/engine"
	"readyrail/internal/exchange"
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

// Project is an open project: its databases and its running programs.
type Project struct {
	id    string
	host  *Host
	store *store.Project
	state *store.State
	// records are what is kept of it.
	records *record.Records
	alarmState

	editing sync.Mutex // one edit or release at a time
	draft   running
	release running
	// plain is the release without what was changed at the Desk.
	plain    atomic.Pointer[project.Project]
	try      running
	trying   trying
	revision atomic.Int64
	info     atomic.Pointer[ReleaseInfo]

	door  *door.Door
	beats beats
	feeds feeds
	news  news

	imports  imports
	layer    layer
	minder   minder
	failures failures
	// failedAt is when an engine's failure was last said, in nanoseconds.
	failedAt atomic.Int64
}

// running is a project version with the engine that runs it.
type running struct {
	project atomic.Pointer[project.Project]
	program *engine.Program // touched under editing only
	runner  atomic.Pointer[engine.Runner]
	// board counts what happens to the alarms, from a number that no earlier run
	// of the server can have reached.
	board    atomic.Int64
	controls controls
	// standIns tells which devices a stand-in replaces; nil for none.
	standIns atomic.Pointer[func(device string) bool]
}

func (r *running) standIn(device string) bool {
	f := r.standIns.Load()
	return f != nil && (*f)(device)
}

// ReleaseInfo is a release without its content.
type ReleaseInfo struct {
	Number int64     `json:"number"`
	At     time.Time `json:"at"`
	Person string    `json:"person"`
	Note   string    `json:"note"`
	Hash   string    `json:"hash"`
	Change int64     `json:"change"`
}

// openProject opens a project's folder; first is the content of a new one, past
// what it begins with.
func (h *Host) openProject(id string, first *project.Project, past record.Past) (*Project, error) {
	dir := filepath.Join(h.dir, "projects", id)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	p := &Project{id: id, host: h}
	p.news.init()
	if err := p.openSafely(dir, first, past); err != nil {
		p.closeStores()
		return nil, fmt.Errorf("project %s: %w", id, err)
	}
	h.mu.Lock()
	h.projects[id] = p
	h.mu.Unlock()
	return p, nil
}

// openSafely is open; a panic on the way is its error, and the end of nothing
// but this project.
func (p *Project) openSafely(dir string, first *project.Project, past record.Past) (err error) {
	defer func() {
		if r := recover(); r != nil {
			p.host.log.Error("opening a project panicked", "project", p.id, "panic", r, "stack", string(debug.Stack()))
			err = fmt.Errorf("what is stored cannot be read: %v", r)
		}
	}()
	return p.open(dir, first, past)
}

func (p *Project) open(dir string, first *project.Project, past record.Past) (err error) {
	if p.state, err = store.OpenState(dir, p.host.reserve); err != nil {
		return err
	}
	p.records, err = record.Open(dir, past, record.Options{Log: p.host.log, Reserve: p.host.reserve, AuditKey: p.host.auditKey,
		Rules: p.journalRules, Changed: p.alarmNews, Source: p.recorded, Bounded: p.bounded})
	if err != nil {
		return err
	}
	p.event(store.SystemEntry, "start", "", "", Actor{})
	if p.store, err = store.OpenProject(dir, p.host.reserve); err != nil {
		return err
	}
	ctx := context.Background()
	if err := p.layer.load(ctx, p.state); err != nil {
		return err
	}
	// What was held when the server ended is let go before anything else runs.
	p.door = door.New(p.records.Trail, leases{p.state}, p.sinkOfLease, p.host.log)
	if err := p.recover(ctx); err != nil {
		return err
	}
	if err := p.closeIntents(ctx); err != nil {
		return err
	}
	draft, err := p.readDraft(ctx, first)
	if err != nil {
		return err
	}
	rev, err := p.store.Revision(ctx)
	if err != nil {
		return err
	}
	p.revision.Store(rev)
	released, err := p.lastRelease(ctx)
	if err != nil {
		return err
	}
	// Nothing runs before everything is read.
	p.run(Draft, draft)
	if released != nil {
		p.runRelease(released)
	}
	p.startMinder()
	return nil
}

// readDraft reads the draft while its rows still come; a new project begins with
// first.
func (p *Project) readDraft(ctx context.Context, first *project.Project) (*project.Project, error) {
	loading := project.BeginLoading()
	err := p.store.Each(ctx, loading.Add)
	if errors.Is(err, store.ErrNotFound) {
		if first == nil {
			first = NewProject(p.id)
		}
		entities := first.Entities()
		loading.Add(entities)
		err = p.store.Init(ctx, entities)
	}
	draft, refused := loading.Done()
	return draft, cmp.Or(err, refused)
}

// lastRelease reads what was released last; nil where nothing was.
func (p *Project) lastRelease(ctx context.Context) (*project.Project, error) {
	last, err := p.store.LastRelease(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	entities, err := exchange.ReadArchive(last.Archive)
	if err != nil {
		return nil, fmt.Errorf("release %d: %w", last.Number, err)
	}
	released, err := project.Load(entities)
	if err != nil {
		return nil, fmt.Errorf("release %d: %w", last.Number, err)
	}
	p.info.Store(releaseInfo(last))
	return released, nil
}

func releaseInfo(r store.Release) *ReleaseInfo {
	return &ReleaseInfo{r.Number, time.Unix(0, r.At), r.Person, r.Note, r.Hash, r.Change}
}

// closeIntents gives the intents that a crash cut off their outcome: unknown.
func (p *Project) closeIntents(ctx context.Context) error {
	open, err := p.records.Trail.Open(ctx)
	if err != nil {
		return err
	}
	for _, r := range open {
		if _, err := p.records.Trail.Append(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Outcome, Intent: r.Seq,
			Outcome: audit.Unknown, Reason: "the server ended before the outcome was known"}); err != nil {
			return err
		}
	}
	return nil
}

// closeWithin is how long the end of the server waits for devices to let go.
const closeWithin = 3 * time.Second

// recover lets go what was held when the server last ended. Each device has a
// moment before the rest starts.
func (p *Project) recover(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	return p.door.Recover(ctx)
}

func (p *Project) close() {
	p.renewBeats(nil)
	ctx, cancel := context.WithTimeout(context.Background(), closeWithin)
	p.door.Close(ctx)
	cancel()
	p.stopMinder()
	p.feeds.closeAll()
	for _, r := range []struct {
		name Program
		run  *running
	}{{Draft, &p.draft}, {Release, &p.release}, {Try, &p.try}} {
		p.host.hub.Set(p.owner(r.name), nil, nil)
		if runner := r.run.runner.Load(); runner != nil {
			runner.Close()
		}
	}
	p.closeStores()
}

func (p *Project) closeStores() {
	if p.records != nil {
		p.event(store.SystemEntry, "stop", "", "", Actor{})
	}
	p.records.Close()
	if p.store != nil {
		p.store.Close()
	}
	if p.state != nil {
		p.state.Close()
	}
}

// ID is the project's id.
func (p *Project) ID() string { return p.id }

// Draft is the present version of the draft.
func (p *Project) Draft() *project.Project { return p.draft.project.Load() }

// Released is what the Desk runs; nil before the first release.
func (p *Project) Released() *project.Project { return p.release.project.Load() }

// ReleaseInfo tells which release runs; nil before the first.
func (p *Project) ReleaseInfo() *ReleaseInfo { return p.info.Load() }

// shown is what people see of the plant: the release, or the draft where nothing
// is released yet; nil before either is read.
func (p *Project) shown() *project.Project {
	if version := p.Released(); version != nil {
		return version
	}
	return p.Draft()
}

// journalRules are what the site says of events in the journal.
func (p *Project) journalRules() map[string]project.JournalRule {
	if version := p.shown(); version != nil {
		return version.Site().Journal
	}
	return nil
}

// recorded is what there is to record: the signals of the draft's alarms and of
// the release's, as the release reads them, or the draft where nothing is
// released yet.
func (p *Project) recorded() record.Source {
	source := record.Source{Runner: p.release.runner.Load(), Bands: map[string]float64{}}
	if source.Runner == nil {
		source.Runner = p.draft.runner.Load()
	}
	for _, version := range []*project.Project{p.Draft(), p.Released()} {
		if version != nil {
			maps.Copy(source.Bands, version.Recorded())
		}
	}
	return source
}

// Revision is the number of the newest change to the draft.
func (p *Project) Revision() int64 { return p.revision.Load() }

func (p *Project) running(name Program) *running {
	switch name {
	case Release:
		return &p.release
	case Try:
		return &p.try
	}
	return &p.draft
}

// run puts a version into its engine, starting it the first time, and asks the
// links for what it needs.
func (p *Project) run(name Program, version *project.Project) {
	r := p.running(name)
	r.program = engine.Compile(version, r.program, engine.Options{StandIn: r.standIn})
	program := r.program
	var resting map[int32]bool
	if runner := r.runner.Load(); runner != nil {
		runner.Do(func(e *engine.Engine) {
			e.Apply(program, time.Now())
			resting, _ = e.Demand(time.Now())
		})
	} else {
		r.board.Store(time.Now().UnixMilli())
		// The alarms of the release alone are annunciated and kept.
		if name == Release {
			runner = engine.Run(program, p.records.Journal.Standing(context.Background()), p.alarmsHappened, p.engineFailed)
		} else {
			runner = engine.Run(program, nil, func([]engine.AlarmEvent) { r.board.Add(1) }, p.engineFailed)
		}
		runner.Do(func(e *engine.Engine) {
			p.restore(e, version, name)
			resting, _ = e.Demand(time.Now())
		})
		r.runner.Store(runner)
	}
	if program.LinksChanged() || devicesDiffer(r.project.Load(), version) {
		p.subscribe(name, version, program, resting)
	}
	r.project.Store(version)
	r.board.Add(1)
	p.feeds.renew(p, name)
	p.records.Recorder.Renew()
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

// Edit applies ops for a person, stores them and puts them to work.
func (p *Project) Edit(ctx context.Context, who Actor, label string, ops []project.Op) (changes []project.Change, err error) {
	p.editing.Lock()
	defer p.editing.Unlock()
	ops = project.SpreadNames(p.Draft(), ops, newID)
	next, changes, err := p.Draft().Edit(ops)
	if err != nil {
		return nil, err
	}
	if len(changes) == 0 {
		return nil, nil
	}
	if err := p.mayBecome(ctx, who, p.Draft(), next); err != nil {
		return nil, err
	}
	doc, err := json.Marshal(changes)
	if err != nil {
		return nil, err
	}
	rev, err := p.store.Save(ctx, store.Change{At: time.Now().UnixNano(), Person: who.ID, Label: label, Changes: doc}, touched(next, changes))
	if err != nil {
		return nil, fmt.Errorf("storing the edit: %w", err)
	}
	p.adopt(next, rev, who, changes)
	return changes, nil
}

func (p *Project) adopt(next *project.Project, rev int64, who Actor, changes []project.Change) {
	p.revision.Store(rev)
	p.run(Draft, next)
	if p.try.runner.Load() != nil {
		p.run(Try, next)
	}
	p.news.tell(News{Project: p.id, Revision: rev, Person: who.Name, Things: things(changes)})
}

// touched lists the things that changes touched, as they are now.
func touched(now *project.Project, changes []project.Change) []project.Entity {
	var out []project.Entity
	seen := map[[2]string]bool{}
	for _, c := range changes {
		key := [2]string{c.Kind, c.ID}
		if seen[key] {
			continue
		}
		seen[key] = true
		doc, _ := now.Doc(c.Kind, c.ID)
		out = append(out, project.Entity{Kind: c.Kind, ID: c.ID, Doc: doc})
	}
	return out
}

func things(changes []project.Change) []string {
	var out []string
	seen := map[string]bool{}
	for _, c := range changes {
		key := c.Kind + "/" + c.ID
		if !seen[key] && len(out) < 200 {
			seen[key] = true
			out = append(out, key)
		}
	}
	return out
}

// ErrNothing says that there is nothing to undo or redo.
var ErrNothing = &Refused{Reason: "there is nothing to take back"}

// Undo takes the person's last change back; Redo brings it again. They return
// what the change was called.
func (p *Project) Undo(ctx context.Context, who Actor) (label string, err error) {
	return p.step(ctx, who, p.store.LastDone, "undone", false)
}

// Redo brings back what was undone last.
func (p *Project) Redo(ctx context.Context, who Actor) (label string, err error) {
	return p.step(ctx, who, p.store.FirstUndone, "done", true)
}

func (p *Project) step(ctx context.Context, who Actor, find func(context.Context, string) (store.Change, error), state string,
	forward bool) (string, error) {
	p.editing.Lock()
	defer p.editing.Unlock()
	c, err := find(ctx, who.ID)
	if errors.Is(err, store.ErrNotFound) {
		return "", ErrNothing
	}
	if err != nil {
		return "", err
	}
	changes, err := c.Decode()
	if err != nil {
		return "", err
	}
	if forward {
		changes = inverse(changes)
	}
	next, back, err := p.Draft().Revert(changes)
	if err == nil {
		err = p.mayBecome(ctx, who, p.Draft(), next)
	}
	if err != nil {
		return "", err
	}
	if err := p.store.Mark(ctx, c.ID, state, touched(next, back)); err != nil {
		return "", err
	}
	p.adopt(next, p.revision.Load(), who, back)
	return c.Label, nil
}

// inverse turns changes round, so that reverting them does them again.
func inverse(changes []project.Change) []project.Change {
	out := make([]project.Change, len(changes))
	for i, c := range changes {
		out[len(changes)-1-i] = project.Change{Kind: c.Kind, ID: c.ID, Path: c.Path, Before: c.After, After: c.Before}
	}
	return out
}

// Publish makes the draft a release and puts it to work at the Desk.
//
// limits says of each limit that was changed at the Desk, by the alarm's id,
// what becomes of it; a release without an answer is refused.
func (p *Project) Publish(ctx context.Context, who Actor, note string, limits map[string]LimitChoice) (*ReleaseInfo, error) {
	p.editing.Lock()
	defer p.editing.Unlock()
	// Everything that can refuse it comes before anything is kept.
	if len(note) > 1000 {
		return nil, refused("a note has at most 1000 characters")
	}
	adopted, gone, err := p.chooseLimits(limits)
	if err != nil {
		return nil, err
	}
	next, changes, err := p.Draft().Edit(adopted)
	if err != nil {
		return nil, err
	}
	if !next.Releasable() {
		return nil, refused("findings of severity error stand in the way: mend them first")
	}
	archive, hash, err := exchange.WriteArchive(next.Entities())
	if err != nil {
		return nil, err
	}
	// What is released is what the archive gives back, not what is in memory.
	list, err := exchange.ReadArchive(archive)
	if err != nil {
		return nil, err
	}
	released, err := project.Load(list)
	if err != nil {
		return nil, err
	}
	r := store.Release{At: time.Now().UnixNano(), Person: who.Name, Note: note, Change: p.Revision(), Hash: hash, Archive: archive}
	var edit *store.Change
	if len(changes) > 0 {
		doc, err := json.Marshal(changes)
		if err != nil {
			return nil, err
		}
		edit = &store.Change{At: r.At, Person: who.ID, Label: "adopt limits from the Desk", Changes: doc}
	}
	number, rev, err := p.store.Publish(ctx, r, edit, touched(next, changes))
	if err != nil {
		return nil, fmt.Errorf("storing the release: %w", err)
	}
	r.Number = number
	if edit != nil {
		r.Change = rev
		p.adopt(next, rev, who, changes)
	}
	p.dropLimits(ctx, gone)
	info := releaseInfo(r)
	p.info.Store(info)
	p.runRelease(released)
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Release: r.Number})
	p.door.Note(ctx, audit.Record{At: r.At, What: audit.Release, Person: who.ID, Name: who.Name, Panel: who.Panel, New: fmt.Sprint(r.Number),
		Reason: note})
	return info, nil
}

// Releases lists the releases, newest first.
func (p *Project) Releases(ctx context.Context) ([]ReleaseInfo, error) {
	list, err := p.store.Releases(ctx)
	out := make([]ReleaseInfo, len(list))
	for i, r := range list {
		out[i] = *releaseInfo(r)
	}
	return out, err
}

// Archive returns the draft as a project archive.
func (p *Project) Archive() ([]byte, error) {
	b, _, err := exchange.WriteArchive(p.Draft().Entities())
	return b, err
}

// Record appends an act that is not a write to the audit trail.
func (p *Project) Record(ctx context.Context, who Actor, what, reason string) error {
	_, err := p.records.Trail.Append(ctx, audit.Record{At: time.Now().UnixNano(), What: what, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Reason: reason})
	return err
}

// Note is Record for what was done already and stands: where the disk fails it
// is owed, and kept as soon as it can.
func (p *Project) Note(ctx context.Context, who Actor, what, reason string) {
	p.door.Note(ctx, audit.Record{At: time.Now().UnixNano(), What: what, Person: who.ID, Name: who.Name, Panel: who.Panel, Reason: reason})
}

// Trail returns a page of the audit trail, newest first.
func (p *Project) Trail(ctx context.Context, before int64, limit int, text string) ([]audit.Record, error) {
	return p.records.Trail.List(ctx, before, limit, text)
}

// EachRecord hands over the trail as it is shown, newest first, in short reads.
func (p *Project) EachRecord(ctx context.Context, do func(audit.Record) error) error {
	const page = 1000
	for before := int64(0); ; {
		list, err := p.records.Trail.List(ctx, before, page, "")
		if err != nil {
			return err
		}
		for _, r := range list {
			if err := do(r); err != nil {
				return err
			}
			before = r.Seq
		}
		if len(list) < page {
			return nil
		}
	}
}

// VerifyTrail checks the seals of the whole trail.
func (p *Project) VerifyTrail(ctx context.Context) (int64, error) { return p.records.Trail.Verify(ctx) }
