package store

import (
	"context"
	"encoding/json"
	"errors"
	"path/filepath"
	"sync"
	"sync/atomic"

	"github.com/jmoiron/sqlx"
)

// Journal is a project's journal.db: what happened to alarms, events beside
// them, comments, and how each alarm stands. Entries are never changed.
type Journal struct {
	db  *database
	dir string // of the project
	// archived is the number up to which the journal was written out: what of it
	// is still here goes bit by bit.
	archived atomic.Int64
	sure     sync.Mutex
}

// Kinds of entries.
const (
	AlarmEntry   = "alarm"
	SystemEntry  = "system"  // start, stop, release, turns, the journal closed
	LinkEntry    = "link"    // a device's link lost and back
	TroubleEntry = "trouble" // the disk is low, the clock was stepped, a screen has an error
	PersonEntry  = "person"  // sign-in and out, failed
	ActionEntry  = "action"  // what operators did
	EventEntry   = "event"   // what buttons record
	NoteEntry    = "note"    // what people noted of a recorded time: value and bound are its ends in milliseconds
)

// Entry is one line.
type Entry struct {
	Seq      int64  `db:"seq" json:"seq"`
	At       int64  `db:"at" json:"at"` // nanoseconds since 1970, UTC
	Kind     string `db:"kind" json:"kind"`
	What     string `db:"what" json:"what"` // raised, acknowledged, sign-in, …
	Alarm    string `db:"alarm" json:"alarm"`
	Name     string `db:"name" json:"name"` // of the alarm or thing, as it was then
	Area     string `db:"area" json:"area"`
	Class    string `db:"class" json:"class"`
	Priority int    `db:"priority" json:"priority"` // 0 critical to 3 low; -1 for none
	State    string `db:"state" json:"state"`
	Text     string `db:"text" json:"text"`
	Value    string `db:"value" json:"value"`
	Bound    string `db:"bound" json:"bound"`
	Person   string `db:"person" json:"person"`
	Panel    string `db:"panel" json:"panel"`
	Reason   string `db:"reason" json:"reason"`
	Comments int    `db:"comments" json:"comments"`
}

// Comment is what somebody said of an entry.
type Comment struct {
	Entry  int64  `db:"entry" json:"entry"`
	At     int64  `db:"at" json:"at"`
	Person string `db:"person" json:"person"`
	Text   string `db:"text" json:"text"`
}

// OpenJournal opens a project's journal.
func OpenJournal(dir string, r *Reserve) (*Journal, error) {
	db, err := open(filepath.Join(dir, "journal.db"), "journal", normal, r)
	if err != nil {
		return nil, err
	}
	j := &Journal{db: db, dir: dir}
	var last int64
	if err := db.GetContext(context.Background(), &last, "SELECT coalesce(max(last), 0) FROM archive"); err != nil {
		db.Close()
		return nil, err
	}
	j.archived.Store(last)
	return j, nil
}

// Fold folds the log of writes in, so that no write has to.
func (j *Journal) Fold(ctx context.Context) error { return j.db.Fold(ctx) }

// Close closes it.
func (j *Journal) Close() error { return j.db.Close() }

const insertEntry = `INSERT INTO entry (at, kind, what, alarm, name, area, class, priority, state, text, value, bound, person, panel, reason)
	VALUES (:at, :kind, :what, :alarm, :name, :area, :class, :priority, :state, :text, :value, :bound, :person, :panel, :reason)`

// AppendSurely is Append that returns once all that was appended is on disk, a
// power cut included.
func (j *Journal) AppendSurely(ctx context.Context, entries []Entry, standing map[string]json.RawMessage) error {
	j.sure.Lock()
	defer j.sure.Unlock()
	if _, err := j.db.writer.ExecContext(ctx, "PRAGMA synchronous = FULL"); err != nil {
		return err
	}
	err := j.Append(ctx, entries, standing)
	_, back := j.db.writer.ExecContext(ctx, "PRAGMA synchronous = NORMAL")
	return errors.Join(err, back)
}

// Sync brings to disk what was appended, a power cut included: folding the log
// in begins with that.
func (j *Journal) Sync(ctx context.Context) error {
	_, err := j.db.writer.ExecContext(ctx, "PRAGMA wal_checkpoint(PASSIVE)")
	return err
}

