package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/edit"
	"readyrail/internal/host"
)

// NamedPoint is a tag or a folder by its path.
type NamedPoint struct {
	ID   string `json:"id"`
	Path string `json:"path"`
}

func (s *Server) drawingRoutes() {
	send(s, http.MethodPost, "/api/projects/{project}/drawings", "Make a first symbol and faceplate of a type",
		func(ctx context.Context, in *struct {
			Scope
			Body project.Drawings
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			return nil, problem(p.Draw(ctx, who, in.Body))
		})
	bulk(s, "/api/projects/{project}/plans/substitution", "Replace names in what a screen refers to",
		func(p *host.Project, ctx context.Context, who host.Actor, n project.Substitution, apply bool) (*edit.Plan, error) {
			return p.Substitute(ctx, who, n, apply)
		})
	bulk(s, "/api/projects/{project}/plans/symbol", "Make a symbol of elements, once or repeated",
		func(p *host.Project, ctx context.Context, who host.Actor, n project.SymbolOf, apply bool) (*project.SymbolPlan, error) {
			return p.MakeSymbol(ctx, who, n, apply)
		})
	bulk(s, "/api/projects/{project}/plans/duplicates", "Copy elements, each for the next of a row",
		func(p *host.Project, ctx context.Context, who host.Actor, d project.Duplicates, apply bool) (*project.DuplicatePlan, error) {
			return p.Duplicate(ctx, who, d, apply)
		})
	get(s, "/api/projects/{project}/array", "What differs from a tag or folder in an index of its path", func(ctx context.Context, in *struct {
		Scope
		Of    string       `query:"of" maxLength:"64" doc:"id of the tag or folder"`
		Index screen.Index `query:"index" enum:"last,first,every" default:"last"`
	}) (*body[[]NamedPoint], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		out := []NamedPoint{}
		for _, id := range p.Draft().Array(in.Of, in.Index) {
			path, _ := p.Draft().Path(id)
			out = append(out, NamedPoint{id, path})
		}
		return &body[[]NamedPoint]{out}, nil
	})
}
