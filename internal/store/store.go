// Package store keeps accounts, projects, running state and the audit trail in
// SQLite. Each database has migrations of its own; one of a newer version is
// refused and left alone.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"io/fs"
	"os"
	"readyrail/internal/core/say"

	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver, named "sqlite"
)

//go:embed migrations
var migrations embed.FS

// ErrNotFound is returned when a row is not there.
var ErrNotFound = say.New("not found")

func migrate(db *sql.DB, path, kind string) error {
	sub, err := fs.Sub(migrations, "migrations/"+kind)
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, sub, goose.WithDisableGlobalRegistry(true))
	if err != nil {
		return say.Errorf("%s: %w", path, err)
	}
	ctx := context.Background()
	sources := p.ListSources()
	newest := sources[len(sources)-1].Version
	exists := false
	if err := db.QueryRowContext(ctx, "SELECT count(*) > 0 FROM sqlite_master WHERE name = 'goose_db_version'").Scan(&exists); err != nil {
		return say.Errorf("%s is not a database that can be read: %w", path, err)
	}
	if exists {
		now, err := p.GetDBVersion(ctx)
		if err != nil {
			return say.Errorf("%s: %w", path, err)
		}
		if now > newest {
			return say.Errorf("%s was written by a newer Ready Rail (version %d, this one knows %d): use that one", path, now, newest)
		}
		if now == newest {
			return nil
		}
	}
	if _, err := p.Up(ctx); err != nil {
		return say.Errorf("%s: bringing it to version %d: %w", path, newest, err)
	}
	return nil
}

// version is that of a database's file as it lies there; 0 for none.
func version(path string) (v int64) {
	if _, err := os.Stat(path); err != nil {
		return 0
	}
	db, err := connect(path, 1)
	if err != nil {
		return 0
	}
	defer db.Close()
	if db.Get(&v, "SELECT max(version_id) FROM goose_db_version WHERE is_applied") != nil {
		return 0
	}
	return v
}

// writable refuses a folder that cannot be written to, before SQLite says the
// same in its own words.
func writable(dir string) error {
	f, err := os.CreateTemp(dir, ".probe-*")
	if err != nil {
		return say.Errorf("the folder %s cannot be written to: %w", dir, errors.Unwrap(err))
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
