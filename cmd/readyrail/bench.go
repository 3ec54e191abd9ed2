package main

import (
	"os"
	"strings"

	"github.com/spf13/cobra"

	"readyrail/internal/bench"
)

func benchCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{Use: "bench [" + strings.Join(bench.Names(), "|") + "]",
		Short: "Measure beside limits of the same run", Args: cobra.MaximumNArgs(1), RunE: func(_ *cobra.Command, args []string) error {
			name := ""
			if len(args) == 1 {
				name = args[0]
			}
			return bench.Run(os.Stdout, name, asJSON)
		}}
	c.Flags().BoolVar(&asJSON, "json", false, "one JSON object a line")
	return c
}
