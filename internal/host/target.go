package host

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/store"
)

// Command is what a person did to an element of a released screen.
type Command struct {
	Program Program // Release where it is empty
	Screen  string
	Args    screen.Args // what the screen's parameters stand for
	Element string      // id in the scene, with those of what it lies in
	// Step is which of a button's steps is meant: 0 its first, n the nth that
	// follows.
	Step int
	// Value is what was entered; for a toggle the value it means. A button that
	// sets takes its value from the release.
	Value  string
	Seen   string // what the element showed when the person acted
	Key    string // made by the client; the same key is taken once
	Reason string // why, in the person's words
	// Sign is the password of who signs; Witness the account of the second
	// person, where one is asked for.
	Sign, Witness string
	At            time.Time // when the person acted, in the server's time
}

// target is a command's element and tag, found in the running release.
type target struct {
	program Program
	release *project.Project
	screen  *screen.Screen
	element *screen.Element
	action  string // of a button; empty for other elements
	when    string // stored condition of a further step
	name    string // "Chamber 1 › Dry bulb set point"
	tag     *tag.Tag
	path    string
	area    string
}

// target finds what a command is about. The screen is expanded as the person
// sees it, so that an element within a symbol is known with its own tag.
func (p *Project) target(c Command) (*target, error) {
	program := c.Program
	if program == "" {
		program = Release
	}
	release := p.running(program).project.Load()
	if release == nil {
		return nil, refused("nothing is released yet")
	}
	changed := refused("this screen has changed with a new release: open it again")
	s := release.Screens[c.Screen]
	if s == nil {
		return nil, changed
	}
	if err := argsFit(release, s, c.Args); err != nil {
		return nil, err
	}
	control, ok := screen.Bind(s, release, screen.View{Args: c.Args}).Controls[c.Element]
	if !ok {
		return nil, changed
	}
	t := &target{program: program, release: release, screen: s, element: control.Element, name: control.Name, area: control.Area}
	if t.element.Kind == "button" {
		t.action = t.element.Text("action")
	}
	if c.Step > 0 {
		if c.Step > len(t.element.Then) {
			return nil, changed
		}
		t.further(t.element.Then[c.Step-1])
	}
	if t.action == screen.ActionRecord {
		return t, nil
	}
	if !t.element.Writes() {
		return nil, refused("this element does not write")
	}
	own, ok := release.Tag(t.element.MainTag())
	if !ok {
		return nil, refused("this element has no tag")
	}
	t.tag = t.element.Effective(own)
	t.path, _ = release.Path(own.ID)
	if area := release.AreaOf(own); area != "" {
		t.area = area
	}
	return t, nil
}

