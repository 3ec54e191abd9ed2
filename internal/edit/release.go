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
	return &ReleaseInfo{r.Number, time.Unix(0, r.At), r.Person, r.Note, r.Hash, r.Change}
}

// Publish makes a release of the draft. adopting says what the draft takes over
// with it, or what stands against it, before anything is kept; run puts what was
// released to work, before the next edit begins.
func (e *Edits) Publish(ctx context.Context, who access.Actor, note string, adopting func() ([]project.Op, error),
	run func(*project.Project)) (*ReleaseInfo, error) {
	e.changing.Lock()
	defer e.changing.Unlock()
	if len([]rune(note)) > mostNote {
		return nil, refused("a note has at most %d characters", mostNote)
	}
	adopted, err := adopting()
	if err != nil {
		return nil, err
	}
	next, changes, err := e.Draft().Edit(adopted)
	if err != nil {
		return nil, err
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
	r := store.Release{At: time.Now().UnixNano(), Person: who.Name, Note: note, Change: e.Revision(), Hash: hash, Archive: archive}
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

// Releases lists the releases, newest first.
func (e *Edits) Releases(ctx context.Context) ([]ReleaseInfo, error) {
	list, err := e.store.Releases(ctx)
	out := make([]ReleaseInfo, len(list))
	for i, r := range list {
		out[i] = *releaseInfo(r)
	}
	return out, err
}
