package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// VaultEntry is a credential as it is kept: its secret sealed with a key that
// lies elsewhere.
type VaultEntry struct {
	Name   string `db:"name"`
	Kind   string `db:"kind"`
	Roles  string `db:"roles"` // names, as JSON
	Note   string `db:"note"`
	Sealed []byte `db:"sealed"`
	Person string `db:"person"` // full name of who put it there
	At     int64  `db:"at"`     // nanoseconds since 1970
	Hosts  string `db:"hosts"`  // where it may go, as JSON; empty for nowhere yet
}

// VaultEntries lists all by name.
func (s *Server) VaultEntries(ctx context.Context) ([]VaultEntry, error) {
	out := []VaultEntry{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM vault ORDER BY name")
}

// VaultEntry finds one by name.
func (s *Server) VaultEntry(ctx context.Context, name string) (VaultEntry, error) {
	var e VaultEntry
	return e, notFound(s.db.GetContext(ctx, &e, "SELECT * FROM vault WHERE name = ?", name))
}

// PutVaultEntries adds or replaces entries, all or none.
func (s *Server) PutVaultEntries(ctx context.Context, list []VaultEntry) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for _, e := range list {
			if _, err := tx.NamedExecContext(ctx, "INSERT OR REPLACE INTO vault (name, kind, roles, note, sealed, person, at, hosts) VALUES (:name, :kind, :roles, :note, :sealed, :person, :at, :hosts)", e); err != nil {
				return err
			}
		}
		return nil
	})
}

// DropVaultEntry forgets one.
func (s *Server) DropVaultEntry(ctx context.Context, name string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM vault WHERE name = ?", name)
	return err
}
