package backup

import (
	"context"
	"database/sql"
	"errors"
	"net/url"
	"os"
	"time"

	"modernc.org/sqlite"
)

// snapshot is a database as it stands at one moment, whatever is written to it later.
type snapshot struct {
	path string
	db   *sql.DB
	conn *sql.Conn
}

// snap holds on to the present state of a database; os.ErrNotExist where it went.
func snap(ctx context.Context, path string) (*snapshot, error) {
	// It is opened to write, as the log of writes is shared, and made by nobody here.
	q := url.Values{"mode": {"rw"}, "_pragma": {"query_only(1)", "busy_timeout(5000)"}}
	db, err := sql.Open("sqlite", "file:"+path+"?"+q.Encode())
	if err != nil {
		return nil, err
	}
	s := &snapshot{path: path, db: db}
	if s.conn, err = db.Conn(ctx); err == nil {
		_, err = s.conn.ExecContext(ctx, "BEGIN")
	}
	if err == nil {
		var n int // a read begins it
		err = s.conn.QueryRowContext(ctx, "SELECT count(*) FROM sqlite_schema").Scan(&n)
	}
	if err != nil {
		_, gone := os.Stat(path)
		return nil, errors.Join(gone, err, s.Close())
	}
	return s, nil
}

// Close lets go of it.
func (s *snapshot) Close() error {
	var err error
	if s.conn != nil {
		err = s.conn.Close()
	}
	return errors.Join(err, s.db.Close())
}

// A database is copied in steps of so many pages, with a rest after each stint, so that
// whatever must not wait finds a processor and the disk free.
const (
	pagesAtOnce = 2048
	stint       = 3 * time.Millisecond
	rest        = 300 * time.Microsecond
)

// online is the part of the driver's connection that copies a database.
type online interface {
	NewBackup(to string) (*sqlite.Backup, error)
}

// copyTo copies it to a file that is not there yet.
func (s *snapshot) copyTo(ctx context.Context, path string) error {
	err := s.conn.Raw(func(driver any) error {
		// What is broken off is thrown away, and what is whole is brought to the disk below:
		// the copy needs no journal, which would be brought to the disk with each part.
		b, err := driver.(online).NewBackup("file:" + path + "?_pragma=journal_mode(OFF)&_pragma=synchronous(OFF)")
		if err != nil {
			return err
		}
		from := time.Now()
		for more := true; more && err == nil; {
			if more, err = b.Step(pagesAtOnce); err == nil {
				err = ctx.Err()
			}
			if time.Since(from) > stint {
				time.Sleep(rest)
				from = time.Now()
			}
		}
		return errors.Join(err, b.Finish())
	})
	if err != nil {
		return err
	}
	f, err := os.OpenFile(path, os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	return errors.Join(f.Chmod(0o600), f.Sync(), f.Close())
}

// rows counts the rows of each table.
func (s *snapshot) rows(ctx context.Context) (map[string]int64, error) { return rowsOf(ctx, s.conn) }

type asked interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row
}

func rowsOf(ctx context.Context, db asked) (map[string]int64, error) {
	list, err := db.QueryContext(ctx, "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
	if err != nil {
		return nil, err
	}
	out := map[string]int64{}
	for list.Next() {
		var name string
		if err := list.Scan(&name); err != nil {
			return nil, errors.Join(err, list.Close())
		}
		out[name] = 0
	}
	if err := errors.Join(list.Err(), list.Close()); err != nil {
		return nil, err
	}
	for name := range out {
		var n int64
		if err := db.QueryRowContext(ctx, `SELECT count(*) FROM "`+name+`"`).Scan(&n); err != nil {
			return nil, err
		}
		out[name] = n
	}
	return out, nil
}
