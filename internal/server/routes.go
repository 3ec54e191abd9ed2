package server

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

func (s *Server) routes() {
	get(s, "/api/health", "Whether the server is ready", func(context.Context, *struct{}) (*healthOutput, error) {
		return &healthOutput{Body: Health{"ready", Version}}, nil
	})
	s.sessionRoutes()
	s.projectRoutes()
	s.deviceRoutes()
	s.vaultRoutes()
	s.directoryRoutes()
	s.certificateRoutes()
	s.backupRoutes()
	s.versionRoutes()
	s.schemaRoutes()
	s.tagRoutes()
	s.importRoutes()
	s.gearRoutes()
	s.drawingRoutes()
	s.pictureRoutes()
	s.wordRoutes()
	s.pointRoutes()
	s.historyRoutes()
	s.replayRoutes()
	s.recipeRoutes()
	s.runningRoutes()
	s.deskRoutes()
	s.auditRoutes()
	s.peopleRoutes()
}

// Health is the answer of a server that is ready.
type Health struct {
	Status  string `json:"status"`
	Version string `json:"version"`
}

type healthOutput struct{ Body Health }

func get[I, O any](s *Server, path, summary string, f func(context.Context, *I) (*O, error)) {
	send(s, http.MethodGet, path, summary, f)
}

// send registers an operation; its id is made from method and path, so that
// the client's functions are named alike.
func send[I, O any](s *Server, method, path, summary string, f func(context.Context, *I) (*O, error)) {
	id := strings.ToLower(method) + strings.NewReplacer("/api", "", "/", "-", "{", "", "}", "").Replace(path)
	op := huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: bodyLimit(id),
		Errors: []int{401, 403, 404, 409, 422}}
	huma.Register(s.api, op, f)
}
