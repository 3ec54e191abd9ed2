package store

import (
	"context"

	"github.com/jmoiron/sqlx"
)

// ScreenCheck is how the acceptance of one element of a screen ended.
type ScreenCheck struct {
	Screen     string `db:"screen"`
	Args       string `db:"args"`    // what the screen's parameters stood for
	Element    string `db:"element"` // empty for the screen itself
	Result     string `db:"result"`  // passed or failed
	Person     string `db:"person"`
	Name       string `db:"name"`
	At         int64  `db:"at"`
	Note       string `db:"note"`
	Definition string `db:"definition"` // what was proved; another one is unproved
}

// ScreenChecks lists those of one screen, or of all where it is empty.
func (s *State) ScreenChecks(ctx context.Context, screen string) ([]ScreenCheck, error) {
	out := []ScreenCheck{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM screen_check WHERE ? IN ('', screen)", screen)
}

// PutScreenChecks keeps results; one with an empty result is forgotten.
func (s *State) PutScreenChecks(ctx context.Context, list []ScreenCheck) error {
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for _, c := range list {
			query := `INSERT OR REPLACE INTO screen_check (screen, args, element, result, person, name, at, note, definition)
				VALUES (:screen, :args, :element, :result, :person, :name, :at, :note, :definition)`
			if c.Result == "" {
				query = "DELETE FROM screen_check WHERE screen = :screen AND args = :args AND element = :element"
			}
			if _, err := tx.NamedExec(query, c); err != nil {
				return err
			}
		}
		return nil
	})
}
