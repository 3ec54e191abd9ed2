package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/edit"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// listFlags are what the commands on tag lists share.
type listFlags struct {
	format, device, data, project, matching string
	asJSON                                  bool
}

func (f *listFlags) flags(c *cobra.Command) {
	c.Flags().StringVar(&f.format, "format", "", "csv, xlsx, plcopen, nodeset or other; sensed where it is not given")
	c.Flags().StringVar(&f.device, "device", "", "device of rows that name none")
	c.Flags().StringVar(&f.matching, "matching", "", "file with a matching of the list's columns, as JSON")
	c.Flags().BoolVar(&f.asJSON, "json", false, "one JSON document")
	f.place(c)
}

func (f *listFlags) place(c *cobra.Command) {
	c.Flags().StringVar(&f.data, "data", "", "data folder; without one a list is compared with an empty project")
	c.Flags().StringVar(&f.project, "project", "", "id of the project")
}

func tagsCommand() *cobra.Command {
	c := &cobra.Command{Use: "tags", Short: "Tag lists in and out, for scripts"}
	c.AddCommand(previewCommand(), importCommand(), exportCommand())
	return c
}

// listed is what a preview or an import says, as JSON.
type listed struct {
	Format   exchange.Format         `json:"format"`
	Ignored  []string                `json:"ignored,omitempty"` // columns of the list that are not ours
	Counts   map[exchange.Status]int `json:"counts"`
	Imported int                     `json:"imported"`
	Rows     []exchange.Line         `json:"rows"`
}

// look previews a list, does with the lines what a command does, and says how
// it went.
func (f *listFlags) look(file string, write bool, do func(p draft, lines []exchange.Line) (imported int, err error)) error {
	p, done, err := f.open(write)
	if err != nil {
		return err
	}
	defer done()
	l, err := f.preview(file, p.Draft())
	if err != nil {
		return err
	}
	if l.Imported, err = do(p, l.Rows); err != nil {
		return err
	}
	return f.say(l)
}

func previewCommand() *cobra.Command {
	var f listFlags
	c := &cobra.Command{Use: "preview FILE", Short: "Say what a list would change", Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return f.look(args[0], false, func(draft, []exchange.Line) (int, error) { return 0, nil })
		}}
	f.flags(c)
	return c
}

func importCommand() *cobra.Command {
	var f listFlags
	var gone, clashing bool
	c := &cobra.Command{Use: "import FILE", Short: "Bring a list in; no server may run on the data folder", Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return f.look(args[0], true, func(p draft, lines []exchange.Line) (int, error) {
				return p.Import(context.Background(), lines, func(l *exchange.Line) bool {
					return l.Takes() || gone && l.Status == exchange.Gone || clashing && l.Status == exchange.Clashing
				})
			})
		}}
	f.flags(c)
	c.Flags().BoolVar(&gone, "delete-gone", false, "delete tags that the list no longer has")
	c.Flags().BoolVar(&clashing, "list-wins", false, "where list and project clash, let the list win")
	return c
}

func exportCommand() *cobra.Command {
	var f listFlags
	var out string
	c := &cobra.Command{Use: "export", Short: "Write a project's tags as a list", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if f.data == "" {
				return errors.New("say with --data and --project what to export")
			}
			p, done, err := f.open(false)
			if err != nil {
				return err
			}
			defer done()
			var w io.Writer = os.Stdout
			if out != "" {
				file, err := os.Create(out)
				if err != nil {
					return err
				}
				defer file.Close()
				w = file
			}
			d := p.Draft()
			switch {
			case f.format == "xlsx" || f.format == "" && strings.HasSuffix(strings.ToLower(out), ".xlsx"):
				return exchange.WriteXLSX(w, d, d.SortedTags())
			case f.format == "" || f.format == "csv":
				return exchange.WriteCSV(w, d, d.SortedTags())
			}
			return fmt.Errorf("a list is written as csv or xlsx, not as %s", f.format)
		}}
	f.place(c)
	c.Flags().StringVar(&f.format, "format", "", "csv or xlsx")
	c.Flags().StringVar(&out, "out", "", "file; standard output where it is not given")
	return c
}

