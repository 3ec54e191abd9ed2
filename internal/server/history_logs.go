package server

import (
	"context"
	"net/http"

	"readyrail/internal/host"
)

// logRoutes are the endpoints of logs.
func (s *Server) logRoutes() {
	get(s, "/api/projects/{project}/logs", "The logs and how they stand",
		func(ctx context.Context, in *struct {
			Scope
			Program string `query:"program" enum:"draft,release" default:"release" doc:"whose logs; those that the release has no more are listed too"`
		}) (*body[[]host.LogShown], error) {
			who, p, err := s.enter(ctx, in.Scope, readsOf(in.Program))
			if err != nil {
				return nil, err
			}
			list, err := p.Logs(ctx, who, in.Program == "release")
			return &body[[]host.LogShown]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/file-folders", "The folders that the server allows logs to be written out to",
		func(ctx context.Context, in *struct{ Scope }) (*body[[]host.FolderState], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			list, err := p.Folders(ctx, who)
			return &body[[]host.FolderState]{list}, problem(err)
		})
	get(s, "/api/projects/{project}/storage", "How much is kept of the past, and what the disk has for it",
		func(ctx context.Context, in *struct{ Scope }) (*body[host.Storage], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			kept, err := p.Storage(ctx, who)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.Storage]{*kept}, nil
		})
	get(s, "/api/projects/{project}/tags/{id}/kept", "What keeps the course of a tag, since when, and how much",
		func(ctx context.Context, in *struct {
			Scope
			ID string `path:"id" maxLength:"200"`
		}) (*body[host.Kept], error) {
			who, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			kept, err := p.Kept(ctx, who, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.Kept]{*kept}, nil
		})
	get(s, "/api/projects/{project}/logs/{id}/spans", "The spans and marks of a log, newest first, a page",
		func(ctx context.Context, in *struct {
			Scope
			ID     string `path:"id" maxLength:"100"`
			Text   string `query:"text" maxLength:"100" doc:"that names or notes have"`
			Of     string `query:"of" maxLength:"200" doc:"id of the equipment whose spans are asked for; all where it is not given"`
			Before int64  `query:"before" minimum:"0" doc:"number of the span that the page ends before; 0 for the newest"`
		}) (*body[[]host.LogSpan], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			list, err := p.LogSpans(ctx, who, in.ID, in.Of, in.Text, in.Before)
			return &body[[]host.LogSpan]{list}, problem(err)
		})
	send(s, http.MethodPost, "/api/projects/{project}/logs/{id}/notes", "Give a span its note",
		func(ctx context.Context, in *struct {
			Scope
			ID   string `path:"id" maxLength:"100"`
			Body struct {
				Span int64  `json:"span"`
				Note string `json:"note" maxLength:"1000"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.NoteLogSpan(ctx, who, in.ID, in.Body.Span, in.Body.Note))
		})
	send(s, http.MethodPost, "/api/projects/{project}/logs/{id}/acts", "Start, stop, mark, write out or clear a log, have it take values now, or finish with its medium",
		func(ctx context.Context, in *struct {
			Scope
			ID   string `path:"id" maxLength:"100"`
			Body struct {
				Act  string `json:"act" enum:"start,stop,take,mark,export,finish,clear"`
				Text string `json:"text,omitempty" maxLength:"200" doc:"name of the mark, or why the log is cleared"`
			}
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.ActOnLog(ctx, who, in.ID, in.Body.Act, in.Body.Text))
		})
	send(s, http.MethodPost, "/api/projects/{project}/logs/{id}/values", "What a file of values would bring to a log; with apply, bring it in",
		func(ctx context.Context, in *struct {
			Scope
			ID      string `path:"id" maxLength:"100"`
			Apply   bool   `query:"apply"`
			RawBody []byte `contentType:"application/octet-stream" maxLength:"67108864"`
		}) (*body[host.LogFilling], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			filling, err := p.FillLog(ctx, who, in.ID, in.RawBody, in.Apply)
			if err != nil {
				return nil, problem(err)
			}
			return &body[host.LogFilling]{*filling}, nil
		})
	send(s, http.MethodDelete, "/api/projects/{project}/logs/{id}", "Delete what a log kept that the release has no more",
		func(ctx context.Context, in *struct {
			Scope
			ID     string `path:"id" maxLength:"100"`
			Reason string `query:"reason" maxLength:"300"`
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			return nil, problem(p.DropLog(ctx, who, in.ID, in.Reason))
		})
}
