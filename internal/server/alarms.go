package server

import (
	"bytes"
	"context"
	"encoding/csv"
	"net/http"
	"strconv"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/store"
)

// AlarmRow is an alarm's definition as people read it.
type AlarmRow struct {
	alarm.Alarm
	Path string `json:"path" doc:"of its signal"`
	Unit string `json:"unit"`
	// Gear says of which equipment it comes; absent for an alarm of its own.
	Gear *project.GearTag `json:"gear,omitempty"`
	Type string           `json:"typeName,omitempty" doc:"of the type that it comes of"`
}

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
	return store.JournalFilter{Before: q.Before, From: q.From * 1e6, To: q.To * 1e6, Kinds: q.Kind, Whats: q.What, Priority: q.Priority, Areas: q.Area, Alarm: q.Alarm, Text: q.Text}
}

func (s *Server) alarmRoutes() {
	get(s, "/api/projects/{project}/alarms", "How the alarms stand", func(ctx context.Context, in *struct {
		Scope
		Program string `query:"program" enum:"release,try,draft" default:"release"`
		All     bool   `query:"all" doc:"those that are normal too"`
	}) (*body[host.AlarmBoard], error) {
		right := access.Engineer
		if host.Program(in.Program) == host.Release {
			right = "" // of each alarm's own area
		}
		who, p, err := s.enter(ctx, in.Scope, right)
		if err != nil {
			return nil, err
		}
		out, err := p.Alarms(ctx, who, host.Program(in.Program), in.All)
		if err != nil {
			return nil, problem(err)
		}
		return &body[host.AlarmBoard]{*out}, nil
	})
	send(s, http.MethodPost, "/api/projects/{project}/alarms/acts", "Acknowledge, reset, shelve, take out of service", func(ctx context.Context, in *struct {
		Scope
		Body host.AlarmAct
	}) (*body[Applied], error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		n, err := p.ActOnAlarms(ctx, who, in.Body)
		return &body[Applied]{Applied{n, p.Revision()}}, problem(err)
	})
	get(s, "/api/projects/{project}/alarm-definitions", "The alarms of the draft", func(ctx context.Context, in *Scope) (*body[[]AlarmRow], error) {
		_, p, err := s.enter(ctx, *in, access.Engineer)
		if err != nil {
			return nil, err
		}
		return &body[[]AlarmRow]{alarmRows(p.Draft())}, nil
	})
	send(s, http.MethodPost, "/api/projects/{project}/alarm-definitions/{id}/plays", "What an alarm of the draft did, and would have done otherwise", func(ctx context.Context, in *struct {
		ThingInput
		Body host.Proposal
	}) (*body[host.Played], error) {
		_, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		out, err := p.WhatIf(ctx, in.ID, in.Body)
		if err != nil {
			return nil, problem(err)
		}
		return &body[host.Played]{*out}, nil
	})
	get(s, "/api/projects/{project}/alarm-performance", "How the alarms did over a time", func(ctx context.Context, in *struct {
		Scope
		From int64  `query:"from" minimum:"0" doc:"milliseconds since 1970; a day before the end where it is not given"`
		To   int64  `query:"to" minimum:"0" doc:"milliseconds since 1970; now where it is not given"`
		Area string `query:"area" maxLength:"64" doc:"id; all areas where none is given"`
	}) (*body[alarm.Performance], error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		from, to := time.UnixMilli(in.From), time.UnixMilli(in.To)
		if in.To == 0 {
			to = time.Now()
		}
		if in.From == 0 {
			from = to.Add(-24 * time.Hour)
		}
		out, err := p.AlarmPerformance(ctx, who, from, to, in.Area)
		if err != nil {
			return nil, problem(err)
		}
		return &body[alarm.Performance]{*out}, nil
	})
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
	get(s, "/api/projects/{project}/journal/export", "The journal as CSV, by filter", func(ctx context.Context, in *JournalQuery) (*fileOutput, error) {
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
		return &fileOutput{"text/csv; charset=utf-8", `attachment; filename="journal.csv"`, journalCSV(list)}, nil
	})
	get(s, "/api/projects/{project}/journal/{id}/comments", "What was said of an entry", func(ctx context.Context, in *ThingInput) (*body[[]store.Comment], error) {
		_, p, err := s.enter(ctx, in.Scope, access.View)
		if err != nil {
			return nil, err
		}
		n, _ := strconv.ParseInt(in.ID, 10, 64)
		list, err := p.EntryComments(ctx, n)
		return &body[[]store.Comment]{list}, problem(err)
	})
	send(s, http.MethodPost, "/api/projects/{project}/journal/{id}/comments", "Say something of an entry", func(ctx context.Context, in *struct {
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

func alarmRows(d *project.Project) []AlarmRow {
	out := []AlarmRow{}
	for _, id := range d.SortedAlarms() {
		row := AlarmRow{Alarm: *d.ShownAlarm(d.Alarms[id])}
		row.Path, _ = d.Path(row.Tag)
		if t := d.Tags[row.Tag]; t != nil {
			row.Unit = t.Unit
		}
		if g, ok := d.GearAlarm(id); ok {
			row.Gear = &g
			if t := d.Types[g.Type]; t != nil {
				row.Type = t.Name
			}
		}
		out = append(out, row)
	}
	return out
}

func journalCSV(list []store.Entry) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Write([]string{"number", "time", "kind", "what", "name", "area", "priority", "state", "text", "value", "limit", "who", "panel", "reason", "comments"})
	for _, e := range list {
		priority := ""
		if e.Priority >= 0 && e.Priority < len(alarm.Priorities) {
			priority = string(alarm.Priorities[e.Priority])
		}
		row := []string{strconv.FormatInt(e.Seq, 10), time.Unix(0, e.At).UTC().Format(time.RFC3339Nano), e.Kind, e.What, e.Name, e.Area, priority, e.State, e.Text, e.Value, e.Bound, e.Person, e.Panel, e.Reason, strconv.Itoa(e.Comments)}
		for i := range row {
			row[i] = host.Inert(row[i])
		}
		w.Write(row)
	}
	w.Flush()
	return b.Bytes()
}
