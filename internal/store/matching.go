package store

import (
	"context"
	"encoding/json"
)

// Matching is how the columns of a source's lists are read, as JSON.
type Matching struct {
	Source string          `db:"source"`
	Doc    json.RawMessage `db:"doc"`
}

// Matchings lists them by source.
func (p *Project) Matchings(ctx context.Context) ([]Matching, error) {
	out := []Matching{}
	return out, p.db.SelectContext(ctx, &out, "SELECT source, doc FROM matching ORDER BY source")
}

// PutMatching keeps one under its source's name.
func (p *Project) PutMatching(ctx context.Context, m Matching) error {
	_, err := p.db.ExecContext(ctx, "INSERT INTO matching (source, doc) VALUES (?, ?) ON CONFLICT (source) DO UPDATE SET doc = excluded.doc",
		m.Source, []byte(m.Doc))
	return err
}
