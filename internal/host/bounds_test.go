package host

import (
	"context"
	"testing"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// TestAPartThatPanicsIsAFinding: it ends nothing, and stands in journal and
// findings once, with its last problem.
func TestAPartThatPanicsIsAFinding(t *testing.T) {
	p := newYard(t)
	if list := p.Failures(); len(list) != 0 {
		t.Errorf("before anything failed: %+v", list)
	}
	for _, problem := range []string{"first", "second"} {
		p.bounded("the heartbeat of KilnPLC", func() { panic(problem) })
	}
	p.begin("a feed", func() { panic("gone") })
	p.engineFailed("divided by nothing")
	p.engineFailed("divided by nothing") // within a minute it is said once
	for until := time.Now().Add(time.Minute); len(p.Failures()) < 3 && time.Now().Before(until); {
		time.Sleep(time.Millisecond) // what was begun is on its way
	}
	list := p.Failures()
	if len(list) != 3 || list[0].Name != "a feed" || list[1].Name != "engine" || list[2].Name != "the heartbeat of KilnPLC" {
		t.Fatalf("%+v", list)
	}
	for _, language := range []string{"en", "de"} {
		if w := list[2].Render(language); w.Mend == "" || w.Says == "" || list[2].Args["problem"] != "second" {
			t.Errorf("in %s it says %+v of %+v", language, w, list[2])
		}
	}
	if list[0].Severity != project.Warning {
		t.Error("a part that failed keeps a project from being released")
	}
	entries, _, err := p.records.Journal.List(context.Background(), store.JournalFilter{Kinds: []string{store.TroubleEntry}}, 100)
	if err != nil || len(entries) != 4 {
		t.Errorf("%d entries in the journal: %v", len(entries), err)
	}
}
