package run

import (
	"context"
	"log/slog"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

func TestTheSentinelTellsWhenItComesAndWhenItGoes(t *testing.T) {
	records, err := record.Open(t.TempDir(), record.Past{}, record.Options{Log: slog.New(slog.DiscardHandler),
		AuditKeys: audit.Ring{make([]byte, 32)}, Rules: func() map[string]project.JournalRule { return nil }, Changed: func() {},
		Source: func() record.Source { return record.Source{} }, Bounded: func(_ string, f func()) { f() }})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(records.Close)
	r := &Runs{records: records}
	var s sentinel
	for _, free := range []uint64{5 << 30, 900 << 20, 800 << 20, 1100 << 20, 5 << 30, 5 << 30} {
		s.disk(r, free)
	}
	for _, by := range []time.Duration{time.Second, -time.Hour, 2 * time.Minute} {
		s.stepped(r, by)
	}
	records.Journal.Flush(false)
	list, _, err := records.Journal.List(context.Background(), store.JournalFilter{Kinds: []string{store.TroubleEntry}}, 100)
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
