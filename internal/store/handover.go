package store

import "context"

// Handover is a note that a shift leaves to the next one.
type Handover struct {
	Seq         int64  `db:"seq"`
	At          int64  `db:"at"` // nanoseconds since 1970
	Person      string `db:"person"`
	Name        string `db:"name"`
	Panel       string `db:"panel"`
	Text        string `db:"text"`
	TakenAt     int64  `db:"taken_at"` // nanoseconds since 1970; 0 while nobody has taken it over
	TakenPerson string `db:"taken_person"`
	TakenName   string `db:"taken_name"`
}

// AddHandover keeps a note; its number is the next one.
func (s *State) AddHandover(ctx context.Context, h Handover) error {
	_, err := s.db.NamedExecContext(ctx, `INSERT INTO handover (at, person, name, panel, text)
		VALUES (:at, :person, :name, :panel, :text)`, h)
	return err
}

// Handover reads a note; ErrNotFound where there is none.
func (s *State) Handover(ctx context.Context, seq int64) (h Handover, err error) {
	return h, notFound(s.db.GetContext(ctx, &h, "SELECT * FROM handover WHERE seq = ?", seq))
}

// Handovers lists the newest notes.
func (s *State) Handovers(ctx context.Context, most int) ([]Handover, error) {
	out := []Handover{}
	return out, s.db.SelectContext(ctx, &out, "SELECT * FROM handover ORDER BY seq DESC LIMIT ?", most)
}

// TakeHandover says who has taken a note over; ErrNotFound where somebody has
// already.
func (s *State) TakeHandover(ctx context.Context, seq, at int64, person, name string) error {
	return changedOne(s.db.ExecContext(ctx,
		"UPDATE handover SET taken_at = ?, taken_person = ?, taken_name = ? WHERE seq = ? AND taken_at = 0", at, person, name, seq))
}
