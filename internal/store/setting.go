package store

import (
	"context"
	"encoding/json"
)

const putSetting = "INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value"

// Setting reads a setting of the server into what is given; ErrNotFound where it was
// never put.
func (s *Server) Setting(ctx context.Context, name string, into any) error {
	var doc string
	if err := notFound(s.db.GetContext(ctx, &doc, "SELECT value FROM setting WHERE name = ?", name)); err != nil {
		return err
	}
	return json.Unmarshal([]byte(doc), into)
}

// PutSetting keeps a setting of the server.
func (s *Server) PutSetting(ctx context.Context, name string, value any) error {
	doc, err := json.Marshal(value)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, putSetting, name, string(doc))
	return err
}
