package server

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"strconv"

	"readyrail/internal/exchange"
	"readyrail/internal/host"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// JournalEntry is a line of the journal; at is in milliseconds.
type JournalEntry struct {
	store.Entry
	At int64 `json:"at" doc:"milliseconds since 1970, UTC"`
}

// JournalPage is a page of the journal, newest first.
type JournalPage struct {
	Entries []JournalEntry `json:"entries"`
	Next    int64          `json:"next" doc:"where the next page goes on, as its before; 0 at the end. A page may hold fewer entries than there are"`
}

// OccurrencePage is a page of occurrences, newest first.
type OccurrencePage struct {
	Occurrences []record.Occurrence `json:"occurrences"`
	Next        int64               `json:"next" doc:"where the next page goes on, as its before; 0 at the end"`
}

// JournalQuery narrows the journal.
type JournalQuery struct {
	Scope
	Before   int64    `query:"before" minimum:"0" doc:"entries before this number"`
	From     int64    `query:"from" minimum:"0" doc:"milliseconds since 1970"`
	To       int64    `query:"to" minimum:"0" doc:"milliseconds since 1970"`
	Kind     []string `query:"kind" maxItems:"10"`
	What     []string `query:"what" maxItems:"20"`
	Priority []int    `query:"priority" maxItems:"4"`
	Area     []string `query:"area" maxItems:"50"`
	Alarm    string   `query:"alarm" maxLength:"64"`
	Text     string   `query:"text" maxLength:"100"`
}

func (q *JournalQuery) filter() store.JournalFilter {
	return store.JournalFilter{Before: q.Before, From: q.From * 1e6, To: q.To * 1e6, Kinds: q.Kind, Whats: q.What, Priority: q.Priority,
		Areas: q.Area, Alarm: q.Alarm, Text: q.Text}
}

func (s *Server) journalRoutes() {
	get(s, "/api/projects/{project}/journal", "A page of the journal, newest first", func(ctx context.Context, in *struct {
		JournalQuery
		Limit int `query:"limit" minimum:"1" maximum:"500" default:"100"`
	}) (*body[JournalPage], error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		list, next, err := p.Journal(ctx, who, in.filter(), in.Limit)
		if err != nil {
			return nil, problem(err)
		}
		out := JournalPage{Entries: []JournalEntry{}, Next: next}
		for _, e := range list {
			out.Entries = append(out.Entries, JournalEntry{e, e.At / 1e6})
		}
		return &body[JournalPage]{out}, nil
	})
	get(s, "/api/projects/{project}/journal/occurrences", "How often alarms came, each from its coming to its going, newest first",
		func(ctx context.Context, in *struct {
			JournalQuery
			Limit int `query:"limit" minimum:"1" maximum:"200" default:"50"`
		}) (*body[OccurrencePage], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			list, next, err := p.Occurrences(ctx, who, in.filter(), in.Limit)
			if err != nil {
				return nil, problem(err)
			}
			return &body[OccurrencePage]{OccurrencePage{list, next}}, nil
		})
	get(s, "/api/projects/{project}/journal/export", "The journal as CSV or XLSX, by filter", func(ctx context.Context, in *struct {
		JournalQuery
		Format string `query:"format" enum:"csv,xlsx" default:"csv"`
	}) (*fileOutput, error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		var list []store.Entry
		for f := in.filter(); len(list) < mostExported; {
			page, next, err := p.Journal(ctx, who, f, 10_000)
			if err != nil {
				return nil, problem(err)
			}
			list = append(list, page...)
			if f.Before = next; next == 0 {
				break
			}
		}
		return tableFile("journal", exchange.Format(in.Format), func(line func([]string) error) error { return journalLines(list, line) })
	})
	s.archiveRoutes("journal", "the journal", "application/zip", archives{(*host.Project).JournalArchives, (*host.Project).CloseJournal,
		(*host.Project).JournalArchive})
	s.archiveRoutes("audit", "the audit trail", "application/jsonl", archives{(*host.Project).TrailArchives, (*host.Project).CloseTrail,
		(*host.Project).TrailArchive})
	send(s, http.MethodPost, "/api/projects/{project}/screen-errors", "Say what went wrong in a browser",
		func(ctx context.Context, in *struct {
			Scope
			Body struct {
				Screen string `json:"screen" maxLength:"64"`
				Text   string `json:"text" maxLength:"500"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.ScreenError(ctx, who, in.Body.Screen, in.Body.Text))
		})
	get(s, "/api/projects/{project}/journal/{id}/comments", "What was said of an entry",
		func(ctx context.Context, in *ThingInput) (*body[[]store.Comment], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			n, _ := strconv.ParseInt(in.ID, 10, 64)
			list, err := p.EntryComments(ctx, who, n)
			return &body[[]store.Comment]{list}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/journal/{id}/comments", "Say something of an entry",
		func(ctx context.Context, in *struct {
			ThingInput
			Body struct {
				Text string `json:"text" minLength:"1" maxLength:"1000"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			n, _ := strconv.ParseInt(in.ID, 10, 64)
			return nil, problem(p.CommentEntry(ctx, who, n, in.Body.Text))
		})
}

// mostExported bounds an export of the journal, in entries.
const mostExported = 200_000

func journalLines(list []store.Entry, line func([]string) error) error {
	err := line(host.JournalHead)
	for i := range list {
		if err == nil {
			err = line(host.JournalLine(&list[i]))
		}
	}
	return err
}

// tableFile is a table as a file to keep, named without its ending.
func tableFile(name string, format exchange.Format, each func(line func([]string) error) error) (*fileOutput, error) {
	return fileBy(exchange.WriteTable, name, format, each)
}

// fileBy is a file of lines as one of the writers makes it.
func fileBy(write func(io.Writer, exchange.Format, string, func(func([]string) error) error) error, name string, format exchange.Format,
	each func(line func([]string) error) error) (*fileOutput, error) {
	var b bytes.Buffer
	if err := write(&b, format, name, each); err != nil {
		return nil, problem(err)
	}
	return sheetFile(name, format, b.Bytes()), nil
}

// sheetFile is a spreadsheet as a file to keep, named without its ending.
func sheetFile(name string, format exchange.Format, data []byte) *fileOutput {
	kind := "text/csv; charset=utf-8"
	if format == exchange.XLSX {
		kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	}
	return &fileOutput{kind, `attachment; filename="` + name + "." + string(format) + `"`, data}
}
