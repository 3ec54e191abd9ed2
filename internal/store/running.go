package store

import (
	"context"
	"encoding/json"

	"github.com/jmoiron/sqlx"
)

// The running layer: what is changed while the plant runs and lies over draft
// and release by the tag's id.

// Override is a tag that a person holds at a value.
type Override struct {
	Tag    string `db:"tag"`
	Value  string `db:"value"` // engineering, as text with a decimal point
	Person string `db:"person"`
	Name   string `db:"name"`
	Reason string `db:"reason"`
	At     int64  `db:"at"`    // nanoseconds since 1970
	Until  int64  `db:"until"` // nanoseconds since 1970
}

// Overrides lists them, oldest first.
func (s *State) Overrides(ctx context.Context) ([]Override, error) {
	out := []Override{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM override ORDER BY at")
}

// PutOverride keeps an override, in the place of one on the same tag.
func (s *State) PutOverride(ctx context.Context, o Override) error {
	_, err := s.db.NamedExecContext(ctx, "INSERT OR REPLACE INTO override (tag, value, person, name, reason, at, until) VALUES (:tag, :value, :person, :name, :reason, :at, :until)", o)
	return err
}

// DropOverride forgets an override.
func (s *State) DropOverride(ctx context.Context, tag string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM override WHERE tag = ?", tag)
	return err
}

// Retained reads the kept values of internal tags, by tag.
func (s *State) Retained(ctx context.Context) (map[string]string, error) {
	var rows []struct {
		Tag   string `db:"tag"`
		Value string `db:"value"`
	}
	err := s.db.SelectContext(ctx, &rows, "SELECT tag, value FROM retained")
	out := map[string]string{}
	for _, r := range rows {
		out[r.Tag] = r.Value
	}
	return out, err
}

// PutRetained keeps values of internal tags.
func (s *State) PutRetained(ctx context.Context, values map[string]string) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for tag, v := range values {
			if _, err := tx.Exec("INSERT OR REPLACE INTO retained (tag, value) VALUES (?, ?)", tag, v); err != nil {
				return err
			}
		}
		return nil
	})
}

// LoopCheck is how the check of a point ended.
type LoopCheck struct {
	Tag        string `db:"tag"`
	Result     string `db:"result"` // passed or failed
	Person     string `db:"person"`
	Name       string `db:"name"`
	At         int64  `db:"at"`
	Seen       string `db:"seen"` // value seen, as people read it
	Raw        string `db:"raw"`
	Note       string `db:"note"`
	Definition string `db:"definition"` // what was proved; another one is unproved
}

// LoopChecks lists all.
func (s *State) LoopChecks(ctx context.Context) ([]LoopCheck, error) {
	out := []LoopCheck{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM loop_check")
}

// PutLoopChecks keeps results; one with an empty result is forgotten.
func (s *State) PutLoopChecks(ctx context.Context, list []LoopCheck) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for _, c := range list {
			if c.Result == "" {
				if _, err := tx.Exec("DELETE FROM loop_check WHERE tag = ?", c.Tag); err != nil {
					return err
				}
				continue
			}
			if _, err := tx.NamedExec(`INSERT OR REPLACE INTO loop_check (tag, result, person, name, at, seen, raw, note, definition)
				VALUES (:tag, :result, :person, :name, :at, :seen, :raw, :note, :definition)`, c); err != nil {
				return err
			}
		}
		return nil
	})
}

// WatchSets reads a person's sets of tags, by name.
func (s *State) WatchSets(ctx context.Context, person string) (map[string][]string, error) {
	var rows []struct {
		Name string `db:"name"`
		Tags string `db:"tags"`
	}
	err := s.db.SelectContext(ctx, &rows, "SELECT name, tags FROM watch_set WHERE person = ?", person)
	out := map[string][]string{}
	for _, r := range rows {
		var tags []string
		if json.Unmarshal([]byte(r.Tags), &tags) == nil {
			out[r.Name] = tags
		}
	}
	return out, err
}

// PutWatchSet keeps a set; nil tags forget it.
func (s *State) PutWatchSet(ctx context.Context, person, name string, tags []string) error {
	if tags == nil {
		_, err := s.db.ExecContext(ctx, "DELETE FROM watch_set WHERE person = ? AND name = ?", person, name)
		return err
	}
	doc, err := json.Marshal(tags)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, "INSERT OR REPLACE INTO watch_set (person, name, tags) VALUES (?, ?, ?)", person, name, string(doc))
	return err
}

// Turn is the commissioning turn: who may write from the draft, to which
// devices, until when.
type Turn struct {
	Person  string `db:"person"`
	Name    string `db:"name"`
	Devices string `db:"devices"` // ids, as JSON
	Reason  string `db:"reason"`
	Until   int64  `db:"until"` // nanoseconds since 1970
}

// Turn reads it; ErrNotFound when there is none.
func (s *State) Turn(ctx context.Context) (Turn, error) {
	var t Turn
	return t, notFound(s.db.GetContext(ctx, &t, "SELECT person, name, devices, reason, until FROM turn"))
}

// PutTurn keeps it; nil ends it.
func (s *State) PutTurn(ctx context.Context, t *Turn) error {
	if t == nil {
		_, err := s.db.ExecContext(ctx, "DELETE FROM turn")
		return err
	}
	_, err := s.db.NamedExecContext(ctx, "INSERT OR REPLACE INTO turn (one, person, name, devices, reason, until) VALUES (1, :person, :name, :devices, :reason, :until)", t)
	return err
}
