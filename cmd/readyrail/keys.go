package main

import (
	"context"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"readyrail/internal/host"
)

func keysCommand() *cobra.Command {
	c := &cobra.Command{Use: "keys", Short: "The server's own keys: what there is, and another in the place of one"}
	data := c.PersistentFlags().String("data", "data", "data folder")
	c.AddCommand(
		&cobra.Command{Use: "list", Args: cobra.NoArgs, Short: "Name the keys of a data folder, without telling them",
			RunE: func(c *cobra.Command, _ []string) error { return listKeys(c.OutOrStdout(), *data) }},
		&cobra.Command{Use: "change vault|trail|signing|sessions", Args: cobra.ExactArgs(1),
			Short: "Put a new key in the place of one; the server must be stopped",
			Long: `Puts a new key in the place of one, without loss. The server must be stopped.

  vault     everything in the vault is sealed anew, and the old key opens nothing any more.
            Where the key comes from ` + host.VaultKeyVariable + `, the next one comes from
            ` + host.NextVaultKeyVariable + `.
  trail     each trail goes over at the next start, by a record that says so. Keep audit.key
            as it is: it has the old keys, too, by which older records are proved.
  signing   heads and files are signed with the new key. Take audit.pub along anew: its new
            key is signed by the old one, and what was signed before stays proved.
  sessions  everybody is signed out.

Every trail says at the next start what was changed.`,
			RunE: func(c *cobra.Command, args []string) error {
				return changeKey(c.Context(), c.OutOrStdout(), *data, args[0])
			}})
	return c
}

func listKeys(out io.Writer, data string) error {
	list, err := host.Keys(data, os.Getenv(host.VaultKeyVariable))
	for _, k := range list {
		fmt.Fprintf(out, "%-8s %s", k.Name, k.Mark)
		if k.Before > 0 {
			fmt.Fprintf(out, " after %d older", k.Before)
		}
		fmt.Fprintln(out)
	}
	return err
}

func changeKey(ctx context.Context, out io.Writer, data, which string) error {
	mark, left, err := host.ChangeKey(ctx, data, which, os.Getenv(host.VaultKeyVariable), os.Getenv(host.NextVaultKeyVariable))
	if err != nil {
		return err
	}
	fmt.Fprintf(out, "%s: %s\n", which, mark)
	for _, what := range left {
		fmt.Fprintf(out, "  %s could not be read with the old key and is as it was\n", what)
	}
	return nil
}
