package host

import (
	"context"
	"encoding/json"
	"reflect"
	"slices"
	"sync"

	"readyrail/internal/core/access"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/run"
)

// What a command rests on, as the door asks it.

// deskGuard stands before an element of a screen, of the release or of the
// draft that is tried.
type deskGuard struct {
	p   *Project
	who Actor
	c   Command

	mu sync.Mutex
	t  *target
}

func (g *deskGuard) target() *target {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.t
}

// Current refuses once another version runs in which the element is not what
// it was. One that is the same there goes on under the new version.
func (g *deskGuard) Current() error {
	g.mu.Lock()
	defer g.mu.Unlock()
	now := g.p.runs.Version(g.t.program)
	if now == g.t.release {
		return nil
	}
	t, err := g.p.target(g.c)
	if err != nil {
		return err
	}
	for _, s := range t.steps() {
		if s.number == g.t.number {
			t = s
		}
	}
	if !t.like(g.t) {
		return refused("a new release changed what this does: look again")
	}
	g.t = t
	return nil
}

func (g *deskGuard) Right(ctx context.Context) error {
	t := g.target()
	if t.program == run.Try {
		return g.p.Require(ctx, g.who, access.Engineer, "")
	}
	if err := g.p.MayOpen(ctx, g.who, t.screen, g.c.Args); err != nil {
		return err
	}
	if err := g.p.Require(ctx, g.who, access.Operate, t.area); err != nil {
		return err
	}
	if err := g.p.operates(ctx, g.who, t); err != nil || t.element.Flag("stop") {
		return err
	}
	return g.p.controls(g.who, t.area)
}

// operates refuses somebody who has, where the target acts, none of the roles that a
// screen or an element around it, or the element itself, names for operating.
func (p *Project) operates(ctx context.Context, who Actor, t *target) error {
	if len(t.operators) == 0 || who.Owner {
		return nil
	}
	has := p.rolesOf(ctx, who, access.Operate)(t.area)
	for _, roles := range t.operators {
		if slices.ContainsFunc(roles, func(role string) bool { return slices.Contains(has, role) }) {
			continue
		}
		return &access.Denied{Right: access.Operate, Area: t.name, Roles: t.release.RoleNames(roles)}
	}
	return nil
}

// Interlock refuses while the element's enabled binding is not true, and while
// what excludes it is on. A bad value holds it.
func (g *deskGuard) Interlock() error {
	t := g.target()
	if on, ok := t.element.Props["enabled"].(bool); ok && !on {
		return refused("%s is switched off on this screen", t.name)
	}
	if stored := t.element.Bind["enabled"]; stored != "" {
		result := g.p.evaluate(t, stored)
		text := formula.Show(stored, t.release.Path)
		switch {
		case result.Quality.IsBad():
			return refused("the interlock %s holds: %s", text, result.Quality.Reason())
		case !result.Bool():
			return refused("the interlock holds: %s is not true", text)
		}
	}
	for _, id := range t.excludes() {
		if v := g.p.ReadTags(t.program, []string{id})[0].Value; !v.Quality.IsBad() && v.Kind == value.BOOL && v.Bool() {
			path, _ := t.release.Path(id)
			return refused("the interlock holds: %s is on, which excludes this", path)
		}
	}
	return nil
}

// like tells whether a target does the same as one of another version.
func (t *target) like(o *target) bool {
	if (t.tag == nil) != (o.tag == nil) || t.action != o.action || t.when != o.when {
		return false
	}
	if t.tag != nil {
		a, _ := json.Marshal([]any{t.tag, t.release.Devices[t.tag.Device]})
		b, _ := json.Marshal([]any{o.tag, o.release.Devices[o.tag.Device]})
		if string(a) != string(b) {
			return false
		}
	}
	return reflect.DeepEqual(t.element.Props, o.element.Props) && t.element.Bind["enabled"] == o.element.Bind["enabled"]
}

// evaluate computes a stored formula with the values of the target's program.
func (p *Project) evaluate(t *target, stored string) value.Value {
	result, err := p.runs.Evaluate(t.program, t.release, stored)
	if err != nil {
		return value.Bad(value.BOOL, value.BadConfig)
	}
	return result
}

// turnGuard stands before a test value from the draft: the commissioning turn
// of the person, naming the tag's device.
type turnGuard struct {
	p    *Project
	who  Actor
	tag  *tag.Tag
	path string
}

func (g turnGuard) Current() error {
	if now, ok := g.p.Draft().Tag(g.tag.ID); !ok || !reflect.DeepEqual(now, g.tag) {
		return refused("%s has changed meanwhile: look again", g.path)
	}
	return nil
}

func (g turnGuard) Right(ctx context.Context) error {
	if err := g.p.Require(ctx, g.who, access.Commission, ""); err != nil {
		return err
	}
	return g.p.controls(g.who, g.p.Draft().AreaOf(g.tag))
}

func (g turnGuard) Interlock() error {
	turn := g.p.Turn(g.who)
	switch {
	case turn == nil || !turn.Mine:
		return refused("a write from the draft needs the commissioning turn: take it first")
	case g.tag.Source == tag.Device && !slices.Contains(turn.Devices, g.tag.Device):
		return refused("the turn does not name the device of %s", g.path)
	}
	return nil
}
