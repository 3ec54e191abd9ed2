package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"path/filepath"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/project"
)

// Project is project.db: the draft, what changed it, and the releases.
type Project struct{ db *database }

// OpenProject opens project.db in a project's folder.
func OpenProject(dir string, r *Reserve) (*Project, error) {
	db, err := open(filepath.Join(dir, "project.db"), "project", full, r)
	if err != nil {
		return nil, err
	}
	db.yields = true
	return &Project{db}, nil
}

// Fold folds the log of writes in, so that no write has to.
func (p *Project) Fold(ctx context.Context) error { return p.db.Fold(ctx) }

// Close closes the database.
func (p *Project) Close() error { return p.db.Close() }

// Load reads the draft; ErrNotFound when there is none yet.
func (p *Project) Load(ctx context.Context) ([]project.Entity, error) {
	var out []project.Entity
	err := p.Each(ctx, func(list []project.Entity) { out = append(out, list...) })
	return out, err
}

// batch is how many things are handed over at once.
const batch = 500

// batchBytes is what a batch of usual things takes.
const batchBytes = batch * 256

// Each hands over the things of the draft in batches, while the rest is read;
// ErrNotFound where there are none. A batch stays as it is.
func (p *Project) Each(ctx context.Context, do func([]project.Entity)) error {
	rows, err := p.db.QueryxContext(ctx, "SELECT kind, id, doc FROM entity")
	if err != nil {
		return err
	}
	defer rows.Close()
	list := make([]project.Entity, 0, batch)
	docs := make([]byte, 0, batchBytes) // of the batch, one after the other
	none := true
	var doc sql.RawBytes
	for rows.Next() {
		var e project.Entity
		if err := rows.Scan(&e.Kind, &e.ID, &doc); err != nil {
			return err
		}
		from := len(docs)
		docs = append(docs, doc...)
		e.Doc = docs[from:len(docs):len(docs)]
		list = append(list, e)
		if len(list) == batch {
			do(list)
			none, list, docs = false, make([]project.Entity, 0, batch), make([]byte, 0, batchBytes)
		}
	}
	if len(list) > 0 {
		do(list)
		none = false
	}
	if err := rows.Err(); err != nil {
		return err
	}
	if none {
		return ErrNotFound
	}
	return nil
}

// Init writes a whole draft into an empty database.
func (p *Project) Init(ctx context.Context, entities []project.Entity) error {
	return inTx(ctx, p.db, func(tx *sqlx.Tx) error { return putEntities(tx, entities) })
}

func putEntities(tx *sqlx.Tx, entities []project.Entity) error {
	put, err := tx.Prepare("INSERT INTO entity (kind, id, doc) VALUES (?, ?, ?) ON CONFLICT (kind, id) DO UPDATE SET doc = excluded.doc")
	if err != nil {
		return err
	}
	defer put.Close()
	for _, e := range entities {
		if e.Doc == nil {
			if _, err := tx.Exec("DELETE FROM entity WHERE kind = ? AND id = ?", e.Kind, e.ID); err != nil {
				return err
			}
			continue
		}
		if _, err := put.Exec(e.Kind, e.ID, []byte(e.Doc)); err != nil {
			return err
		}
	}
	return nil
}

// Change is one edit as it is kept.
type Change struct {
	ID      int64  `db:"id"`
	At      int64  `db:"at"` // nanoseconds since 1970
	Person  string `db:"person"`
	Label   string `db:"label"`
	Changes []byte `db:"changes"` // JSON of []project.Change
	State   string `db:"state"`
}

// Decode returns the steps of the change.
func (c *Change) Decode() (out []project.Change, err error) {
	return out, json.Unmarshal(c.Changes, &out)
}

// Save stores an edit: the things it touched (a nil Doc deletes) and the edit
// itself, in one transaction. What the person had undone can't be redone any
// more.
func (p *Project) Save(ctx context.Context, c Change, touched []project.Entity) (id int64, err error) {
	err = inTx(ctx, p.db, func(tx *sqlx.Tx) error {
		id, err = saveChange(tx, c, touched)
		return err
	})
	return id, err
}

