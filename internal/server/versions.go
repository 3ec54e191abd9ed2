package server

import (
	"context"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
)

// TakeInput says which things the draft takes from a release.
type TakeInput struct {
	From   string          `json:"from" maxLength:"20" doc:"number of a release"`
	Things []project.Thing `json:"things" minItems:"1" maxItems:"100000"`
}

// versionRoutes compare versions of a project, and take things of one back.
func (s *Server) versionRoutes() {
	get(s, "/api/projects/{project}/differences", "What differs between two versions", func(ctx context.Context, in *struct {
		Scope
		Before string `query:"before" maxLength:"20" doc:"draft, or the number of a release; the newest where it is left out"`
		After  string `query:"after" maxLength:"20" default:"draft" doc:"draft, or the number of a release"`
	}) (*body[[]host.VersionDifference], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		list, err := p.Differences(ctx, in.Before, in.After)
		return &body[[]host.VersionDifference]{list}, problem(err)
	})
	send(s, http.MethodPost, "/api/projects/{project}/draft/taken", "Give things of the draft the form that they have in a release",
		func(ctx context.Context, in *struct {
			Scope
			Body TakeInput
		}) (*body[Changed], error) {
			who, p, err := s.enter(ctx, in.Scope, access.Engineer)
			if err != nil {
				return nil, err
			}
			changes, err := p.Take(ctx, who, in.Body.From, in.Body.Things)
			return &body[Changed]{Changed{len(changes)}}, problem(err)
		})
}

// Changed is how many changes something made.
type Changed struct {
	Changes int `json:"changes"`
}
