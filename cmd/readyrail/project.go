package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

func projectCommand() *cobra.Command {
	c := &cobra.Command{Use: "project", Short: "Projects as files, their findings and differences, for scripts"}
	c.AddCommand(listProjectsCommand(), exportProjectCommand(), checkProjectCommand(), diffCommand())
	return c
}

// place is where a version of a project is: in a data folder, or an archive.
type place struct{ data, project, version string }

func (p *place) flags(c *cobra.Command) {
	c.Flags().StringVar(&p.data, "data", "data", "data folder; a server may run on it")
	c.Flags().StringVar(&p.project, "project", "", "id of the project; the only one where it is not given")
	c.Flags().StringVar(&p.version, "version", host.DraftVersion, "draft, or the number of a release")
}

// read reads the version; name is what it is called in lists.
func (p *place) read(ctx context.Context) (v *project.Project, name string, err error) {
	id, err := p.id()
	if err != nil {
		return nil, "", err
	}
	o, err := host.OpenOffline(p.data, id, false)
	if err != nil {
		return nil, "", err
	}
	defer o.Close()
	name = "the draft"
	if p.version != host.DraftVersion {
		name = "release " + p.version
	}
	v, err = o.Version(ctx, p.version)
	return v, name, err
}

func (p *place) id() (string, error) {
	if p.project != "" {
		return p.project, nil
	}
	ids, err := host.ProjectsIn(p.data)
	if err != nil {
		return "", err
	}
	if len(ids) != 1 {
		return "", fmt.Errorf("%s has %d projects: say which with --project", p.data, len(ids))
	}
	return ids[0], nil
}

// versionOf reads a version by a word: an archive, a folder of its files, draft, or the
// number of a release.
func (p place) versionOf(ctx context.Context, word string) (*project.Project, string, error) {
	about, err := os.Stat(word)
	if err != nil {
		p.version = word
		return p.read(ctx)
	}
	read := os.ReadFile
	if about.IsDir() {
		read = exchange.PackFolder
	}
	data, err := read(word)
	if err != nil {
		return nil, "", err
	}
	content, err := exchange.ReadArchive(data)
	if err != nil {
		return nil, "", fmt.Errorf("%s: %w", word, err)
	}
	v, err := project.Load(content.Things)
	if err != nil {
		return nil, "", fmt.Errorf("%s: %w", word, err)
	}
	return v, filepath.Base(word), nil
}

func listProjectsCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "list", Args: cobra.NoArgs, Short: "List the projects of a data folder",
		RunE: func(c *cobra.Command, _ []string) error {
			ids, err := host.ProjectsIn(data)
			if err != nil {
				return err
			}
			for _, id := range ids {
				o, err := host.OpenOffline(data, id, false)
				if err != nil {
					return err
				}
				d := o.Draft()
				fmt.Fprintf(c.OutOrStdout(), "%s  %s: %d tags, %d alarms, %d screens\n", id, d.Site().Name, len(d.Tags), len(d.Alarms), len(d.Screens))
				o.Close()
			}
			return nil
		}}
	c.Flags().StringVar(&data, "data", "data", "data folder; a server may run on it")
	return c
}

func exportProjectCommand() *cobra.Command {
	var p place
	var out string
	c := &cobra.Command{Use: "export", Args: cobra.NoArgs, Short: "Write a version of a project as an archive, or as a folder of files",
		Long: `Writes a version of a project: an archive (.zip) of readable JSON, a file for each thing, the same
bytes for the same project; or the same files into a folder, for version control. Files of things
that are gone are taken away there, and nothing else is.`,
		RunE: func(c *cobra.Command, _ []string) error {
			if out == "" {
				return errors.New("say with --out where it goes: a file that ends in .zip, or a folder")
			}
			v, _, err := p.read(c.Context())
			if err != nil {
				return err
			}
			archive, hash, err := exchange.WriteArchive(exchange.Content{Things: v.Entities()})
			if err != nil {
				return err
			}
			if filepath.Ext(out) == ".zip" {
				err = os.WriteFile(out, archive, 0o600)
			} else {
				err = exchange.UnpackArchive(archive, out)
			}
			if err == nil {
				fmt.Fprintln(c.OutOrStdout(), hash)
			}
			return err
		}}
	p.flags(c)
	c.Flags().StringVar(&out, "out", "", "archive, or folder")
	return c
}

