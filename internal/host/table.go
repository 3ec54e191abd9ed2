package host

import (
	"cmp"
	"context"
	"io"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/history"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/exchange"
	"readyrail/internal/record"
)

// TablePage is a part of what was recorded of tags, as rows.
type TablePage struct {
	Columns []TableColumn `json:"columns"`
	Rows    []TableRow    `json:"rows"`
	Next    int64         `json:"next" doc:"where the next page begins, or of the newest first ends, milliseconds since 1970; 0 at the end"`
}

// TableColumn is one tag.
type TableColumn struct {
	Tag  string `json:"tag"`
	Path string `json:"path"`
	Unit string `json:"unit"`
	// Text is whether its values are texts, or have names.
	Text bool `json:"text"`

	look history.ViewColumn
}

func (c TableColumn) title() string {
	title := cmp.Or(c.look.Title, c.Path)
	if c.Unit == "" {
		return title
	}
	return title + " [" + c.Unit + "]"
}

// TableRow is one moment.
type TableRow struct {
	At     int64    `json:"at" doc:"milliseconds since 1970"`
	Values []string `json:"values" doc:"as they are shown, without units; empty where nothing is known"`
	Bad    []string `json:"bad,omitempty" doc:"why, beside each value; only where one is not known"`
}

// Table is what was recorded of tags in a time: a row for each change, or one at
// each multiple of a time.
type Table struct {
	Columns []TableColumn // of the tags that there are
	reader  *record.Recorder
	in      Period
	every   time.Duration
	tags    []*tag.Tag
	seen    func(at int64) // is told the time of each row, in milliseconds; nil tells nobody
}

// Table opens the rows of tags that a person may see.
func (p *Project) Table(ctx context.Context, who Actor, ids []string, in Period, every time.Duration) (*Table, error) {
	reader, err := p.mayRead(ctx, who, ids, in)
	if err != nil {
		return nil, err
	}
	t := p.table(reader, ids, in, every)
	for _, c := range t.Columns {
		version, own := p.recordedTag(c.Tag)
		if err := p.Require(ctx, who, access.View, version.AreaOf(own)); err != nil {
			return nil, err
		}
	}
	return t, nil
}

// table is Table for who has been asked for the rights already.
func (p *Project) table(reader *record.Recorder, ids []string, in Period, every time.Duration) *Table {
	out := &Table{Columns: []TableColumn{}, reader: reader, in: in, every: every}
	for _, id := range ids {
		if version, t := p.recordedTag(id); t != nil {
			path, _ := version.Path(id)
			text := !t.Kind().IsNumber() || len(t.States) > 0
			out.Columns, out.tags = append(out.Columns, TableColumn{Tag: id, Path: path, Unit: t.Unit, Text: text}), append(out.tags, t)
		}
	}
	return out
}

// Look gives columns their looks, in the order of the tags that were asked for;
// there may be fewer.
func (t *Table) Look(ids []string, looks []history.ViewColumn) error {
	if len(looks) > len(ids) {
		return refused("these are %d columns of %d tags", len(looks), len(ids))
	}
	for i, look := range looks {
		if _, err := look.Check(); err != nil {
			return refused("column %d: %v", i+1, err)
		}
		n := slices.IndexFunc(t.Columns, func(c TableColumn) bool { return c.Tag == ids[i] })
		if n < 0 {
			continue
		}
		t.Columns[n].look = look
		if look.Decimals != nil {
			own := *t.tags[n]
			own.Decimals, t.tags[n] = look.Decimals, &own
		}
	}
	return nil
}

// values hands over what was recorded row by row, as it is, until it is told to
// stop; at is in nanoseconds.
func (t *Table) values(ctx context.Context, do func(at int64, values []value.Value) bool) error {
	ids, kinds := make([]string, len(t.tags)), make([]value.Kind, len(t.tags))
	for i, x := range t.tags {
		ids[i], kinds[i] = t.Columns[i].Tag, x.Kind()
	}
	from, to := t.in.From.UnixNano(), t.in.To.UnixNano()
	return t.reader.Rows(ctx, ids, kinds, from, to, int64(t.every), do)
}

// ForEach hands over the values of every row until one fails; at is in nanoseconds
// since 1970.
func (t *Table) ForEach(ctx context.Context, do func(at int64, values []value.Value) error) (failed error) {
	err := t.values(ctx, func(at int64, values []value.Value) bool {
		if t.seen != nil {
			t.seen(at / 1e6)
		}
		failed = do(at, values)
		return failed == nil
	})
	if failed != nil {
		return failed
	}
	return err
}

