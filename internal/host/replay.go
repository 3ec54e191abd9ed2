package host

import (
	"context"
	"encoding/json"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/value"
	"readyrail/internal/run"
)

// ReplayFrame is a screen as it stood at a recorded moment, as live frames are:
// drawn as the screen is now, with the values of then.
type ReplayFrame struct {
	At     int64             `json:"t" doc:"milliseconds since 1970"`
	Scene  *screen.Scene     `json:"scene,omitempty" doc:"left out where it is not asked for"`
	Values []json.RawMessage `json:"v" doc:"of each binding its number, its value, and the code of its quality where it is not good"`
}

// Replayed is a screen that is played through recorded time, as it is now.
type Replayed struct {
	Screen string
	View   screen.View
	Draft  bool // of the draft, not of the release
}

// replayed is a screen that somebody may look at, expanded.
func (p *Project) replayed(ctx context.Context, who Actor, r Replayed) (*project.Project, *screen.Bound, error) {
	if r.Draft {
		if err := p.MayLookAtDraft(ctx, who); err != nil {
			return nil, nil, err
		}
	}
	version, view := p.version(!r.Draft), r.View
	if version == nil || version.Screens[r.Screen] == nil {
		return nil, nil, ErrNotFound
	}
	s := version.Screens[r.Screen]
	if err := p.MayOpen(ctx, who, s, view.Args); err != nil && !r.Draft {
		return nil, nil, err
	}
	if err := run.ArgsFit(version, s, view.Args); err != nil {
		return nil, nil, err
	}
	if all := version.Site().Languages; len(all) > 0 && view.Language == all[0] {
		view.Language = ""
	}
	return version, screen.Bind(s, version, view), nil
}

// Replay gives a screen as it stood at a recorded moment. Nothing of it can be
// operated: the values alone are of then.
func (p *Project) Replay(ctx context.Context, who Actor, r Replayed, at time.Time, scene bool) (*ReplayFrame, error) {
	version, bound, err := p.replayed(ctx, who, r)
	if err != nil {
		return nil, err
	}
	frame := formula.Frame{Slots: make([]value.Value, len(bound.Inputs))}
	for i, input := range bound.Inputs {
		if t, ok := version.Tag(input); ok {
			frame.Slots[i] = value.Bad(t.Kind(), value.BadWaiting)
		}
	}
	if err := p.records.Recorder.Moment(ctx, bound.Inputs, at.UnixNano(), frame.Slots); err != nil {
		return nil, err
	}
	out := &ReplayFrame{At: at.UnixMilli(), Values: make([]json.RawMessage, bound.Len())}
	if scene {
		out.Scene = &bound.Scene
	}
	for i := range bound.Len() {
		cell, q := bound.Append(nil, i, &frame)
		out.Values[i] = run.Cell(i, cell, q)
	}
	return out, nil
}

// ReplayStep is when something that a screen shows changed next after a recorded
// moment, or last before it; the moment itself where nothing did.
func (p *Project) ReplayStep(ctx context.Context, who Actor, r Replayed, at time.Time, forth bool) (time.Time, error) {
	_, bound, err := p.replayed(ctx, who, r)
	if err != nil {
		return at, err
	}
	when, ok, err := p.records.Recorder.Change(ctx, bound.Inputs, at.UnixNano(), forth)
	if err != nil || !ok {
		return at, err
	}
	return time.Unix(0, when), nil
}
