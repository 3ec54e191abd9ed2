package project

import (
	"readyrail/internal/core/formula"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"slices"
	"strings"
)

// KindTag are the tags, those of equipment too.
const KindTag = "tag"

var tagKind = &kindOf[tag.Tag]{
	ThingKind: ThingKind{Name: KindTag, Stop: StopTags, Opens: true, Paths: true},
	of:        func(p *Project) *map[string]*tag.Tag { return &p.Tags },
	read:      (*Project).readTag,
	show:      (*Project).ShownTag,
	name:      func(p *Project, id string, _ *tag.Tag) string { return p.paths.of[id] },
	note:      func(t *tag.Tag) string { return t.Description },
	find: func(p *Project, has func(text string) bool, most int) []string {
		var out []string
		texts := p.TagTexts()
		for i, id := range p.SortedTags() {
			if len(out) == most {
				break
			}
			if has(texts[i]) {
				out = append(out, id)
			}
		}
		return out
	},
	refers: func(_ *Project, t *tag.Tag, say func(target, place, within string)) {
		say(t.Device, "/device", "")
		say(t.Folder, "/folder", "")
		say(t.Area, "/area", "")
		say(t.LowTag, "/lowTag", "")
		say(t.HighTag, "/highTag", "")
		say(t.Log, "/log", "")
		say(t.Book, "/book", "")
		say(t.Field, "/field", t.Book)
		for _, ref := range formula.References(t.Formula) {
			say(ref, "/formula", "")
		}
		if b := t.Behaviour; b != nil {
			say(b.Tag, "/behaviour", "")
			for _, ref := range formula.References(b.Formula) {
				say(ref, "/behaviour", "")
			}
		}
	},
	texts: func(p *Project, id string, t *tag.Tag, say sayText) {
		for _, st := range t.States {
			say(st.Text, p.paths.of[id], st.Texts)
		}
	},
	made: func(p *Project, id string) bool { _, made := p.gear.tags[id]; return made },
	// What equipment has comes of its type: screens name it.
	loaded: (*Project).assembleAll,
	check: func(c *checker) {
		for _, t := range c.p.Tags {
			c.tag(t)
		}
		c.overlaps()
		c.cycles()
	},
	work: func(p *Project) int { return len(p.Tags) },
	editRules: editRules{
		paths: func(op Op) bool { return strings.Contains(op.Path+string(op.Value), "formula") },
		translate: func(p *Project, op Op) ([]Op, error) {
			g, made := p.gear.tags[op.ID]
			if !made {
				return nil, nil
			}
			return p.translateMade(op, g, p.paths.of[op.ID])
		},
		touched: func(t *touchedThings, _ *Project, id string) {
			t.tags[id] = true
			// Later formulas of the same edit may name what it just made.
			t.unindexed = append(t.unindexed, id)
		},
		settle: settleTags,
	},
}

// settleTags renews the index where tags alone changed, and refuses a tag in a
// folder that is not there, and two at one path.
func settleTags(p, old *Project, touched *touchedThings) error {
	if !touched.folders && len(touched.tags) > 0 {
		p.paths = old.paths.withTags(old.Tags, p.Tags, touched.tags)
	}
	for id := range touched.tags {
		if t := p.Tags[id]; t != nil && t.Folder != "" && p.Folders[t.Folder] == nil {
			return refuse(KindTag, id, "/folder", say.Errorf("the folder that %s lies in does not exist", t.Name))
		}
	}
	if len(p.paths.clash) > 0 {
		slices.Sort(p.paths.clash)
		id := p.paths.clash[0]
		return refuse(KindTag, id, "/name", say.Errorf("there is already a tag %s: choose another name or folder", p.paths.of[id]))
	}
	return nil
}

// readTag checks and completes a tag; it alters nothing of the project.
func (p *Project) readTag(id string, t *tag.Tag, shown bool) (*tag.Tag, error) {
	t.ID = id
	if t.Source == tag.Device && t.Access == "" {
		t.Access = tag.Read
	}
	if shown && t.Formula != "" {
		f, err := p.StoreFormula(t.Formula)
		if err != nil {
			return nil, at("/formula", err)
		}
		t.Formula = f
	}
	if b := t.Behaviour; shown && b != nil && b.Formula != "" {
		f, err := p.StoreFormula(b.Formula)
		if err != nil {
			return nil, at("/behaviour", err)
		}
		b.Formula = f
	}
	if field, err := t.Check(); err != nil {
		return nil, at("/"+field, err)
	}
	// What is stored was checked when it was typed. Its device may have become
	// another one since: that is a finding then, and no reason not to open.
	if shown && t.Source == tag.Device {
		if d := p.Devices[t.Device]; d != nil {
			if field, err := d.CheckTag(t); err != nil {
				return nil, at("/"+field, err)
			}
			d.Canonical(t)
		}
	}
	return t, nil
}

