package host_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/demo"
	"readyrail/internal/host"
	"readyrail/internal/store"
)

// edits are the newest records of edits in the trail, a line each, once there are
// so many.
func (s *site) edits(many int) []string {
	s.t.Helper()
	var out []string
	s.until(fmt.Sprintf("%d edits in the trail", many), func() bool {
		list, _, err := s.p.Trail(ctx, store.TrailFilter{Whats: []string{audit.Edited}}, 300)
		if err != nil {
			s.t.Fatal(err)
		}
		out = nil
		for _, r := range list {
			out = append(out, strings.Join([]string{r.Key, r.Name, r.Element, r.Path, r.Old, r.New, r.Reason}, "|"))
		}
		return len(out) >= many
	})
	return out
}

// TestEditsAreInTheTrail: what an engineer changed, what it was and what it is, as
// people read it; taken back and brought again; and in bulk, where the rest is told
// by its number and its hash.
func TestEditsAreInTheTrail(t *testing.T) {
	s := newSite(t)
	ada := s.actors["ada"]
	edit := func(label string, ops ...project.Op) {
		t.Helper()
		if _, err := s.p.Edit(ctx, ada, label, ops); err != nil {
			t.Fatal(err)
		}
	}
	edit("describe", project.Op{Kind: project.KindTag, ID: s.id("Car.VelocitySP"), Path: "/description", Value: json.RawMessage(`"how fast"`)})
	if _, err := s.p.Undo(ctx, ada); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Redo(ctx, ada); err != nil {
		t.Fatal(err)
	}
	got := s.edits(3)
	for i, want := range []string{
		"edit 1 done|Ada Birch|tag|Car.VelocitySP|description Jog speed|description how fast|describe",
		"edit 1 undone|Ada Birch|tag|Car.VelocitySP|description how fast|description Jog speed|describe",
		"edit 1|Ada Birch|tag|Car.VelocitySP|description Jog speed|description how fast|describe",
	} {
		if got[i] != want {
			t.Errorf("record %d is %s\nwant %s", i, got[i], want)
		}
	}
	var many []project.Op
	for i := range 250 {
		many = append(many, project.Op{Kind: project.KindTag, ID: fmt.Sprintf("many%d", i),
			Value: json.RawMessage(fmt.Sprintf(`{"name":"Many%d","type":"INT","source":"internal"}`, i))})
	}
	edit("make 250 tags", many...)
	got = s.edits(204)
	if !strings.HasPrefix(got[0], "edit 2|Ada Birch||||250 things in all; SHA-256 of its changes: ") {
		t.Errorf("of many: %s", got[0])
	}
	if !strings.Contains(got[200], "|Many0||") || !strings.Contains(got[200], "type INT") {
		t.Errorf("the first of many: %s", got[200])
	}
	if list, _, err := s.p.Trail(ctx, store.TrailFilter{Tag: s.id("Car.VelocitySP")}, 10); err != nil || len(list) != 3 {
		t.Errorf("the tag's own trail has %d records: %v", len(list), err)
	}
}

// TestAnEditThatTheTrailMissed: a server that was killed between an edit and its
// record puts that into the trail at its next start, with who made it, once.
func TestAnEditThatTheTrailMissed(t *testing.T) {
	s := newSite(t)
	sp := s.id("Car.VelocitySP")
	edit := func(label, value string) {
		t.Helper()
		op := project.Op{Kind: project.KindTag, ID: sp, Path: "/description", Value: json.RawMessage(value)}
		if _, err := s.p.Edit(ctx, s.actors["ada"], label, []project.Op{op}); err != nil {
			t.Fatal(err)
		}
	}
	edit("first", `"one"`)
	s.edits(1)
	before := s.crash()
	edit("second", `"two"`)
	edit("third", `"three"`)
	s.edits(3)
	dir := s.crash()
	s.h.Close()
	// The trail as it was before the second edit.
	of := func(dir string) string { return filepath.Join(dir, "projects", demo.ID) }
	for _, name := range []string{"audit.db", "audit.db-wal", "audit.db-shm"} {
		os.Remove(filepath.Join(of(dir), name))
		if b, err := os.ReadFile(filepath.Join(of(before), name)); err == nil {
			if err := os.WriteFile(filepath.Join(of(dir), name), b, 0o600); err != nil {
				t.Fatal(err)
			}
		}
	}
	for range 2 {
		h, err := host.Open(dir, quiet, host.Options{})
		if err != nil {
			t.Fatal(err)
		}
		s.h = h
		s.p, _ = h.Project(demo.ID)
		got := s.edits(3)
		if len(got) != 3 || got[0] != "edit 3|Ada Birch|tag|Car.VelocitySP|description two|description three|third" ||
			got[1] != "edit 2|Ada Birch|tag|Car.VelocitySP|description one|description two|second" {
			t.Errorf("%q", got)
		}
		h.Close()
	}
}
