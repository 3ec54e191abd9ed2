package host

import (
	"io/fs"
	"path/filepath"
	"strings"
)

// What of a project takes room on the disk.
const (
	CoursesPart  = "courses"  // what the recorder keeps of tags
	LogsPart     = "logs"     // values of logs
	JournalPart  = "journal"  // alarms and events
	TrailPart    = "trail"    // the audit trail and its heads
	RecipesPart  = "recipes"  // recipes, versions, deliveries
	ProjectPart  = "project"  // the draft, its edits, the releases
	ArchivesPart = "archives" // closed parts of journal and trail
	OtherPart    = "other"
)

// StorageParts are all parts, in the order in which they are shown.
var StorageParts = []string{CoursesPart, LogsPart, JournalPart, TrailPart, RecipesPart, ProjectPart, ArchivesPart, OtherPart}

// StoragePart is how much one part of a project takes.
type StoragePart struct {
	Part  string `json:"part" enum:"courses,logs,journal,trail,recipes,project,archives,other"`
	Bytes int64  `json:"bytes" doc:"on the disk, with what is not folded in yet"`
}

// partOf tells to which part a file belongs, by its path within a project's folder.
func partOf(path string) string {
	first, _, _ := strings.Cut(filepath.ToSlash(path), "/")
	for part, names := range map[string][]string{CoursesPart: {"samples"}, LogsPart: {"logs", "logs.db"}, JournalPart: {"journal.db"},
		TrailPart: {"audit.db", headsFile}, RecipesPart: {"recipes.db"}, ProjectPart: {"project.db"}, ArchivesPart: {"archive"}} {
		for _, name := range names {
			// A database has further files beside it, by its own name with an end.
			if first == name || strings.HasPrefix(first, name+"-") {
				return part
			}
		}
	}
	return OtherPart
}

// storageParts measures the files of a project. One that goes away meanwhile takes
// nothing any more.
func storageParts(folder string) []StoragePart {
	sizes := map[string]int64{}
	_ = filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return nil
		}
		within, err := filepath.Rel(folder, path)
		if info, gone := d.Info(); err == nil && gone == nil {
			sizes[partOf(within)] += info.Size()
		}
		return nil
	})
	out := make([]StoragePart, len(StorageParts))
	for i, part := range StorageParts {
		out[i] = StoragePart{part, sizes[part]}
	}
	return out
}
