package outbox

import (
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
)

// TestAMediumIsFinishedWith while nothing is written to it, and taken up again by
// a person, or as it was out and comes back.
func TestAMediumIsFinishedWith(t *testing.T) {
	path := filepath.Join(t.TempDir(), "stick")
	m := Watch([]Folder{{Name: "stick", Path: path}})
	defer m.Close()
	refused := func(what string, err error) {
		t.Helper()
		if err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%v, not %q", err, what)
		}
	}
	_, err := m.Finish("stick")
	refused("is not there", err)
	_, _, err = m.Begin("share", true)
	refused("it allows stick", err)
	if err := os.Mkdir(path, 0o755); err != nil {
		t.Fatal(err)
	}
	m.list[0].look()
	_, end, err := m.Begin("stick", false)
	if err != nil {
		t.Fatal(err)
	}
	_, err = m.Finish("stick")
	refused("is being written", err)
	end()
	if told, err := m.Finish("stick"); err != nil || told != "its files are on it" {
		t.Fatal(told, err)
	}
	if s := m.State("stick"); !s.Finished || !s.There || s.Free == 0 {
		t.Errorf("%+v", s)
	}
	_, err = m.Finish("stick")
	refused("already", err)
	_, _, err = m.Begin("stick", false)
	refused("somebody has finished", err)

	// A person takes it up again.
	_, end, err = m.Begin("stick", true)
	if err != nil || m.State("stick").Finished {
		t.Fatal(err, m.State("stick"))
	}
	end()

	// It is out, and comes back.
	if _, err := m.Finish("stick"); err != nil {
		t.Fatal(err)
	}
	x := m.list[0]
	os.Remove(path)
	x.look()
	if s := x.now(); s.There || !s.Finished {
		t.Errorf("%+v", s)
	}
	os.Mkdir(path, 0o755)
	x.look()
	_, end, err = m.Begin("stick", false)
	if err != nil || m.State("stick").Finished {
		t.Errorf("%v %+v", err, m.State("stick"))
	}
	end()

	// One that hangs does not answer.
	x.mu.Lock()
	x.looked = x.looked.Add(-2 * silent)
	x.mu.Unlock()
	if s := m.State("stick"); s.There || !strings.Contains(s.Problem, "does not answer") {
		t.Errorf("%+v", s)
	}
}

// TestAMediumIsUnmounted where the server may, and written to again once one is
// mounted; never into the empty folder below.
func TestAMediumIsUnmounted(t *testing.T) {
	path := t.TempDir()
	if err := syscall.Mount("tmpfs", path, "tmpfs", 0, ""); err != nil {
		t.Skip("nothing can be mounted here:", err)
	}
	defer syscall.Unmount(path, 0)
	m := Watch([]Folder{{Name: "stick", Path: path, Unmounts: true}})
	defer m.Close()
	open, err := os.Create(filepath.Join(path, "open"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := m.Finish("stick"); err == nil || m.State("stick").Finished {
		t.Error("unmounted while a file was open there")
	}
	open.Close()
	if told, err := m.Finish("stick"); err != nil || !strings.Contains(told, "unmounted") || isMount(path) {
		t.Fatal(told, err)
	}
	if _, _, err := m.Begin("stick", true); err == nil || !strings.Contains(err.Error(), "put one in") {
		t.Error(err)
	}
	m.list[0].look()
	if err := syscall.Mount("tmpfs", path, "tmpfs", 0, ""); err != nil {
		t.Fatal(err)
	}
	m.list[0].look()
	f, end, err := m.Begin("stick", false)
	if err != nil {
		t.Fatal(err)
	}
	defer end()
	if _, err := f.Write("a", "csv", says("1")); err != nil {
		t.Error(err)
	}
}
