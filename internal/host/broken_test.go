package host_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"readyrail/internal/edit"
	"readyrail/internal/host"
)

// A project that cannot be read is told with its reason; the server and the
// other projects run, and its folder is left as it is.
func TestAProjectThatCannotBeOpened(t *testing.T) {
	owner := host.Actor{ID: "p1", Name: "Ada", Owner: true}
	for name, harm := range map[string]func(folder string) error{
		"a damaged database": func(folder string) error {
			return os.WriteFile(filepath.Join(folder, "project.db"), []byte("this was a database once, and is none any more"), 0o600)
		},
		"a file in its place": func(folder string) error {
			if err := os.RemoveAll(filepath.Join(folder, "samples")); err != nil {
				return err
			}
			return os.WriteFile(filepath.Join(folder, "samples"), []byte("no folder"), 0o600)
		},
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			h, err := host.Open(dir, quiet, host.Options{})
			if err != nil {
				t.Fatal(err)
			}
			for _, id := range []string{"whole", "harmed"} {
				if _, err := h.CreateProject(context.Background(), owner, id, edit.NewProject(id)); err != nil {
					t.Fatal(err)
				}
			}
			h.Close()
			if err := harm(filepath.Join(dir, "projects", "harmed")); err != nil {
				t.Fatal(err)
			}
			if h, err = host.Open(dir, quiet, host.Options{}); err != nil {
				t.Fatal(err)
			}
			defer h.Close()
			if _, err := h.Project("whole"); err != nil {
				t.Errorf("the other project: %v", err)
			}
			if _, err := h.Project("harmed"); err == nil {
				t.Error("the harmed project runs")
			}
			list := h.BrokenFor(owner)
			if len(list) != 1 || list[0].ID != "harmed" || list[0].Reason == "" {
				t.Errorf("%+v", list)
			}
			if list := h.BrokenFor(host.Actor{ID: "p2", Name: "Tom"}); len(list) != 0 {
				t.Errorf("told to somebody else: %+v", list)
			}
		})
	}
}
