package store

import (
	"context"
	"path/filepath"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/access"
)

// Server is server.db: accounts, sessions, panels, and who has which role.
type Server struct{ db *sqlx.DB }

// Person is an account.
type Person struct {
	ID          string `db:"id"`
	Name        string `db:"name"` // signs in with it
	FullName    string `db:"full_name"`
	Password    string `db:"password"` // argon2id, empty for none
	PIN         string `db:"pin"`      // argon2id, empty for none
	Owner       bool   `db:"owner"`    // has every right in every project
	Disabled    bool   `db:"disabled"`
	Failures    int    `db:"failures"`
	LockedUntil int64  `db:"locked_until"` // seconds since 1970
}

// Panel is an enrolled browser.
type Panel struct {
	ID         string `db:"id"`
	Name       string `db:"name"`
	KeyHash    []byte `db:"key_hash"`
	EnrolledBy string `db:"enrolled_by"`
	At         int64  `db:"at"`
}

// OpenServer opens server.db in a data folder.
func OpenServer(dir string) (*Server, error) {
	db, err := open(filepath.Join(dir, "server.db"), "server", full)
	if err != nil {
		return nil, err
	}
	return &Server{db}, nil
}

// Close closes the database.
func (s *Server) Close() error { return s.db.Close() }

// People lists the accounts by full name.
func (s *Server) People(ctx context.Context) ([]Person, error) {
	out := []Person{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM person ORDER BY full_name")
}

// Person finds an account by id.
func (s *Server) Person(ctx context.Context, id string) (Person, error) {
	var p Person
	return p, notFound(s.db.GetContext(ctx, &p, "SELECT * FROM person WHERE id = ?", id))
}

// PersonByName finds an account by the name it signs in with.
func (s *Server) PersonByName(ctx context.Context, name string) (Person, error) {
	var p Person
	return p, notFound(s.db.GetContext(ctx, &p, "SELECT * FROM person WHERE name = ?", name))
}

// PutPerson adds or replaces an account.
func (s *Server) PutPerson(ctx context.Context, p Person) error {
	_, err := s.db.NamedExecContext(ctx, `INSERT INTO person (id, name, full_name, password, pin, owner, disabled, failures, locked_until)
		VALUES (:id, :name, :full_name, :password, :pin, :owner, :disabled, :failures, :locked_until)
		ON CONFLICT (id) DO UPDATE SET name = :name, full_name = :full_name, password = :password, pin = :pin, owner = :owner,
		disabled = :disabled, failures = :failures, locked_until = :locked_until`, p)
	return err
}

// CountFailure adds one failed sign-in and returns how many there are in a row.
func (s *Server) CountFailure(ctx context.Context, id string) (n int, err error) {
	return n, s.db.GetContext(ctx, &n, "UPDATE person SET failures = failures + 1 WHERE id = ? RETURNING failures", id)
}

// SetLock closes an account's sign-in until a time.
func (s *Server) SetLock(ctx context.Context, id string, until time.Time) error {
	_, err := s.db.ExecContext(ctx, "UPDATE person SET locked_until = ? WHERE id = ?", until.Unix(), id)
	return err
}

// ClearFailures is called after a sign-in that went well.
func (s *Server) ClearFailures(ctx context.Context, id string) error {
	_, err := s.db.ExecContext(ctx, "UPDATE person SET failures = 0, locked_until = 0 WHERE id = ?", id)
	return err
}

// Grants lists who has which role in a project.
func (s *Server) Grants(ctx context.Context, project string) ([]access.Grant, error) {
	out := []access.Grant{}
	return out, s.db.SelectContext(ctx, &out, "SELECT person, role, area FROM grants WHERE project = ? ORDER BY person, role, area", project)
}

// SetGrants replaces one person's grants in a project.
func (s *Server) SetGrants(ctx context.Context, project, person string, grants []access.Grant) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		if _, err := tx.Exec("DELETE FROM grants WHERE project = ? AND person = ?", project, person); err != nil {
			return err
		}
		for _, g := range grants {
			if _, err := tx.Exec("INSERT OR IGNORE INTO grants (project, person, role, area) VALUES (?, ?, ?, ?)", project, person, g.Role, g.Area); err != nil {
				return err
			}
		}
		return nil
	})
}

// Panels lists the enrolled browsers.
func (s *Server) Panels(ctx context.Context) ([]Panel, error) {
	out := []Panel{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM panel ORDER BY name")
}

// PanelByKey finds the panel whose key has a hash.
func (s *Server) PanelByKey(ctx context.Context, hash []byte) (Panel, error) {
	var p Panel
	return p, notFound(s.db.GetContext(ctx, &p, "SELECT * FROM panel WHERE key_hash = ?", hash))
}

// AddPanel enrols a browser.
func (s *Server) AddPanel(ctx context.Context, p Panel) error {
	_, err := s.db.NamedExecContext(ctx, "INSERT INTO panel (id, name, key_hash, enrolled_by, at) VALUES (:id, :name, :key_hash, :enrolled_by, :at)", p)
	return err
}

// RemovePanel takes an enrolment back.
func (s *Server) RemovePanel(ctx context.Context, id string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM panel WHERE id = ?", id)
	return err
}

// Sessions is the table of sessions in the form the session library asks for.
type Sessions struct{ db *sqlx.DB }

// Sessions returns the table of sessions.
func (s *Server) Sessions() *Sessions { return &Sessions{s.db} }

// Find returns a session's data unless it is unknown or over.
func (s *Sessions) Find(token string) (data []byte, found bool, err error) {
	err = notFound(s.db.Get(&data, "SELECT data FROM session WHERE token = ? AND expiry > ?", token, time.Now().Unix()))
	if err == ErrNotFound {
		return nil, false, nil
	}
	return data, err == nil, err
}

// Commit stores a session, and drops those that are over.
func (s *Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return inTx(context.Background(), s.db, func(tx *sqlx.Tx) error {
		if _, err := tx.Exec("DELETE FROM session WHERE expiry <= ?", time.Now().Unix()); err != nil {
			return err
		}
		_, err := tx.Exec("INSERT INTO session (token, data, expiry) VALUES (?, ?, ?) ON CONFLICT (token) DO UPDATE SET data = excluded.data, expiry = excluded.expiry", token, data, expiry.Unix())
		return err
	})
}

// Delete ends a session.
func (s *Sessions) Delete(token string) error {
	_, err := s.db.Exec("DELETE FROM session WHERE token = ?", token)
	return err
}
