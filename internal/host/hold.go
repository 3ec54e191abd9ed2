package host

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
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

// layer is the running layer as it is in memory.
type layer struct {
	changing  sync.Mutex // over a change from its check to its being kept
	retaining sync.Mutex // over the storing of retained values
	mu        sync.Mutex
	overrides map[string]store.Override
	retained  map[string]string
	turn      *store.Turn
	limits    map[string]store.AlarmLimit
}

func (l *layer) load(ctx context.Context, s *store.State) error {
	list, err := s.Overrides(ctx)
	if err != nil {
		return err
	}
	l.overrides = map[string]store.Override{}
	for _, o := range list {
		l.overrides[o.Tag] = o
	}
	if l.retained, err = s.Retained(ctx); err != nil {
		return err
	}
	if err := l.loadLimits(ctx, s); err != nil {
		return err
	}
	turn, err := s.Turn(ctx)
	if err == nil {
		l.turn = &turn
	} else if err != ErrNotFound {
		return err
	}
	return nil
}

// restore brings what outlives a restart into an engine that starts. Try starts
// as new: it holds nothing and keeps nothing.
func (p *Project) restore(e *engine.Engine, version *project.Project, name Program) {
	if name == Try {
		return
	}
	p.layer.mu.Lock()
	defer p.layer.mu.Unlock()
	now := time.Now()
	for id, text := range p.layer.retained {
		if t, ok := version.Tag(id); ok && t.Retain && t.Source == tag.Internal {
			if v, err := value.Parse(t.EngineeringType(), text); err == nil {
				e.SetInternal(id, v, now)
			}
		}
	}
	for id, o := range p.layer.overrides {
		if t, ok := version.Tag(id); ok {
			if v, err := value.Parse(t.EngineeringType(), o.Value); err == nil {
				e.Hold(id, v, now)
			}
		}
	}
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
	p.layer.changing.Lock()
	defer p.layer.changing.Unlock()
	now := time.Now()
	o := store.Override{Tag: id, Value: v.Text(), Person: who.ID, Name: who.Name, Reason: reason, At: now.UnixNano(),
		Until: now.Add(long).UnixNano()}
	before := p.ReadTags(Draft, []string{id})[0].Value
	if err := p.recordHold(ctx, who, audit.Held, t, path, shownValue(t, before), t.Show(v, true),
		reason+", until "+now.Add(long).Format("2006-01-02 15:04")); err != nil {
		return err
	}
	if err := p.state.PutOverride(ctx, o); err != nil {
		return err
	}
	p.layer.mu.Lock()
	p.layer.overrides[id] = o
	p.layer.mu.Unlock()
	p.eachEngine(func(e *engine.Engine) { e.Hold(id, v, now) })
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

// eachEngine runs f in the engines that the running layer lies over.
func (p *Project) eachEngine(f func(*engine.Engine)) {
	for _, name := range []Program{Draft, Release} {
		if r := p.running(name).runner.Load(); r != nil {
			r.Do(f)
		}
	}
}

// GiveBack lets a tag show its source's value again.
func (p *Project) GiveBack(ctx context.Context, who Actor, id, why string) error {
	t, path, err := p.heldTag(ctx, who, id)
	if err != nil {
		return err
	}
	p.layer.changing.Lock()
	defer p.layer.changing.Unlock()
	return p.endHold(ctx, who, t, path, why)
}

// endHold is called within a change of the layer.
func (p *Project) endHold(ctx context.Context, who Actor, t *tag.Tag, path, why string) error {
	p.layer.mu.Lock()
	o, held := p.layer.overrides[t.ID]
	p.layer.mu.Unlock()
	if !held {
		return refused("%s is not held", path)
	}
	if err := p.recordHold(ctx, who, audit.Given, t, path, o.Value, "", why); err != nil {
		return err
	}
	if err := p.state.DropOverride(ctx, t.ID); err != nil {
		return err
	}
	p.layer.mu.Lock()
	delete(p.layer.overrides, t.ID)
	p.layer.mu.Unlock()
	p.eachEngine(func(e *engine.Engine) { e.GiveBack(t.ID, time.Now()) })
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"override/" + t.ID}})
	return nil
}

// Overrides lists what is held, oldest first.
func (p *Project) Overrides() []Override {
	p.layer.mu.Lock()
	defer p.layer.mu.Unlock()
	out := []Override{}
	for _, o := range p.layer.overrides {
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
	p.layer.changing.Lock()
	defer p.layer.changing.Unlock()
	p.layer.mu.Lock()
	var due []string
	for id, o := range p.layer.overrides {
		if now.UnixNano() >= o.Until {
			due = append(due, id)
		}
	}
	p.layer.mu.Unlock()
	for _, id := range due {
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
		if err := p.endHold(context.Background(), Actor{Name: "Ready Rail"}, t, path, "its time was up"); err != nil {
			p.host.log.Error("a held tag was not given back", "path", path, "error", err)
		}
	}
}
