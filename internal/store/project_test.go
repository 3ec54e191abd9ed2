package store

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"testing"

	"readyrail/internal/core/project"
)

// TestTheDraftComesInBatches writes things of very different sizes and reads
// them in batches: each comes once and whole, also after the next ones came.
func TestTheDraftComesInBatches(t *testing.T) {
	p, err := OpenProject(t.TempDir(), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer p.Close()
	if err := p.Each(ctx, func([]project.Entity) { t.Error("an empty draft has things") }); !errors.Is(err, ErrNotFound) {
		t.Errorf("an empty draft: %v", err)
	}
	want := map[string]json.RawMessage{}
	var list []project.Entity
	for i := range 2*batch + 3 {
		size := i % 700
		if i == batch {
			size = 3 * batchBytes
		}
		e := project.Entity{Kind: project.KindTag, ID: fmt.Sprint("t", i), Doc: fmt.Appendf(nil, `{"name":"T%d","description":%q}`, i,
			bytes.Repeat([]byte{'a' + byte(i%26)}, size))}
		list = append(list, e)
		want[e.ID] = e.Doc
	}
	if err := p.Init(ctx, list); err != nil {
		t.Fatal(err)
	}
	var got []project.Entity
	sizes := []int{}
	err = p.Each(ctx, func(part []project.Entity) {
		got = append(got, part...)
		sizes = append(sizes, len(part))
	})
	if err != nil || len(got) != len(list) || len(sizes) != 3 || sizes[0] != batch {
		t.Fatalf("%d things in parts of %v: %v", len(got), sizes, err)
	}
	for _, e := range got {
		if !bytes.Equal(e.Doc, want[e.ID]) {
			t.Fatalf("%s came as %.60s…", e.ID, e.Doc)
		}
		delete(want, e.ID)
	}
	if len(want) > 0 {
		t.Errorf("%d things did not come", len(want))
	}
	if all, err := p.Load(ctx); err != nil || len(all) != len(list) {
		t.Errorf("at once there are %d: %v", len(all), err)
	}
}
