package store

import (
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
)

// Audit is audit.db: the trail, which only grows.
type Audit struct {
	db   *database
	keys audit.Ring
	key  []byte // the one of them that seals

	// insert appends a record; it is prepared once, as a person's press waits for
	// it.
	insert *sqlx.Stmt

	mu   sync.Mutex
	seq  int64
	hash []byte
	open map[int64]bool // intents without an outcome
	// closed is the number up to which every intent has its outcome.
	closed int64
	sealed int64 // the number of the end that is kept

	dir         string
	closingPart sync.Mutex
	walks       sync.RWMutex // shared by who walks the records; nothing is taken away meanwhile
	base        atomic.Int64 // number of the last record of the newest part that was closed
	takenTo     atomic.Int64 // number up to which records of such parts are known to be gone
}

// auditHead is the end of the chain as it is kept beside it.
type auditHead struct {
	Seq    int64  `db:"seq"`
	Closed int64  `db:"closed"`
	Seal   []byte `db:"seal"`
}

// OpenAudit opens audit.db in a project's folder; keys seal the records, and a trail that
// an older one of them sealed goes over to the newest. Where
// the end of the chain is not the one that was sealed, that is recorded, and
// Verify says so from then on.
func OpenAudit(dir string, keys audit.Ring, r *Reserve) (*Audit, error) {
	path := filepath.Join(dir, "audit.db")
	before := version(path)
	db, err := open(path, "audit", full, r)
	if err != nil {
		return nil, err
	}
	a := &Audit{db: db, keys: keys, key: keys.Newest(), open: map[int64]bool{}, dir: dir}
	if err := a.prepare(); err != nil {
		db.Close()
		return nil, err
	}
	ctx := context.Background()
	if err := a.begin(ctx, before == 1); err != nil {
		db.Close()
		return nil, err
	}
	if err := a.goOver(ctx); err != nil {
		db.Close()
		return nil, err
	}
	return a, nil
}

func (a *Audit) prepare() (err error) {
	a.insert, err = a.db.writer.Preparex(`INSERT INTO record (seq, at, what, person, name, panel, screen, element, tag, path, old, new,
		outcome, reason, sign, captured, intent, key, hash) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`)
	return err
}

// begin finds the end of the chain. A trail from before heads were kept has
// none yet.
func (a *Audit) begin(ctx context.Context, headless bool) error {
	var last audit.Record
	if err := notFound(a.db.GetContext(ctx, &last, "SELECT * FROM record ORDER BY seq DESC LIMIT 1")); err != nil && err != ErrNotFound {
		return err
	}
	a.seq, a.hash = last.Seq, last.Hash
	parts, err := a.Parts(ctx)
	if err != nil {
		return err
	}
	if n := len(parts); n > 0 {
		a.base.Store(parts[n-1].Last)
	}
	var head auditHead
	err = notFound(a.db.GetContext(ctx, &head, "SELECT seq, closed, seal FROM head"))
	if err != nil && err != ErrNotFound {
		return err
	}
	missing := err == ErrNotFound
	sealed := false
	if !missing {
		// Records that came after it was sealed, within a second, may follow.
		var at audit.Record
		if err := notFound(a.db.GetContext(ctx, &at, "SELECT * FROM record WHERE seq = ?", head.Seq)); err != nil && err != ErrNotFound {
			return err
		}
		sealed = at.Seq == head.Seq && a.sealedBy(head, at.Hash)
	}
	if sealed || missing {
		if err := a.keyAfter(ctx, head.Seq, missing); err != nil {
			return err
		}
	}
	if sealed {
		a.closed, a.sealed = head.Closed, head.Seq
	}
	left, err := a.Open(ctx)
	if err != nil {
		return err
	}
	for _, r := range left {
		a.open[r.Seq] = true
	}
	switch {
	case missing && last.Seq == 0:
		// A crash may come before the first record is a second old.
		return a.keepHead(ctx, 0, 0, nil)
	case sealed, missing && headless:
		return nil
	}
	says := "the end of the trail is not the one that was sealed"
	if head.Seq > last.Seq {
		says = fmt.Sprintf("records %d to %d were taken out", last.Seq+1, head.Seq)
	}
	if _, err := a.Append(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Tampered, Name: "Ready Rail", Reason: says}); err != nil {
		return err
	}
	return a.SealEnd(ctx)
}

// SealEnd keeps the end of the chain beside it, sealed. It is called once a
// second and at the end: a press does not wait for it.
func (a *Audit) SealEnd(ctx context.Context) error {
	a.mu.Lock()
	seq, closed, hash, sealed := a.seq, a.closed, a.hash, a.sealed
	a.mu.Unlock()
	if seq == sealed {
		return nil
	}
	err := a.keepHead(ctx, seq, closed, hash)
	if err == nil {
		a.mu.Lock()
		a.sealed = seq
		a.mu.Unlock()
	}
	return err
}

