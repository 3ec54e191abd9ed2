package run

import (
	"context"
	"sync"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// layer is the running layer as it is in memory: what is neither draft nor
// release but lies over them, by the ids of things. It is on disk before it
// counts.
type layer struct {
	retaining sync.Mutex // over the storing of retained values, until the engine has them
	mu        sync.Mutex
	overrides map[string]store.Override
	retained  map[string]string
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
	return l.loadLimits(ctx, s)
}

func (l *layer) loadLimits(ctx context.Context, s *store.State) error {
	list, err := s.AlarmLimits(ctx)
	if err != nil {
		return err
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	l.limits = map[string]store.AlarmLimit{}
	for _, x := range list {
		l.limits[x.Alarm] = x
	}
	return nil
}

// limitTexts are the changed limits as a project takes them.
func (l *layer) limitTexts() map[string]string {
	l.mu.Lock()
	defer l.mu.Unlock()
	out := make(map[string]string, len(l.limits))
	for id, x := range l.limits {
		out[id] = x.Value
	}
	return out
}

// Limits lists the limits that were changed at the Desk, by the alarms' ids.
func (r *Runs) Limits() []store.AlarmLimit {
	r.layer.mu.Lock()
	defer r.layer.mu.Unlock()
	out := make([]store.AlarmLimit, 0, len(r.layer.limits))
	for _, id := range project.SortedKeys(r.layer.limits) {
		out = append(out, r.layer.limits[id])
	}
	return out
}

// PutLimit lays a limit over the release, and runs the release with it.
func (r *Runs) PutLimit(ctx context.Context, x store.AlarmLimit) error {
	err := r.state.PutAlarmLimit(ctx, x)
	if err == nil {
		err = r.layer.loadLimits(ctx, r.state)
	}
	if err == nil {
		r.overlay()
	}
	return err
}

// DropLimits takes limits away that no longer lie over the release; the next
// version that runs is without them.
func (r *Runs) DropLimits(ctx context.Context, alarms []string) error {
	if len(alarms) == 0 {
		return nil
	}
	if err := r.state.DropAlarmLimits(ctx, alarms); err != nil {
		return err
	}
	return r.layer.loadLimits(ctx, r.state)
}

// GiveLimitBack drops one limit, and runs the release with what it says itself.
func (r *Runs) GiveLimitBack(ctx context.Context, alarm string) error {
	err := r.DropLimits(ctx, []string{alarm})
	if err == nil {
		r.overlay()
	}
	return err
}

// Overrides lists the tags that are held at a value.
func (r *Runs) Overrides() []store.Override {
	r.layer.mu.Lock()
	defer r.layer.mu.Unlock()
	out := make([]store.Override, 0, len(r.layer.overrides))
	for _, o := range r.layer.overrides {
		out = append(out, o)
	}
	return out
}

// Override tells how a tag is held.
func (r *Runs) Override(id string) (o store.Override, held bool) {
	r.layer.mu.Lock()
	defer r.layer.mu.Unlock()
	o, held = r.layer.overrides[id]
	return o, held
}

// Hold holds a tag at a value, in draft and release.
func (r *Runs) Hold(ctx context.Context, o store.Override, v value.Value) error {
	if err := r.state.PutOverride(ctx, o); err != nil {
		return err
	}
	r.layer.mu.Lock()
	r.layer.overrides[o.Tag] = o
	r.layer.mu.Unlock()
	r.eachEngine(func(e *engine.Engine) { e.Hold(o.Tag, v, time.Unix(0, o.At)) })
	return nil
}

// GiveBack lets a tag show its source's value again.
func (r *Runs) GiveBack(ctx context.Context, id string) error {
	if err := r.state.DropOverride(ctx, id); err != nil {
		return err
	}
	r.layer.mu.Lock()
	delete(r.layer.overrides, id)
	r.layer.mu.Unlock()
	r.eachEngine(func(e *engine.Engine) { e.GiveBack(id, time.Now()) })
	return nil
}

// restore brings what outlives a restart into an engine that starts. Try starts
// as new: it holds nothing and keeps nothing.
func (r *Runs) restore(e *engine.Engine, version *project.Project, name Program) {
	if name == Try {
		return
	}
	r.layer.mu.Lock()
	defer r.layer.mu.Unlock()
	now := time.Now()
	for id, text := range r.layer.retained {
		if t, ok := version.Tag(id); ok && t.Retain && t.Source == tag.Internal {
			if v, err := value.Parse(t.EngineeringType(), text); err == nil {
				e.SetInternal(id, v, now)
			}
		}
	}
	for id, o := range r.layer.overrides {
		if t, ok := version.Tag(id); ok {
			if v, err := value.Parse(t.EngineeringType(), o.Value); err == nil {
				e.Hold(id, v, now)
			}
		}
	}
}

// keeper is the program whose internal tags are kept over a restart: the
// release once there is one.
func (r *Runs) keeper() Program {
	if r.Version(Release) == nil {
		return Draft
	}
	return Release
}

// keepRetained stores the values of retained tags that changed by themselves;
// those that somebody entered are kept as they are written.
func (r *Runs) keepRetained() {
	runner := r.Runner(r.keeper())
	if runner == nil {
		return
	}
	r.layer.retaining.Lock()
	defer r.layer.retaining.Unlock()
	var now map[string]value.Value
	if !runner.Do(func(e *engine.Engine) { now = e.Retained() }) {
		return
	}
	texts := make(map[string]string, len(now))
	for id, v := range now {
		texts[id] = v.Text()
	}
	if err := r.retain(context.Background(), texts); err != nil {
		r.o.Log.Error("retained values were not kept", "project", r.o.ID, "error", err)
	}
}

// retain stores values of retained tags, as far as they differ from what is
// stored. It returns once they are on disk. The caller has the lock of
// retaining, until the engine has the values too.
func (r *Runs) retain(ctx context.Context, texts map[string]string) error {
	changed := map[string]string{}
	r.layer.mu.Lock()
	for id, text := range texts {
		if r.layer.retained[id] != text {
			changed[id] = text
		}
	}
	r.layer.mu.Unlock()
	if len(changed) == 0 {
		return nil
	}
	if err := r.state.PutRetained(context.WithoutCancel(ctx), changed); err != nil {
		return err
	}
	r.layer.mu.Lock()
	defer r.layer.mu.Unlock()
	for id, text := range changed {
		r.layer.retained[id] = text
	}
	return nil
}
