package main

import (
	"encoding/json"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"readyrail/internal/server"
)

// describeCommand prints what the front end's types are made from, and writes the schemas
// of archives.
func describeCommand() *cobra.Command {
	var schemas string
	c := &cobra.Command{Use: "describe", Short: "Print the OpenAPI description", Args: cobra.NoArgs, Hidden: true,
		RunE: func(*cobra.Command, []string) error {
			if schemas != "" {
				return writeSchemas(schemas)
			}
			e := json.NewEncoder(os.Stdout)
			e.SetIndent("", " ")
			return e.Encode(server.New(nil, server.Options{}).OpenAPI())
		}}
	c.Flags().StringVar(&schemas, "schemas", "", "write the JSON Schemas of archives into this folder instead, a file for each kind")
	return c
}

func writeSchemas(folder string) error {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	for kind, schema := range server.Schemas() {
		if err := os.WriteFile(filepath.Join(folder, kind+".json"), append(schema, '\n'), 0o644); err != nil {
			return err
		}
	}
	return nil
}
