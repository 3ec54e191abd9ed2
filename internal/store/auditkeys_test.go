package store

import (
	"testing"
	"time"

	"readyrail/internal/core/audit"
)

// TestATrailGoesOver: with a newer key a trail goes on under that one, over starts, several
// changes at once, closed parts and a crash before the end was sealed.
func TestATrailGoesOver(t *testing.T) {
	dir := t.TempDir()
	ring := audit.Ring{[]byte("the first key")}
	proved := func(want int64) {
		t.Helper()
		if n, _, err := VerifyTrail(t.Context(), dir, ring, &audit.Verifier{}); n != want || err != nil {
			t.Errorf("%d records, %v; want %d", n, err, want)
		}
	}
	work := func(a *Audit, n int) {
		t.Helper()
		for range n {
			if _, err := a.Append(t.Context(), audit.Record{At: 1, What: audit.Event}); err != nil {
				t.Fatal(err)
			}
		}
	}
	reopened := func(keys ...string) *Audit {
		t.Helper()
		for _, k := range keys {
			ring = append(ring, []byte(k))
		}
		a, err := OpenAudit(dir, ring, nil)
		if err != nil {
			t.Fatal(err)
		}
		return a
	}
	shut := func(a *Audit) {
		t.Helper()
		if err := a.Close(); err != nil {
			t.Fatal(err)
		}
	}
	a := reopened()
	work(a, 2)
	shut(a)
	a = reopened("the second") // 3 is the change
	work(a, 1)
	shut(a)
	proved(4)
	a = reopened("the third", "the fourth") // 5 and 6
	work(a, 1)
	proved2 := func() {
		t.Helper()
		if n, err := a.Verify(t.Context(), &audit.Verifier{}); n != 7 || err != nil {
			t.Errorf("%d records, %v", n, err)
		}
	}
	proved2()
	shut(a)
	// Nothing more is due, and what came after the end that was sealed is known again.
	a = reopened()
	proved2()
	work(a, 1)
	if err := a.insert.Close(); err != nil { // killed before it sealed the end
		t.Fatal(err)
	}
	if err := a.db.Close(); err != nil {
		t.Fatal(err)
	}
	a = reopened()
	if n, err := a.Verify(t.Context(), &audit.Verifier{}); n != 8 || err != nil {
		t.Errorf("after a crash: %d records, %v", n, err)
	}
	if _, err := a.endPart(t, time.Now()); err != nil {
		t.Fatal(err)
	}
	shut(a)
	proved(2) // what came after the end that was sealed last stays, and the record of the closing
	a = reopened("the fifth")
	work(a, 1)
	shut(a)
	proved(4)
	if _, err := OpenAudit(t.TempDir(), ring, nil); err != nil {
		t.Errorf("an empty trail with many keys: %v", err)
	}
}

// TestAKeyThatIsMissing: a trail that was sealed with a key that is no longer there is
// called tampered with.
func TestAKeyThatIsMissing(t *testing.T) {
	dir := t.TempDir()
	a, err := OpenAudit(dir, audit.Ring{[]byte("the first key")}, nil)
	if err == nil {
		_, err = a.Append(t.Context(), audit.Record{At: 1, What: audit.Event})
	}
	if err != nil || a.Close() != nil {
		t.Fatal(err)
	}
	a, err = OpenAudit(dir, audit.Ring{[]byte("the second")}, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	if _, err := a.Verify(t.Context(), &audit.Verifier{}); err == nil {
		t.Error("a trail of another key is called whole")
	}
}
