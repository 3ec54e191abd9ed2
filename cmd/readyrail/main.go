// Readyrail is Ready Rail: the Workshop, the Desk, the stand-in plant and the
// benchmarks in one binary.
package main

import (
	"fmt"
	"io"
	"log"
	"os"

	"github.com/spf13/cobra"

	"readyrail/internal/server"
)

func main() {
	// Libraries that talk past the logger have nothing to say to who runs this.
	log.SetOutput(io.Discard)
	root := &cobra.Command{
		Use:           "readyrail",
		Short:         "Operator screens for machines and plants: built, proved and run",
		Version:       server.Version,
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.CompletionOptions.HiddenDefaultCmd = true
	root.AddCommand(demoCommand(), serveCommand(), plantCommand(), tagsCommand(), auditCommand(), projectCommand(),
		keysCommand(), backupCommand(), restoreCommand(), benchCommand(), describeCommand(), linkCommand())
	if err := root.Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "readyrail:", err)
		os.Exit(1)
	}
}
