package edit

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// DraftVersion names the draft among a project's versions; a release is named by its
// number, and the newest by none.
const DraftVersion = "draft"

// Version reads a version of the project by its name, and up to which edit it has
// everything.
func (e *Edits) Version(ctx context.Context, name string) (p *project.Project, upTo int64, err error) {
	if name == DraftVersion {
		return e.Draft(), e.Revision(), nil
	}
	number := int64(0)
	if name != "" {
		number, err = strconv.ParseInt(name, 10, 64)
	} else if newest := e.ReleaseInfo(); newest != nil {
		number = newest.Number
	}
	if err != nil {
		return nil, 0, refused("a version is draft, or the number of a release, not %q", name)
	}
	r, err := e.store.ReleaseOf(ctx, number)
	if errors.Is(err, store.ErrNotFound) {
		return nil, 0, refused("there is no release %d", number)
	}
	if err != nil {
		return nil, 0, err
	}
	p, err = readRelease(r.Archive)
	return p, r.Change, err
}

// EditedBy tells who edited which things between two edits, the latest last; by the ids
// of people.
func (e *Edits) EditedBy(ctx context.Context, after, upTo int64) (map[project.Thing][]string, error) {
	const atOnce = 500
	out := map[project.Thing][]string{}
	for {
		list, err := e.store.ChangesAfter(ctx, after, atOnce)
		if err != nil {
			return nil, err
		}
		for i := range list {
			c := &list[i]
			if after = c.ID; c.ID > upTo {
				return out, nil
			}
			if c.State != "done" {
				continue
			}
			changes, err := c.Decode()
			if err != nil {
				return nil, err
			}
			for _, x := range changes {
				t := project.Thing{Kind: x.Kind, ID: x.ID}
				by := slices.DeleteFunc(out[t], func(id string) bool { return id == c.Person })
				out[t] = append(by, c.Person)
			}
		}
		if len(list) < atOnce {
			return out, nil
		}
	}
}

// Take gives things of the draft the form that they have in another version, as an edit
// that can be taken back.
func (e *Edits) Take(ctx context.Context, who access.Actor, version string, things []project.Thing) (changes []project.Change, err error) {
	if version == DraftVersion {
		return nil, refused("things of the draft are taken from a release")
	}
	other, _, err := e.Version(ctx, version)
	if err != nil {
		return nil, err
	}
	e.changing.Lock()
	defer e.changing.Unlock()
	next, changes, err := e.Draft().Take(other, things)
	if err != nil || len(changes) == 0 {
		return nil, err
	}
	if err := e.may(ctx, who, next); err != nil {
		return nil, err
	}
	label := fmt.Sprintf("take %d things from release %s", len(things), version)
	if len(things) == 1 {
		name := cmp.Or(other.NameOf(things[0]), e.Draft().NameOf(things[0]))
		label = fmt.Sprintf("take %s from release %s", name, version)
	}
	return changes, e.keep(ctx, who, label, next, changes)
}
