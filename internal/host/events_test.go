package host

import (
	"context"
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
		p.ScreenError(Actor{Name: "Tom"}, "s1", "it broke")
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
