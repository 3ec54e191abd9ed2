package host

import (
	"context"

	"readyrail/internal/core/project"
)

// VersionDifference is a thing that differs between two versions, with the stop at which
// it is built and who edited it between them, the latest last.
type VersionDifference struct {
	project.Difference
	Stop project.Stop `json:"stop"`
	By   []string     `json:"by" doc:"full names; none where the later version is the earlier one"`
}

// Differences tells what differs between two versions of a project: the draft, or a
// release by its number.
func (p *Project) Differences(ctx context.Context, before, after string) ([]VersionDifference, error) {
	then, from, err := p.Edits.Version(ctx, before)
	if err != nil {
		return nil, err
	}
	now, upTo, err := p.Edits.Version(ctx, after)
	if err != nil {
		return nil, err
	}
	by, err := p.Edits.EditedBy(ctx, from, upTo)
	if err != nil {
		return nil, err
	}
	names, err := p.host.fullNames(ctx)
	if err != nil {
		return nil, err
	}
	list := project.Differences(then, now)
	out := make([]VersionDifference, len(list))
	for i, d := range list {
		out[i] = VersionDifference{Difference: d, Stop: project.StopOf(d.Kind), By: []string{}}
		for _, id := range by[project.Thing{Kind: d.Kind, ID: d.ID}] {
			name := names[id]
			if name == "" {
				name = id
			}
			out[i].By = append(out[i].By, name)
		}
	}
	return out, nil
}

// fullNames are the names of everybody who has an account, by id.
func (h *Host) fullNames(ctx context.Context) (map[string]string, error) {
	people, err := h.server.People(ctx)
	if err != nil {
		return nil, err
	}
	out := make(map[string]string, len(people))
	for _, x := range people {
		out[x.ID] = x.FullName
	}
	return out, nil
}
