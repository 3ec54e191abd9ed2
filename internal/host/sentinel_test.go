package host

import (
	"context"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

func TestTheSentinelTellsWhenItComesAndWhenItGoes(t *testing.T) {
	p := newYard(t)
	var s sentinel
	for _, free := range []uint64{5 << 30, 900 << 20, 800 << 20, 1100 << 20, 5 << 30, 5 << 30} {
		s.disk(p, free)
	}
	for _, by := range []time.Duration{time.Second, -time.Hour, 2 * time.Minute} {
		s.stepped(p, by)
	}
	p.records.Journal.Flush(false)
	list, _, err := p.records.Journal.List(context.Background(), store.JournalFilter{Kinds: []string{store.TroubleEntry}}, 100)
	if err != nil {
		t.Fatal(err)
	}
	got := ""
	for i := len(list) - 1; i >= 0; i-- {
		got += list[i].What + " " + list[i].Text + "; "
	}
	if want := "disk-low 900 MB are left; disk-back 5120 MB are free; clock-stepped by -1h0m0s; clock-stepped by 2m0s; "; got != want {
		t.Errorf("%s, not %s", got, want)
	}
	if strings.Contains(got, "800") {
		t.Error("told twice")
	}
	// A kind has the priority that the site gives it; an error of a browser is
	// told at most once a second.
	if _, err := p.Edit(context.Background(), Actor{ID: "o", Owner: true}, "rules",
		[]project.Op{{Kind: project.KindSite, ID: project.SiteID, Path: "/journal",
			Value: []byte(`{"trouble":{"priority":"high"}}`)}}); err != nil {
		t.Fatal(err)
	}
	for range 3 {
		p.ScreenError(Actor{Name: "Tom"}, "s1", "it broke")
	}
	p.records.Journal.Flush(false)
	if list, _, err = p.records.Journal.List(context.Background(), store.JournalFilter{Priority: []int{1}}, 100); err != nil ||
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
