package host

import (
	"context"
	"errors"
	"maps"
	"os"
	"path/filepath"
	"runtime/debug"
	"sync"
	"sync/atomic"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/value"
	"readyrail/internal/edit"
	"readyrail/internal/engine"
	"readyrail/internal/record"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// Project is an open project: what is built of it, what runs of it and what is
// kept of it, with the rights before each.
type Project struct {
	id   string
	host *Host
	// Edits are its draft and its releases. Who may edit is asked before.
	*edit.Edits
	runs    *run.Runs
	records *record.Records
	state   *store.State

	news     news
	turn     turn
	control  control
	holding  sync.Mutex // over a change of what is held, from its check to its being kept
	trying   trying
	failures failures
	storage  atomic.Pointer[Storage] // as it was measured last
	measured time.Time               // when that began
	exports  exports
	searches searches
	looks    looks
	shelf    *Shelf // the plant's recipes
	edits    editTrail
	pruned   time.Time // when deleted recipes were last forgotten
	// failedAt is when an engine's failure was last said, in nanoseconds.
	failedAt atomic.Int64
	// alarmsTold is set while news of alarms wait.
	alarmsTold atomic.Bool
	// screenErrors is when a browser last told of an error, in nanoseconds.
	screenErrors atomic.Int64
	trailCheck   trailCheck
}

// openProject opens a project's folder; first is the content of a new one, past
// what it begins with.
func (h *Host) openProject(id string, first *project.Project, past record.Past) (*Project, error) {
	dir := filepath.Join(h.dir, "projects", id)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	if first == nil {
		first = edit.NewProject(id)
	}
	p := &Project{id: id, host: h}
	p.news.init()
	p.exports.init()
	p.runs = run.New(run.Options{ID: id, Dir: h.dir, Log: h.log, Hub: h.hub, Bounded: p.bounded, EngineFailed: p.engineFailed,
		AlarmsChanged: p.alarmNews, System: p.systemValue, EverySecond: p.everySecond})
	p.Edits = edit.New(edit.Options{Reserve: h.reserve, First: first, May: p.mayBecome, Edited: p.edited})
	if err := p.openSafely(dir, past); err != nil {
		p.close()
		return nil, say.Errorf("project %s: %w", id, err)
	}
	h.mu.Lock()
	h.projects[id] = p
	h.mu.Unlock()
	return p, nil
}

// openSafely is open; a panic on the way is its error, and the end of nothing
// but this project.
func (p *Project) openSafely(dir string, past record.Past) (err error) {
	defer func() {
		if r := recover(); r != nil {
			p.host.log.Error("opening a project panicked", "project", p.id, "panic", r, "stack", string(debug.Stack()))
			err = say.Errorf("what is stored cannot be read: %v", r)
		}
	}()
	return p.open(dir, past)
}

func (p *Project) open(dir string, past record.Past) (err error) {
	ctx := context.Background()
	if p.state, err = store.OpenState(dir, p.host.reserve); err != nil {
		return err
	}
	p.records, err = record.Open(dir, past, record.Options{Log: p.host.log, Reserve: p.host.reserve, AuditKeys: p.host.auditKeys,
		Rules: p.journalRules, Changed: p.alarmNews, Source: p.recorded, Logs: p.logged, Bounded: p.bounded})
	if err != nil {
		return err
	}
	p.shelf = newShelf(p, p.records.Recipes, false)
	p.clearTrial()
	p.event(store.SystemEntry, "start", "", "", Actor{})
	if err := p.turn.load(ctx, p.state); err != nil {
		return err
	}
	if err := p.control.load(ctx, p.state); err != nil {
		return err
	}
	// What was held when the server ended is let go before anything else runs.
	if err := p.runs.Open(ctx, p.state, p.records); err != nil {
		return err
	}
	if err := p.Edits.Open(ctx, dir); err != nil {
		return err
	}
	released, err := p.LastRelease(ctx)
	if err != nil {
		return err
	}
	// Nothing runs before everything is read.
	p.runs.Run(run.Draft, p.Draft())
	if released != nil {
		p.runs.RunRelease(released)
	}
	p.runs.Begin()
	p.edits.begin(p.bounded)
	if err := p.recordMissing(ctx); err != nil {
		return err
	}
	return p.shelf.brokenOff(ctx)
}

// close ends a project, also one that was opened in part.
func (p *Project) close() {
	p.exports.close()
	if p.shelf != nil {
		p.shelf.drives.close()
	}
	p.trying.shelf.Swap(nil).discard()
	p.edits.end()
	p.runs.Close()
	if p.shelf != nil {
		p.shelf.under.working.Wait()
	}
	if p.records != nil {
		p.signEnd(context.Background())
		p.event(store.SystemEntry, "stop", "", "", Actor{})
	}
	p.records.Close()
	p.Edits.Close()
	if p.state != nil {
		p.state.Close()
	}
}

// ID is the project's id.
func (p *Project) ID() string { return p.id }

// Released is what the Desk runs; nil before the first release.
func (p *Project) Released() *project.Project { return p.runs.Version(run.Release) }

// shown is what people see of the plant: the release, or the draft where nothing
// is released yet; nil before either is read.
func (p *Project) shown() *project.Project {
	if version := p.Released(); version != nil {
		return version
	}
	return p.runs.Version(run.Draft)
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
	source := record.Source{Bands: map[string]float64{}, Days: map[string]int{}}
	source.Runner, _ = p.logged()
	for _, name := range []run.Program{run.Draft, run.Release} {
		if version := p.runs.Version(name); version != nil {
			maps.Copy(source.Bands, version.Recorded())
			maps.Copy(source.Days, version.RecordedDays())
			source.Keep = version.Site().Recorder
		}
	}
	return source
}

// logged is whose logs are kept: the release's, or the draft's where nothing is
// released yet.
func (p *Project) logged() (*engine.Runner, *project.Project) {
	for _, name := range []run.Program{run.Release, run.Draft} {
		if runner := p.runs.Runner(name); runner != nil {
			return runner, p.runs.Version(name)
		}
	}
	return nil, nil
}

// edited puts a new version of the draft to work.
func (p *Project) edited(next *project.Project, by edit.Made) {
	p.runs.Run(run.Draft, next)
	if p.runs.Runner(run.Try) != nil {
		p.runs.Run(run.Try, next)
	}
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: by.By.Name, Things: by.Things(), Moves: by.Moves(), Names: by.Names()})
	p.recordEdit(next, by)
}

