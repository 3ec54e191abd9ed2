package store

import (
	"context"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
)

var ctx = context.Background()

func TestNewerDatabaseIsRefusedAndLeftAlone(t *testing.T) {
	dir := t.TempDir()
	s, err := OpenServer(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.db.ExecContext(context.Background(), "INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)"); err != nil {
		t.Fatal(err)
	}
	s.Close()
	if _, err := OpenServer(dir, nil); err == nil || !strings.Contains(err.Error(), "newer Ready Rail") {
		t.Errorf("%v", err)
	}
}

func TestNotADatabase(t *testing.T) {
	dir := t.TempDir()
	os.WriteFile(filepath.Join(dir, "server.db"), []byte(strings.Repeat("not a database ", 100)), 0o600)
	if _, err := OpenServer(dir, nil); err == nil {
		t.Error("a text file was taken for a database")
	}
}

func TestSaveUndoRedo(t *testing.T) {
	p, err := OpenProject(t.TempDir(), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer p.Close()
	if _, err := p.Load(ctx); !errors.Is(err, ErrNotFound) {
		t.Errorf("an empty database: %v", err)
	}
	doc := func(s string) []project.Entity {
		e := project.Entity{Kind: "tag", ID: "t1"}
		if s != "" {
			e.Doc = json.RawMessage(s)
		}
		return []project.Entity{e}
	}
	a, err := p.Save(ctx, Change{At: 1, Person: "ada", Label: "one", Changes: []byte("[]")}, doc(`{"n":1}`))
	if err != nil {
		t.Fatal(err)
	}
	b, _ := p.Save(ctx, Change{At: 2, Person: "ada", Label: "two", Changes: []byte("[]")}, doc(`{"n":2}`))
	p.Save(ctx, Change{At: 3, Person: "tom", Label: "other", Changes: []byte("[]")}, nil)
	if c, _ := p.LastDone(ctx, "ada"); c.ID != b {
		t.Errorf("last done %d, want %d", c.ID, b)
	}
	p.Mark(ctx, b, "undone", doc(`{"n":1}`))
	p.Mark(ctx, a, "undone", doc(""))
	if _, err := p.Load(ctx); !errors.Is(err, ErrNotFound) {
		t.Errorf("the thing should be gone: %v", err)
	}
	if c, _ := p.FirstUndone(ctx, "ada"); c.ID != a {
		t.Errorf("first to redo %d, want %d", c.ID, a)
	}
	p.Save(ctx, Change{At: 4, Person: "ada", Label: "three", Changes: []byte("[]")}, nil)
	if _, err := p.FirstUndone(ctx, "ada"); !errors.Is(err, ErrNotFound) {
		t.Errorf("after a new edit nothing can be redone: %v", err)
	}
}

func TestAuditOnlyGrowsAndShowsTampering(t *testing.T) {
	dir := t.TempDir()
	a, err := OpenAudit(dir, audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	first, _ := a.Append(ctx, audit.Record{At: 1, What: audit.Intent, Path: "Kiln1.DryBulbSP", New: "72", Key: "k1"})
	a.Append(ctx, audit.Record{At: 2, What: audit.Intent, Path: "Kiln1.WetBulbSP", Key: "k2"})
	a.Append(ctx, audit.Record{At: 3, What: audit.Outcome, Intent: first.Seq, Outcome: audit.Confirmed})
	a.Close()
	if a, err = OpenAudit(dir, audit.Ring{[]byte("key")}, nil); err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	a.Append(ctx, audit.Record{At: 4, What: audit.SignIn, Name: "Tom Alder"})
	if n, err := a.Verify(ctx, &audit.Verifier{}); n != 4 || err != nil {
		t.Errorf("%d records, %v", n, err)
	}
	if open, _ := a.Open(ctx); len(open) != 1 || open[0].Path != "Kiln1.WetBulbSP" {
		t.Errorf("open intents %+v", open)
	}
	if list, _, _ := a.List(ctx, TrailFilter{}, 10); len(list) != 3 || list[2].Outcome != audit.Confirmed {
		t.Errorf("%+v", list)
	}
	if _, err := a.Append(ctx, audit.Record{What: audit.Intent, Key: "k1"}); err == nil {
		t.Error("one key was taken twice")
	}
	if _, err := a.db.ExecContext(ctx, "UPDATE record SET new = '99' WHERE seq = 1"); err == nil {
		t.Error("a record could be altered")
	}
	a.db.ExecContext(ctx, "DROP TRIGGER record_no_update")
	a.db.ExecContext(ctx, "UPDATE record SET new = '99' WHERE seq = 1")
	var broken *audit.Broken
	if _, err := a.Verify(ctx, &audit.Verifier{}); !errors.As(err, &broken) || broken.Seq != 1 {
		t.Errorf("a tampered record: %v", err)
	}
}

func TestSessionsEndByTime(t *testing.T) {
	s, err := OpenServer(t.TempDir(), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	ss := s.Sessions()
	ss.Commit("a", []byte("x"), time.Now().Add(time.Hour))
	ss.Commit("b", []byte("y"), time.Now().Add(-time.Hour))
	if data, _, _ := ss.Find("a"); data == nil {
		t.Error("a session is missing")
	}
	if data, _, _ := ss.Find("b"); data != nil {
		t.Error("a session outlived its time")
	}
	ss.Delete("a")
	if data, _, _ := ss.Find("a"); data != nil {
		t.Error("a deleted session is there")
	}
}
