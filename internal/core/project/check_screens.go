package project

import (
	"fmt"
	"slices"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

func (c *checker) screens() {
	if len(c.p.Screens) == 0 {
		return
	}
	home, first := 0, ""
	opened := c.p.opened()
	for _, id := range SortedKeys(c.p.Screens) {
		s := c.p.Screens[id]
		if s.Home {
			home++
		}
		if s.Role == screen.Main && first == "" {
			first = id
		}
		say := func(rule string, sev Severity, place string, args ...any) {
			c.add(rule, sev, KindScreen, id, place, s.Name, args...)
		}
		if c.p.containsItself(id) {
			say("screen.ring", Error, "")
		}
		if (s.Role.Window() || s.Role == screen.Main && s.Hidden) && !s.Home && !opened[id] {
			say("screen.unreachable", Warning, "")
		}
		for _, param := range s.Params {
			if param.Kind == screen.ParamEquipment && c.p.Types[param.Type] == nil {
				say("screen.param", Error, "/params", "param", param.Name)
			}
		}
		for i, entry := range s.Entries {
			c.given(s, s, entry.Args, fmt.Sprintf("/entries/%d", i))
		}
		for _, of := range []struct {
			place string
			roles []string
		}{{"/roles", s.Roles}, {"/operators", s.Operators}} {
			if slices.ContainsFunc(of.roles, func(role string) bool { return c.p.Roles[role] == nil }) {
				say("screen.role", Warning, of.place)
			}
		}
		keys := map[string]string{}
		for _, eid := range s.Sorted() {
			if key := s.Elements[eid].Text("key"); key != "" && key != "none" {
				if other := keys[key]; other != "" {
					say("screen.key", Error, "/elements/"+eid+"/props/key", "key", key, "other", other)
				}
				keys[key] = ElementName(s, eid)
			}
			e := &elementCheck{checker: c, s: s, id: eid, e: s.Elements[eid], name: s.Name + " › " + ElementName(s, eid)}
			e.run()
		}
	}
	if home != 1 && first != "" {
		c.add("screen.home", Warning, KindScreen, first, "/home", c.p.Screens[first].Name, "count", fmt.Sprint(home))
	}
}

// given checks what a place outside of a screen's elements gives for the
// parameters of a screen.
func (c *checker) given(on, target *screen.Screen, args map[string]string, place string) {
	for _, p := range target.Params {
		given := args[p.ID]
		if given == "" {
			given = p.Default
		}
		gone := p.Kind == screen.ParamEquipment && c.p.TypeOf(c.p.Real(given)) != p.Type
		if p.Kind == screen.ParamTag && given != "" {
			_, there := c.p.Tag(c.p.Real(given))
			gone = !there
		}
		switch {
		case given == "" && (p.Kind == screen.ParamEquipment || p.Kind == screen.ParamTag):
			c.add("screen.arg", Warning, KindScreen, on.ID, place, on.Name, "param", p.Name, "screen", target.Name)
		case gone && p.Kind == screen.ParamEquipment:
			c.add("screen.arg.type", Error, KindScreen, on.ID, place, on.Name, "param", p.Name, "screen", target.Name, "type", c.p.typeName(p.Type))
		case gone:
			c.add("screen.tag", Error, KindScreen, on.ID, place, on.Name)
		}
	}
}

// opened are the screens that something leads to.
func (p *Project) opened() map[string]bool {
	out := map[string]bool{}
	for _, s := range p.Screens {
		for _, r := range s.References() {
			if r.Type == screen.TypeScreen {
				out[r.ID] = true
			}
		}
	}
	for _, t := range p.Types {
		out[t.Faceplate] = true
	}
	return out
}

// Holds lists the screens that lie within a screen: symbols, screens within,
// tabs and what is repeated.
func (p *Project) Holds(id string) []string {
	s := p.Screens[id]
	if s == nil {
		return nil
	}
	var out []string
	for _, e := range s.Elements {
		for _, m := range e.Mounts() {
			out = append(out, m.Screen)
		}
	}
	return out
}

func (p *Project) containsItself(id string) bool {
	seen := map[string]bool{}
	var within func(string) bool
	within = func(s string) bool {
		for _, inner := range p.Holds(s) {
			if inner == id {
				return true
			}
			if !seen[inner] {
				seen[inner] = true
				if within(inner) {
					return true
				}
			}
		}
		return false
	}
	return within(id)
}

// elementCheck checks one element.
type elementCheck struct {
	*checker
	s    *screen.Screen
	id   string
	e    *screen.Element
	name string
}

func (c *elementCheck) say(rule string, sev Severity, place string, args ...any) {
	c.add(rule, sev, KindScreen, c.s.ID, "/elements/"+c.id+place, c.name, args...)
}

// tag finds a tag, or what a parameter of the screen stands for by its type.
func (c *elementCheck) tag(id string) (*tag.Tag, string, bool) {
	if t, ok := c.p.Tag(c.p.Real(id)); ok {
		return t, c.p.paths.of[t.ID], true
	}
	path, t, _, ok := c.s.ResolveParam(id, c.p.Type)
	if ok && t == nil {
		// A parameter of any type: what it is given decides.
		t = &tag.Tag{}
	}
	return t, path, ok
}

func (c *elementCheck) run() {
	k, ok := screen.KindOf(c.e.Kind)
	if !ok {
		return
	}
	for _, p := range k.Props {
		if c.e.Matters(p) {
			c.prop(p)
		}
	}
	for _, m := range c.e.Mounts() {
		c.mount(m)
	}
	for _, name := range SortedKeys(c.e.Bind) {
		p, ok := k.Bindable(name)
		if !ok {
			p, _ = screen.PartProp(name)
		}
		c.formula(c.e.Bind[name], "/bind/"+name, p)
	}
	for i, id := range c.e.Tags {
		if _, _, ok := c.tag(id); !ok {
			c.say("screen.tag", Error, fmt.Sprintf("/tags/%d", i))
		}
	}
	for i, t := range c.e.Tabs {
		c.template(t.Title, fmt.Sprintf("/tabs/%d", i))
	}
	for i, a := range c.e.Then {
		c.further(a, fmt.Sprintf("/then/%d", i))
	}
	c.states()
	if c.e.Writes() {
		c.writer()
	}
	if p, ok := k.Prop("tag"); ok && len(k.Live) > 0 && c.e.MainTag() == "" && c.e.Matters(p) {
		c.say("screen.untagged", Warning, "/props/tag", "kind", k.Title)
	}
	outside := c.e.X+c.e.W <= 0 || c.e.Y+c.e.H < 0 || c.e.X >= float64(c.s.Width) || c.e.Y >= float64(c.s.Height)
	if outside && !k.Gathers {
		c.say("screen.outside", Warning, "/x")
	}
}

// referring are the types of properties that name a thing, and what is said
// where there is none.
var referring = map[screen.PropType]struct {
	rule   string
	sev    Severity
	needed bool // nothing will not do
	there  func(c *elementCheck, p screen.Prop, id string) bool
}{
	screen.TypeTag:    {"screen.tag", Error, false, (*elementCheck).takesTag},
	screen.TypeDevice: {"screen.device", Error, true, func(c *elementCheck, _ screen.Prop, id string) bool { return c.p.Devices[id] != nil }},
	screen.TypeType:   {"screen.type", Error, true, func(c *elementCheck, _ screen.Prop, id string) bool { return c.p.Types[id] != nil }},
	screen.TypePicture: {"screen.picture", Error, false,
		func(c *elementCheck, _ screen.Prop, id string) bool { return c.p.Pictures[id] != nil }},
	screen.TypeView: {"screen.view", Error, false,
		func(c *elementCheck, _ screen.Prop, id string) bool { return c.p.Views[id] != nil }},
	screen.TypeLog: {"screen.log", Error, true, func(c *elementCheck, _ screen.Prop, id string) bool { return c.p.Logs[id] != nil }},
	screen.TypeBook: {"screen.book", Error, true,
		func(c *elementCheck, _ screen.Prop, id string) bool { return c.p.Books[id] != nil }},
	screen.TypeStyle: {"screen.style", Warning, false,
		func(c *elementCheck, _ screen.Prop, id string) bool { return c.p.Styles[id] != nil }},
}

// prop checks a property that matters as the element's choices are.
func (c *elementCheck) prop(p screen.Prop) {
	v, place := c.e.Text(p.Name), "/props/"+p.Name
	if p.Type == screen.TypeTemplate {
		c.template(v, place)
		return
	}
	if r, ok := referring[p.Type]; ok && (v != "" || r.needed && !p.MayBeEmpty) && !r.there(c, p, v) {
		c.say(r.rule, r.sev, place)
	}
	switch d := c.p.Devices[c.e.Text("device")]; {
	case p.Type == screen.TypePart && v != "" && d != nil && !d.HasCondition(v):
		c.say("screen.part", Error, place, "device", d.Name, "part", v)
	case p.Type == screen.TypeField:
		c.fieldOf(c.p.Books[c.e.Text("book")], v, place)
	case p.Type == screen.TypeView && c.p.Views[v] != nil:
		c.viewOf(c.p.Views[v].Type)
	case p.Type == screen.TypeScreen && len(c.e.Mounts()) == 0:
		// What it opens; what lies in it is checked as that.
		c.opens(v, c.e.Args, place, false)
	}
}

// fieldOf checks a field of a book, where there is that.
func (c *elementCheck) fieldOf(b *recipe.Book, id, place string) {
	if b == nil {
		return
	}
	if _, ok := b.FindField(id); !ok {
		c.say("screen.field", Error, place, "book", b.Name)
	}
}

// viewOf checks for which equipment a view of a type is shown; a parameter is
// given it later.
func (c *elementCheck) viewOf(typ string) {
	of := c.e.Text("equipment")
	if typ == "" || strings.HasPrefix(of, "$") || c.p.TypeOf(c.p.Real(of)) == typ {
		return
	}
	name := typ
	if t := c.p.Types[typ]; t != nil {
		name = t.Name
	}
	c.say("screen.of", Error, "/props/equipment", "type", name)
}

func (c *elementCheck) takesTag(p screen.Prop, id string) bool {
	if p.Folder && c.p.Folders[c.p.Real(id)] != nil {
		return true
	}
	_, _, ok := c.tag(id)
	return ok
}

// mount checks a screen that lies in the element.
func (c *elementCheck) mount(m screen.Mount) {
	switch {
	case m.Screen != "":
		c.opens(m.Screen, m.Args, m.Place, m.Repeats)
	case !m.MayBeEmpty:
		c.say("screen.empty", Warning, m.Place)
	}
	if m.Array != "" && len(m.Args) > 0 {
		c.cells(m)
	}
}

// opens checks a screen that an element shows or opens, and what it is given.
func (c *elementCheck) opens(id string, args map[string]string, place string, repeated bool) {
	target := c.p.Screens[id]
	if target == nil {
		c.say("screen.target", Error, place)
		return
	}
	for _, p := range target.Params {
		given := args[p.ID]
		if given == "" {
			given = p.Default
		}
		repeats := repeated && (p.Kind == screen.ParamEquipment || p.Kind == screen.ParamTag)
		switch {
		case repeats:
			repeated = false
		case given == "" && (p.Kind == screen.ParamEquipment || p.Kind == screen.ParamTag):
			c.say("screen.arg", Warning, place, "param", p.Name, "screen", target.Name)
		case p.Kind == screen.ParamEquipment && !c.equipmentFits(given, p.Type):
			c.say("screen.arg.type", Error, place, "param", p.Name, "screen", target.Name, "type", c.p.typeName(p.Type))
		case p.Kind == screen.ParamTag && given != "":
			if _, _, ok := c.tag(given); !ok {
				c.say("screen.tag", Error, place)
			}
		}
	}
}

// cells checks that everything in an array has what its repeat gives.
func (c *elementCheck) cells(m screen.Mount) {
	array := c.p.Real(m.Array)
	for _, item := range c.p.Array(array, m.Index) {
		for _, arg := range SortedKeys(m.Args) {
			given := c.p.Real(m.Args[arg])
			if _, ok := c.p.Beside(array, item, given); !ok {
				c.say("screen.beside", Error, "/args/"+arg, "item", c.p.pathOf(item), "path", c.p.pathOf(given))
				return
			}
		}
	}
}

// equipmentFits tells whether an argument is equipment of a type: a piece, or
// a parameter of this screen that holds one.
func (c *elementCheck) equipmentFits(given, typ string) bool {
	if got := c.p.TypeOf(c.p.Real(given)); got != "" {
		return got == typ
	}
	return c.s.ParamType(given, c.p.Type) == typ
}

func (c *elementCheck) further(a screen.Action, place string) {
	if a.When != "" {
		c.formula(a.When, place, screen.Prop{Name: "enabled", Title: "Condition", Type: screen.TypeBool})
	}
	if a.Text != "" {
		c.template(a.Text, place)
	}
	switch {
	case screen.ActionWrites(a.Do):
		t, path, ok := c.tag(a.Tag)
		switch {
		case !ok:
			c.say("screen.tag", Error, place)
		case t.Type.Kind == value.None:
		case !t.Writable():
			c.say("screen.readonly", Error, place, "tag", path)
		case a.Do == screen.ActionSet:
			if _, err := t.ParseEntry(a.Value); err != nil {
				c.say("screen.value", Error, place, "tag", path, "reason", err)
			}
		case a.Do == screen.ActionToggle && t.Type.Kind != value.BOOL:
			c.say("screen.bool", Error, place, "tag", path, "type", t.Type.String())
		}
	case a.Do == screen.ActionOpen:
		c.opens(a.Screen, a.Args, place, false)
	case a.Do == screen.ActionDiagnose && c.p.Devices[a.Device] == nil:
		c.say("screen.device", Error, place)
	}
}

func (c *elementCheck) formula(text, place string, p screen.Prop) {
	prog, err := formula.Compile(text, c.p.ScopeOn(c.s))
	switch {
	case err != nil:
		c.checker.formula(err, KindScreen, c.s.ID, "/elements/"+c.id+place, c.name)
	case !screen.Accepts(p.Type, prog.Kind()):
		c.say("screen.binding.type", Error, place, "property", p.Title, "wants", screen.Wants(p.Type))
	case p.Type == screen.TypeColour:
		for _, s := range formula.ResultTexts(text) {
			if !screen.Colour(s) {
				c.say("screen.colour", Error, place, "property", p.Title, "colour", s, "colours", strings.Join(screen.Colours, ", "))
			}
		}
	}
}

func (c *elementCheck) template(text, place string) {
	parts, err := formula.ParseTemplate(text)
	if err != nil {
		c.checker.formula(err, KindScreen, c.s.ID, "/elements/"+c.id+place, c.name)
		return
	}
	for _, part := range parts {
		if part.Formula == "" {
			continue
		}
		if id, plain := formula.PlainReference(part.Formula); plain && c.s.ParamType(id, c.p.Type) != "" {
			// The name of equipment.
			continue
		}
		if _, err := formula.Compile(part.Formula, c.p.ScopeOn(c.s)); err != nil {
			c.checker.formula(err, KindScreen, c.s.ID, "/elements/"+c.id+place, c.name)
		}
	}
}

func (c *elementCheck) states() {
	st := c.e.States
	if st == nil {
		return
	}
	if st.Set != "" && c.p.Looks[st.Set] == nil {
		c.say("screen.look", Error, "/states")
	}
	if st.Of == "" {
		c.say("screen.look.of", Warning, "/states")
		return
	}
	if _, err := formula.Compile(st.Of, c.p.ScopeOn(c.s)); err != nil {
		c.checker.formula(err, KindScreen, c.s.ID, "/elements/"+c.id+"/states", c.name)
	}
}

// writer checks an element that writes its tag.
func (c *elementCheck) writer() {
	t, path, ok := c.tag(c.e.MainTag())
	if !ok || t.Type.Kind == value.None {
		return
	}
	if !t.Enterable() {
		c.say("screen.readonly", Error, "/props/tag", "tag", path)
		return
	}
	if t.OfField() {
		c.open(path)
	}
	action := c.e.Action()
	if action == screen.ActionRequest {
		c.answer()
	}
	switch need := c.e.Needs(); {
	case need == screen.NeedValue:
		if _, err := t.ParseEntry(c.e.Text("value")); err != nil {
			c.say("screen.value", Error, "/props/value", "tag", path, "reason", err)
		}
	case need == screen.NeedBool && t.Type.Kind != value.BOOL:
		c.say("screen.bool", Error, "/props/tag", "tag", path, "type", t.Type.String())
	case need == screen.NeedNumber && !t.Kind().IsNumber():
		c.say("screen.number", Error, "/props/tag", "tag", path, "type", t.Type.String())
	case need == screen.NeedStates && t.Kind() != value.BOOL && len(t.States) == 0:
		c.say("screen.stateless", Warning, "/props/tag", "tag", path)
	case action == screen.ActionHold:
		c.held(t, path)
	}
}

// open checks an element that edits the recipe that is open: the page does that by
// itself, so that nothing of it can be held or timed, or be one command with what the
// server carries out.
func (c *elementCheck) open(path string) {
	switch c.e.Action() {
	case screen.ActionHold, screen.ActionPulse, screen.ActionRequest:
		c.say("screen.open", Error, "/props/action", "tag", path)
	}
	for i, a := range c.e.Then {
		if screen.ActionWrites(a.Do) || a.Do == screen.ActionRecord || a.Do == screen.ActionLog {
			c.say("screen.open", Error, fmt.Sprintf("/then/%d", i), "tag", path)
		}
	}
}

// held checks a tag that a button holds: its controller has to notice by itself
// when this server is gone, and what moves the same equipment the other way may
// not be held together with it.
func (c *elementCheck) held(t *tag.Tag, path string) {
	if d := c.p.Devices[t.Device]; t.Source == tag.Device && d != nil && (d.Heartbeat == nil || d.Heartbeat.Out == "") {
		c.say("screen.watchdog", Warning, "/props/action", "tag", path, "device", d.Name)
	}
	place := c.p.placeOf(t)
	for id, o := range c.s.Elements {
		if o.Action() != screen.ActionHold || id == c.id {
			continue
		}
		other, ok := c.p.Tag(o.MainTag())
		if !ok || other.ID == t.ID || c.p.placeOf(other) != place || excludesEither(c.e, o, t.ID, other.ID) {
			continue
		}
		otherPath, _ := c.p.Path(other.ID)
		c.say("screen.opposites", Warning, "/props/excludes", "tag", path, "other", otherPath)
		return
	}
}

// placeOf is the equipment that a tag belongs to, or else its folder.
func (p *Project) placeOf(t *tag.Tag) string {
	if g, ok := p.GearTag(t.ID); ok {
		return g.Instance
	}
	return t.Folder
}

// excludesEither tells whether two held buttons exclude each other.
func excludesEither(a, b *screen.Element, ofA, ofB string) bool {
	return a.Text("excludes") == ofB || b.Text("excludes") == ofA || a.Text("exclusive") != "" && a.Text("exclusive") == b.Text("exclusive")
}

// answer checks the tag that a button waits for.
func (c *elementCheck) answer() {
	t, path, ok := c.tag(c.e.Text("answer"))
	if !ok {
		c.say("screen.answer", Error, "/props/answer")
		return
	}
	if t.Type.Kind == value.None {
		return
	}
	if _, err := t.ParseEntry(c.e.Text("answerValue")); err != nil {
		c.say("screen.value", Error, "/props/answerValue", "tag", path, "reason", err)
	}
}
