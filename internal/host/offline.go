package host

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/store"
)

// Offline is a project's draft without a server around it, for commands.
type Offline struct {
	store *store.Project
	lock  *os.File
	draft *project.Project
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
	o := &Offline{}
	var err error
	if write {
		if o.lock, err = lockFolder(dir); err != nil {
			return nil, err
		}
	}
	if o.store, err = store.OpenProject(path, nil); err != nil {
		o.Close()
		return nil, err
	}
	list, err := o.store.Load(context.Background())
	if err == nil {
		o.draft, err = project.Load(list)
	}
	if err != nil {
		o.Close()
		return nil, fmt.Errorf("project %s: %w", id, err)
	}
	return o, nil
}

// Close lets the folder go.
func (o *Offline) Close() {
	if o.store != nil {
		o.store.Close()
	}
	if o.lock != nil {
		o.lock.Close()
	}
}

// Draft is the draft as it was when it was opened, and with what Import did.
func (o *Offline) Draft() *project.Project { return o.draft }

// Import brings in lines as one change, kept under the person "command line".
func (o *Offline) Import(ctx context.Context, lines []exchange.Line, take func(*exchange.Line) bool) (applied int, err error) {
	if o.lock == nil {
		return 0, errors.New("the project was opened for reading")
	}
	ops := exchange.Ops(lines, o.draft, take, newID)
	next, changes, err := o.draft.Edit(ops)
	if err != nil || len(changes) == 0 {
		return 0, err
	}
	doc, err := json.Marshal(changes)
	if err != nil {
		return 0, err
	}
	for _, op := range ops {
		if op.Kind == project.KindTag {
			applied++
		}
	}
	change := store.Change{At: time.Now().UnixNano(), Person: "command line", Label: fmt.Sprintf("bring in %d tags", applied), Changes: doc}
	if _, err := o.store.Save(ctx, change, touched(next, changes)); err != nil {
		return 0, err
	}
	o.draft = next
	return applied, nil
}
