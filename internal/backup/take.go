package backup

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"filippo.io/age"

	"readyrail/internal/core/say"
	"readyrail/internal/machine"
)

// Options say how a backup is taken.
type Options struct {
	Version string
	To      age.Recipient // whom it is encrypted for; nil for nobody
	// Keys tells whether the server's own keys go along. Without them the vault of what
	// is brought back opens nothing, and its trails are proved by nobody.
	Keys bool
	// Skip are paths in the data folder, with slashes, that stay out with all below them.
	Skip []string
	// Taken is called once every database is as it will be in the backup.
	Taken func()
}

// Files of a data folder that are no part of what is kept.
var volatile = []string{"lock", "reserve"}

// taking is one backup under way.
type taking struct {
	Options
	data, into string
	m          Manifest
}

// Take copies a data folder into a folder of backups; a server may work on it. It returns
// the new backup's list, or nothing is left of it.
func Take(ctx context.Context, data, dir string, o Options) (*Manifest, error) {
	name := nameOf(time.Now())
	// Backups that lie in the folder are no part of it.
	if within, err := filepath.Rel(data, dir); err == nil && filepath.IsLocal(within) {
		if within == "." {
			return nil, say.New("backups have a folder of their own, and not that of the data")
		}
		o.Skip = append(o.Skip, filepath.ToSlash(within))
	}
	whole := filepath.Join(dir, name)
	if _, err := os.Stat(whole); err == nil {
		return nil, say.Errorf("there is already a backup %s: wait a second", name)
	}
	t := &taking{Options: o, data: data, into: whole + partEnding}
	t.m = Manifest{Format: format, Version: o.Version, Sealed: o.To != nil, name: name}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, say.Errorf("the folder for backups cannot be made: %w", err)
	}
	if err := os.Mkdir(t.into, 0o700); err != nil {
		return nil, say.Errorf("the folder for backups cannot be written to: %w", err)
	}
	err := t.take(ctx)
	if err == nil {
		err = errors.Join(os.Rename(t.into, whole), syncFolder(dir))
	}
	if err != nil {
		err = errors.Join(inWords(err), os.RemoveAll(t.into))
		return nil, err
	}
	return &t.m, nil
}

// inWords says of a full disk that it is.
func inWords(err error) error {
	if machine.Full(err) {
		return say.Errorf("the disk of the backups is full: make room there, or keep fewer (%w)", err)
	}
	return err
}

func (t *taking) take(ctx context.Context) error {
	var databases, heads, others []string
	err := filepath.WalkDir(t.data, func(full string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		path := t.relative(full)
		switch {
		case t.stays(path):
			if d.IsDir() {
				return filepath.SkipDir
			}
		case !d.Type().IsRegular():
		case strings.HasSuffix(path, ".db"):
			databases = append(databases, path)
		case strings.HasSuffix(path, "/heads.txt"):
			heads = append(heads, path)
		default:
			others = append(others, path)
		}
		return nil
	})
	if err != nil {
		return err
	}
	// What lies beside a database is copied before it where the database must have all that
	// it tells of, and after it where it tells of what the database has.
	if err := t.copyFiles(ctx, heads); err != nil {
		return err
	}
	if err := t.copyDatabases(ctx, databases); err != nil {
		return err
	}
	if err := t.copyFiles(ctx, others); err != nil {
		return err
	}
	slices.SortFunc(t.m.Files, func(a, b File) int { return strings.Compare(a.Path, b.Path) })
	w, err := create(filepath.Join(t.into, listFile), t.To)
	if err != nil {
		return err
	}
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	return errors.Join(enc.Encode(t.m), w.Close())
}

func (t *taking) relative(full string) string {
	path, err := filepath.Rel(t.data, full)
	if err != nil {
		return full
	}
	return filepath.ToSlash(path)
}

// stays tells what stays out.
func (t *taking) stays(path string) bool {
	for _, ending := range []string{"-wal", "-shm", "-journal", partEnding, ".next"} {
		if strings.HasSuffix(path, ending) {
			return true
		}
	}
	return slices.Contains(volatile, path) || slices.Contains(t.Skip, path) || !t.Keys && isKey(path)
}

// isKey tells whether a file is one of the server's own keys.
func isKey(path string) bool {
	return !strings.Contains(path, "/") && (strings.HasSuffix(path, ".key") || path == "audit.sign")
}

