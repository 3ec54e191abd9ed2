package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// PictureInfo is a picture without its data.
type PictureInfo struct {
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Type  string   `json:"type"`
	W     int      `json:"w"`
	H     int      `json:"h"`
	Parts []string `json:"parts" doc:"ids in it that can be bound"`
	Left  []string `json:"left,omitempty" doc:"what was left out of it to make it safe"`
}

func pictureInfo(x *project.Picture, left []string) PictureInfo {
	return PictureInfo{x.ID, x.Name, x.Type, x.W, x.H, append([]string{}, x.Parts...), left}
}

func (s *Server) pictureRoutes() {
	get(s, "/api/projects/{project}/pictures", "The pictures", func(ctx context.Context, in *Scope) (*body[[]PictureInfo], error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		out := []PictureInfo{}
		for _, id := range project.SortedKeys(p.Draft().Pictures) {
			out = append(out, pictureInfo(p.Draft().Pictures[id], nil))
		}
		return &body[[]PictureInfo]{out}, nil
	})
	send(s, http.MethodPost, "/api/projects/{project}/pictures", "Bring a drawing or an image in", func(ctx context.Context, in *struct {
		Scope
		Name    string `query:"name" maxLength:"200" doc:"of the file"`
		RawBody []byte `contentType:"application/octet-stream" maxLength:"2097152"`
	}) (*body[PictureInfo], error) {
		who, p, err := s.enter(ctx, in.Scope, access.Engineer)
		if err != nil {
			return nil, err
		}
		x, left, err := exchange.ReadPicture(in.RawBody, in.Name)
		if err != nil {
			return nil, problem(&host.Refused{Why: err})
		}
		if x.ID, err = p.AddPicture(ctx, who, x); err != nil {
			return nil, problem(err)
		}
		return &body[PictureInfo]{pictureInfo(x, left)}, nil
	})
	get(s, "/api/projects/{project}/pictures/{id}", "A picture, of the draft or the release",
		func(ctx context.Context, in *ThingInput) (*body[project.Picture], error) {
			who, p, err := s.enter(ctx, in.Scope, "")
			if err != nil {
				return nil, err
			}
			draft := p.MayLookAtDraft(ctx, who) == nil
			if err := p.Somewhere(ctx, who, access.View); err != nil && !draft {
				return nil, problem(err)
			}
			if r := p.Released(); r != nil && r.Pictures[in.ID] != nil {
				return &body[project.Picture]{*r.Pictures[in.ID]}, nil
			}
			if x := p.Draft().Pictures[in.ID]; x != nil && draft {
				return &body[project.Picture]{*x}, nil
			}
			return nil, problem(host.ErrNotFound)
		})
}
