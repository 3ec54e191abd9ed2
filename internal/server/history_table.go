package server

import (
	"context"
	"strings"
	"time"

	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// TableQuery is what a table of recorded values is made of.
type TableQuery struct {
	Scope
	Tags  string `query:"tags" maxLength:"4000" doc:"ids, with commas between them"`
	From  int64  `query:"from" minimum:"0" doc:"milliseconds since 1970"`
	To    int64  `query:"to" minimum:"0"`
	Every int64  `query:"every" minimum:"0" maximum:"31536000000" doc:"milliseconds from row to row, on the clock's marks; 0 for a row at each change"`
	Log   string `query:"log" maxLength:"100" doc:"id of the log that is read; what the recorder has where it is not given"`
}

func (q *TableQuery) asked() host.Period   { return period(q.From, q.To, q.Log) }
func (q *TableQuery) every() time.Duration { return time.Duration(q.Every) * time.Millisecond }

func (s *Server) tableRoutes() {
	get(s, "/api/projects/{project}/trend/table", "What was recorded of tags as rows, by time or by change",
		func(ctx context.Context, in *struct {
			TableQuery
			Limit int `query:"limit" minimum:"1" maximum:"1000" default:"200"`
		}) (*body[host.TablePage], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			out := host.TablePage{Rows: []host.TableRow{}}
			out.Columns, err = p.Table(ctx, who, listed(in.Tags), in.asked(), in.every(), func(r host.TableRow) bool {
				// Rows of one millisecond stay on one page.
				if len(out.Rows) >= in.Limit && r.At != out.Rows[len(out.Rows)-1].At {
					out.Next = r.At
					return false
				}
				out.Rows = append(out.Rows, r)
				return true
			})
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.TablePage]{out}, nil
		})
	get(s, "/api/projects/{project}/trend/export", "What was recorded of tags, as CSV or XLSX",
		func(ctx context.Context, in *struct {
			TableQuery
			Form   string `query:"form" enum:"wide,long" default:"wide" doc:"a column for each tag, or a line for each value"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (*fileOutput, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			asked := in.asked()
			var rows []host.TableRow
			columns, err := p.Table(ctx, who, listed(in.Tags), asked, in.every(), func(r host.TableRow) bool {
				rows = append(rows, r)
				return len(rows)*len(r.Values) <= host.MostCells
			})
			if err == nil && len(rows)*len(columns) > host.MostCells {
				err = &host.Refused{Reason: "these are more than 4 million values: choose a longer time from row to row, or a shorter range"}
			}
			if err != nil {
				return nil, problem(err)
			}
			name := "recorded " + asked.From.Format("2006-01-02 1504")
			return fileBy(exchange.WriteValues, name, exchange.Format(in.Format), func(line func([]string) error) error {
				if in.Form == "long" {
					return longLines(columns, rows, line)
				}
				return wideLines(columns, rows, line)
			})
		})
}

// stamped is a moment as files have it: ISO 8601 with milliseconds and the offset
// of the server's zone, so that the hour that comes twice is told apart.
func stamped(at int64) string { return time.UnixMilli(at).Format("2006-01-02T15:04:05.000Z07:00") }

func titled(c host.TableColumn) string {
	if c.Unit == "" {
		return c.Path
	}
	return c.Path + " [" + c.Unit + "]"
}

func wideLines(columns []host.TableColumn, rows []host.TableRow, line func([]string) error) error {
	cells := []string{"time"}
	for _, c := range columns {
		cells = append(cells, titled(c))
	}
	if err := line(cells); err != nil {
		return err
	}
	for _, r := range rows {
		if err := line(append([]string{stamped(r.At)}, r.Values...)); err != nil {
			return err
		}
	}
	return nil
}

// longLines has a line for each value that is another than the one before.
func longLines(columns []host.TableColumn, rows []host.TableRow, line func([]string) error) error {
	if err := line([]string{"time", "tag", "value", "unit", "bad"}); err != nil {
		return err
	}
	last := make([]string, len(columns))
	for n, r := range rows {
		for i, c := range columns {
			bad := ""
			if r.Bad != nil {
				bad = r.Bad[i]
			}
			if now := r.Values[i] + "\x00" + bad; n == 0 || now != last[i] {
				last[i] = now
				if err := line([]string{stamped(r.At), c.Path, strings.TrimSpace(r.Values[i]), c.Unit, bad}); err != nil {
					return err
				}
			}
		}
	}
	return nil
}