// further makes a later step of a button the target. It asks nothing of its
// own: what the button asked stands for all its steps.
func (t *target) further(a screen.Action) {
	e := *t.element
	e.Props = map[string]any{"action": a.Do, "tag": a.Tag, "value": a.Value, "by": a.By, "event": a.Text}
	if on, ok := t.element.Props["enabled"]; ok {
		e.Props["enabled"] = on
	}
	t.element, t.action, t.when = &e, a.Do, a.When
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

// argsFit refuses what cannot stand for a screen's parameters.
func argsFit(release *project.Project, s *screen.Screen, args screen.Args) error {
	for id, given := range args {
		param, ok := s.Param(id)
		switch {
		case !ok:
			return refused("the screen %s has no such parameter", s.Name)
		case param.Kind == screen.ParamEquipment && release.TypeOf(release.Real(given)) != param.Type:
			return refused("what is given for %s is no equipment of its type", param.Name)
		case param.Kind == screen.ParamTag:
			if _, ok := release.Tag(release.Real(given)); !ok {
				return refused("what is given for %s is no tag", param.Name)
			}
		case len(given) > 300:
			return refused("what is given for %s is too long", param.Name)
		}
	}
	return nil
}

// wanted is the engineering value that a command means.
func (p *Project) wanted(t *target, c Command) (value.Value, error) {
	text := c.Value
	switch t.action {
	case screen.ActionSet, screen.ActionRequest, screen.ActionPulse:
		text = t.element.Text("value")
	case screen.ActionHold:
		text = "true"
	case screen.ActionStep:
		by, _ := t.element.Number("by")
		now := p.ReadTags(t.program, []string{t.tag.ID})[0].Value
		if now.Quality.IsBad() || !now.Kind.IsNumber() {
			return value.Value{}, fmt.Errorf("%s has no value to step from", t.path)
		}
		return value.FromFloat(t.tag.Kind(), now.Float()+by)
	}
	return t.tag.ParseEntry(text)
}

// asked checks what an element asks of a person before it sends: a reason, a
// signature.
func (p *Project) asked(ctx context.Context, who Actor, c *Command, t *target) error {
	c.Reason = strings.TrimSpace(c.Reason)
	if len(c.Reason) > 300 {
		return refused("a reason has at most 300 characters")
	}
	if c.Step > 0 {
		return nil
	}
	if t.element.Text("reason") == "required" && c.Reason == "" {
		return refused("%s asks for a reason", t.name)
	}
	switch t.element.Text("sign") {
	case "own":
		return p.signed(ctx, who, who.Panel, c.Sign)
	case "second":
		second, err := p.host.SignIn(ctx, c.Witness, c.Sign, "", "")
		if err != nil {
			return err
		}
		if second.ID == who.ID {
			return refused("a second person signs this, not you")
		}
		if err := p.Require(ctx, second, access.Operate, t.area); err != nil {
			return err
		}
		c.Reason = strings.TrimSpace(c.Reason + " · signed by " + second.Name)
	}
	return nil
}

// signed checks the password of who is signed in, or the PIN at a panel.
func (p *Project) signed(ctx context.Context, who Actor, panel, secret string) error {
	account, err := p.host.server.Person(ctx, who.ID)
	if err != nil {
		return err
	}
	if secret == "" {
		return refused("this asks for your signature: enter your password")
	}
	if _, err = p.host.SignIn(ctx, account.Name, secret, "", panel); err != nil && panel != "" {
		_, err = p.host.SignIn(ctx, account.Name, "", secret, panel)
	}
	return err
}

// pulseWait is how long a press waits for its pulse to end; the end itself is
// sought for as long as it takes.
const pulseWait = 2 * time.Second

// pulse keeps on disk that a pulse is about to begin, so that a server that
// ends within it lets go when it starts again. It returns what ends the pulse.
func (p *Project) pulse(ctx context.Context, who Actor, c Command, t *target) (end func(Outcome) Outcome, err error) {
	row := store.Lease{ID: newID("pulse"), Tag: t.tag.ID, Path: t.path, Person: who.ID, Name: who.Name, Panel: who.Panel, Screen: t.screenName(c.Args), Element: t.name,
		ReleaseValue: t.element.Text("release"), At: time.Now().UnixNano()}
	row.TagDoc, _ = json.Marshal(t.tag)
	row.Device, _ = json.Marshal(t.release.Devices[t.tag.Device])
	if _, err := t.tag.ParseEntry(row.ReleaseValue); err != nil {
		return nil, refused("the value that ends the pulse: %v", err)
	}
	if err := p.state.PutLease(context.WithoutCancel(ctx), row); err != nil {
		return nil, err
	}
	return func(out Outcome) Outcome {
		if out.Outcome == audit.Rejected {
			// It never began.
			if err := p.state.DropLease(context.WithoutCancel(ctx), row.ID); err != nil {
				p.host.log.Error("a pulse that did not begin is still kept", "path", row.Path, "error", err)
			}
			return out
		}
		ms, _ := t.element.Number("pulse")
		ended := make(chan string, 1)
		p.leases.wg.Add(1)
		go func() {
			defer p.leases.wg.Done()
			time.Sleep(time.Duration(min(max(ms, 20), 10_000)) * time.Millisecond)
			ended <- p.leases.letGo(row)
		}()
		select {
		case how := <-ended:
			if how != audit.Confirmed {
				return Outcome{Outcome: how, Reason: "whether the pulse ended is not known"}
			}
			return out
		case <-time.After(time.Duration(ms)*time.Millisecond + pulseWait):
			return Outcome{Outcome: audit.Unknown, Reason: "the device has not confirmed the end of the pulse; it is sent until it does"}
		}
	}, nil
}

// recordEvent keeps an event that a button records, with its text as it reads
// now.
func (p *Project) recordEvent(ctx context.Context, who Actor, c Command, t *target) (Outcome, error) {
	if err := p.Require(ctx, who, access.Operate, t.area); err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, err)
	}
	if err := p.interlock(t); err != nil {
		return Outcome{}, p.refuse(ctx, who, c, t, err)
	}
	if c.Key == "" || len(c.Key) > 64 {
		return Outcome{}, p.refuse(ctx, who, c, t, refused("a command needs a key of its own"))
	}
	r := p.record(who, c, t)
	r.What, r.Key, r.New, r.Outcome = audit.Event, c.Key, p.reads(t, t.element.Text("event")), audit.Confirmed
	if _, err := p.audit.Append(context.WithoutCancel(ctx), r); err != nil {
		return Outcome{}, err
	}
	return Outcome{Outcome: audit.Confirmed, New: r.New}, nil
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

// MayOpen refuses a screen that a person may not open: by its area, and by the
// roles that it names.
func (p *Project) MayOpen(ctx context.Context, who Actor, s *screen.Screen) error {
	if err := p.Require(ctx, who, access.View, s.Area); err != nil || len(s.Roles) == 0 || who.Owner {
		return err
	}
	grants, err := p.Grants(ctx)
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
		for _, role := range s.Roles {
			if r := release.Roles[role]; r != nil {
				denied.Roles = append(denied.Roles, r.Name)
			}
		}
	}
	return denied
}