func checkProjectCommand() *cobra.Command {
	var p place
	var fail, language string
	var asJSON bool
	c := &cobra.Command{Use: "check [ARCHIVE|FOLDER]", Args: cobra.MaximumNArgs(1), Short: "Print the findings of a version, for a pipeline",
		Long: `Prints the findings of a version, a line each with its place. The exit code is 1 where one is as
severe as --fail says, or more.`,
		RunE: func(c *cobra.Command, args []string) error {
			word := p.version
			if len(args) > 0 {
				word = args[0]
			}
			v, _, err := p.versionOf(c.Context(), word)
			if err != nil {
				return err
			}
			return check(c.OutOrStdout(), v, fail, language, asJSON)
		}}
	p.flags(c)
	c.Flags().StringVar(&fail, "fail", string(project.Error), "error, warning, note or never")
	c.Flags().StringVar(&language, "language", "en", "en or de")
	c.Flags().BoolVar(&asJSON, "json", false, "one JSON document")
	return c
}

// said is a finding with its words.
type said struct {
	project.Finding
	Says string `json:"says"`
	Mend string `json:"mend"`
}

var severities = []project.Severity{project.Error, project.Warning, project.Note}

func check(out io.Writer, v *project.Project, fail, language string, asJSON bool) error {
	bound := -1
	for i, s := range severities {
		if string(s) == fail {
			bound = i
		}
	}
	if bound < 0 && fail != "never" {
		return fmt.Errorf("--fail is error, warning, note or never, not %q", fail)
	}
	list, severe := []said{}, 0
	for _, f := range v.Findings() {
		words := f.Render(language)
		list = append(list, said{f, words.Says, words.Mend})
		for i := 0; i <= bound; i++ {
			if f.Severity == severities[i] {
				severe++
			}
		}
	}
	if asJSON {
		enc := json.NewEncoder(out)
		enc.SetIndent("", "  ")
		if err := enc.Encode(list); err != nil {
			return err
		}
	} else {
		for _, f := range list {
			fmt.Fprintf(out, "%s: %s/%s%s: %s: %s %s\n", f.Severity, f.Kind, f.ID, f.Place, f.Name, f.Says, f.Mend)
		}
	}
	if severe > 0 {
		return fmt.Errorf("%d findings of severity %s or more", severe, fail)
	}
	return nil
}

func diffCommand() *cobra.Command {
	var p place
	var page string
	var asJSON bool
	c := &cobra.Command{Use: "diff BEFORE AFTER", Args: cobra.ExactArgs(2), Short: "Say what differs between two versions",
		Long: `Says what differs between two versions, thing by thing and field by field. A version is an archive,
a folder of its files, draft, or the number of a release of the project. The exit code is 0 whether or not something differs.`,
		RunE: func(c *cobra.Command, args []string) error {
			before, from, err := p.versionOf(c.Context(), args[0])
			if err != nil {
				return err
			}
			after, to, err := p.versionOf(c.Context(), args[1])
			if err != nil {
				return err
			}
			list := project.Differences(before, after)
			switch {
			case asJSON:
				return json.NewEncoder(c.OutOrStdout()).Encode(list)
			case page == "":
				return exchange.WriteDifferences(c.OutOrStdout(), list)
			}
			f, err := os.Create(page)
			if err != nil {
				return err
			}
			err = exchange.WriteDifferencesPage(f, exchange.DifferencesTitle{Project: after.Site().Name, Before: from, After: to}, list)
			return errors.Join(err, f.Close())
		}}
	c.Flags().StringVar(&p.data, "data", "data", "data folder; a server may run on it")
	c.Flags().StringVar(&p.project, "project", "", "id of the project; the only one where it is not given")
	c.Flags().StringVar(&page, "html", "", "write one HTML page to send around")
	c.Flags().BoolVar(&asJSON, "json", false, "one JSON document")
	return c
}
