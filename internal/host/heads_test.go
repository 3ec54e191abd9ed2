package host_test

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/audit"
	"readyrail/internal/edit"
	"readyrail/internal/host"
	"readyrail/internal/store"
)

// proved is a server with one project, whose trail's heads go to a folder elsewhere.
type proved struct {
	t           *testing.T
	data, heads string
	h           *host.Host
	p           *host.Project
	who         host.Actor
}

func newProved(t *testing.T) *proved {
	t.Helper()
	s := &proved{t: t, data: t.TempDir(), heads: filepath.Join(t.TempDir(), "safe")}
	s.open()
	t.Cleanup(s.close)
	who, err := s.h.CreateOwner(ctx, host.NewAccount{Name: "ada", FullName: "Ada Birch", Password: "larch-and-spruce"})
	if err != nil {
		t.Fatal(err)
	}
	s.who = who
	if s.p, err = s.h.CreateProject(ctx, who, "yard", edit.NewProject("Yard")); err != nil {
		t.Fatal(err)
	}
	return s
}

func (s *proved) open() {
	s.t.Helper()
	h, err := host.Open(s.data, quiet, host.Options{Heads: s.heads})
	if err != nil {
		s.t.Fatal(err)
	}
	s.h = h
	s.p, _ = h.Project("yard")
}

func (s *proved) close() {
	if s.h != nil {
		s.h.Close()
	}
	s.h = nil
}

func (s *proved) work(n int) {
	s.t.Helper()
	for range n {
		if err := s.p.Record(ctx, s.who, audit.Proof, "looked at"); err != nil {
			s.t.Fatal(err)
		}
	}
}

// alter changes the trail's database while no server has it, as who owns the disk can.
func (s *proved) alter(statements ...string) {
	s.t.Helper()
	s.close()
	db, err := sqlx.Open("sqlite", filepath.Join(s.data, "projects", "yard", "audit.db"))
	if err != nil {
		s.t.Fatal(err)
	}
	defer db.Close()
	for _, q := range append([]string{"DROP TRIGGER record_no_update", "DROP TRIGGER record_no_delete"}, statements...) {
		if _, err := db.Exec(q); err != nil {
			s.t.Fatal(q, err)
		}
	}
}

// says is what a look from outside says of the trail.
func (s *proved) says(heads string) (host.TrailState, string) {
	s.t.Helper()
	key, err := host.ReadPublicKeys(filepath.Join(s.data, "audit.pub"))
	if err != nil {
		s.t.Fatal(err)
	}
	state, err := host.VerifyFolder(ctx, s.data, "yard", key, heads, nil)
	if err != nil {
		return state, err.Error()
	}
	return state, ""
}

func TestTrailsAreProvedFromOutside(t *testing.T) {
	beside(t)
	s := newProved(t)
	s.work(5)
	s.close() // signs the end
	state, said := s.says(s.heads)
	if said != "" || !state.Elsewhere || state.Head.Seq != state.Records || state.Records < 5 {
		t.Fatalf("%+v %s", state, said)
	}
	// A head of another trail under this one's name says nothing of it.
	other := t.TempDir()
	text, err := os.ReadFile(filepath.Join(s.heads, "yard.heads"))
	if err == nil {
		err = os.WriteFile(filepath.Join(other, "yard.heads"), []byte(strings.ReplaceAll(string(text), "head yard ", "head mill ")), 0o600)
	}
	if state, said := s.says(other); err != nil || said != "" || state.Elsewhere {
		t.Errorf("by the heads of another trail: %+v %s %v", state, said, err)
	}
	if state, said := s.says(""); said != "" || state.Elsewhere {
		t.Errorf("without heads from elsewhere: %+v %s", state, said)
	}
	// It goes on after a head, and is whole while the server runs.
	s.open()
	s.work(2)
	if later, said := s.says(s.heads); said != "" || later.Records != state.Records+2 || later.Head.Seq < state.Records {
		t.Errorf("%+v %s", later, said)
	}
}

