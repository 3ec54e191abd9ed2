// Package store keeps accounts, projects, running state and the audit trail in
// SQLite. Each database has migrations of its own; one of a newer version is
// refused and left alone.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver, named "sqlite"
)

//go:embed migrations
var migrations embed.FS

// ErrNotFound is returned when a row is not there.
var ErrNotFound = errors.New("not found")

// durability of a database's commits.
type durability string

const (
	normal durability = "NORMAL" // may lose the last commits with the power, never half of one
	full   durability = "FULL"   // on disk before the commit returns
)

// open opens a database and brings it to the present version.
func open(path, kind string, d durability) (*sqlx.DB, error) {
	if err := writable(filepath.Dir(path)); err != nil {
		return nil, err
	}
	q := url.Values{"_pragma": {"journal_mode(WAL)", "synchronous(" + string(d) + ")", "busy_timeout(5000)", "foreign_keys(1)"}, "_txlock": {"immediate"}}
	db, err := sqlx.Open("sqlite", "file:"+path+"?"+q.Encode())
	if err != nil {
		return nil, err
	}
	// One connection: writers queue here and not in SQLite's busy loop.
	db.SetMaxOpenConns(1)
	if err := migrate(db.DB, path, kind); err != nil {
		db.Close()
		return nil, err
	}
	return db, nil
}

func migrate(db *sql.DB, path, kind string) error {
	sub, err := fs.Sub(migrations, "migrations/"+kind)
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, sub, goose.WithDisableGlobalRegistry(true))
	if err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	ctx := context.Background()
	sources := p.ListSources()
	newest := sources[len(sources)-1].Version
	exists := false
	if err := db.QueryRowContext(ctx, "SELECT count(*) > 0 FROM sqlite_master WHERE name = 'goose_db_version'").Scan(&exists); err != nil {
		return fmt.Errorf("%s is not a database that can be read: %w", path, err)
	}
	if exists {
		now, err := p.GetDBVersion(ctx)
		if err != nil {
			return fmt.Errorf("%s: %w", path, err)
		}
		if now > newest {
			return fmt.Errorf("%s was written by a newer Ready Rail (version %d, this one knows %d): use that one", path, now, newest)
		}
		if now == newest {
			return nil
		}
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("%s: bringing it to version %d: %w", path, newest, err)
	}
	return nil
}

// writable refuses a folder that cannot be written to, before SQLite says the
// same in its own words.
func writable(dir string) error {
	f, err := os.CreateTemp(dir, ".probe-*")
	if err != nil {
		return fmt.Errorf("the folder %s cannot be written to: %w", dir, errors.Unwrap(err))
	}
	f.Close()
	return os.Remove(f.Name())
}

func notFound(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// inTx runs f in a transaction.
func inTx(ctx context.Context, db *sqlx.DB, f func(*sqlx.Tx) error) error {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := f(tx); err != nil {
		tx.Rollback()
		return err
	}
	return tx.Commit()
}