// copyDatabases takes every database at its present state, and then copies them one after
// the other. A trail is taken before what it tells of: the server brings up what a trail
// missed when it starts, as after a crash, and nothing makes up for what it tells too much.
func (t *taking) copyDatabases(ctx context.Context, paths []string) error {
	slices.SortStableFunc(paths, func(a, b string) int { return cmp.Compare(order(a), order(b)) })
	var held []*snapshot
	defer func() {
		for _, s := range held {
			if s != nil {
				s.Close() // it was only read
			}
		}
	}()
	for _, path := range paths {
		s, err := snap(ctx, filepath.Join(t.data, filepath.FromSlash(path)))
		if errors.Is(err, os.ErrNotExist) {
			continue // a month that was let go meanwhile
		}
		if err != nil {
			return say.Errorf("%s cannot be read: %w", path, err)
		}
		held = append(held, s)
	}
	t.m.At = time.Now()
	if t.Taken != nil {
		t.Taken()
	}
	for i, s := range held {
		if err := t.copyDatabase(ctx, s); err != nil {
			return say.Errorf("%s cannot be copied: %w", t.relative(s.path), err)
		}
		held[i] = nil
		if err := s.Close(); err != nil {
			return err
		}
	}
	return nil
}

func order(path string) int {
	if strings.HasSuffix(path, "/audit.db") {
		return 0
	}
	return 1
}

func (t *taking) copyDatabase(ctx context.Context, s *snapshot) error {
	path := t.relative(s.path)
	into := filepath.Join(t.into, filepath.FromSlash(path))
	if err := os.MkdirAll(filepath.Dir(into), 0o700); err != nil {
		return err
	}
	plain := into
	if t.To != nil {
		plain += partEnding
		defer os.Remove(plain)
	}
	if err := s.copyTo(ctx, plain); err != nil {
		return err
	}
	rows, err := s.rows(ctx)
	if err != nil {
		return err
	}
	f := File{Path: path, Rows: rows}
	if t.To == nil {
		f.Bytes, f.SHA256, err = copyInto(ctx, io.Discard, plain)
	} else {
		f.Bytes, f.SHA256, err = t.copyFile(ctx, plain, into)
	}
	t.m.Files = append(t.m.Files, f)
	return err
}

func (t *taking) copyFiles(ctx context.Context, paths []string) error {
	for _, path := range paths {
		native := filepath.FromSlash(path)
		bytes, sum, err := t.copyFile(ctx, filepath.Join(t.data, native), filepath.Join(t.into, native))
		if errors.Is(err, os.ErrNotExist) {
			continue // a file that was written out and taken away meanwhile
		}
		if err != nil {
			return say.Errorf("%s cannot be copied: %w", path, err)
		}
		t.m.Files = append(t.m.Files, File{Path: path, Bytes: bytes, SHA256: sum})
	}
	return nil
}

func (t *taking) copyFile(ctx context.Context, from, into string) (bytes int64, sum string, err error) {
	if _, err := os.Stat(from); err != nil {
		return 0, "", err
	}
	w, err := create(into, t.To)
	if err != nil {
		return 0, "", err
	}
	bytes, sum, err = copyInto(ctx, w, from)
	return bytes, sum, errors.Join(err, w.Close())
}

// copyInto copies a file and tells its size and SHA-256.
func copyInto(ctx context.Context, w io.Writer, path string) (bytes int64, sum string, err error) {
	f, err := os.Open(path)
	if err != nil {
		return 0, "", err
	}
	defer f.Close()
	return hashed(ctx, w, f)
}

// readAtOnce is how many bytes of a file are read before a rest.
const readAtOnce = 4 << 20

// hashed copies what is read in parts, and tells its size and SHA-256.
func hashed(ctx context.Context, w io.Writer, r io.Reader) (bytes int64, sum string, err error) {
	hash := sha256.New()
	bytes, err = io.CopyBuffer(io.MultiWriter(w, hash), unhurried{ctx, r}, make([]byte, readAtOnce))
	return bytes, hex.EncodeToString(hash.Sum(nil)), err
}

// unhurried reads with a rest in between, until its context is over.
type unhurried struct {
	ctx context.Context
	io.Reader
}

func (u unhurried) Read(b []byte) (int, error) {
	if err := u.ctx.Err(); err != nil {
		return 0, err
	}
	time.Sleep(rest)
	return u.Reader.Read(b)
}

func syncFolder(dir string) error {
	f, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}
