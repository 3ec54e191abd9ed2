package exchange

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"readyrail/internal/core/project"
)

func content(names ...string) Content {
	c := Content{Things: []project.Entity{{Kind: "site", ID: "site", Doc: json.RawMessage(`{"name":"Yard"}`)}}}
	for _, n := range names {
		c.Things = append(c.Things, project.Entity{Kind: "tag", ID: n, Doc: json.RawMessage(`{"name":"` + n + `"}`)})
	}
	return c
}

// TestAProjectAsAFolder: it comes back as the same archive; a change touches its own file
// alone, and what is gone takes its file away and nothing else.
func TestAProjectAsAFolder(t *testing.T) {
	dir := t.TempDir()
	unpack := func(c Content) []byte {
		t.Helper()
		a, _, err := WriteArchive(c)
		if err == nil {
			err = UnpackArchive(a, dir)
		}
		if err != nil {
			t.Fatal(err)
		}
		return a
	}
	unpack(content("a", "b"))
	notes := filepath.Join(dir, "tag", "README.md")
	if err := os.WriteFile(notes, []byte("ours"), 0o600); err != nil {
		t.Fatal(err)
	}
	before, err := os.Stat(filepath.Join(dir, "tag", "a.json"))
	if err != nil {
		t.Fatal(err)
	}
	c := content("a", "c")
	want := unpack(c)
	after, err := os.Stat(filepath.Join(dir, "tag", "a.json"))
	if err != nil || !after.ModTime().Equal(before.ModTime()) {
		t.Errorf("a file of what did not change was written: %v", err)
	}
	if _, err := os.Stat(filepath.Join(dir, "tag", "b.json")); err == nil {
		t.Error("the file of what is gone stays")
	}
	if _, err := os.Stat(notes); err != nil {
		t.Error("somebody else's file went")
	}
	packed, err := PackFolder(dir)
	if err != nil {
		t.Fatal(err)
	}
	got, err := ReadArchive(packed)
	if err != nil {
		t.Fatal(err)
	}
	again, _, err := WriteArchive(Content{Things: got.Things})
	if err != nil || len(got.Things) != 3 || !bytes.Equal(again, want) && !sameThings(got.Things, c.Things) {
		t.Errorf("%d things, %v", len(got.Things), err)
	}
	if _, err := PackFolder(t.TempDir()); err == nil || !strings.Contains(err.Error(), "has no project.json") {
		t.Errorf("any folder: %v", err)
	}
}

func sameThings(a, b []project.Entity) bool {
	docs := map[string]string{}
	for _, e := range b {
		docs[e.Kind+e.ID] = string(e.Doc)
	}
	for _, e := range a {
		var compact bytes.Buffer
		if json.Compact(&compact, e.Doc) != nil || docs[e.Kind+e.ID] != compact.String() {
			return false
		}
	}
	return len(a) == len(b)
}

func TestDifferencesAsText(t *testing.T) {
	list := []project.Difference{
		{Kind: "tag", Name: "Car.Speed", Was: "Car.VelocitySP", Fields: []project.FieldDifference{
			{Path: "/name", Before: json.RawMessage(`"VelocitySP"`), After: json.RawMessage(`"Speed"`)},
			{Path: "/limit_high", After: json.RawMessage(`70`)}}},
		{Kind: "role", Name: "Yard hand", Made: true, Fields: []project.FieldDifference{{Path: "/rights", After: json.RawMessage(`["view"]`)}}},
		{Kind: "alarm", Name: "<script>", Gone: true},
	}
	var b strings.Builder
	if err := WriteDifferences(&b, list); err != nil {
		t.Fatal(err)
	}
	want := "~ tag Car.Speed (was Car.VelocitySP)\n    name: VelocitySP -> Speed\n    limit_high: - -> 70\n+ role Yard hand\n- alarm <script>\n"
	if b.String() != want {
		t.Errorf("%s", b.String())
	}
	b.Reset()
	if err := WriteDifferencesPage(&b, DifferencesTitle{"Yard", "release 1", "the draft"}, list); err != nil {
		t.Fatal(err)
	}
	for _, has := range []string{"Yard: from release 1 to the draft", "3 things differ", "&lt;script&gt;", "VelocitySP", "limit_high"} {
		if !strings.Contains(b.String(), has) {
			t.Errorf("the page has no %q", has)
		}
	}
	if strings.Contains(b.String(), "<script>") {
		t.Error("a name is markup")
	}
}
