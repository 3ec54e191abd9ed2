package host

import (
	"context"
	"log/slog"
	"strings"
	"testing"
	"time"

	"readyrail/internal/store"
)

func TestTheSentinelTellsWhenItComesAndWhenItGoes(t *testing.T) {
	h, err := Open(t.TempDir(), slog.New(slog.DiscardHandler), Options{})
	if err != nil {
		t.Fatal(err)
	}
	defer h.Close()
	p, err := h.CreateProject(context.Background(), Actor{ID: "o", Name: "O", Owner: true}, "yard", nil)
	if err != nil {
		t.Fatal(err)
	}
	var s sentinel
	for _, free := range []uint64{5 << 30, 900 << 20, 800 << 20, 1100 << 20, 5 << 30, 5 << 30} {
		s.disk(p, free)
	}
	for _, by := range []time.Duration{time.Second, -time.Hour, 2 * time.Minute} {
		s.stepped(p, by)
	}
	p.journal.flush()
	list, _, err := p.journal.store.List(context.Background(), store.JournalFilter{Kinds: []string{store.TroubleEntry}}, 100)
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
}
