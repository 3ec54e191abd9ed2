package store

import (
	"context"
	"os"
	"path/filepath"
	"strings"

	"github.com/jmoiron/sqlx"
)

// Logs are a project's logs.db: how its logs stand and their spans. What a log
// keeps lies in a folder of its own beside it.
type Logs struct {
	db      *database
	dir     string
	reserve *Reserve
}

// LogState is how a log was left by who had it in hand last.
type LogState struct {
	ID       string `db:"id"`
	Name     string `db:"name"`
	State    string `db:"state"`
	Person   string `db:"person"`
	At       int64  `db:"at"`
	Exported int64  `db:"exported"`
	Upto     int64  `db:"upto"`
}

// States of a log.
const (
	LogOn   = "on"
	LogOff  = "off"
	LogFull = "full"
)

// LogSpan is a part of a log that has a name, or a mark in it.
type LogSpan struct {
	Seq    int64  `db:"seq"`
	Log    string `db:"log"`
	Of     string `db:"of"`
	Name   string `db:"name"`
	Began  int64  `db:"began"`
	Ended  *int64 `db:"ended"`
	Mark   bool   `db:"mark"`
	Person string `db:"person"`
	Note   string `db:"note"`
	// Written tells that it was written out as a file of its own and verified.
	Written bool `db:"written"`
}

// OpenLogs opens logs.db in a project's folder.
func OpenLogs(dir string, r *Reserve) (*Logs, error) {
	db, err := open(filepath.Join(dir, "logs.db"), "logs", full, r)
	if err != nil {
		return nil, err
	}
	db.yields = true
	return &Logs{db, filepath.Join(dir, "logs"), r}, nil
}

// Close closes the database.
func (l *Logs) Close() error { return l.db.Close() }

// Fold folds the log of writes in, so that no write has to.
func (l *Logs) Fold(ctx context.Context) error { return l.db.Fold(ctx) }

// Samples opens what a log keeps.
func (l *Logs) Samples(id string) (*Samples, error) {
	return OpenSamples(filepath.Join(l.dir, safeName(id)), l.reserve)
}

// Drop forgets what a log keeps, and its spans; its samples are closed.
func (l *Logs) Drop(ctx context.Context, id string) error {
	if err := os.RemoveAll(filepath.Join(l.dir, safeName(id))); err != nil {
		return err
	}
	return inTx(ctx, l.db, func(tx *sqlx.Tx) error {
		for _, query := range []string{"DELETE FROM span WHERE log = ?", "DELETE FROM log WHERE id = ?"} {
			if _, err := tx.ExecContext(ctx, query, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// safeName is a thing's id as the name of a folder: never empty, and never one
// that leads elsewhere. Ids are letters, digits and marks that no path knows, but
// whoever asks may send others.
func safeName(id string) string {
	return "_" + strings.Map(func(r rune) rune {
		if r == '/' || r == '\\' || r == 0 || r == ':' {
			return '_'
		}
		return r
	}, id)
}

// States lists how logs were left, by id.
func (l *Logs) States(ctx context.Context) (map[string]LogState, error) {
	var rows []LogState
	if err := l.db.SelectContext(ctx, &rows, "SELECT * FROM log"); err != nil {
		return nil, err
	}
	out := make(map[string]LogState, len(rows))
	for _, r := range rows {
		out[r.ID] = r
	}
	return out, nil
}

// Put keeps how a log stands.
func (l *Logs) Put(ctx context.Context, s LogState) error {
	_, err := l.db.NamedExecContext(ctx, `INSERT OR REPLACE INTO log (id, name, state, person, at, exported, upto)
		VALUES (:id, :name, :state, :person, :at, :exported, :upto)`, s)
	return err
}

// AddSpan keeps a span or a mark and tells its number.
func (l *Logs) AddSpan(ctx context.Context, s LogSpan) (int64, error) {
	r, err := l.db.NamedExecContext(ctx, `INSERT INTO span (log, of, name, began, ended, mark, person, note)
		VALUES (:log, :of, :name, :began, :ended, :mark, :person, :note)`, s)
	if err != nil {
		return 0, err
	}
	return r.LastInsertId()
}

// EndSpan ends a span.
func (l *Logs) EndSpan(ctx context.Context, seq, at int64) error {
	_, err := l.db.ExecContext(ctx, "UPDATE span SET ended = max(began, ?) WHERE seq = ? AND ended IS NULL", at, seq)
	return err
}

// NoteSpan gives a span of a log its note.
func (l *Logs) NoteSpan(ctx context.Context, log string, seq int64, note string) error {
	r, err := l.db.ExecContext(ctx, "UPDATE span SET note = ? WHERE seq = ? AND log = ?", note, seq, log)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return ErrNotFound
	}
	return nil
}

// OpenSpans lists the spans of a log that last yet, oldest first.
func (l *Logs) OpenSpans(ctx context.Context, log string) ([]LogSpan, error) {
	out := []LogSpan{}
	return out, l.db.SelectContext(ctx, &out, "SELECT * FROM span WHERE log = ? AND ended IS NULL ORDER BY seq", log)
}

// Spans lists a log's spans and marks whose names or notes have a text, newest
// first, from before a number; 0 for the newest. Where of is given they are those
// of that equipment.
func (l *Logs) Spans(ctx context.Context, log, of, text string, before int64, limit int) ([]LogSpan, error) {
	out := []LogSpan{}
	query, args := "SELECT * FROM span WHERE log = ?", []any{log}
	if before > 0 {
		query, args = query+" AND seq < ?", append(args, before)
	}
	if of != "" {
		query, args = query+" AND of = ?", append(args, of)
	}
	if text != "" {
		query += ` AND (name LIKE ? ESCAPE '\' OR note LIKE ? ESCAPE '\')`
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(text) + "%"
		args = append(args, like, like)
	}
	return out, l.db.SelectContext(ctx, &out, query+" ORDER BY seq DESC LIMIT ?", append(args, limit)...)
}

// Unwritten lists the spans of a log that were not written out yet as files of
// their own, in order of their begins; those that last have no end.
func (l *Logs) Unwritten(ctx context.Context, log string) ([]LogSpan, error) {
	out := []LogSpan{}
	return out, l.db.SelectContext(ctx, &out, "SELECT * FROM span WHERE log = ? AND NOT mark AND NOT written ORDER BY began, seq", log)
}

// SpanWritten says that a span was written out.
func (l *Logs) SpanWritten(ctx context.Context, seq int64) error {
	_, err := l.db.ExecContext(ctx, "UPDATE span SET written = 1 WHERE seq = ?", seq)
	return err
}

// PruneSpans forgets the spans of a log that ended before a time.
func (l *Logs) PruneSpans(ctx context.Context, log string, before int64) error {
	_, err := l.db.ExecContext(ctx, "DELETE FROM span WHERE log = ? AND ended < ?", log, before)
	return err
}
