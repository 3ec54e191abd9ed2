package store

import (
	"context"
	"path/filepath"
	"sync"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/audit"
)

// Audit is audit.db: the trail, which only grows.
type Audit struct {
	db  *sqlx.DB
	key []byte

	mu   sync.Mutex
	seq  int64
	hash []byte
}

// OpenAudit opens audit.db in a project's folder; key seals the records.
func OpenAudit(dir string, key []byte) (*Audit, error) {
	db, err := open(filepath.Join(dir, "audit.db"), "audit", full)
	if err != nil {
		return nil, err
	}
	a := &Audit{db: db, key: key}
	var last audit.Record
	err = notFound(db.Get(&last, "SELECT * FROM record ORDER BY seq DESC LIMIT 1"))
	if err != nil && err != ErrNotFound {
		db.Close()
		return nil, err
	}
	a.seq, a.hash = last.Seq, last.Hash
	return a, nil
}

// Close closes the database.
func (a *Audit) Close() error { return a.db.Close() }

// Append seals a record and commits it to disk before it returns.
func (a *Audit) Append(ctx context.Context, r audit.Record) (audit.Record, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	r.Seal(a.key, a.seq, a.hash)
	_, err := a.db.NamedExecContext(ctx, `INSERT INTO record (seq, at, what, person, name, panel, screen, element, tag, path, old, new, outcome, reason, intent, key, hash)
		VALUES (:seq, :at, :what, :person, :name, :panel, :screen, :element, :tag, :path, :old, :new, :outcome, :reason, :intent, :key, :hash)`, r)
	if err != nil {
		return r, err
	}
	a.seq, a.hash = r.Seq, r.Hash
	return r, nil
}

// Verify walks the whole chain; the error is an *audit.Broken where it does
// not hold. It returns the number of records that do.
func (a *Audit) Verify(ctx context.Context) (n int64, err error) {
	rows, err := a.db.QueryxContext(ctx, "SELECT * FROM record ORDER BY seq")
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	v := audit.Verifier{Key: a.key}
	for rows.Next() {
		var r audit.Record
		if err := rows.StructScan(&r); err != nil {
			return n, err
		}
		if err := v.Next(&r); err != nil {
			return n, err
		}
		n++
	}
	return n, rows.Err()
}

// List returns a page of the trail, newest first, outcomes folded into their
// intents. before is a record number, 0 for the newest page.
func (a *Audit) List(ctx context.Context, before int64, limit int, text string) ([]audit.Record, error) {
	out := []audit.Record{}
	if before == 0 {
		before = 1 << 62
	}
	like := "%" + text + "%"
	return out, a.db.SelectContext(ctx, &out, `SELECT r.seq, r.at, r.what, r.person, r.name, r.panel, r.screen, r.element, r.tag, r.path, r.old, r.new,
		coalesce(o.outcome, r.outcome) AS outcome, CASE WHEN coalesce(o.reason, '') = '' THEN r.reason WHEN r.reason = '' THEN o.reason ELSE r.reason || ' · ' || o.reason END AS reason, r.intent, r.key, r.hash
		FROM record r LEFT JOIN record o ON o.intent = r.seq AND r.what = 'intent'
		WHERE r.what <> 'outcome' AND r.seq < ? AND (? = '' OR r.path LIKE ? OR r.name LIKE ? OR r.panel LIKE ? OR r.screen LIKE ?)
		ORDER BY r.seq DESC LIMIT ?`, before, text, like, like, like, like, limit)
}

// Open lists the intents that have no outcome, as after a crash.
func (a *Audit) Open(ctx context.Context) ([]audit.Record, error) {
	out := []audit.Record{}
	return out, a.db.SelectContext(ctx, &out, `SELECT * FROM record r WHERE what = 'intent'
		AND NOT EXISTS (SELECT 1 FROM record o WHERE o.intent = r.seq) ORDER BY seq`)
}

// HasKey tells whether a command with this key was taken before.
func (a *Audit) HasKey(ctx context.Context, key string) (found bool, err error) {
	return found, a.db.GetContext(ctx, &found, "SELECT count(*) > 0 FROM record WHERE key = ? AND what = 'intent'", key)
}