func (a *Audit) keepHead(ctx context.Context, seq, closed int64, hash []byte) error {
	_, err := a.db.ExecContext(ctx, "INSERT OR REPLACE INTO head (one, seq, closed, seal) VALUES (1, ?, ?, ?)", seq, closed,
		audit.HeadSeal(a.key, seq, closed, hash))
	return err
}

// Fold folds the log of writes in, so that no write has to, and takes some records of
// closed parts away.
func (a *Audit) Fold(ctx context.Context) error { return errors.Join(a.takeAway(ctx), a.db.Fold(ctx)) }

// Close seals the end of the chain and closes the database.
func (a *Audit) Close() error {
	return errors.Join(a.SealEnd(context.Background()), a.insert.Close(), a.db.Close())
}

// Append seals a record and commits it to disk before it returns. The key of an intent is taken once: audit.ErrTaken.
func (a *Audit) Append(ctx context.Context, r audit.Record) (audit.Record, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	r.Seal(a.key, a.seq, a.hash)
	err := a.db.withRoom(func() error { return insertRecord(ctx, a.insert, &r) })
	if isTaken(err) {
		return r, audit.ErrTaken
	}
	if err != nil {
		return r, err
	}
	a.took(&r)
	return r, nil
}

// AppendAll is Append of several, all of them or none, in one commit.
func (a *Audit) AppendAll(ctx context.Context, list []audit.Record) ([]audit.Record, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	list = slices.Clone(list)
	seq, hash := a.seq, a.hash
	for i := range list {
		list[i].Seal(a.key, seq, hash)
		seq, hash = list[i].Seq, list[i].Hash
	}
	err := inTx(ctx, a.db, func(tx *sqlx.Tx) error {
		insert := tx.StmtxContext(ctx, a.insert)
		for i := range list {
			if err := insertRecord(ctx, insert, &list[i]); err != nil {
				return err
			}
		}
		return nil
	})
	if isTaken(err) {
		return list, audit.ErrTaken
	}
	if err != nil {
		return list, err
	}
	for i := range list {
		a.took(&list[i])
	}
	return list, nil
}

func insertRecord(ctx context.Context, insert *sqlx.Stmt, r *audit.Record) error {
	_, err := insert.ExecContext(ctx, r.Seq, r.At, r.What, r.Person, r.Name, r.Panel, r.Screen, r.Element, r.Tag, r.Path, r.Old,
		r.New, r.Outcome, r.Reason, r.Sign, r.Captured, r.Intent, r.Key, r.Hash)
	return err
}

// took moves the end of the chain to a record that is on disk.
func (a *Audit) took(r *audit.Record) {
	a.closed = a.closing(r)
	a.seq, a.hash = r.Seq, r.Hash
	switch r.What {
	case audit.Intent:
		a.open[r.Seq] = true
	case audit.Outcome:
		delete(a.open, r.Intent)
	}
}

// closing is up to where every intent has its outcome once r is kept. It looks
// through what is open only when the oldest of it gets its outcome.
func (a *Audit) closing(r *audit.Record) int64 {
	others := len(a.open)
	if r.What == audit.Outcome && a.open[r.Intent] {
		others--
	}
	switch {
	case others == 0 && r.What == audit.Intent:
		return r.Seq - 1
	case others == 0:
		return r.Seq
	case r.What != audit.Outcome || r.Intent != a.closed+1:
		return a.closed
	}
	least := r.Seq
	for seq := range a.open {
		if seq != r.Intent {
			least = min(least, seq)
		}
	}
	return least - 1
}

// Before is how many records lie in parts that were closed.
func (a *Audit) Before() int64 { return a.base.Load() }

// End is the number and hash of the newest record.
func (a *Audit) End() (seq int64, hash []byte) {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.seq, a.hash
}

// Each hands over every record as it is kept, from the first on after the parts that were
// closed.
func (a *Audit) Each(ctx context.Context, do func(*audit.Record) error) error {
	a.walks.RLock()
	defer a.walks.RUnlock()
	return a.each(ctx, a.base.Load(), do)
}

func (a *Audit) each(ctx context.Context, after int64, do func(*audit.Record) error) error {
	for {
		var list []audit.Record
		err := atLeisure(ctx, func() (err error) {
			list, err = a.between(ctx, after, math.MaxInt64, chunk)
			return err
		})
		if err != nil {
			return err
		}
		for i := range list {
			if err := do(&list[i]); err != nil {
				return err
			}
			after = list[i].Seq
		}
		if len(list) < chunk {
			return nil
		}
	}
}

