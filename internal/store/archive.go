package store

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/value"
)

// Archive is a part of the journal that was written out, sealed with its hash.
type Archive struct {
	ID      int64  `db:"id" json:"id"`
	File    string `db:"file" json:"file"` // name in the project's archive folder
	Hash    string `db:"hash" json:"hash"` // SHA-256 of the file
	Entries int64  `db:"entries" json:"entries"`
	First   int64  `db:"first" json:"first"` // numbers of the entries
	Last    int64  `db:"last" json:"last"`
	At      int64  `db:"at" json:"at"` // nanoseconds since 1970, UTC
	Person  string `db:"person" json:"person"`
	Reason  string `db:"reason" json:"reason"`
}

// archiveDir is where archives lie, in a project's folder.
const archiveDir = "archive"

// Archive writes every entry out with its comments, seals the file with its hash,
// and begins the journal anew with first, whose text becomes the file's name
// and hash. Entries that come meanwhile are the new journal's. Nothing is
// forgotten before the file is on the disk; then it is no longer listed, and
// Prune takes it away. The numbers of entries go on. ErrNotFound where there is
// nothing to write out.
func (j *Journal) Archive(ctx context.Context, at time.Time, person, reason string, first Entry) (Archive, error) {
	a := Archive{At: at.UnixNano(), Person: person, Reason: reason}
	if err := j.db.GetContext(ctx, &a.Last, "SELECT coalesce(max(seq), 0) FROM entry"); err != nil {
		return a, err
	}
	if a.Last <= j.archived.Load() {
		return a, ErrNotFound
	}
	a.File = "journal-" + at.UTC().Format("20060102-150405") + ".zip"
	var err error
	a.Hash, err = writeSealed(filepath.Join(j.dir, archiveDir), a.File, func(w io.Writer) error { return j.writeArchive(ctx, w, &a) })
	if err != nil {
		return a, err
	}
	first.Text = a.File + " " + a.Hash
	err = inTx(ctx, j.db, func(tx *sqlx.Tx) error {
		r, err := tx.NamedExecContext(ctx, "INSERT INTO archive (file, hash, entries, first, last, at, person, reason) VALUES (:file, :hash, :entries, :first, :last, :at, :person, :reason)", a)
		if err != nil {
			return err
		}
		if a.ID, err = r.LastInsertId(); err != nil {
			return err
		}
		_, err = tx.NamedExecContext(ctx, insertEntry, first)
		return err
	})
	if err == nil {
		j.archived.Store(a.Last)
	}
	return a, err
}

// writeArchive writes the entries and their comments as a file of lists.
func (j *Journal) writeArchive(ctx context.Context, w io.Writer, a *Archive) error {
	z := zip.NewWriter(w)
	if err := j.writeEntries(ctx, z, a); err != nil {
		return err
	}
	comments := []Comment{}
	if err := j.db.SelectContext(ctx, &comments, "SELECT entry, at, person, text FROM comment WHERE entry > ? AND entry <= ? ORDER BY id",
		j.archived.Load(), a.Last); err != nil {
		return err
	}
	err := csvFile(z, "comments.csv", []string{"entry", "time", "who", "text"}, func(line func(...string) error) error {
		for _, c := range comments {
			if err := line(strconv.FormatInt(c.Entry, 10), stamp(c.At), c.Person, c.Text); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return z.Close()
}

func (j *Journal) writeEntries(ctx context.Context, z *zip.Writer, a *Archive) error {
	header := []string{"number", "time", "kind", "what", "alarm", "name", "area", "class", "priority", "state", "text", "value", "limit",
		"who", "panel", "reason"}
	return csvFile(z, "journal.csv", header, func(line func(...string) error) error {
		for after := j.archived.Load(); ; {
			list := []Entry{}
			if err := j.db.SelectContext(ctx, &list, "SELECT * FROM entry WHERE seq > ? AND seq <= ? ORDER BY seq LIMIT ?", after, a.Last,
				chunk); err != nil {
				return err
			}
			for _, e := range list {
				if a.Entries++; a.First == 0 {
					a.First = e.Seq
				}
				after = e.Seq
				err := line(strconv.FormatInt(e.Seq, 10), stamp(e.At), e.Kind, e.What, e.Alarm, e.Name, e.Area, e.Class, strconv.Itoa(e.Priority),
					e.State, e.Text, e.Value,
					e.Bound, e.Person, e.Panel, e.Reason)
				if err != nil {
					return err
				}
			}
			if len(list) < chunk {
				return nil
			}
		}
	})
}

func stamp(nanos int64) string { return time.Unix(0, nanos).UTC().Format(time.RFC3339Nano) }

func csvFile(z *zip.Writer, name string, header []string, each func(line func(...string) error) error) error {
	f, err := z.Create(name)
	if err != nil {
		return err
	}
	w := csv.NewWriter(f)
	line := func(cells ...string) error {
		for i := range cells {
			cells[i] = value.Inert(cells[i])
		}
		return w.Write(cells)
	}
	if err := line(header...); err != nil {
		return err
	}
	if err := each(line); err != nil {
		return err
	}
	w.Flush()
	return w.Error()
}

// Archives lists what was written out, newest first.
func (j *Journal) Archives(ctx context.Context) ([]Archive, error) {
	out := []Archive{}
	return out, j.db.SelectContext(ctx, &out, "SELECT * FROM archive ORDER BY id DESC")
}

// OpenArchive reads an archive's file; whole tells whether it still has the
// hash that it was sealed with. ErrNotFound where there is no such archive.
func (j *Journal) OpenArchive(ctx context.Context, id int64) (a Archive, data []byte, whole bool, err error) {
	if err := j.db.GetContext(ctx, &a, "SELECT * FROM archive WHERE id = ?", id); err != nil {
		return a, nil, false, notFound(err)
	}
	// The name was made by Archive and holds no folder.
	if data, err = os.ReadFile(filepath.Join(j.dir, archiveDir, filepath.Base(a.File))); err != nil {
		return a, nil, false, err
	}
	sum := sha256.Sum256(data)
	return a, data, hex.EncodeToString(sum[:]) == a.Hash, nil
}

// Entry returns one entry; ErrNotFound where there is none.
func (j *Journal) Entry(ctx context.Context, seq int64) (e Entry, err error) {
	return e, notFound(j.db.GetContext(ctx, &e, "SELECT * FROM entry WHERE seq = ?", seq))
}
