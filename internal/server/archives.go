package server

import (
	"context"
	"net/http"
	"strconv"

	"readyrail/internal/host"
	"readyrail/internal/store"
)

// archives are how a record that only grows is closed part by part: listed, closed, and
// the file of one handed out.
type archives struct {
	list  func(*host.Project, context.Context, host.Actor) ([]store.Archive, error)
	close func(*host.Project, context.Context, host.Actor, string) (store.Archive, error)
	file  func(*host.Project, context.Context, host.Actor, int64) (store.Archive, []byte, error)
}

// archiveRoutes serve the archives of one record, under a name.
func (s *Server) archiveRoutes(name, called, kind string, of archives) {
	path := "/api/projects/{project}/" + name + "-archives"
	get(s, path, "What of "+called+" was written out and sealed", func(ctx context.Context, in *Scope) (*body[[]store.Archive], error) {
		who, p, err := s.enter(ctx, *in, "")
		if err != nil {
			return nil, err
		}
		list, err := of.list(p, ctx, who)
		return &body[[]store.Archive]{list}, problem(err)
	})
	send(s, http.MethodPost, path, "Close "+called+": write it out, seal it and begin it anew", func(ctx context.Context, in *struct {
		Scope
		Body struct {
			Reason string `json:"reason" minLength:"1" maxLength:"500"`
		}
	}) (*body[store.Archive], error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		a, err := of.close(p, ctx, who, in.Body.Reason)
		return &body[store.Archive]{a}, problem(err)
	})
	get(s, path+"/{id}", "The file of an archive of "+called, func(ctx context.Context, in *ThingInput) (*fileOutput, error) {
		who, p, err := s.enter(ctx, in.Scope, "")
		if err != nil {
			return nil, err
		}
		n, _ := strconv.ParseInt(in.ID, 10, 64) // no number is no archive's
		a, data, err := of.file(p, ctx, who, n)
		if err != nil {
			return nil, problem(err)
		}
		return &fileOutput{kind, `attachment; filename="` + a.File + `"`, data}, nil
	})
}
