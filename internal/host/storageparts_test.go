package host

import (
	"os"
	"path/filepath"
	"testing"
)

func TestPartsOfTheDisk(t *testing.T) {
	dir := t.TempDir()
	for path, size := range map[string]int{"samples/2026-11.db": 100, "samples/2026-11.db-wal": 20, "samples.db": 3, "logs.db": 7,
		"logs/l-1.db": 30, "audit.db": 11, "audit.db-shm": 1, headsFile: 2, "archive/journal-1.zip": 50, "project.db-wal": 9, "notes.txt": 4} {
		file := filepath.Join(dir, path)
		if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(file, make([]byte, size), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	want := map[string]int64{CoursesPart: 120, LogsPart: 37, TrailPart: 14, ProjectPart: 9, ArchivesPart: 50, OtherPart: 7}
	got := storageParts(dir)
	if len(got) != len(StorageParts) {
		t.Errorf("%d parts", len(got))
	}
	for _, p := range got {
		if p.Bytes != want[p.Part] {
			t.Errorf("%s: %d bytes, want %d", p.Part, p.Bytes, want[p.Part])
		}
	}
	if all := storageParts(filepath.Join(dir, "gone")); all[0].Bytes != 0 {
		t.Errorf("of no folder: %+v", all)
	}
}
