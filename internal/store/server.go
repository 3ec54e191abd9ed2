package store

import (
	"context"
	"database/sql"
	"errors"
	"path/filepath"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/access"
)

// Server is server.db: accounts, sessions, panels, and who has which role.
type Server struct{ db *database }

// Person is an account.
type Person struct {
	ID       string `db:"id"`
	Name     string `db:"name"` // signs in with it
	FullName string `db:"full_name"`
	Password string `db:"password"` // argon2id, empty for none
	PIN      string `db:"pin"`      // argon2id, empty for none
	Owner    bool   `db:"owner"`    // has every right in every project
	Server   bool   `db:"server"`   // manages the server: accounts, vault, failed sign-ins
	Home     string `db:"home"`     // id of the project in which the account was made
	Disabled bool   `db:"disabled"`
	// SetBy is the full name of who set the secret, which is then for one sign-in;
	// empty when the person chose it.
	SetBy string `db:"set_by"`
	// Until is the last day of the account in the server's time, 2026-12-31; empty for
	// no end.
	Until string `db:"until"`
	// Renew says that a new password is to be chosen at the next sign-in.
	Renew bool `db:"renew"`
	// Epoch counts up when a secret changes; sessions of an older one have ended.
	Epoch int64 `db:"epoch"`
	// Second is the secret of one-time codes, sealed; empty where the account asks for
	// none. SecondUsed is the last step of time of which a code was taken.
	Second     []byte `db:"second"`
	SecondUsed int64  `db:"second_used"`
	// Badge is a keyed hash of the number of the person's badge; empty for none.
	Badge string `db:"badge"`
	// Subject is what the company's directory knows the person by for good; empty for an
	// account of our own. Renewal is with what it is asked again, sealed. Gone says that
	// the directory no longer has the person.
	Subject string `db:"subject"`
	Renewal []byte `db:"renewal"`
	Gone    bool   `db:"gone"`
}

// Panel is an enrolled browser.
type Panel struct {
	ID         string `db:"id"`
	Name       string `db:"name"`
	KeyHash    []byte `db:"key_hash"`
	EnrolledBy string `db:"enrolled_by"`
	Project    string `db:"project"` // id of the project that it belongs to
	At         int64  `db:"at"`
	// Looks says that it shows the project with nobody signed in.
	Looks bool `db:"looks"`
	// Rest is how many minutes without a touch sign its person out; 0 for never.
	Rest int `db:"rest"`
	// Badges says how it takes badges: "alone", with a "pin", or not.
	Badges string `db:"badges"`
}

// OpenServer opens server.db in a data folder.
func OpenServer(dir string, r *Reserve) (*Server, error) {
	db, err := open(filepath.Join(dir, "server.db"), "server", full, r)
	if err != nil {
		return nil, err
	}
	return &Server{db}, nil
}

// Fold folds the log of writes in, so that no write has to.
func (s *Server) Fold(ctx context.Context) error { return s.db.Fold(ctx) }

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

// PersonByBadge finds an account by the hash of its badge.
func (s *Server) PersonByBadge(ctx context.Context, mark string) (Person, error) {
	var p Person
	return p, notFound(s.db.GetContext(ctx, &p, "SELECT * FROM person WHERE badge = ? AND badge <> ''", mark))
}

// PersonBySubject finds an account by what the company's directory knows it by.
func (s *Server) PersonBySubject(ctx context.Context, subject string) (Person, error) {
	var p Person
	return p, notFound(s.db.GetContext(ctx, &p, "SELECT * FROM person WHERE subject = ? AND subject <> ''", subject))
}

// PutPerson adds or replaces an account. The use of its one-time codes only counts on,
// as a sign-in may take one meanwhile.
func (s *Server) PutPerson(ctx context.Context, p Person) error {
	_, err := s.db.NamedExecContext(ctx, `INSERT INTO person (id, name, full_name, password, pin, owner, server, home, disabled, set_by, until,
		renew, epoch, second, second_used, badge, subject, renewal, gone)
		VALUES (:id, :name, :full_name, :password, :pin, :owner, :server, :home, :disabled, :set_by, :until, :renew, :epoch, :second, :second_used,
		:badge, :subject, :renewal, :gone)
		ON CONFLICT (id) DO UPDATE SET name = :name, full_name = :full_name, password = :password, pin = :pin, owner = :owner, server = :server,
		disabled = :disabled, set_by = :set_by, until = :until, renew = :renew, epoch = :epoch, second = :second, badge = :badge,
		subject = :subject, renewal = :renewal, gone = :gone,
		second_used = CASE WHEN second IS :second THEN max(second_used, :second_used) ELSE :second_used END`, p)
	return err
}

// UseSecond takes the use of a one-time code; ErrNotFound where one of its step of time,
// or of a later one, was taken before.
func (s *Server) UseSecond(ctx context.Context, person string, step int64) error {
	return changedOne(s.db.ExecContext(ctx, "UPDATE person SET second_used = ? WHERE id = ? AND second_used < ?", step, person, step))
}

// mostOldPasswords is how many passwords before the present one are remembered.
const mostOldPasswords = 5

// OldPasswords lists the hashes of a person's last passwords before the present
// one.
func (s *Server) OldPasswords(ctx context.Context, person string) ([]string, error) {
	out := []string{}
	return out, s.db.SelectContext(ctx, &out, "SELECT hash FROM old_password WHERE person = ? ORDER BY id DESC", person)
}

