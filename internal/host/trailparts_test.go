package host_test

import (
	"bytes"
	"errors"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/host"
	"readyrail/internal/store"
)

// TestATrailIsClosedPartByPart: who may closes the trail with a reason while the plant
// runs; the part is a signed file that holds by the public key alone, the rest goes on in
// the same chain, and both hold after the server was killed.
func TestATrailIsClosedPartByPart(t *testing.T) {
	s := newSite(t)
	tom, iris := s.actors["tom"], s.actors["iris"]
	write := func(v string) {
		t.Helper()
		if out, err := s.p.Write(ctx, tom, s.cmd("s-chamber1", "Dry bulb set point", v)); err != nil || out.Outcome != audit.Confirmed {
			t.Fatalf("%+v %v", out, err)
		}
	}
	write("66")
	var denied *access.Denied
	if _, err := s.p.CloseTrail(ctx, tom, "the year ends"); !errors.As(err, &denied) {
		t.Errorf("by an operator: %v", err)
	}
	if _, err := s.p.CloseTrail(ctx, iris, " "); err == nil {
		t.Error("closed without a reason")
	}
	// Somebody presses a button meanwhile: it stays in one part with its outcome.
	done := make(chan struct{})
	go func() {
		defer close(done)
		for _, v := range []string{"67", "68", "69"} {
			write(v)
		}
	}()
	a, err := s.p.CloseTrail(ctx, iris, "the year ends")
	if err != nil || a.First != 1 || a.Last < 2 {
		t.Fatalf("%+v %v", a, err)
	}
	<-done
	list, _ := s.p.TrailArchives(ctx, iris)
	if len(list) != 1 || list[0].Reason != "the year ends" || list[0].Person != "Iris Rowan" {
		t.Errorf("%+v", list)
	}
	_, data, err := s.p.TrailArchive(ctx, iris, a.ID)
	if err != nil {
		t.Fatal(err)
	}
	key, err := host.ReadPublicKeys(filepath.Join(s.dir, "audit.pub"))
	if err != nil {
		t.Fatal(err)
	}
	if head, n, err := audit.VerifyFile(bytes.NewReader(data), key); err != nil || n != a.Entries || head.Seq != a.Last {
		t.Errorf("the file: %d records up to %d, %v; want %d up to %d", n, head.Seq, err, a.Entries, a.Last)
	}
	told := false
	records, _, err := s.p.Trail(ctx, store.TrailFilter{}, 50)
	for _, r := range records {
		told = told || r.What == audit.TrailEnd && strings.Contains(r.New, a.Hash) && r.Name == "Iris Rowan"
		if r.Seq <= a.Last {
			t.Errorf("record %d is still listed", r.Seq)
		}
	}
	if err != nil || !told {
		t.Errorf("the trail does not say that a part was closed: %v", err)
	}
	s.until("its records are taken away", func() bool { return s.rowsUpTo(a.Last) == 0 })
	state, err := s.p.VerifyTrail(ctx, nil)
	if err != nil || len(state.Parts) != 1 || state.Head.Seq <= a.Last {
		t.Errorf("%+v %v", state, err)
	}
	killed := s.crash()
	if state, err := host.VerifyFolder(ctx, killed, s.p.ID(), key, "", nil); err != nil || len(state.Parts) != 1 {
		t.Errorf("after a kill: %+v %v", state, err)
	}
	time.Sleep(time.Second) // a file is named by its second
	b, err := s.p.CloseTrail(ctx, iris, "again")
	if err != nil || b.First != a.Last+1 {
		t.Errorf("the next part: %+v %v", b, err)
	}
	write("70")
}

// rowsUpTo counts the records of the trail's database up to a number.
func (s *site) rowsUpTo(last int64) (n int) {
	s.t.Helper()
	db, err := sqlx.Open("sqlite", filepath.Join(s.dir, "projects", s.p.ID(), "audit.db"))
	if err != nil {
		s.t.Fatal(err)
	}
	defer db.Close()
	if err := db.Get(&n, "SELECT count(*) FROM record WHERE seq <= ?", last); err != nil {
		s.t.Fatal(err)
	}
	return n
}
