package edit

import (
	"context"
	"errors"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/exchange"
	"readyrail/internal/store"
)

// ReleaseInfo is a release without its content.
type ReleaseInfo struct {
	Number int64     `json:"number"`
	At     time.Time `json:"at"`
	Person string    `json:"person"`
	Note   string    `json:"note"`
	Hash   string    `json:"hash"`
	Change int64     `json:"change"`
	Signed string    `json:"signed" doc:"who signed it, with what meaning; empty for nobody"`
	Again  int64     `json:"again" doc:"number of the release that it brings back; 0 where it was the draft"`
}

// Wording is what a release says of itself.
type Wording struct {
	Note   string
	Signed string // who signed it, with what meaning
}

// mostNote bounds the note of a release, in characters.
const mostNote = 1000

// ReleaseInfo tells which release is the newest; nil before the first.
func (e *Edits) ReleaseInfo() *ReleaseInfo { return e.newest.Load() }

// LastRelease reads what was released last; nil where nothing was.
func (e *Edits) LastRelease(ctx context.Context) (*project.Project, error) {
	last, err := e.store.LastRelease(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	released, err := readRelease(last.Archive)
	if err != nil {
		return nil, say.Errorf("release %d: %w", last.Number, err)
	}
	e.newest.Store(releaseInfo(last))
	return released, nil
}

func readRelease(archive []byte) (*project.Project, error) {
	content, err := exchange.ReadArchive(archive)
	if err != nil {
		return nil, err
	}
	return project.Load(content.Things)
}

func releaseInfo(r store.Release) *ReleaseInfo {
	return &ReleaseInfo{r.Number, time.Unix(0, r.At), r.Person, r.Note, r.Hash, r.Change, r.Signed, r.Again}
}

// Publish makes a release of the draft. adopting says what the draft takes over
// with it, or what stands against it, before anything is kept; run puts what was
// released to work, before the next edit begins.
func (e *Edits) Publish(ctx context.Context, who access.Actor, words Wording, adopting func() ([]project.Op, error),
	run func(*project.Project)) (*ReleaseInfo, error) {
	e.changing.Lock()
	defer e.changing.Unlock()
	if err := words.check(); err != nil {
		return nil, err
	}
	adopted, err := adopting()
	if err != nil {
		return nil, err
	}
	// The draft itself, where nothing is adopted: its findings are known.
	next, changes := e.Draft(), []project.Change(nil)
	if len(adopted) > 0 {
		if next, changes, err = next.Edit(adopted); err != nil {
			return nil, err
		}
	}
	if !next.Releasable() {
		return nil, refused("findings of severity error stand in the way: mend them first")
	}
	archive, hash, err := exchange.WriteArchive(exchange.Content{Things: next.Entities()})
	if errors.Is(err, exchange.ErrTooLarge) {
		return nil, refused("%v", err)
	}
	if err != nil {
		return nil, err
	}
	// What is released is what the archive gives back, not what is in memory.
	released, err := readRelease(archive)
	if err != nil {
		return nil, err
	}
	var edit *store.Change
	if len(changes) > 0 {
		if edit, err = changeOf(who, "adopt limits from the Desk", changes); err != nil {
			return nil, err
		}
	}
	r := store.Release{At: time.Now().UnixNano(), Person: who.Name, Note: words.Note, Signed: words.Signed,
		Change: e.Revision(), Hash: hash, Archive: archive}
	number, rev, err := e.store.Publish(ctx, r, edit, touched(next, changes))
	if err != nil {
		return nil, say.Errorf("storing the release: %w", err)
	}
	r.Number = number
	if edit != nil {
		r.Change = rev
		e.adopt(next, rev, Made{Revision: rev, By: who, Label: edit.Label, Changes: changes})
	}
	info := releaseInfo(r)
	e.newest.Store(info)
	run(released)
	return info, nil
}

func (w *Wording) check() error {
	if len([]rune(w.Note)) > mostNote {
		return refused("a note has at most %d characters", mostNote)
	}
	return nil
}

// Return makes a release of what an earlier one was; the draft stays as it is. fits is
// asked before anything is kept; run puts it to work.
func (e *Edits) Return(ctx context.Context, who access.Actor, number int64, words Wording, fits func(*project.Project) error,
	run func(*project.Project)) (*ReleaseInfo, error) {
	e.changing.Lock()
	defer e.changing.Unlock()
	if err := words.check(); err != nil {
		return nil, err
	}
	if newest := e.ReleaseInfo(); newest != nil && newest.Number == number {
		return nil, refused("release %d is what runs", number)
	}
	r, err := e.store.ReleaseOf(ctx, number)
	if errors.Is(err, store.ErrNotFound) {
		return nil, refused("there is no release %d", number)
	}
	if err != nil {
		return nil, err
	}
	released, err := readRelease(r.Archive)
	if err != nil {
		return nil, say.Errorf("release %d: %w", number, err)
	}
	if err := fits(released); err != nil {
		return nil, err
	}
	r.Again, r.At, r.Person, r.Note, r.Signed = number, time.Now().UnixNano(), who.Name, words.Note, words.Signed
	if r.Number, _, err = e.store.Publish(ctx, r, nil, nil); err != nil {
		return nil, say.Errorf("storing the release: %w", err)
	}
	info := releaseInfo(r)
	e.newest.Store(info)
	run(released)
	return info, nil
}

// Releases lists the releases, newest first.
func (e *Edits) Releases(ctx context.Context) ([]ReleaseInfo, error) {
	list, err := e.store.Releases(ctx)
	out := make([]ReleaseInfo, len(list))
	for i, r := range list {
		out[i] = *releaseInfo(r)
	}
	return out, err
}