// everySecond looks after what is kept, and ends what is overdue.
func (p *Project) everySecond(now time.Time) {
	if err := p.records.Trail.SealEnd(context.Background()); err != nil {
		p.host.log.Warn("the end of the trail is not sealed", "project", p.id, "error", err)
	}
	p.fold()
	p.endOverdue(now)
	p.endOverdueTurn(now)
	p.exportDue(now)
	p.lookAtStorage(now)
	p.looks.end(now)
	p.shelf.pruneRecipes(now)
	p.shelf.mindDrives()
	if trial := p.trying.shelf.Load(); trial != nil {
		trial.mindDrives()
	}
}

// fold folds the logs of writes in while nobody waits for it.
func (p *Project) fold() {
	folds := p.records.Fold()
	folds["state"], folds["project"] = p.state.Fold, p.Edits.Fold
	for name, fold := range folds {
		// A full disk is said already.
		if err := fold(context.Background()); err != nil && !errors.Is(err, ErrFull) {
			p.host.log.Warn("the log of writes is not folded in", "project", p.id, "database", name, "error", err)
		}
	}
}

// systemValue is a system tag that lies outside of the programs.
func (p *Project) systemValue(program run.Program, s engine.SystemTag, now time.Time) (value.Value, bool) {
	if s.Log != "" {
		return p.logValue(s, now)
	}
	if s.Book != "" {
		return p.shelfOf(program).recipeValue(s)
	}
	switch s.Name {
	case "deliveries.open":
		return value.Int(value.LINT, p.shelfOf(program).left.Load()), true
	case "desks":
		return value.Int(value.INT, int64(p.news.count())), true
	case "release":
		number := int64(0)
		if info := p.ReleaseInfo(); info != nil {
			number = info.Number
		}
		return value.Int(value.LINT, number), true
	case "backup.age":
		age, _, _ := p.host.BackupFigures(now)
		return value.Real(value.LREAL, age), true
	case "backup.failed":
		_, failed, _ := p.host.BackupFigures(now)
		return value.Bool(failed), true
	case "backup.size":
		_, _, size := p.host.BackupFigures(now)
		return value.Real(value.LREAL, size), true
	case "server.load":
		share, _ := p.host.load.measure(now)
		return value.Real(value.LREAL, share), true
	case "server.memory":
		_, memory := p.host.load.measure(now)
		return value.Real(value.LREAL, memory), true
	case "server.uptime":
		return value.Int(value.LINT, int64(now.Sub(p.host.started).Seconds())), true
	}
	return value.Value{}, false
}

// ReadTags returns the present values of tags in a program.
func (p *Project) ReadTags(name run.Program, ids []string) []run.Reading {
	return p.runs.ReadTags(name, ids)
}

// Links tells how the links of a program's devices stand.
func (p *Project) Links(name run.Program) []run.LinkStatus { return p.runs.Links(name) }

// WatchTags begins a watch; nil when the program does not run.
func (p *Project) WatchTags(name run.Program, ids []string) *run.Watch {
	return p.runs.WatchTags(name, ids)
}

// OpenFeed starts looking at a screen of a program; see run.Runs.
func (p *Project) OpenFeed(name run.Program, screenID string, view screen.View, who Actor, page int64) (*run.Feed, error) {
	return p.runs.OpenFeed(name, screenID, view, run.Onlooker{Actor: who, Page: page})
}

// TellOpen notes what is open of a book of recipes at a page; see run.Runs.
func (p *Project) TellOpen(page int64, name run.Program, book string, o *run.OpenRecipe) {
	p.runs.TellOpen(page, name, book, o)
}

// folder is where all of the project lies.
func (p *Project) folder() string { return filepath.Join(p.host.dir, "projects", p.id) }

// ForgetPage forgets what a page told that is closed.
func (p *Project) ForgetPage(page int64) { p.runs.ForgetPage(page) }

// CloseFeed ends one look at a feed.
func (p *Project) CloseFeed(f *run.Feed) { p.runs.CloseFeed(f) }

// Record appends an act that is not a write to the audit trail.
func (p *Project) Record(ctx context.Context, who Actor, what, reason string) error {
	_, err := p.records.Trail.Append(ctx, audit.Record{At: time.Now().UnixNano(), What: what, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Reason: reason})
	return err
}

// Note is Record for what was done already and stands: where the disk fails it
// is owed, and kept as soon as it can.
func (p *Project) Note(ctx context.Context, who Actor, what, reason string) {
	p.runs.Door().Note(ctx, audit.Record{At: time.Now().UnixNano(), What: what, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Reason: reason})
}
