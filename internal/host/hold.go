package host

import (
	"context"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// Override is a tag that a person holds at a value. It lies over draft and
// release alike, by the tag's id.
type Override struct {
	Tag    string    `json:"tag"`
	Path   string    `json:"path"`
	Value  string    `json:"value"`
	Person string    `json:"person"`
	Reason string    `json:"reason"`
	At     time.Time `json:"at"`
	Until  time.Time `json:"until"`
}

// MaxHold is how long a tag may be held at most.
const MaxHold = 7 * 24 * time.Hour

// HoldTag holds a tag at a value, with a reason and an end.
func (p *Project) HoldTag(ctx context.Context, who Actor, id, text, reason string, long time.Duration) error {
	t, path, err := p.heldTag(ctx, who, id)
	if err != nil {
		return err
	}
	v, err := t.ParseEntry(text)
	if err != nil {
		return refused("%v", err)
	}
	reason = strings.TrimSpace(reason)
	switch {
	case reason == "" || len(reason) > 300:
		return refused("to hold a tag needs a reason, of at most 300 characters")
	case long < time.Minute || long > MaxHold:
		return refused("a tag is held for one minute to %d days", int(MaxHold.Hours()/24))
	}
	p.holding.Lock()
	defer p.holding.Unlock()
	now := time.Now()
	o := store.Override{Tag: id, Value: v.Text(), Person: who.ID, Name: who.Name, Reason: reason, At: now.UnixNano(),
		Until: now.Add(long).UnixNano()}
	before := p.ReadTags(run.Draft, []string{id})[0].Value
	if err := p.recordHold(ctx, who, audit.Held, t, path, shownValue(t, before), t.Show(v, true),
		reason+", until "+now.Add(long).Format("2006-01-02 15:04")); err != nil {
		return err
	}
	if err := p.runs.Hold(ctx, o, v); err != nil {
		return err
	}
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"override/" + id}})
	return nil
}

func (p *Project) heldTag(ctx context.Context, who Actor, id string) (*tag.Tag, string, error) {
	version := p.Draft()
	t, ok := version.Tag(id)
	if !ok {
		if version = p.Released(); version != nil {
			t, ok = version.Tag(id)
		}
	}
	if !ok {
		return nil, "", ErrNotFound
	}
	path, _ := version.Path(id)
	return t, path, p.Require(ctx, who, access.Override, version.AreaOf(t))
}

func (p *Project) recordHold(ctx context.Context, who Actor, what string, t *tag.Tag, path, old, now, reason string) error {
	_, err := p.records.Trail.Append(context.WithoutCancel(ctx),
		audit.Record{At: time.Now().UnixNano(), What: what, Person: who.ID, Name: who.Name, Panel: who.Panel, Tag: t.ID, Path: path, Old: old,
			New: now, Reason: reason})
	return err
}

// GiveBack lets a tag show its source's value again.
func (p *Project) GiveBack(ctx context.Context, who Actor, id, why string) error {
	t, path, err := p.heldTag(ctx, who, id)
	if err != nil {
		return err
	}
	p.holding.Lock()
	defer p.holding.Unlock()
	return p.endHold(ctx, who, t, path, why)
}

// endHold is called within a change of what is held.
func (p *Project) endHold(ctx context.Context, who Actor, t *tag.Tag, path, why string) error {
	o, held := p.runs.Override(t.ID)
	if !held {
		return refused("%s is not held", path)
	}
	if err := p.recordHold(ctx, who, audit.Given, t, path, o.Value, "", why); err != nil {
		return err
	}
	if err := p.runs.GiveBack(ctx, t.ID); err != nil {
		return err
	}
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"override/" + t.ID}})
	return nil
}

// Overrides lists what is held, oldest first.
func (p *Project) Overrides() []Override {
	out := []Override{}
	for _, o := range p.runs.Overrides() {
		path, ok := p.Draft().Path(o.Tag)
		if !ok && p.Released() != nil {
			path, _ = p.Released().Path(o.Tag)
		}
		out = append(out, Override{o.Tag, path, o.Value, o.Name, o.Reason, time.Unix(0, o.At), time.Unix(0, o.Until)})
	}
	slices.SortFunc(out, func(a, b Override) int { return a.At.Compare(b.At) })
	return out
}

// endOverdue gives back what was held until now.
func (p *Project) endOverdue(now time.Time) {
	p.holding.Lock()
	defer p.holding.Unlock()
	for _, o := range p.runs.Overrides() {
		if now.UnixNano() < o.Until {
			continue
		}
		id := o.Tag
		t, path := &tag.Tag{ID: id}, ""
		for _, version := range []*project.Project{p.Released(), p.Draft()} {
			if version == nil {
				continue
			}
			if found, ok := version.Tag(id); ok {
				t = found
				path, _ = version.Path(id)
			}
		}
		if err := p.endHold(context.Background(), Actor{Name: run.ServerName}, t, path, "its time was up"); err != nil {
			p.host.log.Error("a held tag was not given back", "path", path, "error", err)
		}
	}
}
