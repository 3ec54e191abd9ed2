package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"sort"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/run"
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
	measure := func(op func(i int) project.Op) (float64, error) {
		var all []time.Duration
		for i := range 15 {
			start := time.Now()
			if _, err := p.Edit(ctx, who, "bench", []project.Op{op(i)}); err != nil {
				return 0, err
			}
			p.ReadTags(run.Draft, []string{"t5"})
			all = append(all, time.Since(start))
		}
		return middle(all), nil
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
		out = append(out, below(c.name, "ms", d, 50))
	}
	moved, err := moves(ctx, p, who)
	return append(out, moved...), err
}

// manyElements lie on the screen whose elements are moved.
const manyElements = 1000

// moves measures moving elements of a large screen in one edit, and taking
// that back.
func moves(ctx context.Context, p *host.Project, who host.Actor) ([]Figure, error) {
	elements := map[string]any{}
	for i := range manyElements {
		elements[fmt.Sprintf("x%04d", i)] = map[string]any{
			"kind": "readout", "x": i % 25 * 50, "y": i / 25 * 16, "w": 46, "h": 14, "z": i,
			"props": map[string]any{"tag": fmt.Sprintf("t%d", i)},
		}
	}
	doc, err := json.Marshal(map[string]any{"name": "Moved", "width": 1280, "height": 676, "order": 99, "elements": elements})
	if err != nil {
		return nil, err
	}
	if _, err := p.Edit(ctx, who, "bench", []project.Op{{Kind: project.KindScreen, ID: "moved", Value: doc}}); err != nil {
		return nil, err
	}
	var out []Figure
	for _, count := range []int{50, manyElements} {
		var edits, undos []time.Duration
		for round := range 9 {
			var ops []project.Op
			for i := range count {
				id := fmt.Sprintf("/elements/x%04d", i)
				ops = append(ops, project.Op{Kind: project.KindScreen, ID: "moved", Path: id + "/x", Value: fmt.Appendf(nil, "%d", i+round)},
					project.Op{Kind: project.KindScreen, ID: "moved", Path: id + "/y", Value: fmt.Appendf(nil, "%d", i+round+1)})
			}
			start := time.Now()
			if _, err := p.Edit(ctx, who, "bench", ops); err != nil {
				return nil, err
			}
			edits = append(edits, time.Since(start))
			start = time.Now()
			if _, err := p.Undo(ctx, who); err != nil {
				return nil, err
			}
			undos = append(undos, time.Since(start))
		}
		name := fmt.Sprintf("edit/move-%d", count)
		out = append(out, below(name, "ms", middle(edits), 150), below(name+"-undo", "ms", middle(undos), 150))
	}
	return out, nil
}

// middle is the median in milliseconds.
func middle(all []time.Duration) float64 {
	sort.Slice(all, func(i, j int) bool { return all[i] < all[j] })
	return float64(all[len(all)/2].Microseconds()) / 1000
}
