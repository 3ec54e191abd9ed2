package backup

import (
	"context"
	"database/sql"
	"errors"
	"io"
	"maps"
	"os"
	"path/filepath"
	"strings"

	"readyrail/internal/core/say"
)

// Restore brings a backup into a data folder that is not there, or empty. Every file is
// compared with what the list says of it, every database is read through and its rows are
// counted, before the folder has its name; nothing is left where one is not as it was.
func Restore(ctx context.Context, from, data string, key Identity) (*Manifest, error) {
	if left, err := os.ReadDir(data); err == nil && len(left) > 0 {
		return nil, say.Errorf("the folder %s is not empty: a backup is brought back into a new one", data)
	}
	return restore(ctx, from, data, key, func(path string) (string, bool) { return path, true })
}

// RestoreProject brings one project of a backup into a folder that is not there.
func RestoreProject(ctx context.Context, from, project, into string, key Identity) (*Manifest, error) {
	if _, err := os.Stat(into); err == nil {
		return nil, say.Errorf("there is already a project in %s", filepath.Base(into))
	}
	prefix := "projects/" + project + "/"
	m, err := restore(ctx, from, into, key, func(path string) (string, bool) { return strings.CutPrefix(path, prefix) })
	if err == nil && len(m.Files) == 0 {
		err = say.Errorf("the backup has no project %s", project)
	}
	return m, err
}

func restore(ctx context.Context, from, into string, key Identity, placed func(path string) (string, bool)) (*Manifest, error) {
	m, err := Read(ctx, from, key)
	if err != nil {
		return nil, err
	}
	into = filepath.Clean(into)
	if err := os.MkdirAll(filepath.Dir(into), 0o700); err != nil {
		return nil, err
	}
	part, err := os.MkdirTemp(filepath.Dir(into), filepath.Base(into)+partEnding)
	if err != nil {
		return nil, err
	}
	brought := *m
	brought.Files = nil
	for _, f := range m.Files {
		place, wanted := placed(f.Path)
		if !wanted {
			continue
		}
		if err = bring(ctx, from, f, filepath.Join(part, filepath.FromSlash(place)), key); err != nil {
			err = say.Errorf("%s: %w", f.Path, err)
			break
		}
		brought.Files = append(brought.Files, f)
	}
	if err == nil && len(brought.Files) > 0 {
		if err = os.Remove(into); errors.Is(err, os.ErrNotExist) {
			err = nil // an empty folder makes room
		}
		err = errors.Join(err, os.Rename(part, into))
	}
	if err != nil {
		return nil, errors.Join(inWords(err), os.RemoveAll(part))
	}
	return &brought, os.RemoveAll(part)
}

// bring copies a file out of a backup and proves it.
func bring(ctx context.Context, from string, f File, into string, key Identity) error {
	r, err := opened(from, f.Path, key)
	if err != nil {
		return err
	}
	defer r.Close()
	if err := os.MkdirAll(filepath.Dir(into), 0o700); err != nil {
		return err
	}
	w, err := os.OpenFile(into, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	n, sum, err := hashed(ctx, w, io.LimitReader(r, f.Bytes+1))
	if err := errors.Join(err, w.Sync(), w.Close()); err != nil {
		return err
	}
	if n != f.Bytes || sum != f.SHA256 {
		return say.New("it is not as it was when the backup was taken")
	}
	if f.Rows == nil {
		return nil
	}
	return prove(ctx, into, f.Rows)
}

// prove opens a database, reads it through and counts its rows.
func prove(ctx context.Context, path string, rows map[string]int64) (err error) {
	db, err := sql.Open("sqlite", "file:"+path+"?_pragma=query_only(1)")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	var said string
	if err := db.QueryRowContext(ctx, "PRAGMA quick_check(1)").Scan(&said); err != nil {
		return err
	}
	if said != "ok" {
		return say.Errorf("the database is damaged: %s", said)
	}
	now, err := rowsOf(ctx, db)
	if err == nil && !maps.Equal(now, rows) {
		return say.New("it does not have as many rows as when the backup was taken")
	}
	return err
}