func saveChange(tx *sqlx.Tx, c Change, touched []project.Entity) (id int64, err error) {
	if err := putEntities(tx, touched); err != nil {
		return 0, err
	}
	if _, err := tx.Exec("UPDATE change SET state = 'gone' WHERE person = ? AND state = 'undone'", c.Person); err != nil {
		return 0, err
	}
	r, err := tx.NamedExec("INSERT INTO change (at, person, label, changes) VALUES (:at, :person, :label, :changes)", c)
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

// LastDone finds the newest change of a person that can be undone.
func (p *Project) LastDone(ctx context.Context, person string) (Change, error) {
	var c Change
	return c, notFound(p.db.GetContext(ctx, &c, "SELECT * FROM change WHERE person = ? AND state = 'done' ORDER BY id DESC LIMIT 1", person))
}

// FirstUndone finds the oldest undone change of a person, the next to redo.
func (p *Project) FirstUndone(ctx context.Context, person string) (Change, error) {
	var c Change
	return c, notFound(p.db.GetContext(ctx, &c, "SELECT * FROM change WHERE person = ? AND state = 'undone' ORDER BY id LIMIT 1", person))
}

// Mark turns a change undone or done again, with the things it touched.
func (p *Project) Mark(ctx context.Context, id int64, state string, touched []project.Entity) error {
	return inTx(ctx, p.db, func(tx *sqlx.Tx) error {
		if err := putEntities(tx, touched); err != nil {
			return err
		}
		_, err := tx.Exec("UPDATE change SET state = ? WHERE id = ?", state, id)
		return err
	})
}

// ChangesAfter lists at most so many edits that were made after one, oldest first.
func (p *Project) ChangesAfter(ctx context.Context, id int64, most int) ([]Change, error) {
	out := []Change{}
	return out, p.db.SelectContext(ctx, &out, "SELECT * FROM change WHERE id > ? ORDER BY id LIMIT ?", id, most)
}

// Revision is the id of the newest change, 0 for none.
func (p *Project) Revision(ctx context.Context) (id int64, err error) {
	return id, p.db.GetContext(ctx, &id, "SELECT coalesce(max(id), 0) FROM change")
}

// Release is one release; List leaves the archive out.
type Release struct {
	Number  int64  `db:"number"`
	At      int64  `db:"at"`
	Person  string `db:"person"`
	Note    string `db:"note"`
	Change  int64  `db:"change"` // the newest change it holds
	Hash    string `db:"hash"`
	Signed  string `db:"signed"` // who signed it, with what meaning
	Again   int64  `db:"again"`  // number of the release that it brings back; 0 for the draft
	Archive []byte `db:"archive"`
}

// Publish stores a release and returns its number; with the edit that it makes
// to the draft, where there is one, in the same transaction. rev is the edit's
// number then.
func (p *Project) Publish(ctx context.Context, r Release, c *Change, touched []project.Entity) (number, rev int64, err error) {
	err = inTx(ctx, p.db, func(tx *sqlx.Tx) error {
		if c != nil {
			if rev, err = saveChange(tx, *c, touched); err != nil {
				return err
			}
			r.Change = rev
		}
		res, err := tx.NamedExec(`INSERT INTO release (at, person, note, change, hash, signed, again, archive)
			VALUES (:at, :person, :note, :change, :hash, :signed, :again, :archive)`, r)
		if err != nil {
			return err
		}
		number, err = res.LastInsertId()
		return err
	})
	return number, rev, err
}

const releaseColumns = "number, at, person, note, change, hash, signed, again"

// Releases lists the releases, newest first.
func (p *Project) Releases(ctx context.Context) ([]Release, error) {
	out := []Release{}
	return out, p.db.SelectContext(ctx, &out, "SELECT "+releaseColumns+" FROM release ORDER BY number DESC")
}

// LastRelease returns the newest release with its archive.
func (p *Project) LastRelease(ctx context.Context) (Release, error) {
	var r Release
	return r, notFound(p.db.GetContext(ctx, &r, "SELECT * FROM release ORDER BY number DESC LIMIT 1"))
}

// ReleaseOf returns a release by its number, with its archive.
func (p *Project) ReleaseOf(ctx context.Context, number int64) (Release, error) {
	var r Release
	return r, notFound(p.db.GetContext(ctx, &r, "SELECT * FROM release WHERE number = ?", number))
}
