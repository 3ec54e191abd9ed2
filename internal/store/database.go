package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"path/filepath"
	"readyrail/internal/core/say"

	"github.com/jmoiron/sqlx"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// database is one file with one writer and several readers: writers queue here
// and not in SQLite's busy loop, and a long read holds up no write. A read sees
// what was committed before it began.
type database struct {
	writer, readers *sqlx.DB
	reserve         *Reserve // given up where the disk is full; nil for none
	// yields says that what is written here can wait: it leaves the room of the
	// reserve, once that is given up, to what cannot.
	yields bool
}

// ErrFull is wrapped by every write that the disk had no room for; nothing of it
// was kept.
var ErrFull = say.New("the disk of the server is full: nothing was changed; make room there")

// longestLog is how many pages the log of writes has at most before a write
// folds it in itself; whoever minds a database folds it in earlier.
const longestLog = 20_000

// mostReaders is how many reads of one database go on at once.
const mostReaders = 4

// durability of a database's commits.
type durability string

const (
	normal durability = "NORMAL" // may lose the last commits with the power, never half of one
	full   durability = "FULL"   // on disk before the commit returns
)

// open opens a database and brings it to the present version.
func open(path, kind string, d durability, r *Reserve) (*database, error) {
	if err := writable(filepath.Dir(path)); err != nil {
		return nil, err
	}
	db := &database{reserve: r}
	var err error
	if db.writer, err = connect(path, 1, "journal_mode(WAL)", "synchronous("+string(d)+")",
		fmt.Sprintf("wal_autocheckpoint(%d)", longestLog)); err != nil {
		return nil, err
	}
	if err := migrate(db.writer.DB, path, kind); err != nil {
		db.writer.Close()
		return nil, err
	}
	if db.readers, err = connect(path, mostReaders, "query_only(1)"); err != nil {
		db.writer.Close()
		return nil, err
	}
	return db, nil
}

func connect(path string, most int, pragmas ...string) (*sqlx.DB, error) {
	q := url.Values{"_pragma": append(pragmas, "busy_timeout(5000)", "foreign_keys(1)"), "_txlock": {"immediate"}}
	db, err := sqlx.Open("sqlite", "file:"+path+"?"+q.Encode())
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(most)
	db.SetMaxIdleConns(most)
	return db, nil
}

// Close closes both.
func (d *database) Close() error { return errors.Join(d.readers.Close(), d.writer.Close()) }

// Fold folds the log of writes in, as far as no reader needs it. Writes go on
// meanwhile.
func (d *database) Fold(ctx context.Context) error {
	_, err := d.readers.ExecContext(ctx, "PRAGMA wal_checkpoint(PASSIVE)")
	if isFull(err) {
		return say.Errorf("%w (%w)", ErrFull, err)
	}
	return err
}

// CopyTo writes the database, as it stands at one moment, to a file that is not there
// yet. Other writers wait meanwhile; the room that is held back is not used for it.
func (d *database) CopyTo(ctx context.Context, path string) error {
	_, err := d.writer.ExecContext(ctx, "VACUUM INTO ?", path)
	if isFull(err) {
		return say.Errorf("%w (%w)", ErrFull, err)
	}
	return err
}

// SelectContext reads rows into a slice.
func (d *database) SelectContext(ctx context.Context, into any, query string, args ...any) error {
	return d.readers.SelectContext(ctx, into, query, args...)
}

// GetContext reads one row; sql.ErrNoRows where there is none.
func (d *database) GetContext(ctx context.Context, into any, query string, args ...any) error {
	return d.readers.GetContext(ctx, into, query, args...)
}

// QueryxContext reads row by row. The caller closes the rows soon: what is read
// keeps the log of writes from being folded in.
func (d *database) QueryxContext(ctx context.Context, query string, args ...any) (*sqlx.Rows, error) {
	return d.readers.QueryxContext(ctx, query, args...)
}

// ExecContext writes by one statement.
func (d *database) ExecContext(ctx context.Context, query string, args ...any) (r sql.Result, err error) {
	err = d.withRoom(func() error { r, err = d.writer.ExecContext(ctx, query, args...); return err })
	return r, err
}

// NamedExecContext writes by one statement with named arguments.
func (d *database) NamedExecContext(ctx context.Context, query string, arg any) (r sql.Result, err error) {
	err = d.withRoom(func() error { r, err = d.writer.NamedExecContext(ctx, query, arg); return err })
	return r, err
}

// inTx runs f in a transaction. Where the disk is full f runs again once the
// reserve has been given up, so it keeps nothing of a first run.
func inTx(ctx context.Context, d *database, f func(*sqlx.Tx) error) error {
	return d.withRoom(func() error {
		tx, err := d.writer.BeginTxx(ctx, nil)
		if err != nil {
			return err
		}
		if err := f(tx); err != nil {
			if undo := tx.Rollback(); undo != nil {
				err = errors.Join(err, undo)
			}
			return err
		}
		return tx.Commit()
	})
}

// withRoom writes, and once more with the room of the reserve where the disk
// was full.
func (d *database) withRoom(write func() error) error {
	if d.yields && d.reserve.GivenUp() {
		return ErrFull
	}
	err := write()
	if isFull(err) && !d.yields && d.reserve.giveUp() {
		err = write()
	}
	if isFull(err) {
		return say.Errorf("%w (%w)", ErrFull, err)
	}
	return err
}

// isFull tells whether a disk was full.
func isFull(err error) bool {
	var e *sqlite.Error
	return errors.As(err, &e) && e.Code()&0xff == sqlite3.SQLITE_FULL
}

// isTaken tells whether a value was refused that has to be unique.
func isTaken(err error) bool {
	var e *sqlite.Error
	return errors.As(err, &e) && e.Code() == sqlite3.SQLITE_CONSTRAINT_UNIQUE
}