// KeepOldPassword remembers a password that is no longer the present one.
func (s *Server) KeepOldPassword(ctx context.Context, person, hash string) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		if _, err := tx.Exec("INSERT INTO old_password (person, hash) VALUES (?, ?)", person, hash); err != nil {
			return err
		}
		_, err := tx.Exec(`DELETE FROM old_password WHERE person = ? AND id NOT IN (SELECT id FROM old_password WHERE person = ?
			ORDER BY id DESC LIMIT ?)`, person, person, mostOldPasswords)
		return err
	})
}

// FailedSignIn is a run of sign-ins that failed: one name from one place.
type FailedSignIn struct {
	Name  string `db:"name"`
	Place string `db:"place"` // a panel, or a network address
	First int64  `db:"first"` // nanoseconds since 1970
	Last  int64  `db:"last"`
	Count int64  `db:"count"`
}

// mostFailures bounds the list of failed sign-ins.
const mostFailures = 5000

// AddFailures keeps runs of failed sign-ins, and forgets the oldest beyond
// what is kept.
func (s *Server) AddFailures(ctx context.Context, list []FailedSignIn) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for _, f := range list {
			// What goes on within an hour is one run.
			r, err := tx.NamedExec("UPDATE failed_sign_in SET last = :last, count = count + :count WHERE name = :name AND place = :place AND last > :first - 3600000000000", f)
			if err != nil {
				return err
			}
			if n, err := r.RowsAffected(); err != nil || n > 0 {
				continue
			}
			if _, err := tx.NamedExec("INSERT INTO failed_sign_in (name, place, first, last, count) VALUES (:name, :place, :first, :last, :count)",
				f); err != nil {
				return err
			}
		}
		_, err := tx.Exec("DELETE FROM failed_sign_in WHERE id <= (SELECT max(id) FROM failed_sign_in) - ?", mostFailures)
		return err
	})
}

// Failures lists the newest runs of failed sign-ins.
func (s *Server) Failures(ctx context.Context, limit int) ([]FailedSignIn, error) {
	out := []FailedSignIn{}
	return out, s.db.SelectContext(ctx, &out, "SELECT name, place, first, last, count FROM failed_sign_in ORDER BY last DESC LIMIT ?", limit)
}

// Grants lists who has which role in a project.
func (s *Server) Grants(ctx context.Context, project string) ([]access.Grant, error) {
	out := []access.Grant{}
	return out, s.db.SelectContext(ctx, &out, `SELECT person, role, area, giver, beyond, directory FROM grants WHERE project = ?
		ORDER BY person, role, area`, project)
}

// SetGrants replaces one person's grants in a project.
func (s *Server) SetGrants(ctx context.Context, project, person string, grants []access.Grant) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		if _, err := tx.Exec("DELETE FROM grants WHERE project = ? AND person = ?", project, person); err != nil {
			return err
		}
		for _, g := range grants {
			if _, err := tx.Exec(`INSERT OR IGNORE INTO grants (project, person, role, area, giver, beyond, directory)
				VALUES (?, ?, ?, ?, ?, ?, ?)`, project, person, g.Role, g.Area, g.Giver, g.Beyond, g.Directory); err != nil {
				return err
			}
		}
		return nil
	})
}

// Panels lists the enrolled browsers of every project.
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
	_, err := s.db.NamedExecContext(ctx, "INSERT INTO panel (id, name, key_hash, enrolled_by, at, project) VALUES (:id, :name, :key_hash, :enrolled_by, :at, :project)", p)
	return err
}

// RemovePanel takes an enrolment of a project back; ErrNotFound where the
// project has no such panel.
func (s *Server) RemovePanel(ctx context.Context, project, id string) error {
	return changedOne(s.db.ExecContext(ctx, "DELETE FROM panel WHERE id = ? AND project = ?", id, project))
}

// SetPanel says how a panel of a project behaves.
func (s *Server) SetPanel(ctx context.Context, p Panel) error {
	return changedOne(s.db.NamedExecContext(ctx,
		"UPDATE panel SET looks = :looks, rest = :rest, badges = :badges WHERE id = :id AND project = :project", p))
}

// changedOne is ErrNotFound where a statement changed no row.
func changedOne(r sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

// Sessions is the table of sessions.
type Sessions struct{ db *database }

// Sessions returns the table of sessions.
func (s *Server) Sessions() *Sessions { return &Sessions{s.db} }

// Find returns a session's data and when it is over; nil where it is unknown or
// over.
func (s *Sessions) Find(token string) (data []byte, expiry time.Time, err error) {
	var row struct {
		Data   []byte `db:"data"`
		Expiry int64  `db:"expiry"`
	}
	err = notFound(s.db.GetContext(context.Background(), &row, "SELECT data, expiry FROM session WHERE token = ? AND expiry > ?", token,
		time.Now().Unix()))
	if err == ErrNotFound {
		return nil, expiry, nil
	}
	return row.Data, time.Unix(row.Expiry, 0), err
}

// All lists the data of every session that is not over, by token.
func (s *Sessions) All() (map[string][]byte, error) {
	var rows []struct {
		Token string `db:"token"`
		Data  []byte `db:"data"`
	}
	err := s.db.SelectContext(context.Background(), &rows, "SELECT token, data FROM session WHERE expiry > ?", time.Now().Unix())
	out := map[string][]byte{}
	for _, r := range rows {
		out[r.Token] = r.Data
	}
	return out, err
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
	_, err := s.db.ExecContext(context.Background(), "DELETE FROM session WHERE token = ?", token)
	return err
}

// EndSessions ends every session.
func (s *Server) EndSessions(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM session")
	return err
}
