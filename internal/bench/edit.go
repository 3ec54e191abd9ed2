package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"sort"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/host"
)

// edits measures one edit among 50,000 tags, from the call until the draft's
// engine shows it, storing it on disk included.
func edits() ([]Figure, error) {
	h, done, err := openHost()
	if err != nil {
		return nil, err
	}
	defer done()
	content, err := large(largeTags, false)
	if err != nil {
		return nil, err
	}
	ctx := context.Background()
	who := host.Actor{ID: "bench", Name: "Bench", Owner: true}
	p, err := h.CreateProject(ctx, who, "bench", content)
	if err != nil {
		return nil, err
	}
	measure := func(op func(i int) project.Op) (time.Duration, error) {
		var all []time.Duration
		for i := range 15 {
			start := time.Now()
			if _, err := p.Edit(ctx, who, "bench", []project.Op{op(i)}); err != nil {
				return 0, err
			}
			p.ReadTags(host.Draft, []string{"t5"})
			all = append(all, time.Since(start))
		}
		sort.Slice(all, func(i, j int) bool { return all[i] < all[j] })
		return all[len(all)/2], nil
	}
	tag := func(path string, v func(i int) any) func(i int) project.Op {
		return func(i int) project.Op {
			doc, _ := json.Marshal(v(i))
			return project.Op{Kind: project.KindTag, ID: "t5", Path: path, Value: doc}
		}
	}
	var out []Figure
	for _, c := range []struct {
		name string
		op   func(i int) project.Op
	}{
		{"edit/unit", tag("/unit", func(i int) any { return fmt.Sprintf("u%d", i) })},
		{"edit/rename", tag("/name", func(i int) any { return fmt.Sprintf("Renamed%d", i) })},
		{"edit/scaling", tag("/scale/engHigh", func(i int) any { return 100 + i })},
	} {
		d, err := measure(c.op)
		if err != nil {
			return nil, err
		}
		out = append(out, below(c.name, "ms", float64(d.Microseconds())/1000, 100))
	}
	return out, nil
}
