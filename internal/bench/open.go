package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

const openScreens = 200

// withScreens adds screens of some elements each to a project.
func withScreens(p *project.Project) (*project.Project, error) {
	var ops []project.Op
	for s := range openScreens {
		elements := map[string]any{}
		for e := range 20 {
			elements[fmt.Sprintf("e%d", e)] = map[string]any{"kind": "readout", "x": 40 * (e % 5), "y": 40 * (e / 5), "w": 40, "h": 30, "z": e,
				"props": map[string]any{"tag": fmt.Sprintf("t%d", (s*20+e)*10)},
				"bind":  map[string]string{"visible": fmt.Sprintf("Unit%d.T%d > 1", (s*200)/100, s*200)}}
		}
		doc, err := json.Marshal(map[string]any{"name": fmt.Sprintf("S%d", s), "width": 1280, "height": 676, "order": s, "home": s == 0,
			"elements": elements})
		if err != nil {
			return nil, err
		}
		ops = append(ops, project.Op{Kind: project.KindScreen, ID: fmt.Sprintf("s%d", s), Value: doc})
	}
	p, _, err := p.Edit(ops)
	return p, err
}

// opens measures how long a project of 50,000 tags and 200 screens takes until
// it runs, against reading its rows and nothing else, and the full check.
func opens() ([]Figure, error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	content, err := large(largeTags, false)
	if err == nil {
		content, err = withScreens(content)
	}
	if err != nil {
		return nil, err
	}
	quiet := slog.New(slog.NewTextHandler(io.Discard, nil))
	ctx := context.Background()
	h, err := host.Open(dir, quiet, host.Options{})
	if err != nil {
		return nil, err
	}
	who := host.Actor{ID: "bench", Name: "Bench", Owner: true}
	if _, err := h.CreateProject(ctx, who, "bench", content); err != nil {
		h.Close()
		return nil, err
	}
	h.Close()
	best := func(f func() error) (time.Duration, error) {
		least := time.Hour
		for range 3 {
			start := time.Now()
			if err := f(); err != nil {
				return 0, err
			}
			least = min(least, time.Since(start))
		}
		return least, nil
	}
	rows, err := best(func() error { return readRows(ctx, filepath.Join(dir, "projects", "bench")) })
	if err != nil {
		return nil, err
	}
	var p *host.Project
	var running *host.Host
	open, err := best(func() error {
		if running != nil {
			running.Close()
		}
		if running, err = host.Open(dir, quiet, host.Options{}); err != nil {
			return err
		}
		if p, err = running.Project("bench"); err != nil {
			return err
		}
		if r := p.ReadTags(run.Draft, []string{"t5"}); !r[0].Known {
			return fmt.Errorf("the project does not run")
		}
		return nil
	})
	if running != nil {
		defer running.Close()
	}
	if err != nil {
		return nil, err
	}
	start := time.Now()
	n := len(p.Draft().Findings())
	check := time.Since(start)
	start = time.Now()
	p.Draft().Findings()
	again := time.Since(start)
	if n == 0 {
		return nil, fmt.Errorf("the check said nothing of a project whose device is switched off")
	}
	toMs := func(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }
	return []Figure{ratio("open/50,000 tags, 200 screens", "ms", toMs(open), toMs(rows), 3),
		below("open/full check", "ms", toMs(check), 3000), below("open/check of the same revision", "ms", toMs(again), 1)}, nil
}

// readRows reads the rows of the draft and does nothing with them.
func readRows(ctx context.Context, dir string) error {
	s, err := store.OpenProject(dir, nil)
	if err != nil {
		return err
	}
	defer s.Close()
	list, err := s.Load(ctx)
	if err == nil && len(list) < largeTags {
		err = fmt.Errorf("only %d rows", len(list))
	}
	return err
}
