package host

import (
	"context"
	"slices"
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

// HoldOrder is at what a tag is to be held and for how long, and what is answered
// to what that asks.
type HoldOrder struct {
	Value    string `json:"value" maxLength:"300"`
	Minutes  int    `json:"minutes" minimum:"1" maximum:"10080"`
	Language string `json:"language,omitempty" maxLength:"12" doc:"of what is asked; empty for the project's first"`
	Given
}

// HoldTag holds a tag at a value, with a reason and an end. Where something is
// asked that the order doesn't answer nothing is held, and the error is an *Asks.
func (p *Project) HoldTag(ctx context.Context, who Actor, id string, order HoldOrder) error {
	t, path, err := p.heldTag(ctx, who, id)
	if err != nil {
		return err
	}
	if err := p.controls(who, p.Draft().AreaOf(t)); err != nil {
		return err
	}
	v, err := t.ParseEntry(order.Value)
	if err != nil {
		return refused("%v", err)
	}
	reason, err := tidyReason(order.Reason)
	if err != nil {
		return err
	}
	long := time.Duration(order.Minutes) * time.Minute
	if long < time.Minute || long > MaxHold {
		return refused("a tag is held for one minute to %d days", int(MaxHold.Hours()/24))
	}
	signed, err := p.askedToHold(ctx, who, t, path, order)
	if err != nil {
		return err
	}
	p.holding.Lock()
	defer p.holding.Unlock()
	now := time.Now()
	o := store.Override{Tag: id, Value: v.Text(), Person: who.ID, Name: who.Name, Reason: reason, At: now.UnixNano(),
		Until: now.Add(long).UnixNano()}
	before := p.ReadTags(run.Draft, []string{id})[0].Value
	if err := p.recordHold(ctx, who, audit.Held, t, path, shownValue(t, before), t.Show(v, true),
		reason+", until "+now.Add(long).Format("2006-01-02 15:04"), signed); err != nil {
		return err
	}
	if err := p.runs.Hold(ctx, o, v); err != nil {
		return err
	}
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"override/" + id}})
	return nil
}

// askedToHold asks what the rules of the release ask, or of the draft where the
// tag is in no release.
func (p *Project) askedToHold(ctx context.Context, who Actor, t *tag.Tag, path string, order HoldOrder) (audit.Witness, error) {
	version := p.Released()
	if version == nil || version.Tags[t.ID] == nil {
		version = p.Draft()
	}
	asked := version.AskedAt(t, access.DoesHold, "", p.rolesOf(ctx, who, access.Override))
	sign := &undersigned{p, version, who, asked, order.Given, access.Override, []string{version.AreaOf(t)}, path}
	return sign.ask(ctx, order.Language)
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

func (p *Project) recordHold(ctx context.Context, who Actor, what string, t *tag.Tag, path, old, now, reason string,
	by audit.Witness) error {
	_, err := p.records.Trail.Append(context.WithoutCancel(ctx),
		audit.Record{At: time.Now().UnixNano(), What: what, Person: who.ID, Name: who.Name, Panel: who.Panel, Tag: t.ID, Path: path, Old: old,
			New: now, Reason: reason, Sign: by.Sign, Captured: by.Captured})
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
	if err := p.recordHold(ctx, who, audit.Given, t, path, o.Value, "", why, audit.Witness{}); err != nil {
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