// between reads the records after a number up to another one, at most limit. A walk
// through millions is why it takes the columns one by one.
func (a *Audit) between(ctx context.Context, after, to int64, limit int) ([]audit.Record, error) {
	rows, err := a.db.QueryxContext(ctx, `SELECT seq, at, what, person, name, panel, screen, element, tag, path, old, new, outcome,
		reason, sign, captured, intent, key, hash FROM record WHERE seq > ? AND seq <= ? ORDER BY seq LIMIT ?`, after, to, limit)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	list := make([]audit.Record, 0, limit)
	for rows.Next() {
		list = list[:len(list)+1]
		r := &list[len(list)-1]
		if err := rows.Scan(&r.Seq, &r.At, &r.What, &r.Person, &r.Name, &r.Panel, &r.Screen, &r.Element, &r.Tag, &r.Path, &r.Old, &r.New,
			&r.Outcome, &r.Reason, &r.Sign, &r.Captured, &r.Intent, &r.Key, &r.Hash); err != nil {
			return nil, err
		}
	}
	return list, rows.Err()
}

const (
	// outside is how many parts are read at once where no server waits for the disk or
	// a processor, and aside how many records each of them has.
	outside = 2
	aside   = 2000
)

// eachSideBySide is each where nobody waits meanwhile.
func (a *Audit) eachSideBySide(ctx context.Context, after int64, do func(*audit.Record) error) error {
	next := func(after int64) (to int64, err error) {
		err = a.db.GetContext(ctx, &to, `SELECT coalesce(max(seq), ?) FROM (SELECT seq FROM record WHERE seq > ? ORDER BY seq LIMIT ?)`,
			after, after, aside)
		return to, err
	}
	read := func(after, to int64) ([]audit.Record, error) { return a.between(ctx, after, to, aside) }
	return sideBySide(ctx, after, outside, next, read, func(list []audit.Record) error {
		for i := range list {
			if err := do(&list[i]); err != nil {
				return err
			}
		}
		return nil
	})
}

// Verify walks the whole chain; the error is an *audit.Broken where it does
// not hold. It returns the number of records that do. The verifier may have heads to
// compare with; its key is set here.
func (a *Audit) Verify(ctx context.Context, v *audit.Verifier) (n int64, err error) {
	if err := a.SealEnd(ctx); err != nil {
		return 0, err
	}
	return a.verify(ctx, v, a.each)
}

// VerifyTrail is Verify of a project's folder, which is only read; a server may have
// it open. It returns the parts that were closed, too, and checks the files of those that
// are still there.
func VerifyTrail(ctx context.Context, dir string, keys audit.Ring, v *audit.Verifier) (n int64, parts []audit.Part, err error) {
	path := filepath.Join(dir, "audit.db")
	if _, err := os.Stat(path); err != nil {
		return 0, nil, say.Errorf("there is no trail: %w", err)
	}
	readers, err := connect(path, 2*outside, "query_only(1)")
	if err != nil {
		return 0, nil, err
	}
	defer readers.Close()
	a := &Audit{db: &database{readers: readers}, keys: keys}
	if n, err = a.verify(ctx, v, a.eachSideBySide); err != nil {
		return n, nil, err
	}
	if parts, err = a.Parts(ctx); err != nil {
		return n, nil, err
	}
	return n, parts, partFiles(dir, parts)
}

// verify walks by a function that hands over every record after a number in order.
func (a *Audit) verify(ctx context.Context, v *audit.Verifier,
	each func(context.Context, int64, func(*audit.Record) error) error) (n int64, err error) {
	a.walks.RLock()
	defer a.walks.RUnlock()
	v.Keys = a.keys
	var head auditHead
	if err := notFound(a.db.GetContext(ctx, &head, "SELECT seq, closed, seal FROM head")); err != nil && err != ErrNotFound {
		return 0, err
	}
	v.Head(head.Seq, head.Closed, head.Seal)
	parts, err := a.Parts(ctx)
	if err != nil {
		return 0, err
	}
	if err := v.After(parts); err != nil {
		return 0, err
	}
	after := int64(0)
	if k := len(parts); k > 0 {
		after = parts[k-1].Last
	}
	err = each(ctx, after, func(r *audit.Record) error {
		if err := v.Next(r); err != nil {
			return err
		}
		if n++; n%chunk == 0 && v.Told != nil {
			v.Told(n)
		}
		return nil
	})
	if err != nil {
		return n, err
	}
	return n, v.End()
}

// chunk is how many records are read, or looked through, at a time: a short
// read keeps no write's log from being folded in, and no processor for long.
const chunk = 100

// Open lists the intents that have no outcome, as after a crash.
func (a *Audit) Open(ctx context.Context) ([]audit.Record, error) {
	out := []audit.Record{}
	return out, a.db.SelectContext(ctx, &out, `SELECT * FROM record r WHERE seq > ? AND what = 'intent'
		AND NOT EXISTS (SELECT 1 FROM record o WHERE o.intent = r.seq AND o.intent > 0 AND o.what = 'outcome') ORDER BY seq`, a.closed)
}
