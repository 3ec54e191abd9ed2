package server

import (
	"bytes"
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// LanguageInput names a language of a project.
type LanguageInput struct {
	Scope
	Language string `path:"language" minLength:"2" maxLength:"12"`
}

// WordsTaken tells how many wordings an import brought.
type WordsTaken struct {
	Rows int `json:"rows"`
}

func (s *Server) wordRoutes() {
	get(s, "/api/projects/{project}/words/{language}", "Every text with its wording in a language",
		func(ctx context.Context, in *LanguageInput) (*body[[]project.SheetRow], error) {
			_, p, err := s.enter(ctx, in.Scope, looking)
			if err != nil {
				return nil, err
			}
			return &body[[]project.SheetRow]{p.Draft().Sheet(in.Language)}, nil
		})
	send(s, http.MethodPut, "/api/projects/{project}/words/{language}", "Give texts their wordings", func(ctx context.Context, in *struct {
		LanguageInput
		Body []project.SheetRow
	}) (*struct{}, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		return nil, problem(p.SetWords(ctx, who, in.Language, in.Body))
	})
	get(s, "/api/projects/{project}/words/{language}/sheet", "The wordings as a sheet for a translator", func(ctx context.Context, in *struct {
		LanguageInput
		Format string `query:"format" enum:"csv,xlsx" default:"csv"`
	}) (*fileOutput, error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		var b bytes.Buffer
		if err := exchange.WriteSheet(&b, exchange.Format(in.Format), in.Language, p.Draft().Sheet(in.Language)); err != nil {
			return nil, problem(err)
		}
		return sheetFile("words", exchange.Format(in.Format), b.Bytes()), nil
	})
	send(s, http.MethodPost, "/api/projects/{project}/words/{language}/sheet", "Bring a translator's sheet in",
		func(ctx context.Context, in *struct {
			LanguageInput
			RawBody []byte `contentType:"application/octet-stream" maxLength:"16777216"`
		}) (*body[WordsTaken], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			rows, err := exchange.ReadSheet(in.RawBody, in.Language)
			if err != nil {
				return nil, problem(&host.Refused{Why: err})
			}
			return &body[WordsTaken]{WordsTaken{len(rows)}}, problem(p.SetWords(ctx, who, in.Language, rows))
		})
}
