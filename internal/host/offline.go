package host

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/edit"
	"readyrail/internal/exchange"
	"readyrail/internal/store"
)

// Offline is a project's draft without a server around it, for commands.
type Offline struct {
	edits *edit.Edits
	lock  *os.File
}

// OpenOffline opens a project of a data folder. To write takes the folder's
// lock, so that no server runs on it meanwhile.
func OpenOffline(dir, id string, write bool) (*Offline, error) {
	path := filepath.Join(dir, "projects", id)
	if id == "" || id != filepath.Base(id) || id == ".." {
		return nil, refused("%q is no project's id", id)
	}
	if _, err := os.Stat(filepath.Join(path, "project.db")); err != nil {
		return nil, refused("there is no project %s in %s", id, dir)
	}
	o := &Offline{edits: edit.New(edit.Options{})}
	if write {
		var err error
		if o.lock, err = lockFolder(dir); err != nil {
			return nil, err
		}
	}
	if err := o.edits.Open(context.Background(), path); err != nil {
		o.Close()
		return nil, say.Errorf("project %s: %w", id, err)
	}
	return o, nil
}

// Close lets the folder go.
func (o *Offline) Close() {
	o.edits.Close()
	if o.lock != nil {
		o.lock.Close()
	}
}

// Draft is the draft as it was when it was opened, and with what Import did.
func (o *Offline) Draft() *project.Project { return o.edits.Draft() }

// Import brings in lines as one change, kept under the person "command line".
func (o *Offline) Import(ctx context.Context, lines []exchange.Line, take func(*exchange.Line) bool) (applied int, err error) {
	if o.lock == nil {
		return 0, say.New("the project was opened for reading")
	}
	ops := exchange.Ops(lines, o.Draft(), take, store.NewID)
	for _, op := range ops {
		if op.Kind == project.KindTag {
			applied++
		}
	}
	changes, err := o.edits.Edit(ctx, Actor{ID: "command line"}, fmt.Sprintf("bring in %d tags", applied), ops)
	if err != nil || len(changes) == 0 {
		return 0, err
	}
	return applied, nil
}

// DraftVersion names the draft among a project's versions.
const DraftVersion = edit.DraftVersion

// Version is a version of the project: the draft, or a release by its number.
func (o *Offline) Version(ctx context.Context, name string) (*project.Project, error) {
	p, _, err := o.edits.Version(ctx, name)
	return p, err
}

// ProjectsIn lists the ids of the projects of a data folder.
func ProjectsIn(dir string) (ids []string, err error) {
	entries, err := os.ReadDir(filepath.Join(dir, "projects"))
	if err != nil {
		return nil, say.Errorf("%s is no data folder", dir)
	}
	for _, e := range entries {
		if _, err := os.Stat(filepath.Join(dir, "projects", e.Name(), "project.db")); err == nil {
			ids = append(ids, e.Name())
		}
	}
	return ids, nil
}
