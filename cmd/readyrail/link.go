package main

import (
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"

	"readyrail/internal/host"
)

// linkCommand runs one link for a server, which starts it by itself. It ends
// with its input, so that no signal to a group of processes takes a link from a
// server that is still letting go what is held.
func linkCommand() *cobra.Command {
	return &cobra.Command{Use: "link PROTOCOL", Hidden: true, Args: cobra.ExactArgs(1), RunE: func(_ *cobra.Command, args []string) error {
		signal.Ignore(os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
		return host.ServeLink(args[0], os.Stdin, os.Stdout)
	}}
}

// linkProcess is how a server starts one link: by its own program, also where
// that was replaced on disk meanwhile.
func linkProcess() []string {
	const self = "/proc/self/exe"
	if _, err := os.Stat(self); err == nil {
		return []string{self, "link"}
	}
	program, err := os.Executable()
	if err != nil {
		return nil // every link runs in the server then
	}
	return []string{program, "link"}
}
