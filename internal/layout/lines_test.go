package layout

import (
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"
)

// longest is how many characters a line of Go may have.
const longest = 140

// tables are files that hold data, a row a line.
var tables = []string{"internal/demo/words.go", "internal/demo/alarms.go",
	"internal/core/project/wording.go", "internal/core/screen/stock.go"}

// unbreakable is a text that cannot be broken, or a field with what is said of
// it to the API's description.
var unbreakable = regexp.MustCompile("\"(?:[^\"\\\\]|\\\\.){48,}\"|`[^`]{48,}")

// TestLinesAreRead keeps lines of Go within what is read at a glance. Tables of
// data, and what is one long text, may be longer.
func TestLinesAreRead(t *testing.T) {
	root := filepath.Join("..", "..")
	for _, dir := range []string{"internal", "cmd", "e2e"} {
		for path := range sources(t, filepath.Join(root, dir), ".go") {
			name, _ := filepath.Rel(root, path)
			if slices.Contains(tables, filepath.ToSlash(name)) {
				continue
			}
			text, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			raw := false // within a text of several lines
			for i, line := range strings.Split(string(text), "\n") {
				inside := raw
				if strings.Count(line, "`")%2 == 1 {
					raw = !raw
				}
				if n := utf8.RuneCountInString(line); n > longest && !inside && !raw && !unbreakable.MatchString(line) {
					t.Errorf("%s:%d has %d characters", name, i+1, n)
				}
			}
		}
	}
}
