package store

import (
	"context"
	"encoding/json"

	"github.com/jmoiron/sqlx"
)

// Reseal hands over everything that is sealed with the key of the vault, and keeps what
// comes back in its place, with a setting that says so: all or nothing. Settings are
// names of those that are sealed.
func (s *Server) Reseal(ctx context.Context, again func(what string, sealed []byte) ([]byte, error), settings []string, name string,
	value any) error {
	doc, err := json.Marshal(value)
	if err != nil {
		return err
	}
	return inTx(ctx, s.db, func(tx *sqlx.Tx) error {
		for _, c := range []struct{ table, id, column string }{
			{"vault", "name", "sealed"}, {"person", "id", "second"}, {"person", "id", "renewal"},
		} {
			if err := resealColumn(ctx, tx, c.table, c.id, c.column, again); err != nil {
				return err
			}
		}
		for _, setting := range settings {
			if err := resealSetting(ctx, tx, setting, again); err != nil {
				return err
			}
		}
		_, err := tx.ExecContext(ctx, putSetting, name, string(doc))
		return err
	})
}

func resealColumn(ctx context.Context, tx *sqlx.Tx, table, id, column string, again func(string, []byte) ([]byte, error)) error {
	var rows []struct {
		ID     string `db:"id"`
		Sealed []byte `db:"sealed"`
	}
	query := "SELECT " + id + " AS id, " + column + " AS sealed FROM " + table + " WHERE length(" + column + ") > 0"
	if err := tx.SelectContext(ctx, &rows, query); err != nil {
		return err
	}
	for _, r := range rows {
		sealed, err := again(table+" "+r.ID, r.Sealed)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE "+table+" SET "+column+" = ? WHERE "+id+" = ?", sealed, r.ID); err != nil {
			return err
		}
	}
	return nil
}

func resealSetting(ctx context.Context, tx *sqlx.Tx, name string, again func(string, []byte) ([]byte, error)) error {
	var doc string
	err := notFound(tx.GetContext(ctx, &doc, "SELECT value FROM setting WHERE name = ?", name))
	if err == ErrNotFound {
		return nil
	}
	var sealed []byte
	if err == nil {
		err = json.Unmarshal([]byte(doc), &sealed)
	}
	if err == nil {
		sealed, err = again("setting "+name, sealed)
	}
	if err != nil {
		return err
	}
	now, err := json.Marshal(sealed)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, putSetting, name, string(now))
	return err
}
