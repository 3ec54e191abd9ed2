package server

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"path/filepath"
	"strconv"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
	"readyrail/internal/store"
)

// TrailPage is a page of the audit trail, newest first.
type TrailPage struct {
	Records []TrailRecord `json:"records"`
	Next    int64         `json:"next" doc:"where it goes on, as its before; 0 at the end. A page may be short"`
}

// TrailRecord is a record of the trail as it is shown.
type TrailRecord struct {
	audit.Record
	AtMs int64 `json:"atMs"`
}

// Seal says whether the trail's seals hold, as it was last checked, and how far a check
// is that is under way.
type Seal struct {
	Busy    bool   `json:"busy" doc:"a check is under way"`
	Checked int64  `json:"checked" doc:"records that hold so far"`
	Of      int64  `json:"of" doc:"records that there were when it began"`
	At      int64  `json:"at" doc:"when the last check ended, in milliseconds since 1970; 0 where there was none"`
	Records int64  `json:"records"`
	Before  int64  `json:"before" doc:"records of the parts that were closed, which are in files"`
	Whole   bool   `json:"whole"`
	Problem string `json:"problem"`
	// What it rests on: the farthest signed head that the trail was compared with.
	Head      int64  `json:"head" doc:"number of its record; 0 for none"`
	HeadAt    int64  `json:"headAt" doc:"when it was signed, in milliseconds since 1970"`
	Place     string `json:"place" doc:"where it is kept"`
	Elsewhere bool   `json:"elsewhere" doc:"that is outside of the data folder. Without, it is this machine's word alone"`
	Unwritten string `json:"unwritten" doc:"why the folder for heads did not take the newest; empty where it did"`
}

// TrailQuery narrows the trail.
type TrailQuery struct {
	Scope
	Before  int64    `query:"before" minimum:"0" doc:"records before this number"`
	From    int64    `query:"from" minimum:"0" doc:"milliseconds since 1970"`
	To      int64    `query:"to" minimum:"0" doc:"milliseconds since 1970"`
	Tag     string   `query:"tag" maxLength:"64" doc:"id: the records of one tag, whatever it was called"`
	Area    string   `query:"area" maxLength:"60" doc:"id: what is in it and in those that lie in it"`
	Path    string   `query:"path" maxLength:"200" doc:"of a tag; * stands for anything"`
	Person  string   `query:"person" maxLength:"80" doc:"part of the name"`
	What    []string `query:"what" maxItems:"30"`
	Outcome []string `query:"outcome" maxItems:"10" doc:"open for writes that are under way"`
	Reason  string   `query:"reason" enum:",given,none" doc:"whether one was given"`
	Text    string   `query:"text" maxLength:"100" doc:"in paths, names, panels, screens, elements, values and reasons"`
}

// signedFile is the format that is proved by the server's public key.
const signedFile = "signed"

// printedFile is the format that is a record on paper.
const printedFile = "pdf"

// underWay is how a write that has no outcome yet is asked for.
const underWay = "open"

func (q *TrailQuery) filter(p *host.Project) (store.TrailFilter, error) {
	f := store.TrailFilter{Before: q.Before, From: q.From * 1e6, To: q.To * 1e6, Tag: q.Tag, Path: q.Path, Person: q.Person, Whats: q.What,
		Reason: store.Given(q.Reason), Text: q.Text}
	for _, o := range q.Outcome {
		if o == underWay {
			o = ""
		}
		f.Outcomes = append(f.Outcomes, o)
	}
	if q.Area == "" {
		return f, nil
	}
	within, err := p.TrailPlace(q.Area)
	f.Within = within
	return f, err
}

// told says by what the trail was narrowed, for the record of an export.
func (q *TrailQuery) told() string {
	var parts []string
	say := func(name, value string) {
		if value != "" {
			parts = append(parts, name+" "+value)
		}
	}
	if q.From > 0 {
		say("from", host.Stamp(q.From*1e6))
	}
	if q.To > 0 {
		say("to", host.Stamp(q.To*1e6))
	}
	say("tag", q.Tag)
	say("area", q.Area)
	say("path", q.Path)
	say("person", q.Person)
	say("what", strings.Join(q.What, ","))
	say("outcome", strings.Join(q.Outcome, ","))
	say("reason", q.Reason)
	say("text", q.Text)
	if len(parts) == 0 {
		return "all of it"
	}
	return strings.Join(parts, ", ")
}