// Append keeps entries in their order, with how the alarms stand after them;
// all or nothing.
func (j *Journal) Append(ctx context.Context, entries []Entry, standing map[string]json.RawMessage) error {
	return inTx(ctx, j.db, func(tx *sqlx.Tx) error {
		insert, err := tx.PrepareNamed(insertEntry)
		if err != nil {
			return err
		}
		for _, e := range entries {
			if _, err := insert.Exec(e); err != nil {
				return err
			}
		}
		for alarm, doc := range standing {
			if _, err := tx.Exec("INSERT OR REPLACE INTO standing (alarm, doc) VALUES (?, ?)", alarm, string(doc)); err != nil {
				return err
			}
		}
		return nil
	})
}

// Standing reads how each alarm stood last.
func (j *Journal) Standing(ctx context.Context) (map[string]json.RawMessage, error) {
	var rows []struct{ Alarm, Doc string }
	err := j.db.SelectContext(ctx, &rows, "SELECT alarm, doc FROM standing")
	out := make(map[string]json.RawMessage, len(rows))
	for _, r := range rows {
		out[r.Alarm] = json.RawMessage(r.Doc)
	}
	return out, err
}

// JournalFilter narrows a query; zero fields do not.
type JournalFilter struct {
	Before   int64    // entries before this one, for paging; 0 begins with the newest
	From, To int64    // nanoseconds since 1970
	Kinds    []string // of entries
	Whats    []string
	Priority []int
	Areas    []string
	Alarm    string
	Text     string // in name, text, person or reason
}

// window is how many entries are looked through for one page where no index
// serves the filter; a search goes on from there with the next page.
const window = 100_000

// look is how many of them are looked through at a time.
const look = 10_000

// List returns a page, newest first. next is where the following page goes on,
// as its Before; 0 at the end. A page may be short of its limit, and empty,
// though there are more.
func (j *Journal) List(ctx context.Context, f JournalFilter, limit int) (entries []Entry, next int64, err error) {
	var span struct{ Low, High int64 }
	if err := j.db.GetContext(ctx, &span, "SELECT coalesce((SELECT min(seq) FROM entry), 0) AS low, coalesce((SELECT max(seq) FROM entry), 0) AS high"); err != nil {
		return nil, 0, err
	}
	span.Low = max(span.Low, j.archived.Load()+1)
	before := span.High + 1
	if f.Before > 0 {
		before = min(before, f.Before)
	}
	if f.To > 0 {
		// By the clock, with some to spare: it may have been stepped.
		if err := j.db.GetContext(ctx, &span.High, "SELECT coalesce(max(seq), 0) FROM (SELECT seq FROM entry WHERE at < ? ORDER BY at DESC LIMIT 1000)", f.To); err != nil {
			return nil, 0, err
		}
		before = min(before, span.High+1)
	}
	if f.From > 0 {
		if err := j.db.GetContext(ctx, &span.Low, "SELECT coalesce(min(seq), 0) FROM (SELECT seq FROM entry WHERE at >= ? ORDER BY at LIMIT 1000)", f.From); err != nil {
			return nil, 0, err
		}
		if span.Low == 0 {
			return []Entry{}, 0, nil
		}
		span.Low = max(span.Low, j.archived.Load()+1)
	}
	indexed := f.Text == "" && len(f.Kinds)+len(f.Whats)+len(f.Areas) == 0 && (len(f.Priority) <= 1 || f.Alarm != "")
	low := span.Low
	if indexed {
		entries, err = j.page(ctx, f, low, before, limit)
	} else {
		low = max(low, before-window)
		entries, err = backwards(ctx, low, before, look, limit, func(from, before int64, limit int) ([]Entry, error) {
			return j.page(ctx, f, from, before, limit)
		})
	}
	switch {
	case err != nil:
		return nil, 0, err
	case len(entries) == limit && entries[limit-1].Seq > span.Low:
		next = entries[limit-1].Seq
	case len(entries) < limit && low > span.Low:
		next = low
	}
	return entries, next, nil
}