// draft is a project to compare with.
type draft interface {
	Draft() *project.Project
	Import(context.Context, []exchange.Line, func(*exchange.Line) bool) (int, error)
}

// nothing is an empty project.
type nothing struct{ p *project.Project }

func (n nothing) Draft() *project.Project { return n.p }
func (n nothing) Import(context.Context, []exchange.Line, func(*exchange.Line) bool) (int, error) {
	return 0, errors.New("say with --data and --project where to bring it in")
}

func (f *listFlags) open(write bool) (draft, func(), error) {
	if f.data == "" {
		if write {
			return nil, nil, errors.New("say with --data and --project where to bring it in")
		}
		return nothing{edit.NewProject("")}, func() {}, nil
	}
	o, err := host.OpenOffline(f.data, f.project, write)
	if err != nil {
		return nil, nil, err
	}
	return o, o.Close, nil
}

func (f *listFlags) preview(path string, p *project.Project) (l listed, err error) {
	info, err := os.Stat(path)
	if err != nil {
		return l, err
	}
	if info.Size() > exchange.MaxListBytes {
		return l, fmt.Errorf("%s has %d MB; %d MB is the most", path, info.Size()>>20, exchange.MaxListBytes>>20)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return l, err
	}
	m, err := f.match()
	if err != nil {
		return l, err
	}
	l.Format = exchange.Format(f.format)
	rows, table, err := exchange.Read(data, l.Format, m)
	if err != nil {
		return l, fmt.Errorf("%s: %w", path, err)
	}
	if l.Format == "" {
		l.Format = exchange.Sense(data)
	}
	if table != nil {
		l.Ignored = table.Ignored
	}
	o := exchange.Options{}
	if f.device != "" {
		if o.Device, err = f.deviceOf(p); err != nil {
			return l, err
		}
	}
	l.Rows = exchange.Preview(rows, p, o)
	l.Counts = exchange.Count(l.Rows)
	return l, nil
}

// match reads the matching that was given; nil is none.
func (f *listFlags) match() (*exchange.Matching, error) {
	if f.matching == "" {
		return nil, nil
	}
	b, err := os.ReadFile(f.matching)
	if err != nil {
		return nil, err
	}
	m := &exchange.Matching{}
	if err := json.Unmarshal(b, m); err != nil {
		return nil, fmt.Errorf("%s: %w", f.matching, err)
	}
	return m, nil
}

// deviceOf finds the device that was named. A list that is compared with
// nothing gets one of that name, as its rows are going to have it.
func (f *listFlags) deviceOf(p *project.Project) (string, error) {
	for id, d := range p.Devices {
		if strings.EqualFold(d.Name, f.device) {
			return id, nil
		}
	}
	if f.data != "" {
		return "", fmt.Errorf("the project has no device %s", f.device)
	}
	d := device.New()
	d.ID, d.Name = "device", f.device
	p.Devices[d.ID] = &d
	return d.ID, nil
}

func (f *listFlags) say(l listed) error {
	if f.asJSON {
		return json.NewEncoder(os.Stdout).Encode(l)
	}
	for _, s := range exchange.Statuses {
		fmt.Printf("%-9s %d\n", s, l.Counts[s])
	}
	if len(l.Ignored) > 0 {
		fmt.Printf("left out, as they are not ours: the columns %s\n", strings.Join(l.Ignored, ", "))
	}
	for _, r := range l.Rows {
		switch {
		case !r.Reason.IsZero():
			fmt.Printf("line %d, %s: %s: %s: %s\n", r.Line, r.Path, r.Status, r.Column, r.Reason)
		case r.Renames != "":
			fmt.Printf("line %d, %s: renames %s\n", r.Line, r.Path, r.Renames)
		case r.Status == exchange.Gone:
			fmt.Printf("%s: gone from the list\n", r.Path)
		}
	}
	if l.Imported > 0 {
		fmt.Printf("%d tags brought in\n", l.Imported)
	}
	return nil
}
