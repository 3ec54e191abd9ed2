package host

import (
	"context"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// TablePage is a part of what was recorded of tags, as rows.
type TablePage struct {
	Columns []TableColumn `json:"columns"`
	Rows    []TableRow    `json:"rows"`
	Next    int64         `json:"next" doc:"where the next page begins, milliseconds since 1970; 0 at the end"`
}

// TableColumn is one tag.
type TableColumn struct {
	Tag  string `json:"tag"`
	Path string `json:"path"`
	Unit string `json:"unit"`
}

// TableRow is one moment.
type TableRow struct {
	At     int64    `json:"at" doc:"milliseconds since 1970"`
	Values []string `json:"values" doc:"as they are shown, without units; empty where nothing is known"`
	Bad    []string `json:"bad,omitempty" doc:"why, beside each value; only where one is not known"`
}

// Table hands over the rows of tags in a time: each change, or one at each
// multiple of a time. Its columns are those of the tags that there are.
func (p *Project) Table(ctx context.Context, who Actor, ids []string, in Period, every time.Duration,
	do func(TableRow) bool) ([]TableColumn, error) {
	reader, err := p.mayRead(ctx, who, ids, in)
	if err != nil {
		return nil, err
	}
	columns := []TableColumn{}
	var tags []*tag.Tag
	var known []string
	var kinds []value.Kind
	for _, id := range ids {
		version, t := p.recordedTag(id)
		if t == nil {
			continue
		}
		if err := p.Require(ctx, who, access.View, version.AreaOf(t)); err != nil {
			return nil, err
		}
		path, _ := version.Path(id)
		columns, tags = append(columns, TableColumn{id, path, t.Unit}), append(tags, t)
		known, kinds = append(known, id), append(kinds, t.Kind())
	}
	from, to := in.From.UnixNano(), in.To.UnixNano()
	err = reader.Rows(ctx, known, kinds, from, to, int64(every), func(at int64, values []value.Value) bool {
		row := TableRow{At: at / 1e6, Values: make([]string, len(values))}
		for i, v := range values {
			if !v.Quality.IsBad() {
				row.Values[i] = tags[i].Show(v, false)
				continue
			}
			if row.Bad == nil {
				row.Bad = make([]string, len(values))
			}
			row.Bad[i] = v.Quality.Reason()
		}
		return do(row)
	})
	return columns, err
}

// MostCells bounds one file of recorded values: its rows times its columns.
const MostCells = 4_000_000
