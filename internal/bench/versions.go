package bench

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/host"
)

// Limits, in milliseconds.
const (
	differWithin  = 500
	takeWithin    = 2000
	exportWithin  = 2000
	importWithin  = 4000
	releaseWithin = 500
)

// versions measures what differs between two versions of a project of 50,000 tags and 200
// screens, taking all of it back, and the project out as an archive and in again.
func versions() ([]Figure, error) {
	before, err := large(largeTags, false)
	if err == nil {
		before, err = withScreens(before)
	}
	if err != nil {
		return nil, err
	}
	var ops []project.Op
	for i, id := range project.SortedKeys(before.Tags) {
		if i%10 == 0 {
			ops = append(ops, project.Op{Kind: project.KindTag, ID: id, Path: "/description", Value: json.RawMessage(`"looked at again"`)})
		}
	}
	for i := range openScreens {
		ops = append(ops, project.Op{Kind: project.KindScreen, ID: fmt.Sprintf("s%d", i), Path: "/elements/e3/x", Value: json.RawMessage("7")})
	}
	after, _, err := before.Edit(ops)
	if err != nil {
		return nil, err
	}
	ms := func(from time.Time) float64 { return float64(time.Since(from).Microseconds()) / 1000 }
	from := time.Now()
	list := project.Differences(before, after)
	out := []Figure{below(fmt.Sprintf("versions/%d differences", len(list)), "ms", ms(from), differWithin)}
	things := make([]project.Thing, len(list))
	for i, d := range list {
		things[i] = project.Thing{Kind: d.Kind, ID: d.ID}
	}
	from = time.Now()
	if _, _, err := after.Take(before, things); err != nil {
		return nil, err
	}
	out = append(out, below("versions/all of it taken back", "ms", ms(from), takeWithin))
	from = time.Now()
	archive, _, err := exchange.WriteArchive(exchange.Content{Things: after.Entities()})
	if err != nil {
		return nil, err
	}
	out = append(out, below("versions/export", "ms", ms(from), exportWithin))
	from = time.Now()
	content, err := exchange.ReadArchive(archive)
	if err == nil {
		_, err = project.Load(content.Things)
	}
	if err != nil {
		return nil, err
	}
	out = append(out, below("versions/import", "ms", ms(from), importWithin))
	took, err := released(after)
	return append(out, below("versions/release of one change, answered", "ms", took, releaseWithin)), err
}

// released tells how long a release of one change in a project takes.
func released(content *project.Project) (ms float64, err error) {
	h, done, err := openHost()
	if err != nil {
		return 0, err
	}
	defer done()
	ctx, who := context.Background(), host.Actor{ID: "bench", Name: "Bench", Owner: true, Server: true}
	p, err := h.CreateProject(ctx, who, "bench", content)
	if err != nil {
		return 0, err
	}
	if _, err := p.Publish(ctx, who, host.ReleaseOrder{}); err != nil {
		return 0, err
	}
	id := project.SortedKeys(content.Tags)[0]
	return median(func() error {
		op := project.Op{Kind: project.KindTag, ID: id, Path: "/description", Value: json.RawMessage(`"` + rand.Text() + `"`)}
		if _, err := p.Edit(ctx, who, "one", []project.Op{op}); err != nil {
			return err
		}
		_, err := p.Publish(ctx, who, host.ReleaseOrder{})
		return err
	})
}