// page returns the newest entries of a filter within [low, before).
func (j *Journal) page(ctx context.Context, f JournalFilter, low, before int64, limit int) ([]Entry, error) {
	// An alarm's own entries, and those of a priority, are found by their index,
	// which is in the order of the numbers too; the others by the numbers alone.
	from := "entry"
	switch {
	case f.Alarm != "":
		from += " INDEXED BY entry_alarm"
	case len(f.Priority) == 1:
		from += " INDEXED BY entry_priority"
	}
	c := &clauses{}
	c.and("seq >= ? AND seq < ?", low, before)
	// A plus before a column keeps its index out: what is left to look at lies
	// within the range of numbers, and is wanted in their order.
	if f.From > 0 {
		c.and("+at >= ?", f.From)
	}
	if f.To > 0 {
		c.and("+at < ?", f.To)
	}
	if f.Alarm != "" {
		c.and("alarm = ?", f.Alarm)
	}
	in(c, "+kind", f.Kinds)
	in(c, "what", f.Whats)
	if len(f.Priority) == 1 && f.Alarm == "" {
		c.and("priority = ?", f.Priority[0])
	} else {
		in(c, "+priority", f.Priority)
	}
	in(c, "area", f.Areas)
	c.has(f.Text, "name", "text", "person", "reason")
	out := []Entry{}
	return out, j.db.SelectContext(ctx, &out, "SELECT * FROM "+from+" WHERE "+c.String()+" ORDER BY seq DESC LIMIT ?",
		append(c.args, limit)...)
}

// After lists an alarm's entries after one of them, oldest first.
func (j *Journal) After(ctx context.Context, alarm string, seq int64, limit int) ([]Entry, error) {
	out := []Entry{}
	return out, j.db.SelectContext(ctx, &out, "SELECT * FROM entry INDEXED BY entry_alarm WHERE alarm = ? AND seq > ? ORDER BY seq LIMIT ?",
		alarm, seq, limit)
}

// Comment adds a comment to an entry; ErrNotFound where there is none.
func (j *Journal) Comment(ctx context.Context, c Comment) error {
	return inTx(ctx, j.db, func(tx *sqlx.Tx) error {
		r, err := tx.Exec("UPDATE entry SET comments = comments + 1 WHERE seq = ?", c.Entry)
		if err != nil {
			return err
		}
		if n, _ := r.RowsAffected(); n == 0 {
			return ErrNotFound
		}
		_, err = tx.NamedExec("INSERT INTO comment (entry, at, person, text) VALUES (:entry, :at, :person, :text)", c)
		return err
	})
}

// Comments lists those of an entry, oldest first.
func (j *Journal) Comments(ctx context.Context, entry int64) ([]Comment, error) {
	out := []Comment{}
	return out, j.db.SelectContext(ctx, &out, "SELECT entry, at, person, text FROM comment WHERE entry = ? ORDER BY id", entry)
}

// pruneStep is how many entries go at a time, so that a write never waits for
// long.
const pruneStep = 5000

// Prune forgets what was written out, entries from before a time, and the
// oldest beyond a number, in steps; each is a write of its own.
func (j *Journal) Prune(ctx context.Context, before int64, most int64) error {
	var newest int64
	if err := j.db.GetContext(ctx, &newest, "SELECT coalesce(max(seq), 0) FROM entry"); err != nil {
		return err
	}
	for _, step := range []struct {
		which string
		arg   int64
	}{
		{"seq <= ? ORDER BY seq", max(j.archived.Load(), newest-most)},
		{"at < ? ORDER BY at", before},
	} {
		for {
			r, err := j.db.ExecContext(ctx, "DELETE FROM entry WHERE seq IN (SELECT seq FROM entry WHERE "+step.which+" LIMIT ?)", step.arg,
				pruneStep)
			if err != nil {
				return err
			}
			if n, err := r.RowsAffected(); err != nil {
				return err
			} else if n < pruneStep {
				break
			}
		}
	}
	return nil
}

// AlarmEntries hands over every entry of an alarm from a time, in order, to
// each until it returns false.
func (j *Journal) AlarmEntries(ctx context.Context, from, to int64, each func(*Entry) bool) error {
	var low int64
	if err := j.db.GetContext(ctx, &low, "SELECT coalesce(min(seq), 0) FROM (SELECT seq FROM entry WHERE at >= ? ORDER BY at LIMIT 1000)",
		from); err != nil || low == 0 {
		return err
	}
	rows, err := j.db.QueryxContext(ctx, "SELECT at, what, alarm, name, area, priority, state FROM entry WHERE kind = ? AND seq >= ? AND +at >= ? AND +at < ? ORDER BY seq", AlarmEntry, low, from, to)
	if err != nil {
		return err
	}
	defer rows.Close()
	var e Entry
	for rows.Next() {
		if err := rows.Scan(&e.At, &e.What, &e.Alarm, &e.Name, &e.Area, &e.Priority, &e.State); err != nil {
			return err
		}
		if !each(&e) {
			break
		}
	}
	return rows.Err()
}
