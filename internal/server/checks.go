package server

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"

	"readyrail/internal/core/access"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/host"
)

// What is proved before handing over: the points of devices, and the elements
// of screens.

// register answers with a list of proofs as CSV.
func (s *Server) register(path, summary, file string, write func(*host.Project, context.Context, io.Writer) error) {
	get(s, path, summary, func(ctx context.Context, in *Scope) (*fileOutput, error) {
		_, p, err := s.enter(ctx, *in, looking)
		if err != nil {
			return nil, err
		}
		var b bytes.Buffer
		err = write(p, ctx, &b)
		return &fileOutput{"text/csv; charset=utf-8", `attachment; filename="` + file + `"`, b.Bytes()}, problem(err)
	})
}

func (s *Server) checkRoutes() {
	get(s, "/api/projects/{project}/loop-checks", "How the points stand",
		func(ctx context.Context, in *Scope) (*body[[]host.LoopCheck], error) {
			_, p, err := s.enter(ctx, *in, looking)
			if err != nil {
				return nil, err
			}
			checks, err := p.LoopChecks(ctx)
			if err != nil {
				return nil, problem(err)
			}
			return &body[[]host.LoopCheck]{checks.All()}, nil
		})
	send(s, http.MethodPost, "/api/projects/{project}/loop-checks", "Pass or fail points", func(ctx context.Context, in *struct {
		Scope
		Body ProofInput
	}) (*struct{}, error) {
		who, p, err := s.enter(ctx, in.Scope, access.Commission)
		if err != nil {
			return nil, err
		}
		return nil, problem(p.Prove(ctx, who, in.Body.Tags, in.Body.Result, in.Body.Note))
	})
	s.register("/api/projects/{project}/loop-checks/export", "The register of loop checks as CSV", "loop-checks.csv",
		(*host.Project).WriteLoopChecks)
	s.register("/api/projects/{project}/screen-checks/export", "The register of screen checks as CSV", "screen-checks.csv",
		(*host.Project).WriteScreenChecks)
	get(s, "/api/projects/{project}/screens/{id}/checks", "How the points of a screen stand", func(ctx context.Context, in *struct {
		ThingInput
		Args string `query:"args" maxLength:"4000" doc:"what the screen's parameters stand for, as a JSON object"`
	}) (*body[[]host.ScreenCheck], error) {
		_, p, err := s.enter(ctx, in.Scope, looking)
		if err != nil {
			return nil, err
		}
		args := screen.Args{}
		if in.Args != "" {
			if err := json.Unmarshal([]byte(in.Args), &args); err != nil {
				return nil, because(http.StatusUnprocessableEntity, say.New("args is a JSON object of texts"))
			}
		}
		list, err := p.ScreenChecks(ctx, in.ID, args)
		return &body[[]host.ScreenCheck]{list}, problem(err)
	})
	send(s, http.MethodPost, "/api/projects/{project}/screens/{id}/checks", "Pass or fail points of a screen",
		func(ctx context.Context, in *struct {
			ThingInput
			Body host.ScreenProof
		}) (*struct{}, error) {
			who, p, err := s.enter(ctx, in.Scope, access.Commission)
			if err != nil {
				return nil, err
			}
			return nil, problem(p.ProveScreen(ctx, who, in.ID, in.Body))
		})
}
