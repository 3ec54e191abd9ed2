// Package backup copies a data folder while a server works on it, and brings such a copy
// back. A backup is a folder laid out as a data folder, with a list of its files beside:
// each database as it stood at one moment, all of them taken within a few milliseconds,
// so that what was answered as done before it began is in it.
package backup

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/say"
)

// format names the form of a list; a newer one is refused.
const format = "ready-rail-backup-1"

const (
	listFile   = "backup.json"
	partEnding = ".part" // behind the name of what is not whole
	sealEnding = ".age"  // behind the name of what is encrypted
	prefix     = "ready-rail-"
)

// Manifest is the list of a backup.
type Manifest struct {
	Format  string    `json:"format"`
	Version string    `json:"version"` // of the program that took it
	At      time.Time `json:"at"`      // when the databases were as they are in it
	Files   []File    `json:"files"`   // by path
	Sealed  bool      `json:"sealed,omitempty"`

	name string
}

// File is a file of a backup, by its path in the data folder with slashes.
type File struct {
	Path   string `json:"path"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"` // in hex, before it was encrypted
	// Rows is how many rows each table of a database has.
	Rows map[string]int64 `json:"rows,omitempty"`
}

// Name is the name of the backup's folder.
func (m *Manifest) Name() string { return m.name }

// Bytes is how much all of it is.
func (m *Manifest) Bytes() (n int64) {
	for _, f := range m.Files {
		n += f.Bytes
	}
	return n
}

// Projects lists the ids of the projects in it.
func (m *Manifest) Projects() (ids []string) {
	for _, f := range m.Files {
		if part := strings.Split(f.Path, "/"); len(part) > 2 && part[0] == "projects" && !slices.Contains(ids, part[1]) {
			ids = append(ids, part[1])
		}
	}
	return ids
}

// check refuses a list that is none, or of a newer form, or that leads elsewhere.
func (m *Manifest) check() error {
	if m.Format != format {
		if strings.HasPrefix(m.Format, "ready-rail-backup-") {
			return say.Errorf("this backup is of the form %s, which a newer Ready Rail reads: this one reads %s", m.Format, format)
		}
		return say.New("this is no list of a backup")
	}
	for _, f := range m.Files {
		if !filepath.IsLocal(filepath.FromSlash(f.Path)) {
			return say.Errorf("the list of the backup names %q, which is outside of it", f.Path)
		}
	}
	return nil
}

// KeptBackup is a backup that lies in a folder.
type KeptBackup struct {
	Name   string    `json:"name" doc:"of its folder"`
	At     time.Time `json:"at"`
	Bytes  int64     `json:"bytes"`
	Sealed bool      `json:"sealed" doc:"it is encrypted"`
}

// List finds the whole backups in a folder, the newest first.
func List(dir string) ([]KeptBackup, error) {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, os.ErrNotExist) {
		return []KeptBackup{}, nil
	}
	if err != nil {
		return nil, err
	}
	out := []KeptBackup{}
	for _, e := range entries {
		at, ok := timeOf(e.Name())
		if !ok || !e.IsDir() {
			continue
		}
		k := KeptBackup{Name: e.Name(), At: at}
		if _, err := os.Stat(filepath.Join(dir, e.Name(), listFile+sealEnding)); err == nil {
			k.Sealed = true
		}
		err := filepath.WalkDir(filepath.Join(dir, e.Name()), func(_ string, d os.DirEntry, err error) error {
			if err != nil || d.IsDir() {
				return err
			}
			about, err := d.Info()
			if err == nil {
				k.Bytes += about.Size()
			}
			return err
		})
		if err != nil {
			return nil, err
		}
		out = append(out, k)
	}
	slices.SortFunc(out, func(a, b KeptBackup) int { return strings.Compare(b.Name, a.Name) })
	return out, nil
}

const nameTime = "20060102-150405"

// nameOf is the name of a backup's folder.
func nameOf(at time.Time) string { return prefix + at.UTC().Format(nameTime) }

func timeOf(name string) (time.Time, bool) {
	text, ok := strings.CutPrefix(name, prefix)
	at, err := time.Parse(nameTime, text)
	return at, ok && err == nil
}

// stale is when what is not whole is nobody's work any more.
const stale = 48 * time.Hour

// Prune takes the oldest backups in a folder away until so many are left, and what a
// server that was killed left of one.
func Prune(dir string, keep int) error {
	if err := pruneParts(dir); err != nil {
		return err
	}
	list, err := List(dir)
	if err != nil {
		return err
	}
	for _, k := range list[min(keep, len(list)):] {
		// Under another name first, so that none that is half gone is taken for one.
		path := filepath.Join(dir, k.Name)
		if err := os.Rename(path, path+partEnding); err != nil {
			return err
		}
		if err := os.RemoveAll(path + partEnding); err != nil {
			return err
		}
	}
	return nil
}

func pruneParts(dir string) error {
	entries, err := os.ReadDir(dir)
	for _, e := range entries {
		at, ok := timeOf(strings.TrimSuffix(e.Name(), partEnding))
		if ok && strings.HasSuffix(e.Name(), partEnding) && time.Since(at) > stale {
			err = errors.Join(err, os.RemoveAll(filepath.Join(dir, e.Name())))
		}
	}
	return err
}

// Read reads the list of a backup; identity opens one that is encrypted.
func Read(ctx context.Context, dir string, key Identity) (*Manifest, error) {
	r, err := opened(dir, listFile, key)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	var m Manifest
	if err := json.NewDecoder(io.LimitReader(r, 64<<20)).Decode(&m); err != nil {
		return nil, say.Errorf("the list of the backup cannot be read: %w", err)
	}
	return &m, m.check()
}
