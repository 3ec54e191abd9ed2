package store

import "context"

// Control is the place that has an area in hand.
type Control struct {
	Area  string `db:"area"`
	Place string `db:"place"` // of a panel, or of a person at none
	Panel string `db:"panel"`
	Name  string `db:"name"` // who took it
	At    int64  `db:"at"`   // nanoseconds since 1970
}

// Controls lists the areas that are in somebody's hand.
func (s *State) Controls(ctx context.Context) ([]Control, error) {
	out := []Control{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM control")
}

// SetControl gives an area to a place, whoever had it.
func (s *State) SetControl(ctx context.Context, c Control) error {
	_, err := s.db.NamedExecContext(ctx, `INSERT INTO control (area, place, panel, name, at) VALUES (:area, :place, :panel, :name, :at)
		ON CONFLICT (area) DO UPDATE SET place = :place, panel = :panel, name = :name, at = :at`, c)
	return err
}

// DropControl gives an area to nobody.
func (s *State) DropControl(ctx context.Context, area string) error {
	_, err := s.db.ExecContext(ctx, "DELETE FROM control WHERE area = ?", area)
	return err
}