func TestTamperingShows(t *testing.T) {
	beside(t)
	for name, c := range map[string]struct {
		alter func(s *proved)
		says  string
	}{
		"a value":            {func(s *proved) { s.alter("UPDATE record SET reason = 'not looked at' WHERE seq = 4") }, "does not match its seal"},
		"a signature":        {func(s *proved) { s.alter("UPDATE record SET sign = 'Iris Rowan: checked' WHERE seq = 4") }, "does not match its seal"},
		"a record taken out": {func(s *proved) { s.alter("DELETE FROM record WHERE seq = 4") }, "record 4 is missing"},
		"the end cut off":    {func(s *proved) { s.alter("DELETE FROM record WHERE seq > 4") }, "were taken out"},
		"the end cut off, its seal and the heads beside it too": {func(s *proved) {
			s.alter("DELETE FROM record WHERE seq > 4", "DELETE FROM head")
			os.Remove(filepath.Join(s.data, "projects", "yard", "heads.txt"))
		}, "taken out: the head of"},
		"begun anew with the trail's own keys": {func(s *proved) {
			s.close()
			for _, f := range []string{"audit.db", "audit.db-wal", "audit.db-shm", "heads.txt"} {
				os.Remove(filepath.Join(s.data, "projects", "yard", f))
			}
			s.open()
			s.work(20)
			s.close()
		}, "not the one of which the head"},
		"the server's own key replaced": {func(s *proved) {
			s.close()
			os.Remove(filepath.Join(s.data, "audit.sign"))
			s.open()
			s.close()
		}, "not signed with this key"},
	} {
		t.Run(name, func(t *testing.T) {
			s := newProved(t)
			s.work(8)
			s.close()
			s.open()
			c.alter(s)
			if _, said := s.says(s.heads); !strings.Contains(said, c.says) {
				t.Errorf("%q is said, not %q", said, c.says)
			}
		})
	}
}

// A folder for heads that cannot be written is told, and gets them once it can.
func TestTheFolderForHeadsIsGone(t *testing.T) {
	beside(t)
	s := newProved(t)
	s.work(1)
	var file bytes.Buffer
	gone := s.heads + " away"
	if err := os.Rename(s.heads, gone); err != nil {
		t.Fatal(err)
	}
	if err := s.p.WriteTrail(ctx, &file); err != nil {
		t.Fatal(err)
	}
	state, err := s.p.VerifyTrail(ctx, nil)
	if err != nil || state.Unwritten == nil || state.Elsewhere {
		t.Errorf("%+v %v", state, err)
	}
	if err := os.Rename(gone, s.heads); err != nil {
		t.Fatal(err)
	}
	if err := s.p.WriteTrail(ctx, &file); err != nil {
		t.Fatal(err)
	}
	if state, err = s.p.VerifyTrail(ctx, nil); err != nil || state.Unwritten != nil || !state.Elsewhere || state.Head.Seq < state.Records {
		t.Errorf("%+v %v", state, err)
	}
	key, _ := host.ReadPublicKeys(filepath.Join(s.data, "audit.pub"))
	lines := strings.SplitAfter(file.String(), "\n")
	half := strings.Join(lines[len(lines)/2:], "")
	if head, n, err := audit.VerifyFile(strings.NewReader(half), key); err != nil || n != state.Records || head.Trail != "yard" {
		t.Errorf("%d records, %v, %v", n, head, err)
	}
}

// TestAPrintedTrail: what is printed has every record of its filter, and no more.
func TestAPrintedTrail(t *testing.T) {
	s := newSite(t)
	if _, err := s.p.Write(ctx, s.actors["tom"], s.cmd("s-chamber1", "Dry bulb set point", "71")); err != nil {
		t.Fatal(err)
	}
	f := store.TrailFilter{Path: "Kiln1.*"}
	want := 0
	if err := s.p.EachRecord(ctx, f, func(audit.Record) error { want++; return nil }); err != nil || want == 0 {
		t.Fatal(want, err)
	}
	var b bytes.Buffer
	n, err := s.p.PrintTrail(ctx, &b, s.actors["iris"], f, "path Kiln1.*", "de")
	if err != nil || n != want || !bytes.HasPrefix(b.Bytes(), []byte("%PDF-")) {
		t.Fatalf("%d of %d, %v", n, want, err)
	}
}

// TestTheCheckOfTheTrail goes on beside those who ask how far it is, and its result stays.
func TestTheCheckOfTheTrail(t *testing.T) {
	s := newSite(t)
	if c := s.p.TrailChecked(); c.Busy || !c.At.IsZero() {
		t.Fatalf("before any: %+v", c)
	}
	for range 3000 {
		if err := s.p.Record(ctx, s.actors["iris"], audit.Event, "one of many"); err != nil {
			t.Fatal(err)
		}
	}
	s.p.CheckTrail()
	s.p.CheckTrail() // while one is under way it is that one
	begun := s.p.TrailChecked()
	if !begun.Busy || begun.Of < 3000 {
		t.Errorf("begun: %+v", begun)
	}
	var seen int64
	s.until("the check to end", func() bool {
		c := s.p.TrailChecked()
		seen = max(seen, c.Checked)
		return !c.Busy
	})
	end := s.p.TrailChecked()
	if end.Err != nil || end.State.Records < begun.Of || end.At.IsZero() || seen == 0 {
		t.Errorf("%d seen, then %+v", seen, end)
	}
}
