package project

import (
	"fmt"
	"slices"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// KindBook are the books of recipes.
const KindBook = "book"

// sendingWhen is where a book has the condition for sending, whose names are
// those of the equipment that it is sent to.
const sendingWhen = "/sending/when"

var bookKind = &kindOf[recipe.Book]{
	ThingKind: ThingKind{Name: KindBook, Stop: StopRecipes, Opens: true},
	of:        func(p *Project) *map[string]*recipe.Book { return &p.Books },
	read: func(p *Project, id string, b *recipe.Book, shown bool) (*recipe.Book, error) {
		b.ID = id
		place, err := b.Check()
		if err == nil && shown {
			b, place, err = b.Convert(func(place, text string) (string, error) { return formula.Store(text, p.resolveOfBook(b, place), nil) })
		}
		return b, at(place, err)
	},
	show: (*Project).ShownBook,
	name: func(_ *Project, _ string, b *recipe.Book) string { return b.Name },
	note: func(b *recipe.Book) string { return b.Note },
	refers: func(_ *Project, b *recipe.Book, say func(target, place, within string)) {
		say(b.Type, "/type", "")
		say(b.Area, "/area", "")
		for i, f := range b.Fields {
			say(f.Tag, fmt.Sprintf("/fields/%d/tag", i), f.Called())
		}
		if h := b.Sending.Hand; h != nil && b.Type == "" {
			say(h.Ready, "/sending/hand/ready", "")
			say(h.Taken, "/sending/hand/taken", "")
		}
		if d := b.Sending.Drive; d != nil {
			say(d.Role, "/sending/drive/role", "")
			for place, ref := range d.Ends() {
				if b.Type == "" {
					say(ref, "/sending/drive/"+place, "")
				}
			}
		}
		for place, text := range b.Formulas() {
			for _, ref := range formula.References(*text) {
				if ref[0] != '$' && ref[0] != '.' {
					say(ref, place, "")
				}
			}
		}
	},
	texts: func(_ *Project, _ string, b *recipe.Book, say sayText) {
		say(b.Name, b.Name)
		for _, f := range b.Fields {
			for _, text := range []string{f.Called(), f.Group, f.Help} {
				if text != "" {
					say(text, b.Name)
				}
			}
			for _, s := range f.States {
				say(s.Text, b.Name, s.Texts)
			}
		}
		for _, c := range b.Checks {
			say(c.Says, b.Name)
		}
		if b.Sending.Why != "" {
			say(b.Sending.Why, b.Name)
		}
	},
	check: func(c *checker) {
		for _, id := range SortedKeys(c.p.Books) {
			(&bookCheck{c, c.p.Books[id]}).all()
		}
	},
	work: func(p *Project) int { return len(p.Books) },
}

// resolveOfBook finds what a formula of a book names: a field, or in the
// condition for sending a member of the equipment, and else a tag. A field that the
// same edit gives another name is still known by its old one: the formulas beside
// it are written with that, and show the new one afterwards.
func (p *Project) resolveOfBook(b *recipe.Book, place string) func(path string) (string, bool) {
	return func(path string) (string, bool) {
		if place == sendingWhen {
			if t := p.Types[b.Type]; t != nil {
				return p.resolveIn(t, false)(path)
			}
			return p.resolve(path)
		}
		if old := p.Books[b.ID]; old != nil {
			if f, ok := old.Named(path); ok {
				if _, still := b.FindField(f.ID); still {
					return recipe.Own + f.ID, true
				}
			}
		}
		if f, ok := b.Named(path); ok {
			return recipe.Own + f.ID, true
		}
		return p.resolve(path)
	}
}

// bookPath is how people write what a formula of a book refers to.
func (p *Project) bookPath(b *recipe.Book) func(id string) (string, bool) {
	return func(id string) (string, bool) {
		if field, own := strings.CutPrefix(id, recipe.Own); own {
			if f, ok := b.FindField(field); ok {
				return f.Name, true
			}
			return "", false
		}
		if chain, member := strings.CutPrefix(id, "."); member {
			if t := p.Types[b.Type]; t != nil {
				path, _, _, ok := equipment.Resolve(t, chain, p.Type)
				return path, ok
			}
			return "", false
		}
		return p.Path(id)
	}
}

// ShownBook returns a book with its formulas as people read them.
func (p *Project) ShownBook(b *recipe.Book) *recipe.Book {
	out, _, _ := b.Convert(func(_, f string) (string, error) { return formula.Show(f, p.bookPath(b)), nil })
	return out
}

// BookRules are the rules of a book of the project, as far as its formulas are
// good.
func (p *Project) BookRules(b *recipe.Book) *recipe.Rules {
	if known, ok := p.ruled.Load(b.ID); ok {
		return known.(*recipe.Rules)
	}
	rules, _ := recipe.NewRules(b, p.bookScope(b))
	p.ruled.Store(b.ID, rules)
	return rules
}

func (p *Project) bookScope(b *recipe.Book) formula.Scope {
	return formula.Scope{Tag: p.Scope().Tag, Path: p.bookPath(b)}
}

// BookTargets are the ids of where a book can be sent to: equipment of its type
// by path, or the one place of a book of single tags, which has no id.
func (p *Project) BookTargets(b *recipe.Book) []string {
	if b.Type != "" {
		return p.OfType(b.Type, "")
	}
	if slices.ContainsFunc(b.Fields, func(f recipe.Field) bool { return f.Tag != "" }) {
		return []string{""}
	}
	return nil
}

// TargetPlace is what people call a target: the path of the equipment, or for single
// tags the devices that they are in; the book's name where those are many or none.
func (p *Project) TargetPlace(b *recipe.Book, target string) string {
	if target != "" {
		return p.FolderPath(target)
	}
	var names []string
	for i := range b.Fields {
		t := p.BookTag(&b.Fields[i], "")
		if t == nil || p.Devices[t.Device] == nil {
			continue
		}
		if name := p.Devices[t.Device].Name; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	if len(names) == 0 || len(names) > 2 {
		return b.Name
	}
	return strings.Join(names, ", ")
}

// TargetArea is the area in which one needs the right to send a book to a
// target.
func (p *Project) TargetArea(b *recipe.Book, target string) string {
	if b.Type == "" {
		return b.Area
	}
	return p.AreaOf(&tag.Tag{Folder: target})
}

// BookTag is the tag of a field at a target; nil where there is none.
func (p *Project) BookTag(f *recipe.Field, target string) *tag.Tag {
	switch {
	case f.Member != "":
		return p.TargetTag(f.Member, target)
	case f.Tag != "":
		return p.Tags[p.Real(f.Tag)]
	}
	return nil
}

// TargetOf is the target of a book that a tag is of: the equipment of the book's
// type that it lies in.
func (p *Project) TargetOf(b *recipe.Book, t *tag.Tag) (target string, ok bool) {
	if b.Type == "" {
		return "", true
	}
	for f := p.Folders[t.Folder]; f != nil; f = p.Folders[f.Parent] {
		if p.gear.pieces[f.ID].Type == b.Type {
			return f.ID, true
		}
	}
	return "", false
}

// TargetTag is a tag by its id, or by its chain below the equipment of a target.
func (p *Project) TargetTag(ref, target string) *tag.Tag {
	if target != "" {
		return p.Tags[p.Real(target+"."+ref)]
	}
	return p.Tags[p.Real(ref)]
}

// SendingWhen is a book's condition for sending as it stands at a target, in
// stored form; empty for none.
func (p *Project) SendingWhen(b *recipe.Book, target string) string {
	return formula.Substitute(b.Sending.When, func(id, path string) (string, bool) {
		chain, member := strings.CutPrefix(id, ".")
		if !member {
			return "", false
		}
		return formula.Reference(p.Real(target+"."+chain), path), true
	})
}

// PlaceText is how people read where a field goes: a path, or the member of the
// type; empty for nowhere.
func (p *Project) PlaceText(b *recipe.Book, ref string) string {
	if ref == "" {
		return ""
	}
	if b.Type != "" {
		return p.memberText(b.Type, ref)
	}
	path, _ := p.Path(p.Real(ref))
	return path
}

type bookCheck struct {
	*checker
	b *recipe.Book
}

func (c *bookCheck) say(rule string, sev Severity, place string, args ...any) {
	c.add(rule, sev, KindBook, c.b.ID, place, c.b.Name, args...)
}

func (c *bookCheck) all() {
	switch {
	case c.b.Type != "" && c.p.Types[c.b.Type] == nil:
		c.say("book.type", Error, "/type")
	case len(c.b.Fields) == 0:
		c.say("book.empty", Warning, "/fields")
	default:
		c.fields()
	}
	_, faults := recipe.NewRules(c.b, c.p.bookScope(c.b))
	for _, f := range faults {
		if _, of := f.Err.(*formula.Error); of {
			c.formula(f.Err, KindBook, c.b.ID, f.Place, c.b.Name)
		} else {
			c.say("book.formula", Error, f.Place, "reason", f.Err.Error())
		}
	}
	if len(c.p.BookTargets(c.b)) > 0 {
		c.sending()
	}
	c.beginnings()
}

// fields checks where each field goes at every target.
func (c *bookCheck) fields() {
	targets := c.p.BookTargets(c.b)
	first := map[string]string{} // names of fields by the tag that they go to
	for i := range c.b.Fields {
		f := &c.b.Fields[i]
		place := fmt.Sprintf("/fields/%d", i)
		if !f.Goes() {
			continue
		}
		for _, target := range targets {
			t := c.p.BookTag(f, target)
			if t == nil {
				c.gone(f, place, target)
				break
			}
			if other, twice := first[t.ID]; twice {
				c.say("book.twice", Error, place, "field", f.Called(), "other", other)
				break
			}
			first[t.ID] = f.Called()
			if !c.fits(f, t, place) {
				break
			}
		}
	}
}

func (c *bookCheck) gone(f *recipe.Field, place, target string) {
	if target == "" {
		c.say("book.gone", Error, place, "field", f.Called())
		return
	}
	c.say("book.tag", Error, place, "field", f.Called(), "target", c.p.FolderPath(target))
}

// fits tells whether a tag takes what a field holds; what speaks against it is
// said.
func (c *bookCheck) fits(f *recipe.Field, t *tag.Tag, place string) bool {
	path, _ := c.p.Path(t.ID)
	text, of := f.Type.Kind == value.STRING, t.EngineeringType()
	switch {
	case !t.Writable():
		c.say("book.readonly", Error, place, "field", f.Called(), "tag", path)
		return false
	case text != (of.Kind == value.STRING), !text && f.Type.Kind.IsNumber() != of.Kind.IsNumber():
		c.say("book.kind", Error, place, "field", f.Called(), "type", f.Type.String(), "tag", path, "tagType", of.String())
		return false
	case text && f.Type.Len > of.Len:
		c.say("book.length", Warning, place, "field", f.Called(), "type", f.Type.String(), "tag", path, "tagType", of.String())
		return false
	}
	low, high, own := t.Limits()
	for end, stored := range map[string]string{"low": f.Low, "high": f.High} {
		v, err := formula.Constant(stored, nil)
		if stored == "" || err != nil || !own {
			continue
		}
		if x := v.Float(); x < low || x > high {
			c.say("book.wide", Warning, place+"/"+end, "field", f.Called(), "tag", path)
			return false
		}
	}
	return true
}

// sending checks how the book is sent.
func (c *bookCheck) sending() {
	target := c.p.BookTargets(c.b)[0]
	if when := c.p.SendingWhen(c.b, target); when != "" {
		prog, err := formula.Compile(when, c.p.Scope())
		switch {
		case err != nil:
			c.formula(err, KindBook, c.b.ID, sendingWhen, c.b.Name)
		case prog.Kind() != value.BOOL:
			c.say("book.when", Error, sendingWhen, "type", prog.Kind().String())
		}
	}
	if h := c.b.Sending.Hand; h == nil {
		c.say("book.whole", Note, "/sending/hand")
	} else {
		for place, ref := range map[string]string{"ready": h.Ready, "taken": h.Taken} {
			t := c.p.TargetTag(ref, target)
			switch {
			case t == nil:
				c.say("book.hand", Error, "/sending/hand/"+place)
			case t.Kind() != value.BOOL || place == "ready" && !t.Writable():
				path, _ := c.p.Path(t.ID)
				c.say("book.hand.kind", Error, "/sending/hand/"+place, "tag", path)
			}
		}
		if h.Seconds == 0 {
			c.say("book.patience", Warning, "/sending/hand/seconds")
		}
	}
	c.drive(target)
	if !c.alarmOn(func(t *tag.Tag) bool {
		return t.System == "deliveries.open" || t.System == "recipe.left" && t.Book == c.b.ID
	}) {
		c.say("book.alarm", Warning, "/sending")
	}
	for _, r := range c.p.Roles {
		if r.Has(access.Deliver) {
			return
		}
	}
	c.say("book.nobody", Warning, "/sending")
}

// drive checks the tags by which a controller asks for recipes.
func (c *bookCheck) drive(target string) {
	d := c.b.Sending.Drive
	if d == nil {
		return
	}
	for place, ref := range d.Ends() {
		t, at := c.p.TargetTag(ref, target), "/sending/drive/"+place
		if t == nil {
			if ref != "" {
				c.say("book.drive", Error, at)
			}
			continue
		}
		kind, asks := t.Kind(), place == "execute" || place == "chosen"
		fits := kind == value.BOOL
		switch place {
		case "chosen":
			fits = kind == value.STRING || kind.IsInteger()
		case "errorId":
			fits = kind.IsInteger()
		}
		if !fits || !asks && !t.Writable() {
			path, _ := c.p.Path(t.ID)
			c.say("book.drive.kind", Error, at, "tag", path, "type", t.Type.String())
		}
	}
	if r := c.p.Roles[d.Role]; r == nil || !r.Has(access.Deliver) {
		c.say("book.drive.role", Error, "/sending/drive/role")
	}
}

// beginnings checks the recipes that a release adds.
func (c *bookCheck) beginnings() {
	for i, r := range c.b.Begin {
		if _, err := c.b.Tidy(r.Values); err != nil {
			c.say("book.begin", Warning, fmt.Sprintf("/begin/%d", i), "recipe", r.Name, "reason", err)
		}
	}
}