// tagOfBook checks a system tag of a book of recipes.
func (c *checker) tagOfBook(t *tag.Tag, s tag.SystemValue, say func(rule string, s Severity, place string, args ...any)) {
	b := c.p.Books[t.Book]
	if b == nil {
		say("tag.book", Error, "/book")
		return
	}
	if s.Field {
		c.tagOfField(t, b, say)
	}
	if _, ok := c.p.TargetOf(b, t); s.Target && !ok {
		name := b.Type
		if typ := c.p.Types[b.Type]; typ != nil {
			name = typ.Name
		}
		say("tag.target", Error, "/book", "book", b.Name, "type", name)
	}
}

// tagOfField checks a tag that is a field of the recipe that is open.
func (c *checker) tagOfField(t *tag.Tag, b *recipe.Book, say func(rule string, s Severity, place string, args ...any)) {
	f, ok := b.FindField(t.Field)
	if !ok {
		say("tag.field", Error, "/field", "book", b.Name)
	} else if f.Type != t.Type {
		say("tag.field.type", Error, "/type", "field", f.Name, "type", f.Type.String(), "is", t.Type.String())
	}
}

// ShownTag returns a tag with its formula as people read it.
func (p *Project) ShownTag(t *tag.Tag) *tag.Tag {
	moves := t.Behaviour != nil && t.Behaviour.Formula != ""
	if t.Formula == "" && !moves {
		return t
	}
	c := *t
	c.Formula = formula.Show(t.Formula, p.Path)
	if moves {
		b := *t.Behaviour
		b.Formula = formula.Show(b.Formula, p.Path)
		c.Behaviour = &b
	}
	return &c
}

// tag checks one tag.
func (c *checker) tag(t *tag.Tag) {
	say := func(rule string, s Severity, place string, args ...any) {
		c.add(rule, s, KindTag, t.ID, place, c.p.paths.of[t.ID], args...)
	}
	switch t.Source {
	case tag.Device:
		d := c.p.Devices[t.Device]
		if d == nil {
			say("tag.device", Error, "/device")
			return
		}
		if field, err := d.CheckTag(t); err != nil {
			say("tag.address", Error, "/"+field, "reason", err)
		}
	case tag.Computed:
		prog, err := formula.Compile(t.Formula, c.p.Scope())
		if err != nil {
			c.formula(err, KindTag, t.ID, "/formula", c.p.paths.of[t.ID])
		} else if !fitsKind(t.Type.Kind, prog.Kind()) {
			say("tag.formula.type", Error, "/formula", "type", t.Type.String(), "gives", prog.Kind().String())
		}
		for _, ref := range formula.References(t.Formula) {
			if own, ok := c.p.Tag(ref); ok && own.Own() {
				say("tag.own", Error, "/formula", "tag", c.p.paths.of[ref])
			}
		}
	case tag.System:
		if s, _ := tag.SystemValueOf(t.System); s.Device && c.p.Devices[t.Device] == nil {
			say("tag.device", Error, "/device")
		} else if s.Log && c.p.Logs[t.Log] == nil {
			say("tag.log", Error, "/log")
		} else if s.Book {
			c.tagOfBook(t, s, say)
		}
	}
	for place, ref := range map[string]string{"/lowTag": t.LowTag, "/highTag": t.HighTag} {
		if ref == "" {
			continue
		}
		if l, ok := c.p.Tag(ref); !ok {
			say("tag.limit", Error, place)
		} else if !l.Kind().IsNumber() {
			say("tag.limit.type", Error, place, "tag", c.p.paths.of[ref], "type", l.Type.String())
		}
	}
	b := t.Behaviour
	if b == nil {
		return
	}
	if b.Kind == tag.Follow && c.p.Tags[b.Tag] == nil {
		say("tag.follow", Warning, "/behaviour")
	}
	if b.Kind == tag.Formula {
		if _, err := formula.Compile(b.Formula, c.p.Scope()); err != nil {
			say("tag.behaviour", Warning, "/behaviour", "reason", err)
		}
	}
}

// fitsKind tells whether a computed tag of kind t can take a formula's result.
func fitsKind(t, result value.Kind) bool {
	switch {
	case t.IsReal():
		return result.IsNumber()
	case t.IsInteger():
		return result.IsInteger()
	}
	return t == result
}
