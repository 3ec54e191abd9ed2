// Package record is what is kept of a running project: the journal of what
// happened, the course of its signals, and the trail of what people did. Its
// goroutines end with Close.
package record

import (
	"context"
	"log/slog"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// Options are what the records need of the project that they are of.
type Options struct {
	Log     *slog.Logger
	Reserve *store.Reserve
	// AuditKeys seal the trail.
	AuditKeys audit.Ring
	// Rules are what the site says of events in the journal, by their kind.
	Rules func() map[string]project.JournalRule
	// Changed is told that the journal has further entries.
	Changed func()
	// Source is what there is to record now.
	Source func() Source
	// Logs is the version whose logs are kept now, and who knows its values; a
	// project without logs may leave it out.
	Logs func() (*engine.Runner, *project.Project)
	// Bounded runs a part; a panic in it is an error of the project.
	Bounded func(part string, f func())
}

// Past is what a new project begins with.
type Past struct {
	Entries []store.Entry    // of the journal, in order
	Samples []store.TagValue // of each tag in order
	Logs    map[string]PastLog
	// Recipes with their first versions, and the versions that follow.
	Recipes  []store.NewRecipe
	Versions []store.RecipeVersion
}

// PastLog is what a log begins with.
type PastLog struct {
	Samples []store.TagValue // of each tag in order
	Spans   []store.LogSpan
}

// Records are what is kept of one project.
type Records struct {
	Trail    *Trail
	Journal  *Journal
	Recorder *Recorder
	Logs     *Logs
	Recipes  *store.Recipes
}

// Open opens the records in a project's folder and begins to keep them.
func Open(dir string, past Past, o Options) (r *Records, err error) {
	r = &Records{}
	defer func() {
		if err != nil {
			r.Close()
			r = nil
		}
	}()
	sealed, err := store.OpenAudit(dir, o.AuditKeys, o.Reserve)
	if err != nil {
		return r, err
	}
	r.Trail = &Trail{sealed, func(a audit.Record) {
		if e, ok := inJournal(a); ok {
			r.Journal.Event(e)
		}
	}}
	kept, err := store.OpenJournal(dir, o.Reserve)
	if err != nil {
		return r, err
	}
	r.Journal = newJournal(kept, o)
	if err := kept.Append(context.Background(), past.Entries, nil); err != nil {
		return r, err
	}
	samples, err := store.OpenSamples(dir, o.Reserve)
	if err != nil {
		return r, err
	}
	r.Recorder = newRecorder(samples, o)
	if err := samples.Keep(context.Background(), past.Samples); err != nil {
		return r, err
	}
	logs, err := store.OpenLogs(dir, o.Reserve)
	if err != nil {
		return r, err
	}
	r.Logs = newLogs(logs, r.Journal, o)
	if r.Recipes, err = store.OpenRecipes(dir, o.Reserve); err != nil {
		return r, err
	}
	if len(past.Recipes) > 0 {
		if err := r.Recipes.Save(context.Background(), past.Recipes, past.Versions); err != nil {
			return r, err
		}
	}
	return r, r.Logs.bring(past.Logs)
}

// Renew has everything look again at what there is to record.
func (r *Records) Renew() {
	r.Recorder.Renew()
	r.Logs.Renew()
}

// Close writes out what waits and ends everything; it may be called of records
// that were opened in part, or of none.
func (r *Records) Close() {
	if r == nil {
		return
	}
	if r.Logs != nil {
		r.Logs.Close()
	}
	if r.Recorder != nil {
		r.Recorder.close()
	}
	if r.Recipes != nil {
		r.Recipes.Close()
	}
	if r.Trail != nil {
		r.Trail.Close()
	}
	if r.Journal != nil {
		r.Journal.close()
	}
}

// Fold folds the databases' logs of writes in, by the name of the database.
func (r *Records) Fold() map[string]func(context.Context) error {
	return map[string]func(context.Context) error{
		"audit":   r.Trail.Fold,
		"journal": r.Journal.store.Fold,
		"logs":    r.Logs.store.Fold,
		"recipes": r.Recipes.Fold,
	}
}
