package host

import (
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/store"
)

// Trail returns a page of the audit trail, newest first, and where it goes on.
func (p *Project) Trail(ctx context.Context, f store.TrailFilter, limit int) ([]audit.Record, int64, error) {
	return p.records.Trail.List(ctx, f, limit)
}

// TrailPlace is an area, with all that lie in it, as the trail knows it: by the tags that
// are in it in the draft or at the Desk, and by the names of areas, equipment and books.
func (p *Project) TrailPlace(area string) (*store.TrailPlace, error) {
	tags, names := map[string]bool{}, map[string]bool{}
	known := false
	for _, version := range []*project.Project{p.Draft(), p.Released()} {
		if version == nil || !version.HasArea(area) {
			continue
		}
		known = true
		version.Within(area, tags, names)
	}
	if !known {
		return nil, refused("there is no area %s", area)
	}
	return &store.TrailPlace{Tags: slices.Collect(maps.Keys(tags)), Names: slices.Collect(maps.Keys(names))}, nil
}

// EachRecord hands over what a filter takes of the trail as it is shown, newest
// first, in short reads.
func (p *Project) EachRecord(ctx context.Context, f store.TrailFilter, do func(audit.Record) error) error {
	const page = 1000
	for {
		list, next, err := p.records.Trail.List(ctx, f, page)
		if err != nil {
			return err
		}
		for _, r := range list {
			if err := do(r); err != nil {
				return err
			}
		}
		if f.Before = next; next == 0 {
			return nil
		}
	}
}

// CommentsOn lists what was said of a record of the trail, oldest first.
func (p *Project) CommentsOn(ctx context.Context, seq int64) ([]audit.Record, error) {
	return p.records.Trail.CommentsOn(ctx, seq)
}

// CommentOn says something of a record of the trail. It is a record of its own:
// neither is ever changed.
func (p *Project) CommentOn(ctx context.Context, who Actor, seq int64, text string) error {
	text = strings.TrimSpace(text)
	if text == "" {
		return refused("a comment needs a text")
	}
	switch has, err := p.records.Trail.Has(ctx, seq); {
	case err != nil:
		return err
	case !has:
		return ErrNotFound
	}
	_, err := p.records.Trail.Append(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Comment, Person: who.ID, Name: who.Name,
		Panel: who.Panel, Intent: seq, Reason: text})
	return err
}
