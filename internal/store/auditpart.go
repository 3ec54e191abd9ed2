package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
)

// Closing a part of the trail: its records go out into a file, which is on the disk
// before anything else; then the trail says so, and then the records are taken away, by
// and by. A crash in between leaves a file too much, or records that are taken away
// later, and never a hole.

// PartWriter writes records, which each hands over in order, and returns nothing less
// than all of them.
type PartWriter func(w io.Writer, each func(do func(*audit.Record) error) error) error

var errClosing = say.New("a part of the trail is being closed already")

// ClosePart writes out every record up to the newest before which nothing is under way,
// by write, and begins the trail anew with first, whose New becomes the file's name and
// hash. ErrNotFound where there is nothing to write out.
func (a *Audit) ClosePart(ctx context.Context, at time.Time, reason string, first audit.Record, write PartWriter) (audit.Part, error) {
	if !a.closingPart.TryLock() {
		return audit.Part{}, errClosing
	}
	defer a.closingPart.Unlock()
	p := audit.Part{First: a.base.Load() + 1, At: at.UnixNano(), Person: first.Name, Reason: reason}
	var err error
	if p.Last, err = a.settled(ctx); err != nil {
		return p, err
	}
	if p.Last < p.First {
		return p, ErrNotFound
	}
	p.Records = p.Last - p.First + 1
	p.File = "trail-" + at.UTC().Format("20060102-150405") + ".trail"
	each := func(do func(*audit.Record) error) error {
		err := a.Each(ctx, func(r *audit.Record) error {
			if r.Seq > p.Last {
				return io.EOF
			}
			p.Chain = r.Hash
			return do(r)
		})
		if errors.Is(err, io.EOF) {
			return nil
		}
		return err
	}
	p.Digest, err = writeSealed(filepath.Join(a.dir, archiveDir), p.File, func(w io.Writer) error { return write(w, each) })
	if err != nil {
		return p, err
	}
	first.Old, first.New = strconv.FormatInt(p.First, 10)+" to "+strconv.FormatInt(p.Last, 10), p.File+" "+p.Digest
	if _, err := a.Append(ctx, first); err != nil {
		return p, err
	}
	if err := a.SealEnd(ctx); err != nil {
		return p, err
	}
	p.Seal(a.key)
	r, err := a.db.NamedExecContext(ctx, `INSERT INTO part (first, last, chain, file, digest, records, at, person, reason, seal)
		VALUES (:first, :last, :chain, :file, :digest, :records, :at, :person, :reason, :seal)`, p)
	if err != nil {
		return p, err
	}
	a.base.Store(p.Last)
	p.ID, err = r.LastInsertId()
	return p, err
}

// settled is the number up to which nothing is under way: no intent waits for its
// outcome, and no outcome that is there already lies after it.
func (a *Audit) settled(ctx context.Context) (int64, error) {
	a.mu.Lock()
	last := a.closed
	a.mu.Unlock()
	for {
		var split int64
		err := a.db.GetContext(ctx, &split, `SELECT coalesce(min(intent), 0) FROM record
			WHERE intent > 0 AND intent <= ? AND seq > ? AND what = 'outcome'`, last, last)
		if err != nil || split == 0 {
			return last, err
		}
		last = split - 1
	}
}

// writeSealed writes a file beside its place and moves it there when it is whole and on
// the disk; it returns the file's SHA-256.
func writeSealed(dir, name string, write func(io.Writer) error) (digest string, err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return "", err
	}
	path := filepath.Join(dir, name)
	if _, err := os.Stat(path); err == nil {
		return "", say.Errorf("there is already an archive %s: wait a second", name)
	}
	f, err := os.OpenFile(path+".part", os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	defer os.Remove(path + ".part")
	defer f.Close()
	sum := sha256.New()
	err = write(io.MultiWriter(f, sum))
	for _, step := range []func() error{f.Sync, f.Close} {
		if err == nil {
			err = step()
		}
	}
	if err != nil {
		return "", err
	}
	return hex.EncodeToString(sum.Sum(nil)), os.Rename(path+".part", path)
}

// Parts lists the parts that were closed, oldest first.
func (a *Audit) Parts(ctx context.Context) ([]audit.Part, error) {
	out := []audit.Part{}
	err := a.db.SelectContext(ctx, &out, "SELECT * FROM part ORDER BY first")
	if err != nil && strings.Contains(err.Error(), "no such table") {
		return out, nil // a folder of an older server that is only read
	}
	return out, err
}

// PartFile opens the file of a part; whole tells whether it is as it was sealed.
func (a *Audit) PartFile(ctx context.Context, id int64) (p audit.Part, data []byte, whole bool, err error) {
	if err := notFound(a.db.GetContext(ctx, &p, "SELECT * FROM part WHERE id = ?", id)); err != nil {
		return p, nil, false, err
	}
	data, err = os.ReadFile(filepath.Join(a.dir, archiveDir, p.File))
	if errors.Is(err, os.ErrNotExist) {
		return p, nil, false, say.Errorf("%s is no longer in the project's folder of archives", p.File)
	}
	sum := sha256.Sum256(data)
	return p, data, hex.EncodeToString(sum[:]) == p.Digest, err
}

// partFiles checks the files of parts that lie in a project's folder; one may have been
// taken elsewhere, where it is proved by itself.
func partFiles(dir string, parts []audit.Part) error {
	for _, p := range parts {
		f, err := os.Open(filepath.Join(dir, archiveDir, p.File))
		if errors.Is(err, os.ErrNotExist) {
			continue
		}
		if err != nil {
			return err
		}
		sum := sha256.New()
		_, err = io.Copy(sum, f)
		if err := errors.Join(err, f.Close()); err != nil {
			return err
		}
		if hex.EncodeToString(sum.Sum(nil)) != p.Digest {
			return &audit.Broken{Seq: p.First, Reason: p.File + " is not as it was sealed"}
		}
	}
	return nil
}

// takenAtOnce is how many records of closed parts are taken away at a time: a press waits
// no longer for that than for another press.
const takenAtOnce = 1000

// takeAway takes some records of closed parts away.
func (a *Audit) takeAway(ctx context.Context) error {
	if a.takenTo.Load() >= a.base.Load() || !a.walks.TryLock() {
		return nil
	}
	defer a.walks.Unlock()
	r, err := a.db.ExecContext(ctx, "DELETE FROM record WHERE seq IN (SELECT seq FROM record WHERE seq <= ? ORDER BY seq LIMIT ?)",
		a.base.Load(), takenAtOnce)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == takenAtOnce {
		return err
	}
	a.takenTo.Store(a.base.Load())
	return nil
}
