package store

import (
	"context"
	"path/filepath"
)

// State is state.db: what runs and is neither draft nor release.
type State struct{ db *database }

// Lease is a hold-to-run lease as it is kept until its release value is
// confirmed. It carries the definitions it began with, so that it can be ended
// even when the project has changed since.
type Lease struct {
	ID           string `db:"id"`
	Tag          string `db:"tag"`
	Path         string `db:"path"`
	Person       string `db:"person"`
	Name         string `db:"name"`
	Panel        string `db:"panel"`
	Screen       string `db:"screen"`
	Element      string `db:"element"`
	ReleaseValue string `db:"release_value"`
	Device       []byte `db:"device"`
	TagDoc       []byte `db:"tag_doc"`
	At           int64  `db:"at"`
}

// OpenState opens state.db in a project's folder.
func OpenState(dir string, r *Reserve) (*State, error) {
	db, err := open(filepath.Join(dir, "state.db"), "state", full, r)
	if err != nil {
		return nil, err
	}
	return &State{db}, nil
}

// Fold folds the log of writes in, so that no write has to.
func (s *State) Fold(ctx context.Context) error { return s.db.Fold(ctx) }

// Close closes the database.
func (s *State) Close() error { return s.db.Close() }

// PutLease stores a lease before its first write.
func (s *State) PutLease(ctx context.Context, l Lease) error {
	_, err := s.db.NamedExecContext(ctx, `INSERT INTO lease (id, tag, path, person, name, panel, screen, element, release_value, device, tag_doc, at)
		VALUES (:id, :tag, :path, :person, :name, :panel, :screen, :element, :release_value, :device, :tag_doc, :at)`, l)
	return err
}

// DropLease forgets a lease whose release value is confirmed.
func (s *State) DropLease(ctx context.Context, id string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM lease WHERE id = ?", id)
	return err
}

// Leases lists the leases that have not been released.
func (s *State) Leases(ctx context.Context) ([]Lease, error) {
	out := []Lease{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM lease ORDER BY at")
}
