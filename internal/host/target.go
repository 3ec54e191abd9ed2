package host

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/run"
)

// Command is what a person did to an element of a released screen.
type Command struct {
	Program run.Program // Release where it is empty
	Screen  string
	Args    screen.Args // what the screen's parameters stand for
	Element string      // id in the scene, with those of what it lies in
	// Value is what was entered; for a toggle the value it means. A button that
	// sets takes its value from the release.
	Value string
	Seen  string // what the element showed when the person acted
	Key   string // made by the client; the same key is taken once
	Given
	Language string    // of what is asked; empty for the project's first
	At       time.Time // when the person acted, in the server's time
}

// target is a command's element and tag, found in the running release.
type target struct {
	program run.Program
	release *project.Project
	screen  *screen.Screen
	element *screen.Element
	action  string // of a button; empty for other elements
	when    string // stored condition of a further step
	number  int    // of a further step; 0 for the element's own
	name    string // "Chamber 1 › Dry bulb set point"
	tag     *tag.Tag
	path    string
	area    string
	// operators are the roles that may operate it, one of each list.
	operators [][]string
}

// target finds what a command is about. The screen is expanded as the person
// sees it, so that an element within a symbol is known with its own tag.
func (p *Project) target(c Command) (*target, error) {
	program := c.Program
	if program == "" {
		program = run.Release
	}
	release := p.runs.Version(program)
	if release == nil {
		return nil, refused("nothing is released yet")
	}
	changed := refused("this screen has changed with a new release: open it again")
	s := release.Screens[c.Screen]
	if s == nil {
		return nil, changed
	}
	if err := run.ArgsFit(release, s, c.Args); err != nil {
		return nil, err
	}
	control, ok := p.runs.Controls(program, release, s, c.Args)[c.Element]
	if !ok {
		return nil, changed
	}
	t := &target{program: program, release: release, screen: s, element: control.Element, name: control.Name,
		area: cmp.Or(control.Area, areaOf(release, s, c.Args)), action: control.Element.Action(), operators: control.Operators}
	t.find()
	return t, nil
}

// find finds the tag of what the target writes.
func (t *target) find() {
	own, ok := t.release.Tag(t.element.MainTag())
	if !ok || !t.element.Writes() {
		return
	}
	t.tag = t.element.Effective(own)
	t.path, _ = t.release.Path(own.ID)
	if area := t.release.AreaOf(own); area != "" {
		t.area = area
	}
}

// steps are what an element does beyond the panel it is shown at, in order: its
// own action where it writes or records, and the further ones of a button.
func (t *target) steps() []*target {
	var out []*target
	if screen.ActionServed(t.action) || t.element.Writes() {
		out = append(out, t)
	}
	for i, a := range t.element.Then {
		if screen.ActionServed(a.Do) {
			out = append(out, t.further(i+1, a))
		}
	}
	return out
}

// areas are those that the steps act in, each once.
func (t *target) areas() []string {
	var out []string
	for _, s := range t.steps() {
		if !slices.Contains(out, s.area) {
			out = append(out, s.area)
		}
	}
	return out
}

// further is the nth further step of a button as a target of its own. It asks
// nothing: what the button asks stands for all its steps.
func (t *target) further(n int, a screen.Action) *target {
	e := *t.element
	e.Props = map[string]any{"action": a.Do, "tag": a.Tag, "value": a.Value, "by": a.By, "event": a.Text, "log": a.Log, "logDoes": a.LogDoes,
		"mark": a.Text, "stop": t.element.Flag("stop")}
	if on, ok := t.element.Props["enabled"]; ok {
		e.Props["enabled"] = on
	}
	e.Then = nil
	s := &target{program: t.program, release: t.release, screen: t.screen, element: &e, name: t.name, area: t.area,
		operators: t.operators, action: a.Do, when: a.When, number: n}
	s.find()
	return s
}

// excludes are the ids of the tags that may not be on at the same time.
func (t *target) excludes() []string {
	if id := t.element.Text("excludes"); id != "" && (t.action == screen.ActionHold || t.action == screen.ActionPulse) {
		return []string{t.release.Real(id)}
	}
	return nil
}

// screenName names a screen in the trail, with the equipment it was opened for.
func (t *target) screenName(args screen.Args) string {
	name := t.screen.Name
	given := args.With(t.screen.Params)
	for _, param := range t.screen.Params {
		if id := given[param.ID]; id != "" && param.Kind == screen.ParamEquipment {
			name += " · " + t.release.FolderPath(t.release.Real(id))
		}
	}
	return name
}

// tidyReason trims a reason and bounds it.
func tidyReason(reason string) (string, error) {
	reason = strings.TrimSpace(reason)
	if len(reason) > 300 {
		return "", refused("a reason has at most 300 characters")
	}
	return reason, nil
}

// reads is a stored text with the values of this moment.
func (p *Project) reads(t *target, text string) string {
	parts, err := formula.ParseTemplate(text)
	if err != nil {
		return text
	}
	var b strings.Builder
	for _, part := range parts {
		if part.Formula == "" {
			b.WriteString(part.Text)
			continue
		}
		v := p.evaluate(t, part.Formula)
		if v.Quality.IsBad() {
			b.WriteString("—")
			continue
		}
		show := &tag.Tag{}
		if id, plain := formula.PlainReference(part.Formula); plain {
			if own, ok := t.release.Tag(id); ok {
				show = own
			}
		}
		b.Write(part.Format.Append(nil, v, show, time.Local))
	}
	return b.String()
}

// areaOf is the area that a screen belongs to: its own, or for a faceplate
// without one that of the equipment that it was opened for.
func areaOf(version *project.Project, s *screen.Screen, args screen.Args) string {
	if s.Area != "" || s.Role != screen.Faceplate {
		return s.Area
	}
	given := args.With(s.Params)
	for _, param := range s.Params {
		if id := given[param.ID]; id != "" && param.Kind == screen.ParamEquipment {
			return version.AreaOf(&tag.Tag{Folder: version.Real(id)})
		}
	}
	return ""
}

// MayOpen refuses a screen of the release that a person may not open with what
// is given for its parameters: by its area, and by the roles that it names.
func (p *Project) MayOpen(ctx context.Context, who Actor, s *screen.Screen, args screen.Args) error {
	area := s.Area
	if release := p.Released(); release != nil {
		area = areaOf(release, s, args)
	}
	if err := p.Require(ctx, who, access.View, area); err != nil || len(s.Roles) == 0 || who.Owner {
		return err
	}
	grants, err := p.grantsFor(ctx, who)
	if err != nil {
		return err
	}
	for _, g := range grants {
		for _, role := range s.Roles {
			if g.Person == who.ID && g.Role == role {
				return nil
			}
		}
	}
	denied := &access.Denied{Right: access.View, Area: s.Name}
	if release := p.Released(); release != nil {
		denied.Roles = release.RoleNames(s.Roles)
	}
	return denied
}
