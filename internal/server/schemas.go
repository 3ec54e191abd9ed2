package server

import (
	"context"
	"encoding/json"

	"github.com/danielgtaylor/huma/v2"

	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
)

// Schemas are the JSON Schemas (draft 2020-12) of the files of a project's archive, by
// kind of thing.
func Schemas() map[string]json.RawMessage {
	out := map[string]json.RawMessage{}
	for kind, shape := range project.Shapes() {
		of := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
		root := of.Schema(shape, true, shape.Name())
		schema, err := json.MarshalIndent(map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema",
			"$id": schemaPath + "/" + kind, "title": kind, "description": schemaNote, "$ref": root.Ref, "$defs": of.Map()}, "", " ")
		if err != nil {
			panic(err) // of types that are known when this is built
		}
		out[kind] = schema
	}
	return out
}

const (
	schemaPath = "/api/schemas"
	schemaNote = "A thing of a project as its archive has it, in a file of its own: the folder is the kind, the name the thing's id."
)

// SchemaList are the schemas of an archive.
type SchemaList struct {
	Version int                        `json:"version" doc:"of the archives that they are of"`
	Kinds   map[string]json.RawMessage `json:"kinds" doc:"JSON Schema by kind of thing"`
}

func (s *Server) schemaRoutes() {
	get(s, schemaPath, "The JSON Schemas of the files of a project's archive", func(ctx context.Context, in *PanelInput) (*body[SchemaList], error) {
		if _, err := s.actor(ctx, in.Panel); err != nil {
			return nil, err
		}
		return &body[SchemaList]{SchemaList{exchange.SchemaVersion, Schemas()}}, nil
	})
}
