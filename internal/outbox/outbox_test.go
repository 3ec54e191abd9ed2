package outbox

import (
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func says(text string) func(io.Writer) error {
	return func(w io.Writer) error { _, err := io.WriteString(w, text); return err }
}

func files(t *testing.T, dir string) string {
	t.Helper()
	list, err := os.ReadDir(dir)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, f := range list {
		out = append(out, f.Name())
	}
	return strings.Join(out, ", ")
}

// TestAFileIsWrittenWholeAndOverNoOther writes one name three times.
func TestAFileIsWrittenWholeAndOverNoOther(t *testing.T) {
	f := Folder{Name: "stick", Path: t.TempDir()}
	for i, want := range []string{"Energy.csv", "Energy (2).csv", "Energy (3).csv"} {
		got, err := f.Write("Energy", "csv", says(strings.Repeat("x", i)))
		if err != nil || got != want {
			t.Fatal(got, err)
		}
		if data, err := os.ReadFile(filepath.Join(f.Path, got)); err != nil || len(data) != i {
			t.Errorf("%s has %q: %v", got, data, err)
		}
	}
}

// TestWhatFailsLeavesNothing: a writer that fails, and a folder that goes away.
func TestWhatFailsLeavesNothing(t *testing.T) {
	f := Folder{Name: "stick", Path: filepath.Join(t.TempDir(), "stick")}
	if _, err := f.Write("Energy", "csv", says("x")); err == nil || !strings.Contains(err.Error(), "stick is not there") {
		t.Error(err)
	}
	if err := os.Mkdir(f.Path, 0o755); err != nil {
		t.Fatal(err)
	}
	broken := errors.New("a value cannot be read")
	if _, err := f.Write("Energy", "csv", func(w io.Writer) error { says("half of it")(w); return broken }); !errors.Is(err, broken) {
		t.Error(err)
	}
	if got := files(t, f.Path); got != "" {
		t.Errorf("left behind: %s", got)
	}
	_, err := f.Write("Energy", "csv", func(w io.Writer) error {
		says(strings.Repeat("half of it", 100_000))(w)
		return os.RemoveAll(f.Path)
	})
	if err == nil || !strings.Contains(err.Error(), "not there") {
		t.Error(err)
	}
	// It comes back with what an ended server left.
	if err := os.Mkdir(f.Path, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(f.Path, ".Energy.part"), []byte("torn"), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := f.Write("Energy", "csv", says("whole")); err != nil {
		t.Fatal(err)
	}
	if got := files(t, f.Path); got != "Energy.csv" {
		t.Error(got)
	}
}

func TestNamesOfFiles(t *testing.T) {
	for text, want := range map[string]string{"Drying record 22:15": "Drying record 22-15", "../../etc/passwd": "-..-etc-passwd", "": "file",
		"...": "file", "a\x00b\n": "a-b-", strings.Repeat("ä", 200): strings.Repeat("ä", 120)} {
		if got := Name(text); got != want {
			t.Errorf("%q is %q, not %q", text, got, want)
		}
	}
	for _, text := range []string{"", "stick", "=/media", "stick=media/stick", strings.Repeat("x", 61) + "=/x"} {
		if f, err := Parse(text); err == nil {
			t.Errorf("%q is %v", text, f)
		}
	}
	if list, err := ParseAll([]string{"stick=/media/stick/", "share=/mnt/a=b"}, nil); err != nil || list[0].Path != "/media/stick" ||
		list[1].Path != "/mnt/a=b" {
		t.Error(list, err)
	}
	if _, err := ParseAll([]string{"stick=/a", "stick=/b"}, nil); err == nil {
		t.Error("two folders of one name")
	}
}
