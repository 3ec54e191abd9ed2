package store

import (
	"testing"

	"readyrail/internal/core/audit"
)

// A server that is killed before it has sealed the end of a new trail has taken
// nothing out of it.
func TestANewTrailIsWholeAfterAKill(t *testing.T) {
	t.Parallel()
	dir, key := t.TempDir(), []byte("key")
	killed, err := OpenAudit(dir, audit.Ring{key}, nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { killed.db.Close() })
	for range 3 {
		if _, err := killed.Append(ctx, audit.Record{What: audit.Event}); err != nil {
			t.Fatal(err)
		}
	}
	a, err := OpenAudit(dir, audit.Ring{key}, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	if n, err := a.Verify(ctx, &audit.Verifier{}); err != nil || n != 3 {
		t.Errorf("%d records, %v; want 3 and a whole trail", n, err)
	}
}
