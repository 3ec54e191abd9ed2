package main

import (
	"encoding/json"
	"os"

	"github.com/spf13/cobra"

	"readyrail/internal/server"
)

// describeCommand prints what the front end's types are made from.
func describeCommand() *cobra.Command {
	return &cobra.Command{Use: "describe", Short: "Print the OpenAPI description", Args: cobra.NoArgs, Hidden: true,
		RunE: func(*cobra.Command, []string) error {
			e := json.NewEncoder(os.Stdout)
			e.SetIndent("", " ")
			return e.Encode(server.New(nil, server.Options{}).OpenAPI())
		}}
}
