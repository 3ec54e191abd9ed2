// Package edit holds a project as it is being built: its draft, which people
// change together and one at a time, by edits that can be taken back, by plans
// in bulk and by imports, and the releases that are made of it. Nothing here has
// a goroutine of its own.
package edit

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/door"
	"readyrail/internal/store"
)

// Options are what the edits need of the project that they are of.
type Options struct {
	Reserve *store.Reserve
	// First is the content of a new project.
	First *project.Project
	// May is asked what stands against a person's edit beside its content; nil
	// lets everybody.
	May func(ctx context.Context, who access.Actor, before, next *project.Project) error
	// Edited is told of each new version of the draft, in order, before the next
	// edit begins; nil tells nobody.
	Edited func(next *project.Project, by Made)
}

// Made is an edit that was made, taken back or brought again.
type Made struct {
	Revision int64 // of the edit itself, which has its number from when it was made
	By       access.Actor
	Label    string
	State    string // empty for a new edit; undone, done for one that is brought again
	Before   *project.Project
	Changes  []project.Change
}

// Things are those that it touched, as "tag/t1", cut at 200.
func (m *Made) Things() []string { return things(m.Changes) }

// Moves tells whether paths may be others: see project.Change.
func (m *Made) Moves() bool {
	return slices.ContainsFunc(m.Changes, func(c project.Change) bool { return c.Moves() })
}

// Names tells whether who names whom may be another.
func (m *Made) Names() bool {
	return slices.ContainsFunc(m.Changes, func(c project.Change) bool { return c.Names() })
}

// Edits are the draft of one project, its changes and its releases.
type Edits struct {
	options  Options
	store    *store.Project
	changing sync.Mutex // one edit or release at a time
	draft    atomic.Pointer[project.Project]
	revision atomic.Int64
	newest   atomic.Pointer[ReleaseInfo]
	imports  imports
}

func refused(format string, args ...any) error { return door.Refusing(format, args...) }

// New returns the edits of a project that is not opened yet.
func New(o Options) *Edits { return &Edits{options: o} }

// Open opens the draft in a project's folder, making it where there is none.
func (e *Edits) Open(ctx context.Context, dir string) (err error) {
	if e.store, err = store.OpenProject(dir, e.options.Reserve); err != nil {
		return err
	}
	draft, err := e.read(ctx)
	if err != nil {
		return err
	}
	e.draft.Store(draft)
	rev, err := e.store.Revision(ctx)
	e.revision.Store(rev)
	return err
}

// read reads the draft while its rows still come; a new project begins with what
// is first.
func (e *Edits) read(ctx context.Context) (*project.Project, error) {
	loading := project.BeginLoading()
	err := e.store.Each(ctx, loading.Add)
	if errors.Is(err, store.ErrNotFound) {
		first := cmp.Or(e.options.First, project.New(""))
		entities := first.Entities()
		loading.Add(entities)
		err = e.store.Init(ctx, entities)
	}
	draft, refused := loading.Done()
	return draft, cmp.Or(err, refused)
}

// Close ends it; what was answered as done is on disk already.
func (e *Edits) Close() {
	if e.store != nil {
		e.store.Close()
	}
}

// Fold folds the database's log of writes in.
func (e *Edits) Fold(ctx context.Context) error { return e.store.Fold(ctx) }

// Draft is the present version of the draft.
func (e *Edits) Draft() *project.Project { return e.draft.Load() }

// Revision is the number of the newest change to the draft.
func (e *Edits) Revision() int64 { return e.revision.Load() }

// Alone runs f while nobody edits or releases.
func (e *Edits) Alone(f func() error) error {
	e.changing.Lock()
	defer e.changing.Unlock()
	return f()
}

// Edit applies ops for a person, stores them and puts them to work.
func (e *Edits) Edit(ctx context.Context, who access.Actor, label string, ops []project.Op) (changes []project.Change, err error) {
	e.changing.Lock()
	defer e.changing.Unlock()
	ops = project.SpreadNames(e.Draft(), ops, store.NewID)
	next, changes, err := e.Draft().Edit(ops)
	if err != nil || len(changes) == 0 {
		return nil, err
	}
	if err := e.may(ctx, who, next); err != nil {
		return nil, err
	}
	return changes, e.keep(ctx, who, label, next, changes)
}

// keep stores a version that an edit made, and makes it the present one.
func (e *Edits) keep(ctx context.Context, who access.Actor, label string, next *project.Project, changes []project.Change) error {
	change, err := changeOf(who, label, changes)
	if err != nil {
		return err
	}
	rev, err := e.store.Save(ctx, *change, touched(next, changes))
	if err != nil {
		return say.Errorf("storing the edit: %w", err)
	}
	e.adopt(next, rev, Made{Revision: rev, By: who, Label: label, Changes: changes})
	return nil
}

func (e *Edits) may(ctx context.Context, who access.Actor, next *project.Project) error {
	if e.options.May == nil {
		return nil
	}
	return e.options.May(ctx, who, e.Draft(), next)
}

// changeOf is an edit as it is stored.
func changeOf(who access.Actor, label string, changes []project.Change) (*store.Change, error) {
	doc, err := json.Marshal(changes)
	return &store.Change{At: time.Now().UnixNano(), Person: who.ID, Label: label, Changes: doc}, err
}

// adopt makes a version that is stored the present one.
func (e *Edits) adopt(next *project.Project, rev int64, made Made) {
	made.Before = e.draft.Swap(next)
	e.revision.Store(rev)
	if e.options.Edited != nil {
		e.options.Edited(next, made)
	}
}

// Since lists the edits that were made after one, by its number, oldest first.
func (e *Edits) Since(ctx context.Context, revision int64, most int) ([]store.Change, error) {
	return e.store.ChangesAfter(ctx, revision, most)
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

// mostThings bounds the things that an edit is told with.
const mostThings = 200

func things(changes []project.Change) []string {
	var out []string
	seen := map[string]bool{}
	for _, c := range changes {
		key := c.Kind + "/" + c.ID
		if !seen[key] && len(out) < mostThings {
			seen[key] = true
			out = append(out, key)
		}
	}
	return out
}
