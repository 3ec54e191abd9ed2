package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"readyrail/internal/core/audit"
)

var partKey = []byte("a key of a trail in parts")

// lines writes records as lines of their numbers.
func lines(w io.Writer, each func(func(*audit.Record) error) error) error {
	return each(func(r *audit.Record) error {
		_, err := fmt.Fprintln(w, r.Seq)
		return err
	})
}

// written is a trail with so many records more.
func written(t *testing.T, dir string, n int) *Audit {
	t.Helper()
	a, err := OpenAudit(dir, audit.Ring{partKey}, nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { a.Close() })
	for i := range n {
		r := audit.Record{At: int64(i + 1), What: audit.Event, Name: "Tom Alder", Path: "Kiln1.DryBulbSP"}
		if _, err := a.Append(t.Context(), r); err != nil {
			t.Fatal(err)
		}
	}
	return a
}

func (a *Audit) endPart(t *testing.T, at time.Time) (audit.Part, error) {
	t.Helper()
	return a.ClosePart(t.Context(), at, "the year ends", audit.Record{At: at.UnixNano(), What: audit.TrailEnd, Name: "Iris Rowan"}, lines)
}

func (a *Audit) counted(t *testing.T) (rows int64) {
	t.Helper()
	if err := a.db.GetContext(t.Context(), &rows, "SELECT count(*) FROM record"); err != nil {
		t.Fatal(err)
	}
	return rows
}

// TestAPartIsClosed: the records go out, are no longer listed at once, and are taken away
// by and by; the chain holds all the while, also after a start in the middle.
func TestAPartIsClosed(t *testing.T) {
	dir, at := t.TempDir(), time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	a := written(t, dir, 2500)
	p, err := a.endPart(t, at)
	if err != nil || p.First != 1 || p.Last != 2500 || p.Records != 2500 {
		t.Fatalf("%+v %v", p, err)
	}
	data, err := os.ReadFile(filepath.Join(dir, archiveDir, p.File))
	if err != nil || !strings.HasPrefix(string(data), "1\n2\n") || !strings.HasSuffix(string(data), "\n2500\n") {
		t.Errorf("the file: %.20q… %v", data, err)
	}
	whole := func(a *Audit, what string, want int64) {
		t.Helper()
		if n, err := a.Verify(t.Context(), &audit.Verifier{}); err != nil || n != want {
			t.Errorf("%s: %d records, %v; want %d", what, n, err, want)
		}
		n, parts, err := VerifyTrail(t.Context(), dir, audit.Ring{partKey}, &audit.Verifier{})
		if err != nil || n != want || len(parts) == 0 {
			t.Errorf("%s, from outside: %d records, %d parts, %v", what, n, len(parts), err)
		}
		list, _, err := a.List(t.Context(), TrailFilter{}, 10)
		if err != nil || int64(len(list)) != want || list[len(list)-1].What != audit.TrailEnd {
			t.Errorf("%s: listed %d, %v", what, len(list), err)
		}
	}
	whole(a, "before anything is taken away", 1)
	if err := a.Fold(t.Context()); err != nil || a.counted(t) != 1501 {
		t.Errorf("%d rows, %v", a.counted(t), err)
	}
	whole(a, "in the middle", 1)
	a.Close()
	b := written(t, dir, 1)
	whole(b, "after a start in the middle", 2)
	for range 3 {
		if err := b.Fold(t.Context()); err != nil {
			t.Fatal(err)
		}
	}
	if b.counted(t) != 2 {
		t.Errorf("%d rows are left", b.counted(t))
	}
	whole(b, "with all taken away", 2)
	if _, err := b.db.ExecContext(t.Context(), "DELETE FROM record"); err == nil {
		t.Error("records of the present part can be deleted")
	}
	q, err := b.endPart(t, at.Add(time.Second))
	if err != nil || q.First != 2501 || q.Last != 2502 {
		t.Fatalf("the next part: %+v %v", q, err)
	}
	whole(b, "with two parts", 1)
	if _, _, whole, err := b.PartFile(t.Context(), p.ID); err != nil || !whole {
		t.Errorf("the first part's file: %v %v", whole, err)
	}
	path := filepath.Join(dir, archiveDir, p.File)
	if err := os.WriteFile(path, append(data, "x\n"...), 0o600); err != nil {
		t.Fatal(err)
	}
	var broken *audit.Broken
	if _, _, err := VerifyTrail(t.Context(), dir, audit.Ring{partKey}, &audit.Verifier{}); !errors.As(err, &broken) {
		t.Errorf("an altered file: %v", err)
	}
	if _, _, whole, _ := b.PartFile(t.Context(), p.ID); whole {
		t.Error("an altered file is handed out as whole")
	}
	if err := os.Remove(path); err != nil {
		t.Fatal(err)
	}
	if _, _, err := VerifyTrail(t.Context(), dir, audit.Ring{partKey}, &audit.Verifier{}); err != nil {
		t.Errorf("a file that was taken elsewhere: %v", err)
	}
	if _, _, _, err := b.PartFile(t.Context(), p.ID); err == nil || !strings.Contains(err.Error(), "no longer in") {
		t.Errorf("a file that was taken elsewhere: %v", err)
	}
}

