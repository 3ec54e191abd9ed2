package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"readyrail/internal/core/audit"
	"readyrail/internal/host"
)

func auditCommand() *cobra.Command {
	c := &cobra.Command{Use: "audit", Short: "The audit trail, for scripts and auditors"}
	c.AddCommand(verifyCommand())
	return c
}

// verifyFlags are what a trail is compared with.
type verifyFlags struct{ heads, key string }

func verifyCommand() *cobra.Command {
	var f verifyFlags
	c := &cobra.Command{Use: "verify FOLDER|FILE", Args: cobra.ExactArgs(1),
		Short: "Tell whether the trails of a data folder, or a signed file, are whole",
		Long: `Tells of each project's trail whether it is whole, altered at a record, or cut off after one,
and what that rests on. The exit code is 1 where one is not whole.

A data folder is only read; the server may run. It is compared with the heads in --heads, which
should come from another machine: who has the server can have made all else anew. A signed file
(.trail) needs the public key alone; take audit.pub along when it is made, not with the file.`,
		RunE: func(c *cobra.Command, args []string) error { return f.verify(c.Context(), c.OutOrStdout(), args[0]) }}
	c.Flags().StringVar(&f.heads, "heads", "", "folder with heads that were kept elsewhere")
	c.Flags().StringVar(&f.key, "public-key", "", "file with the server's public key (default audit.pub of the folder)")
	return c
}

func (f *verifyFlags) verify(ctx context.Context, out io.Writer, path string) error {
	about, err := os.Stat(path)
	if err != nil {
		return err
	}
	if !about.IsDir() && f.key == "" {
		return errors.New("a signed file is proved by a public key that came another way: give it with --public-key")
	}
	from := f.key
	if from == "" {
		from = filepath.Join(path, "audit.pub")
	}
	keys, err := host.ReadPublicKeys(from)
	if err != nil {
		return err
	}
	if about.IsDir() {
		return f.verifyFolder(ctx, out, path, keys)
	}
	file, err := os.Open(path)
	if err != nil {
		return err
	}
	defer file.Close()
	head, n, err := audit.VerifyFile(file, keys)
	if err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	fmt.Fprintf(out, "%s: whole, %d records, from %d up to %s, signed by the server of this key\n", head.Trail, n, head.Seq-n+1,
		stampOf(head.At))
	return nil
}

var errNotWhole = errors.New("not every trail is whole")

func (f *verifyFlags) verifyFolder(ctx context.Context, out io.Writer, data string, keys audit.PublicKeys) error {
	projects, err := os.ReadDir(filepath.Join(data, "projects"))
	if err != nil {
		return fmt.Errorf("%s is no data folder: %w", data, err)
	}
	whole := true
	for _, p := range projects {
		state, err := host.VerifyFolder(ctx, data, p.Name(), keys, f.heads, tellNowAndThen(p.Name()))
		switch {
		case err != nil:
			whole = false
			fmt.Fprintf(out, "%s: NOT WHOLE after %d records: %v\n", p.Name(), state.Records, err)
		case state.Elsewhere:
			fmt.Fprintf(out, "%s: whole, %d records, up to %d by a head of %s in %s\n", p.Name(), state.Records, state.Head.Seq,
				stampOf(state.Head.At), state.Head.Place)
		default:
			fmt.Fprintf(out, "%s: whole, %d records, by this machine's word alone\n", p.Name(), state.Records)
		}
		for _, part := range state.Parts {
			fmt.Fprintf(out, "  after records %d to %d in %s\n", part.First, part.Last, part.File)
		}
	}
	if !whole {
		return errNotWhole
	}
	return nil
}

// tellNowAndThen says on the standard error how far the check of a long trail is.
func tellNowAndThen(project string) func(records int64) {
	last := time.Now()
	return func(records int64) {
		if now := time.Now(); now.Sub(last) >= 2*time.Second {
			last = now
			fmt.Fprintf(os.Stderr, "%s: %d records hold so far\n", project, records)
		}
	}
}

func stampOf(at int64) string { return time.Unix(0, at).UTC().Format(time.RFC3339) }
