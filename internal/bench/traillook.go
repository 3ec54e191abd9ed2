package bench

import (
	"context"
	"fmt"
	"path/filepath"
	"time"

	"readyrail/internal/host"
	"readyrail/internal/store"
)

const (
	verifiedAtLeast = 200_000 // records a second
	pageWithin      = 100     // ms
)

// lookThrough measures how fast a long trail is verified from outside, and how soon a
// page of it is there by filters that take all, few and none.
func lookThrough(ctx context.Context, dir string, p *host.Project) ([]Figure, error) {
	key, err := host.ReadPublicKeys(filepath.Join(dir, "audit.pub"))
	if err != nil {
		return nil, err
	}
	from := time.Now()
	state, err := host.VerifyFolder(ctx, dir, trailProject, key, "", nil)
	if err != nil {
		return nil, err
	}
	out := []Figure{above("trail/verified from outside", "records/s", float64(state.Records)/time.Since(from).Seconds(), verifiedAtLeast)}
	within := &store.TrailPlace{Names: []string{"Kiln 1"}}
	for i := range 50_000 {
		within.Tags = append(within.Tags, fmt.Sprintf("t-%012d", i))
	}
	for _, c := range []struct {
		name string
		f    store.TrailFilter
	}{
		{"the newest", store.TrailFilter{}},
		{"by kind and outcome", store.TrailFilter{Whats: []string{"intent"}, Outcomes: []string{"differs"}}},
		{"by a path that nothing has", store.TrailFilter{Path: "Nowhere.*"}},
		{"by a text that nothing has", store.TrailFilter{Text: "nothing has these words"}},
		{"of an area of 50,000 tags", store.TrailFilter{Within: within}},
		{"of one tag", store.TrailFilter{Tag: "jog"}},
		{"of a time long ago", store.TrailFilter{From: 1000, To: 2000}},
	} {
		took, err := median(func() error { _, _, err := p.Trail(ctx, c.f, 100); return err })
		if err != nil {
			return nil, err
		}
		out = append(out, below(fmt.Sprintf("trail/a page of %d records %s", state.Records, c.name), "ms", took, pageWithin))
	}
	return out, nil
}