func (s *Server) auditRoutes() {
	get(s, "/api/projects/{project}/audit", "A page of the audit trail, newest first", func(ctx context.Context, in *struct {
		TrailQuery
		Limit int `query:"limit" minimum:"1" maximum:"500" default:"100"`
	}) (*body[TrailPage], error) {
		_, p, err := s.enter(ctx, in.Scope, access.Audit)
		if err != nil {
			return nil, err
		}
		f, err := in.filter(p)
		if err != nil {
			return nil, problem(err)
		}
		list, next, err := p.Trail(ctx, f, in.Limit)
		return &body[TrailPage]{TrailPage{shownRecords(list), next}}, problem(err)
	})
	path := "/api/projects/{project}/audit/seal"
	get(s, path, "Whether the audit trail is whole, as it was last checked", func(ctx context.Context, in *Scope) (*body[Seal], error) {
		_, p, err := s.enter(ctx, *in, access.Audit)
		if err != nil {
			return nil, err
		}
		return &body[Seal]{sealOf(ctx, p.TrailChecked())}, nil
	})
	send(s, http.MethodPost, path, "Check whether the audit trail is whole", func(ctx context.Context, in *Scope) (*body[Seal], error) {
		_, p, err := s.enter(ctx, *in, access.Audit)
		if err != nil {
			return nil, err
		}
		p.CheckTrail()
		return &body[Seal]{sealOf(ctx, p.TrailChecked())}, nil
	})
	get(s, "/api/projects/{project}/audit/export", "The audit trail, by filter or all of it signed", func(ctx context.Context, in *struct {
		TrailQuery
		Format string `query:"format" enum:"csv,xlsx,pdf,signed" default:"csv"`
	}) (*fileOutput, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Audit)
		if err != nil {
			return nil, err
		}
		if in.Format == signedFile {
			var b bytes.Buffer
			if err := p.WriteTrail(ctx, &b); err != nil {
				return nil, problem(err)
			}
			p.Note(ctx, who, audit.Exported, "all of the audit trail as a signed file")
			return &fileOutput{"application/jsonl", `attachment; filename="` + p.ID() + `.trail"`, b.Bytes()}, nil
		}
		f, err := in.filter(p)
		if err != nil {
			return nil, problem(err)
		}
		if in.Format == printedFile {
			var b bytes.Buffer
			n, err := p.PrintTrail(ctx, &b, who, f, in.told(), heard(ctx))
			if err != nil {
				return nil, problem(err)
			}
			p.Note(ctx, who, audit.Exported, fmt.Sprintf("%d records of the audit trail printed: %s", n, in.told()))
			return &fileOutput{"application/pdf", `attachment; filename="` + p.ID() + `-trail.pdf"`, b.Bytes()}, nil
		}
		n := 0
		file, err := tableFile("audit", exchange.Format(in.Format), func(line func([]string) error) error {
			if err := line(host.TrailHead); err != nil {
				return err
			}
			return p.EachRecord(ctx, f, func(r audit.Record) error { n++; return line(host.TrailLine(&r)) })
		})
		if err != nil {
			return nil, err
		}
		p.Note(ctx, who, audit.Exported, fmt.Sprintf("%d records of the audit trail as %s: %s", n, in.Format, in.told()))
		return file, nil
	})
	get(s, "/api/projects/{project}/audit/{id}/comments", "What was said of a record",
		func(ctx context.Context, in *ThingInput) (*body[[]TrailRecord], error) {
			_, p, err := s.enter(ctx, in.Scope, access.Audit)
			if err != nil {
				return nil, err
			}
			seq, _ := strconv.ParseInt(in.ID, 10, 64)
			list, err := p.CommentsOn(ctx, seq)
			return &body[[]TrailRecord]{shownRecords(list)}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/audit/{id}/comments", "Say something of a record",
		func(ctx context.Context, in *struct {
			ThingInput
			Body struct {
				Text string `json:"text" minLength:"1" maxLength:"1000"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Audit)
			if err != nil {
				return nil, err
			}
			seq, _ := strconv.ParseInt(in.ID, 10, 64)
			return nil, problem(p.CommentOn(ctx, who, seq, in.Body.Text))
		})
}

func shownRecords(list []audit.Record) []TrailRecord {
	out := make([]TrailRecord, len(list))
	for i, r := range list {
		out[i] = TrailRecord{r, r.At / 1e6}
	}
	return out
}

func sealOf(ctx context.Context, c host.TrailCheck) Seal {
	out := Seal{Busy: c.Busy, Checked: c.Checked, Of: c.Of}
	if c.At.IsZero() {
		return out
	}
	state := c.State
	out.At, out.Records, out.Whole = c.At.UnixMilli(), state.Records, c.Err == nil
	out.Head, out.HeadAt = state.Head.Seq, state.Head.At/1e6
	out.Place, out.Elsewhere = filepath.Base(state.Head.Place), state.Elsewhere
	for _, p := range state.Parts {
		out.Before += p.Records
	}
	if state.Unwritten != nil {
		out.Unwritten = said(ctx, state.Unwritten)
	}
	if c.Err != nil {
		out.Problem = said(ctx, c.Err)
	}
	return out
}
