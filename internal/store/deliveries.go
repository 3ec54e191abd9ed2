package store

import "context"

// Delivery is a recipe on its way to a device, or one that was.
type Delivery struct {
	Seq      int64   `db:"seq"`
	Key      string  `db:"key"`
	Book     string  `db:"book"`
	Recipe   string  `db:"recipe"`
	Title    string  `db:"title"`
	Number   int64   `db:"number"`
	Quantity float64 `db:"quantity"`
	Target   string  `db:"target"`
	Place    string  `db:"place"`
	Person   string  `db:"person"`
	Name     string  `db:"name"`
	Panel    string  `db:"panel"`
	Began    int64   `db:"began"`
	Ended    int64   `db:"ended"`
	State    string  `db:"state"`
	Reason   string  `db:"reason"`
	Open     bool    `db:"open"`
	Settled  string  `db:"settled"`
	Doc      string  `db:"doc"`
}

// BeginDelivery keeps a delivery before anything of it is sent, and returns its
// number. A key that was taken before is refused by the database.
func (s *Recipes) BeginDelivery(ctx context.Context, d Delivery) (int64, error) {
	done, err := s.db.NamedExecContext(ctx, `INSERT INTO delivery (key, book, recipe, title, number, quantity, target, place, person, name, panel,
			began, ended, state, reason, open, settled, doc)
		VALUES (:key, :book, :recipe, :title, :number, :quantity, :target, :place, :person, :name, :panel,
			:began, :ended, :state, :reason, :open, :settled, :doc)`, d)
	if err != nil {
		return 0, err
	}
	return done.LastInsertId()
}

// PutDelivery keeps how a delivery stands.
func (s *Recipes) PutDelivery(ctx context.Context, d Delivery) error {
	_, err := s.db.NamedExecContext(ctx, `UPDATE delivery SET ended = :ended, state = :state, reason = :reason, open = :open, settled = :settled,
		doc = :doc WHERE seq = :seq`, d)
	return err
}

// Settle says who dealt with what a delivery left, and how; false where somebody
// did already.
func (s *Recipes) Settle(ctx context.Context, seq int64, how string) (bool, error) {
	done, err := s.db.ExecContext(ctx, "UPDATE delivery SET open = 0, settled = ? WHERE seq = ? AND open = 1", how, seq)
	if err != nil {
		return false, err
	}
	n, err := done.RowsAffected()
	return n == 1, err
}

// Delivery returns one delivery.
func (s *Recipes) Delivery(ctx context.Context, seq int64) (Delivery, error) {
	var d Delivery
	return d, notFound(s.db.GetContext(ctx, &d, "SELECT * FROM delivery WHERE seq = ?", seq))
}

// Unfinished lists what was under way, and what nobody has dealt with.
func (s *Recipes) Unfinished(ctx context.Context) ([]Delivery, error) {
	list := []Delivery{}
	return list, s.db.SelectContext(ctx, &list, "SELECT * FROM delivery WHERE open = 1 OR ended = 0 ORDER BY seq")
}

// DeliverySearch says which deliveries a page has: of a book, to a target where
// one is named, before a number.
type DeliverySearch struct {
	Book   string
	Target *string
	Before int64 // number that the page ends before; 0 for the newest
	Upto   int64 // began at this time or before, in nanoseconds; 0 for any
	State  string
	Most   int
}

// Deliveries lists a page of deliveries, newest first.
func (s *Recipes) Deliveries(ctx context.Context, q DeliverySearch) ([]Delivery, error) {
	where, args := "book = ?", []any{q.Book}
	if q.Target != nil {
		where, args = where+" AND target = ?", append(args, *q.Target)
	}
	if q.Before > 0 {
		where, args = where+" AND seq < ?", append(args, q.Before)
	}
	if q.Upto > 0 {
		where, args = where+" AND began <= ?", append(args, q.Upto)
	}
	if q.State != "" {
		where, args = where+" AND state = ?", append(args, q.State)
	}
	list := []Delivery{}
	return list, s.db.SelectContext(ctx, &list, "SELECT * FROM delivery WHERE "+where+" ORDER BY seq DESC LIMIT ?", append(args, q.Most)...)
}

// Between hands over the deliveries of all books that began within a time, in
// nanoseconds, oldest first.
func (s *Recipes) Between(ctx context.Context, from, to int64, do func(Delivery) error) error {
	rows, err := s.db.QueryxContext(ctx, "SELECT * FROM delivery WHERE began >= ? AND began < ? ORDER BY seq", from, to)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var d Delivery
		if err := rows.StructScan(&d); err != nil {
			return err
		}
		if err := do(d); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Delivered returns the last delivery to a target that had gone through at a
// time, in nanoseconds, of whatever book.
func (s *Recipes) Delivered(ctx context.Context, target string, upto int64) (Delivery, error) {
	var d Delivery
	return d, notFound(s.db.GetContext(ctx, &d,
		"SELECT * FROM delivery WHERE target = ? AND began <= ? AND state = 'delivered' ORDER BY began DESC LIMIT 1", target, upto))
}
