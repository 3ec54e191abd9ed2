package store

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/audit"
)

// fill makes a database believe that the disk is full, until the reserve of a
// folder has been given up.
func (d *database) fill(t *testing.T) {
	t.Helper()
	var pages int
	if err := d.writer.Get(&pages, "PRAGMA page_count"); err != nil {
		t.Fatal(err)
	}
	if _, err := d.writer.Exec("PRAGMA max_page_count = 1"); err != nil {
		t.Fatal(err)
	}
}

func (d *database) empty(t *testing.T) {
	t.Helper()
	if _, err := d.writer.Exec("PRAGMA max_page_count = 1000000"); err != nil {
		t.Fatal(err)
	}
}

// appendMany fills the pages that a database has.
func appendMany(a *Audit, n int) (kept int, err error) {
	for range n {
		if _, err = a.Append(ctx, audit.Record{What: audit.Event, New: strings.Repeat("x", 1000)}); err != nil {
			return kept, err
		}
		kept++
	}
	return kept, nil
}

func TestAFullDiskIsAnErrorAndNothingIsLost(t *testing.T) {
	a, err := OpenAudit(t.TempDir(), audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	before, err := appendMany(a, 20)
	if err != nil {
		t.Fatal(err)
	}
	a.db.fill(t)
	more, err := appendMany(a, 200)
	if !isFull(err) {
		t.Fatalf("%v", err)
	}
	// Reading goes on, and the chain is whole.
	if n, err := a.Verify(ctx, &audit.Verifier{}); err != nil || int(n) != before+more {
		t.Errorf("%d records, want %d: %v", n, before+more, err)
	}
	a.db.empty(t)
	if _, err := appendMany(a, 5); err != nil {
		t.Errorf("once there is room again: %v", err)
	}
	if n, err := a.Verify(ctx, &audit.Verifier{}); err != nil || int(n) != before+more+5 {
		t.Errorf("%d records: %v", n, err)
	}
}

func TestTheReserveIsGivenUpFirst(t *testing.T) {
	dir := t.TempDir()
	r := HoldReserve(dir, 1<<20)
	if r.Held() {
		t.Error("it is held before it was taken")
	}
	if err := r.Hold(); err != nil {
		t.Fatal(err)
	}
	info, err := os.Stat(filepath.Join(dir, "reserve"))
	if err != nil || info.Size() != 1<<20 {
		t.Fatalf("%v %v", info, err)
	}
	if again := HoldReserve(dir, 1<<20); !again.Held() {
		t.Error("a server that starts anew does not find it")
	}
	a, err := OpenAudit(dir, audit.Ring{[]byte("key")}, r)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	if _, err := appendMany(a, 20); err != nil {
		t.Fatal(err)
	}
	a.db.fill(t)
	// The first write that finds no room gives it up and is tried once more; here
	// there is still none.
	if _, err := appendMany(a, 200); !isFull(err) {
		t.Errorf("%v", err)
	}
	if r.Held() {
		t.Error("it is still held")
	}
	if _, err := os.Stat(filepath.Join(dir, "reserve")); !os.IsNotExist(err) {
		t.Errorf("the file is still there: %v", err)
	}
	if err := r.Hold(); err != nil || !r.Held() {
		t.Errorf("it cannot be held again: %v", err)
	}
	var none *Reserve
	if none.Held() || none.giveUp() || none.Hold() != nil {
		t.Error("no reserve holds something")
	}
}

// The end of the trail cannot be cut off unseen, neither while the server runs
// nor before it starts.
func TestTheEndOfTheTrailCannotBeCutOff(t *testing.T) {
	dir := t.TempDir()
	key := []byte("key")
	a, err := OpenAudit(dir, audit.Ring{key}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := appendMany(a, 100); err != nil {
		t.Fatal(err)
	}
	if n, err := a.Verify(ctx, &audit.Verifier{}); n != 100 || err != nil {
		t.Fatalf("%d %v", n, err)
	}
	a.Close()
	if a, err = OpenAudit(dir, audit.Ring{key}, nil); err != nil {
		t.Fatal(err)
	}
	if n, err := a.Verify(ctx, &audit.Verifier{}); n != 100 || err != nil {
		t.Errorf("after a start: %d %v", n, err)
	}
	for _, q := range []string{"DROP TRIGGER record_no_delete", "DELETE FROM record WHERE seq > 50"} {
		if _, err := a.db.ExecContext(ctx, q); err != nil {
			t.Fatal(err)
		}
	}
	var broken *audit.Broken
	const says = "51 to 100 were taken out"
	if _, err := a.Verify(ctx, &audit.Verifier{}); !errors.As(err, &broken) || broken.Seq != 51 || !strings.Contains(broken.Reason, says) {
		t.Errorf("the last 50 are gone: %v", err)
	}
	a.Close()
	// A start does not make it whole: it is recorded, and said from then on.
	for range 2 {
		if a, err = OpenAudit(dir, audit.Ring{key}, nil); err != nil {
			t.Fatal(err)
		}
		if _, err := a.Verify(ctx, &audit.Verifier{}); !errors.As(err, &broken) || !strings.Contains(broken.Reason, "51 to 100 were taken out") {
			t.Errorf("after a start: %v", err)
		}
		a.Close()
	}
	if a, err = OpenAudit(dir, audit.Ring{key}, nil); err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	if list, _, _ := a.List(ctx, TrailFilter{}, 5); list[0].What != audit.Tampered || list[1].What == audit.Tampered {
		t.Errorf("%+v", list)
	}
}

// A trail from before ends were sealed is taken as it is, once.
func TestATrailFromBeforeEndsWereSealed(t *testing.T) {
	dir := t.TempDir()
	a, err := OpenAudit(dir, audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	appendMany(a, 10)
	for _, q := range []string{"DROP TABLE head", "ALTER TABLE record DROP COLUMN sign", "ALTER TABLE record DROP COLUMN captured",
		"DROP TABLE part",
		"DELETE FROM goose_db_version WHERE version_id > 1"} {
		if _, err := a.db.ExecContext(ctx, q); err != nil {
			t.Fatal(err)
		}
	}
	a.Close()
	if a, err = OpenAudit(dir, audit.Ring{[]byte("key")}, nil); err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	appendMany(a, 1)
	if n, err := a.Verify(ctx, &audit.Verifier{}); n != 11 || err != nil {
		t.Errorf("%d %v", n, err)
	}
}

// Intents that a crash left open are found though many came after them, and
// are looked for from there on only.
func TestOpenIntentsAreFound(t *testing.T) {
	dir := t.TempDir()
	a, err := OpenAudit(dir, audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	open, _ := a.Append(ctx, audit.Record{What: audit.Intent, Key: "left open"})
	for i := range 20 {
		r, _ := a.Append(ctx, audit.Record{What: audit.Intent, Key: string(rune('a' + i))})
		a.Append(ctx, audit.Record{What: audit.Outcome, Intent: r.Seq, Outcome: audit.Confirmed})
	}
	if a.closed != open.Seq-1 {
		t.Errorf("closed up to %d", a.closed)
	}
	a.Close()
	if a, err = OpenAudit(dir, audit.Ring{[]byte("key")}, nil); err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	list, err := a.Open(ctx)
	if err != nil || len(list) != 1 || list[0].Key != "left open" {
		t.Fatalf("%+v %v", list, err)
	}
	last, _ := a.Append(ctx, audit.Record{What: audit.Outcome, Intent: open.Seq, Outcome: audit.Unknown})
	if a.closed != last.Seq {
		t.Errorf("closed up to %d, want %d", a.closed, last.Seq)
	}
}

// A long read holds up no write.
func TestWritesGoOnBesideALongRead(t *testing.T) {
	a, err := OpenAudit(t.TempDir(), audit.Ring{[]byte("key")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	appendMany(a, 3000)
	rows, err := a.db.QueryxContext(ctx, "SELECT * FROM record")
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	rows.Next()
	done := make(chan error, 1)
	go func() { _, err := a.Append(ctx, audit.Record{What: audit.Event}); done <- err }()
	select {
	case err := <-done:
		if err != nil {
			t.Error(err)
		}
	case <-time.After(5 * time.Second):
		t.Error("the write waits for the read")
	}
}

func TestWhatWasWrittenOutIsNoLongerListed(t *testing.T) {
	dir := t.TempDir()
	j, err := OpenJournal(dir, nil)
	if err != nil {
		t.Fatal(err)
	}
	list := make([]Entry, 12_000)
	for i := range list {
		list[i] = Entry{At: int64(i + 1), Kind: SystemEntry, What: "start", Priority: -1}
	}
	if err := j.Append(ctx, list, nil); err != nil {
		t.Fatal(err)
	}
	a, err := j.Archive(ctx, time.Unix(2_000_000_000, 0), "Iris Rowan", "the year is over", Entry{Kind: SystemEntry, What: "journal-closed"})
	if err != nil || a.Entries != 12_000 || a.First != 1 || a.Last != 12_000 {
		t.Fatalf("%+v %v", a, err)
	}
	count := func() int {
		t.Helper()
		found, _, err := j.List(ctx, JournalFilter{}, 20_000)
		if err != nil {
			t.Fatal(err)
		}
		return len(found)
	}
	if n := count(); n != 1 {
		t.Errorf("%d entries are listed", n)
	}
	j.Close()
	// A server that ended before the old entries were taken away goes on with it.
	if j, err = OpenJournal(dir, nil); err != nil {
		t.Fatal(err)
	}
	defer j.Close()
	if n := count(); n != 1 {
		t.Errorf("%d entries are listed after a start", n)
	}
	if err := j.Prune(ctx, 0, 1_000_000); err != nil {
		t.Fatal(err)
	}
	var left int
	if err := j.db.GetContext(ctx, &left, "SELECT count(*) FROM entry"); err != nil || left != 1 {
		t.Errorf("%d entries are left, %v", left, err)
	}
}
