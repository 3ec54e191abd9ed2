package edit

import (
	"context"
	"errors"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// ErrNothing says that there is nothing to undo or redo.
var ErrNothing = refused("there is nothing to take back")

// Undo takes the person's last change back; Redo brings it again. They return
// what the change was called.
func (e *Edits) Undo(ctx context.Context, who access.Actor) (label string, err error) {
	return e.step(ctx, who, e.store.LastDone, "undone", func(changes []project.Change) []project.Change { return changes })
}

// Redo brings back what was undone last.
func (e *Edits) Redo(ctx context.Context, who access.Actor) (label string, err error) {
	return e.step(ctx, who, e.store.FirstUndone, "done", inverse)
}

// step takes the changes of a person's edit back, each as turned makes it.
func (e *Edits) step(ctx context.Context, who access.Actor, find func(context.Context, string) (store.Change, error), state string,
	turned func([]project.Change) []project.Change) (string, error) {
	e.changing.Lock()
	defer e.changing.Unlock()
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
	next, back, err := e.Draft().Revert(turned(changes))
	if err == nil {
		err = e.may(ctx, who, next)
	}
	if err != nil {
		return "", err
	}
	if err := e.store.Mark(ctx, c.ID, state, touched(next, back)); err != nil {
		return "", err
	}
	e.adopt(next, e.Revision(), Made{Revision: c.ID, By: who, Label: c.Label, State: state, Changes: back})
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