// parquetColumns are the columns of a file of values as they are.
func (t *Table) parquetColumns() []exchange.ParquetColumn {
	out := make([]exchange.ParquetColumn, len(t.tags))
	for i, x := range t.tags {
		out[i] = exchange.ParquetColumn{Name: t.Columns[i].Path, Unit: x.Unit, Kind: x.Kind()}
	}
	return out
}

// Parquet writes the values of every row as they are; more cells than MostCells
// are refused.
func (t *Table) Parquet(ctx context.Context, w io.Writer) error {
	cells := 0
	return exchange.WriteParquet(w, t.parquetColumns(), func(row func(int64, []value.Value) error) error {
		return t.ForEach(ctx, func(at int64, values []value.Value) error {
			if cells += len(values); cells > MostCells {
				return errManyCells
			}
			return row(at, values)
		})
	})
}

// Each hands over row after row as they are shown, until it is told to stop.
func (t *Table) Each(ctx context.Context, do func(TableRow) bool) error {
	return t.values(ctx, func(at int64, values []value.Value) bool {
		row := TableRow{At: at / 1e6, Values: make([]string, len(values))}
		for i, v := range values {
			if !v.Quality.IsBad() {
				row.Values[i] = t.Columns[i].look.Prefix + t.tags[i].Show(v, false)
				continue
			}
			if row.Bad == nil {
				row.Bad = make([]string, len(values))
			}
			row.Bad[i] = string(v.Quality.Reason())
		}
		return do(row)
	})
}

// Page is a part of the rows, at most limit but for those of one millisecond, which
// stay together: from the beginning, or the newest first.
func (t *Table) Page(ctx context.Context, limit int, newest bool) (*TablePage, error) {
	out := &TablePage{Columns: t.Columns, Rows: []TableRow{}}
	if newest {
		// What is too much at the front goes now and then.
		trim := func() {
			first := max(0, len(out.Rows)-limit)
			for first > 0 && out.Rows[first-1].At == out.Rows[first].At {
				first--
			}
			if first > 0 {
				out.Rows = append(out.Rows[:0], out.Rows[first:]...)
				out.Next = out.Rows[0].At
			}
		}
		err := t.Each(ctx, func(r TableRow) bool {
			if out.Rows = append(out.Rows, r); len(out.Rows) > 4*limit {
				trim()
			}
			return true
		})
		trim()
		slices.Reverse(out.Rows)
		return out, err
	}
	return out, t.Each(ctx, func(r TableRow) bool {
		if n := len(out.Rows); n >= limit && r.At != out.Rows[n-1].At {
			out.Next = r.At
			return false
		}
		out.Rows = append(out.Rows, r)
		return true
	})
}

// MostCells bounds one file of recorded values for a browser: its rows times its
// columns.
const MostCells = 4_000_000

var errManyCells = refused("these are more than %d million values: choose a longer time from row to row, or a shorter range",
	int(MostCells/1e6))

// Lines hands over the lines of a file: with a column for each tag, or long, a
// line for each value that is another than the one before. More cells than most
// are refused; 0 for no bound.
func (t *Table) Lines(ctx context.Context, long bool, most int, line func([]string) error) error {
	write := wideLine(line)
	head := []string{"time"}
	if long {
		head, write = []string{"time", "tag", "value", "unit", "bad"}, t.longLine(line)
	} else {
		for _, c := range t.Columns {
			head = append(head, c.title())
		}
	}
	if err := line(head); err != nil {
		return err
	}
	var failed error
	cells := 0
	err := t.Each(ctx, func(r TableRow) bool {
		if t.seen != nil {
			t.seen(r.At)
		}
		if cells += len(r.Values); most > 0 && cells > most {
			failed = errManyCells
		} else {
			failed = write(r)
		}
		return failed == nil
	})
	if failed != nil {
		return failed
	}
	return err
}

// stamped is a moment as files have it: ISO 8601 with milliseconds and the offset
// of the server's zone, so that the hour that comes twice is told apart.
func stamped(at int64) string { return time.UnixMilli(at).Format("2006-01-02T15:04:05.000Z07:00") }

func wideLine(line func([]string) error) func(TableRow) error {
	return func(r TableRow) error { return line(append([]string{stamped(r.At)}, r.Values...)) }
}

func (t *Table) longLine(line func([]string) error) func(TableRow) error {
	last := make([]string, len(t.Columns))
	first := true
	return func(r TableRow) error {
		for i, c := range t.Columns {
			bad := ""
			if r.Bad != nil {
				bad = r.Bad[i]
			}
			if now := r.Values[i] + "\x00" + bad; first || now != last[i] {
				last[i] = now
				if err := line([]string{stamped(r.At), c.Path, strings.TrimSpace(r.Values[i]), c.Unit, bad}); err != nil {
					return err
				}
			}
		}
		first = false
		return nil
	}
}
