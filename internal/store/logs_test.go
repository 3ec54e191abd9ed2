package store

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"
)

func TestSpansOfLogs(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	l, err := OpenLogs(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	ends := int64(20)
	for _, s := range []LogSpan{{Log: "a", Name: "L 1", Began: 10, Ended: &ends}, {Log: "a", Of: "k2", Name: "L_2", Began: 15},
		{Log: "b", Name: "L 3", Began: 16}} {
		if _, err := l.AddSpan(ctx, s); err != nil {
			t.Fatal(err)
		}
	}
	if open, err := l.OpenSpans(ctx, "a"); err != nil || len(open) != 1 || open[0].Of != "k2" {
		t.Fatal(open, err)
	}
	if err := errors.Join(l.EndSpan(ctx, 2, 5), l.EndSpan(ctx, 2, 90), l.NoteSpan(ctx, "a", 1, "wet")); err != nil {
		t.Fatal(err)
	}
	if err := l.NoteSpan(ctx, "a", 3, "another log's"); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
	for text, want := range map[string][]int64{"": {2, 1}, "L_": {2}, "%": nil, "WET": {1}} {
		list, err := l.Spans(ctx, "a", "", text, 0, 10)
		if err != nil || len(list) != len(want) {
			t.Errorf("%q: %v %v", text, list, err)
			continue
		}
		for i, s := range list {
			if s.Seq != want[i] {
				t.Errorf("%q: %v", text, list)
			}
		}
	}
	// One that would have ended before it began lasted no time.
	list, _ := l.Spans(ctx, "a", "", "", 0, 1)
	if *list[0].Ended != 15 {
		t.Errorf("ended at %d", *list[0].Ended)
	}
	if older, _ := l.Spans(ctx, "a", "", "", 2, 10); len(older) != 1 || older[0].Seq != 1 {
		t.Error(older)
	}
	if own, _ := l.Spans(ctx, "a", "k2", "", 0, 10); len(own) != 1 || own[0].Seq != 2 {
		t.Error(own)
	}
}

// TestADroppedLogLeavesNothing takes one whose id would lead elsewhere as a path.
func TestADroppedLogLeavesNothing(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir()
	l, err := OpenLogs(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	ids := []string{"../../out", ".", "", ".."}
	for _, id := range append(ids, "l-energy") {
		s, err := l.Samples(id)
		if err != nil {
			t.Fatal(err)
		}
		s.Close()
		if err := l.Put(ctx, LogState{ID: id, State: LogOff}); err != nil {
			t.Fatal(err)
		}
	}
	for _, id := range ids {
		if err := l.Drop(ctx, id); err != nil {
			t.Fatal(err)
		}
	}
	left, _ := os.ReadDir(filepath.Join(dir, "logs"))
	if len(left) != 1 {
		t.Errorf("%d are left of one", len(left))
	}
	if err := l.Drop(ctx, "l-energy"); err != nil {
		t.Fatal(err)
	}
	left, _ = os.ReadDir(filepath.Join(dir, "logs"))
	if states, err := l.States(ctx); err != nil || len(states)+len(left) > 0 {
		t.Error(states, left, err)
	}
}