// TestAPartEndsWhereNothingIsUnderWay: an intent stays with its outcome.
func TestAPartEndsWhereNothingIsUnderWay(t *testing.T) {
	a := written(t, t.TempDir(), 3)
	add := func(what string, intent int64) {
		t.Helper()
		if _, err := a.Append(t.Context(), audit.Record{At: 1, What: what, Intent: intent, Key: fmt.Sprint(what, a.seq)}); err != nil {
			t.Fatal(err)
		}
	}
	add(audit.Intent, 0)  // 4
	add(audit.Intent, 0)  // 5
	add(audit.Outcome, 4) // 6: 5 is under way still, and 4 has its outcome after it
	p, err := a.endPart(t, time.Now())
	if err != nil || p.Last != 3 {
		t.Errorf("closed up to %d, %v; want 3", p.Last, err)
	}
	if _, err := a.endPart(t, time.Now().Add(2*time.Second)); !errors.Is(err, ErrNotFound) {
		t.Errorf("closed again with nothing settled: %v", err)
	}
	add(audit.Outcome, 5)
	if p, err = a.endPart(t, time.Now().Add(4*time.Second)); err != nil || p.First != 4 || p.Last != 8 {
		t.Errorf("%+v %v", p, err)
	}
}

// TestClosingThatFails leaves the trail as it was: the file cannot be written, or another
// one is under way.
func TestClosingThatFails(t *testing.T) {
	dir := t.TempDir()
	a := written(t, dir, 5)
	full := errors.New("no room")
	failing := func(w io.Writer, each func(func(*audit.Record) error) error) error {
		return errors.Join(each(func(*audit.Record) error { return full }))
	}
	if _, err := a.ClosePart(t.Context(), time.Now(), "x", audit.Record{What: audit.TrailEnd}, failing); !errors.Is(err, full) {
		t.Errorf("%v", err)
	}
	if left, _ := os.ReadDir(filepath.Join(dir, archiveDir)); len(left) != 0 {
		t.Errorf("left: %v", left)
	}
	if n, err := a.Verify(context.Background(), &audit.Verifier{}); n != 5 || err != nil {
		t.Errorf("%d %v", n, err)
	}
	var wait sync.WaitGroup
	var mu sync.Mutex
	closed := 0
	for range 8 {
		wait.Go(func() {
			if _, err := a.endPart(t, time.Now()); err == nil {
				mu.Lock()
				closed++
				mu.Unlock()
			}
		})
	}
	wait.Wait()
	if n, err := a.Verify(context.Background(), &audit.Verifier{}); closed == 0 || err != nil {
		t.Errorf("closed %d times at once; %d records, %v", closed, n, err)
	}
}
