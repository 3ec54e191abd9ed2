package host

import (
	"context"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// A kind has the priority that the site gives it; an error of a browser is told
// at most once a second.
func TestEventsHaveThePriorityThatTheSiteGives(t *testing.T) {
	p := newYard(t)
	if _, err := p.Edit(context.Background(), Actor{ID: "o", Owner: true}, "rules",
		[]project.Op{{Kind: project.KindSite, ID: project.SiteID, Path: "/journal",
			Value: []byte(`{"trouble":{"priority":"high"}}`)}}); err != nil {
		t.Fatal(err)
	}
	for range 3 {
		if err := p.ScreenError(context.Background(), Actor{Name: "Tom", Owner: true}, "s1", "it broke"); err != nil {
			t.Fatal(err)
		}
	}
	p.records.Journal.Flush(false)
	if list, _, err := p.records.Journal.List(context.Background(), store.JournalFilter{Priority: []int{1}}, 100); err != nil ||
		len(list) != 1 || list[0].What != "screen-error" || list[0].Person != "Tom" {
		t.Errorf("%+v %v", list, err)
	}
	for _, kind := range project.JournalKinds {
		switch kind {
		case store.EventEntry, store.ActionEntry, store.PersonEntry, store.LinkEntry, store.TroubleEntry, store.SystemEntry:
		default:
			t.Errorf("there is a rule for %s, and the journal has no such entries", kind)
		}
	}
}

// TestEveryFailureHasItsRule: the failures that a site chooses for are those that are
// told, and each has words.
func TestEveryFailureHasItsRule(t *testing.T) {
	told := map[string]bool{}
	code := regexp.MustCompile(`"([a-z]+(?:-[a-z]+)*)"`)
	for _, dir := range []string{".", "../run", "../record"} {
		files, err := filepath.Glob(filepath.Join(dir, "*.go"))
		if err != nil {
			t.Fatal(err)
		}
		for _, file := range files {
			if strings.HasSuffix(file, "_test.go") {
				continue
			}
			source, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			for line := range strings.Lines(string(source)) {
				if strings.Contains(line, "store.TroubleEntry") || strings.Contains(line, `"link-`) {
					for _, m := range code.FindAllStringSubmatch(line, -1) {
						told[m[1]] = true
					}
				}
			}
		}
	}
	for _, what := range project.JournalFailures {
		if !told[what] {
			t.Errorf("there is a rule for %s, and nothing tells of it", what)
		}
	}
	delete(told, "link-back")
	delete(told, "disk-back")
	for what := range told {
		if !slices.Contains(project.JournalFailures, what) {
			t.Errorf("%s is told of as a failure, and no site can choose for it", what)
		}
	}
}
