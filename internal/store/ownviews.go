package store

import (
	"context"
	"encoding/json"

	"readyrail/internal/core/history"
)

// OwnViews reads the views of recorded courses that a person keeps, by their ids.
func (s *State) OwnViews(ctx context.Context, person string) (map[string]*history.View, error) {
	var rows []struct {
		ID  string `db:"id"`
		Doc string `db:"doc"`
	}
	err := s.db.SelectContext(ctx, &rows, "SELECT id, doc FROM own_view WHERE person = ?", person)
	out := map[string]*history.View{}
	for _, r := range rows {
		v := &history.View{}
		if err := json.Unmarshal([]byte(r.Doc), v); err != nil {
			return nil, err
		}
		v.ID = r.ID
		out[r.ID] = v
	}
	return out, err
}

// PutOwnView keeps a person's view; nil forgets it.
func (s *State) PutOwnView(ctx context.Context, person, id string, v *history.View) error {
	if v == nil {
		_, err := s.db.ExecContext(ctx, "DELETE FROM own_view WHERE person = ? AND id = ?", person, id)
		return err
	}
	doc, err := json.Marshal(v)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, "INSERT OR REPLACE INTO own_view (person, id, doc) VALUES (?, ?, ?)", person, id, string(doc))
	return err
}
