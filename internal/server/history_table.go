package server

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
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
	Looks string `query:"looks" maxLength:"8000" doc:"how the values of each tag stand: a JSON array of the columns of a view"`
}

func (q *TableQuery) asked() host.Period   { return period(q.From, q.To, q.Log) }
func (q *TableQuery) every() time.Duration { return time.Duration(q.Every) * time.Millisecond }

// table opens what is asked for.
func (q *TableQuery) table(ctx context.Context, who host.Actor, p *host.Project) (*host.Table, error) {
	tags := listed(q.Tags)
	table, err := p.Table(ctx, who, tags, q.asked(), q.every())
	if err != nil || q.Looks == "" {
		return table, err
	}
	var looks []history.ViewColumn
	if err := json.Unmarshal([]byte(q.Looks), &looks); err != nil {
		return nil, because(http.StatusUnprocessableEntity, say.Errorf("looks: %v", err))
	}
	return table, table.Look(tags, looks)
}

func (s *Server) tableRoutes() {
	get(s, "/api/projects/{project}/trend/table", "What was recorded of tags as rows, by time or by change",
		func(ctx context.Context, in *struct {
			TableQuery
			Limit  int  `query:"limit" minimum:"1" maximum:"1000" default:"200"`
			Newest bool `query:"newest" doc:"the newest rows, newest first"`
		}) (*body[host.TablePage], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			table, err := in.table(ctx, who, p)
			if err != nil {
				return nil, problem(err)
			}
			page, err := table.Page(ctx, in.Limit, in.Newest)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.TablePage]{*page}, nil
		})
	get(s, "/api/projects/{project}/trend/export", "What was recorded of tags, as CSV, XLSX or Apache Parquet",
		func(ctx context.Context, in *struct {
			TableQuery
			Form   string `query:"form" enum:"wide,long" default:"wide" doc:"a column for each tag, or a line for each value"`
			Format string `query:"format" enum:"csv,xlsx,parquet" default:"csv" doc:"parquet has its values as they are, a column for each tag"`
		}) (*fileOutput, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			table, err := in.table(ctx, who, p)
			if err != nil {
				return nil, problem(err)
			}
			name := "recorded " + in.asked().From.Format("2006-01-02 1504")
			if in.Format == "parquet" {
				var b bytes.Buffer
				if err := table.Parquet(ctx, &b); err != nil {
					return nil, problem(err)
				}
				return &fileOutput{"application/vnd.apache.parquet", `attachment; filename="` + name + `.parquet"`, b.Bytes()}, nil
			}
			return fileBy(exchange.WriteValues, name, exchange.Format(in.Format), func(line func([]string) error) error {
				return table.Lines(ctx, in.Form == "long", host.MostCells, line)
			})
		})
}
