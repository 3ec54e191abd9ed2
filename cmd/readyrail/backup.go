package main

import (
	"context"
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"readyrail/internal/backup"
	"readyrail/internal/host"
	"readyrail/internal/server"
)

// backupFlags say how a backup is taken by hand.
type backupFlags struct {
	data, to, recipient string
	noKeys              bool
}

func backupCommand() *cobra.Command {
	var f backupFlags
	c := &cobra.Command{Use: "backup", Args: cobra.NoArgs, Short: "Copy a data folder while a server works on it",
		Long: `Copies a data folder, while a server works on it, into a new folder below --to. What was answered
as done before it began is in it. Where it is not encrypted it opens the vault and signs the trails as
the server does: keep it as safe as the server, encrypt it with --recipient, or leave the keys out.`,
		RunE: func(c *cobra.Command, _ []string) error { return f.take(c.Context(), c.OutOrStdout()) }}
	c.Flags().StringVar(&f.data, "data", "data", "data folder")
	c.Flags().StringVar(&f.to, "to", "", "folder that takes backups")
	c.Flags().StringVar(&f.recipient, "recipient", "", "age recipient that it is encrypted for")
	c.Flags().BoolVar(&f.noKeys, "no-keys", false, "leave the server's own keys out")
	if err := c.MarkFlagRequired("to"); err != nil {
		panic(err)
	}
	list := &cobra.Command{Use: "list FOLDER", Args: cobra.ExactArgs(1), Short: "List the backups in a folder",
		RunE: func(c *cobra.Command, args []string) error { return listBackups(c.OutOrStdout(), args[0]) }}
	c.AddCommand(list)
	return c
}

func (f *backupFlags) take(ctx context.Context, out io.Writer) error {
	to, err := backup.Recipient(f.recipient)
	if err != nil {
		return err
	}
	m, err := host.CopyFolder(ctx, f.data, f.to, backup.Options{Version: server.Version, To: to, Keys: !f.noKeys})
	if err != nil {
		return err
	}
	fmt.Fprintf(out, "%s: %d files, %.1f MB\n", m.Name(), len(m.Files), float64(m.Bytes())/1e6)
	return nil
}

func listBackups(out io.Writer, dir string) error {
	list, err := backup.List(dir)
	for _, k := range list {
		sealed := ""
		if k.Sealed {
			sealed = ", encrypted"
		}
		fmt.Fprintf(out, "%s  %8.1f MB%s\n", k.Name, float64(k.Bytes)/1e6, sealed)
	}
	return err
}

func restoreCommand() *cobra.Command {
	var data, identity, project string
	c := &cobra.Command{Use: "restore BACKUP", Args: cobra.ExactArgs(1), Short: "Bring a backup into a new data folder, and prove it",
		Long: `Brings a backup into a data folder that is not there, or empty, and proves it before it says so: every
file and every row as when it was taken, every project as it is read at a start, every audit trail.
No device is asked. Do not let two servers run on one plant: stop the old one first.

With --project that one alone comes back, into a data folder that no longer has it; its server must
stand still.`,
		RunE: func(c *cobra.Command, args []string) error {
			return restore(c.Context(), c.OutOrStdout(), args[0], project, data, identity)
		}}
	c.Flags().StringVar(&project, "project", "", "id of the one project to bring back into a folder that is there")
	c.Flags().StringVar(&data, "data", "data", "data folder to make")
	c.Flags().StringVar(&identity, "identity", "", "file with the age identity that opens an encrypted one")
	return c
}

var errTrailBroken = errors.New("not every trail is whole: it was not in the server either, see readyrail audit verify")

func restore(ctx context.Context, out io.Writer, from, project, data, identity string) error {
	var key backup.Identity
	if identity != "" {
		var err error
		if key, err = backup.ReadIdentity(identity); err != nil {
			return err
		}
	}
	var r *host.Restored
	var err error
	if project != "" {
		r, err = host.RestoreProject(ctx, from, project, data, key)
	} else {
		r, err = host.Restore(ctx, from, data, key)
	}
	if err != nil {
		return err
	}
	fmt.Fprintf(out, "taken %s by %s, %.1f MB, every file and row as it was\n", r.At.UTC().Format("2006-01-02 15:04:05 UTC"), r.Version,
		float64(r.Bytes)/1e6)
	broken := false
	for _, p := range r.Projects {
		fmt.Fprintf(out, "%s (%s): %d things, ", p.Name, p.ID, p.Things)
		switch {
		case r.Keyless:
			fmt.Fprintln(out, "trail not proved")
		case p.Trail != nil:
			broken = true
			fmt.Fprintf(out, "trail NOT WHOLE after %d records: %v\n", p.Records, p.Trail)
		default:
			fmt.Fprintf(out, "trail whole, %d records\n", p.Records)
		}
	}
	if r.Keyless {
		fmt.Fprintln(out, "The keys are not in it: put vault.key, audit.key and audit.sign of the old server into the folder before it starts.")
	}
	if broken {
		return errTrailBroken
	}
	return nil
}
