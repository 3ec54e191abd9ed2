package host

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"time"

	"readyrail/internal/backup"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/edit"
	"readyrail/internal/store"
)

// Restored tells what a backup brought back.
type Restored struct {
	At       time.Time // when it was taken
	Version  string    // by which program
	Bytes    int64
	Projects []RestoredProject
	// Keyless says that the server's own keys are not in it.
	Keyless bool
}

// RestoredProject is a project that was brought back, as it was proved.
type RestoredProject struct {
	ID, Name string
	Things   int   // tags, screens, alarms and all else that it is built of
	Records  int64 // of its trail
	Trail    error // why its trail is not whole
}

// Restore brings a backup into a data folder that is not there, or empty, and proves it:
// files, databases and rows as the backup's list has them, every project as it is read at
// a start, every trail. No device is asked. Sessions ended, and every trail will say from
// which time it is. Nothing is left where it fails.
func Restore(ctx context.Context, from, data string, key backup.Identity) (*Restored, error) {
	m, err := backup.Restore(ctx, from, data, key)
	if err != nil {
		return nil, err
	}
	out := &Restored{At: m.At, Version: m.Version, Bytes: m.Bytes()}
	if err := out.prove(ctx, data, m); err != nil {
		return nil, errors.Join(err, os.RemoveAll(data))
	}
	return out, nil
}

// RestoreProject brings one project of a backup back into a data folder that no longer has
// it, and proves it. No server may run on the folder. A trail that another server sealed
// is not whole here.
func RestoreProject(ctx context.Context, from, id, data string, key backup.Identity) (*Restored, error) {
	if err := isDataFolder(data); err != nil {
		return nil, err
	}
	if id != filepath.Base(id) || id == "." || id == ".." {
		return nil, say.Errorf("%q is no project's id", id)
	}
	lock, err := lockFolder(data)
	if err != nil {
		return nil, err
	}
	defer lock.Close()
	into := filepath.Join(data, "projects", id)
	m, err := backup.RestoreProject(ctx, from, id, into, key)
	if err != nil {
		return nil, err
	}
	out := &Restored{At: m.At, Version: m.Version, Bytes: m.Bytes()}
	p, err := proveProject(ctx, data, id)
	if err != nil {
		return nil, errors.Join(say.Errorf("project %s of the backup cannot be opened: %w", id, err), os.RemoveAll(into))
	}
	state, broken := verifyBrought(ctx, data, id)
	p.Records, p.Trail = state.Records, broken
	out.Projects = append(out.Projects, p)
	server, err := store.OpenServer(data, nil)
	if err == nil {
		err = errors.Join(owe(ctx, server, owed{audit.Backup, id + " brought back from the backup of " + m.At.UTC().Format(time.RFC3339)}),
			server.Close())
	}
	return out, err
}

func (r *Restored) prove(ctx context.Context, data string, m *backup.Manifest) (err error) {
	server, err := store.OpenServer(data, nil)
	if err != nil {
		return say.Errorf("the accounts of the backup cannot be opened: %w", err)
	}
	defer func() { err = errors.Join(err, server.Close()) }()
	said := owed{audit.Backup, "brought back from the backup of " + m.At.UTC().Format(time.RFC3339)}
	if err := errors.Join(server.EndSessions(ctx), owe(ctx, server, said)); err != nil {
		return err
	}
	_, err = os.Stat(filepath.Join(data, trailKey))
	r.Keyless = errors.Is(err, os.ErrNotExist)
	for _, id := range m.Projects() {
		p, err := proveProject(ctx, data, id)
		if err != nil {
			return say.Errorf("project %s of the backup cannot be opened: %w", id, err)
		}
		if !r.Keyless {
			state, err := verifyBrought(ctx, data, id)
			p.Records, p.Trail = state.Records, err
		}
		r.Projects = append(r.Projects, p)
	}
	return nil
}

// proveProject reads a project as at a start, without starting it.
func proveProject(ctx context.Context, data, id string) (RestoredProject, error) {
	e := edit.New(edit.Options{})
	defer e.Close()
	if err := e.Open(ctx, filepath.Join(data, "projects", id)); err != nil {
		return RestoredProject{}, err
	}
	return RestoredProject{ID: id, Name: e.Draft().Site().Name, Things: len(e.Draft().Entities())}, nil
}

func verifyBrought(ctx context.Context, data, id string) (TrailState, error) {
	keys, err := ReadPublicKeys(filepath.Join(data, publicKey))
	if err != nil {
		return TrailState{}, err
	}
	return VerifyFolder(ctx, data, id, keys, "", nil)
}
