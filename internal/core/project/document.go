package project

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"sync"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/device"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// Documents. Every thing is a JSON document with two forms: the stored one
// holds ids in its formulas, the shown one holds today's paths. People and the
// interface see the shown form only.

// Entity is a thing in its stored form.
type Entity struct {
	Kind string          `json:"kind" db:"kind"`
	ID   string          `json:"id" db:"id"`
	Doc  json.RawMessage `json:"doc" db:"doc"`
}

// thing returns the typed thing, nil when there is none.
func (p *Project) thing(kind, id string) any {
	switch kind {
	case KindSite:
		if id == SiteID {
			return &p.Site
		}
	case KindFolder:
		if v := p.Folders[id]; v != nil {
			return v
		}
	case KindTag:
		if v := p.Tags[id]; v != nil {
			return v
		}
	case KindDevice:
		if v := p.Devices[id]; v != nil {
			return v
		}
	case KindScreen:
		if v := p.Screens[id]; v != nil {
			return v
		}
	case KindRole:
		if v := p.Roles[id]; v != nil {
			return v
		}
	case KindType:
		if v := p.Types[id]; v != nil {
			return v
		}
	case KindEquipment:
		if v := p.Equipment[id]; v != nil {
			return v
		}
	case KindAlarm:
		if v := p.Alarms[id]; v != nil {
			return v
		}
	case KindLook:
		if v := p.Looks[id]; v != nil {
			return v
		}
	case KindStyle:
		if v := p.Styles[id]; v != nil {
			return v
		}
	case KindPicture:
		if v := p.Pictures[id]; v != nil {
			return v
		}
	case KindWords:
		if v := p.Words[id]; v != nil {
			return v
		}
	}
	return nil
}

// Has tells whether the thing exists.
func (p *Project) Has(kind, id string) bool { return p.thing(kind, id) != nil }

// Doc returns a thing in its stored form.
func (p *Project) Doc(kind, id string) (json.RawMessage, bool) {
	v := p.thing(kind, id)
	if v == nil {
		return nil, false
	}
	return mustJSON(v), true
}

// Shown returns a thing in its shown form.
func (p *Project) Shown(kind, id string) (json.RawMessage, bool) {
	switch v := p.thing(kind, id).(type) {
	case nil:
		return nil, false
	case *tag.Tag:
		return mustJSON(p.ShownTag(v)), true
	case *screen.Screen:
		return mustJSON(p.ShownScreen(v)), true
	case *equipment.Type:
		return mustJSON(p.ShownType(v)), true
	case *alarm.Alarm:
		return mustJSON(p.ShownAlarm(v)), true
	case *Words:
		return mustJSON(p.ShownWords(v)), true
	default:
		return mustJSON(v), true
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

// ShownScreen returns a screen with its formulas and texts as people read them.
func (p *Project) ShownScreen(s *screen.Screen) *screen.Screen {
	path := p.PathOn(s)
	out, _, _ := s.Convert(
		func(f string) (string, error) { return formula.Show(f, path), nil },
		func(f string) (string, error) { return formula.ShowTemplate(f, path), nil })
	return out
}

// PathOn gives the paths of tags and of a screen's parameters.
func (p *Project) PathOn(s *screen.Screen) func(id string) (string, bool) {
	if s == nil || len(s.Params) == 0 {
		return p.Path
	}
	return func(id string) (string, bool) {
		if path, _, _, ok := s.ResolveParam(id, p.Type); ok {
			return path, true
		}
		return p.Path(id)
	}
}

func (p *Project) resolve(path string) (string, bool) {
	if id, ok := p.FindPath(path); ok {
		return id, true
	}
	return formula.Unresolved, true
}

// resolveOn finds paths of tags and of a screen's parameters; a parameter goes
// before a tag of the same name.
func (p *Project) resolveOn(s *screen.Screen) func(path string) (string, bool) {
	if s == nil || len(s.Params) == 0 {
		return p.resolve
	}
	return func(path string) (string, bool) {
		id, taken, ok := s.FindParam(path, p.Type)
		switch {
		case ok:
			return id, true
		case taken:
			return formula.Unresolved, true
		}
		return p.resolve(path)
	}
}

// StoreFormula turns a typed formula into its stored form. Unknown paths are
// kept; only text that cannot be stored at all is refused.
func (p *Project) StoreFormula(text string) (string, error) {
	return formula.Store(text, p.resolve, nil)
}

// StoreFormulaOn is StoreFormula on a screen, whose parameters it may name.
func (p *Project) StoreFormulaOn(s *screen.Screen, text string) (string, error) {
	return formula.Store(text, p.resolveOn(s), nil)
}

func mustJSON(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		panic(fmt.Sprintf("a thing of the project does not marshal: %v", err))
	}
	return b
}

// decode reads a document strictly: an unknown field is refused, not dropped.
func decode(doc json.RawMessage, into any) error {
	d := json.NewDecoder(bytes.NewReader(doc))
	d.DisallowUnknownFields()
	return d.Decode(into)
}

// place is a refusal inside one document.
type place struct {
	path string
	err  error
}

func (e *place) Error() string { return e.err.Error() }
func (e *place) Unwrap() error { return e.err }

func at(path string, err error) error {
	if err == nil {
		return nil
	}
	return &place{path, err}
}

// put decodes, checks and sets a document in a fork. shown tells which form
// the document has.
func (p *Project) put(kind, id string, doc json.RawMessage, shown bool) error {
	p.take(kind)
	switch kind {
	case KindSite:
		var s Site
		if err := decode(doc, &s); err != nil {
			return err
		}
		s.ID = SiteID
		if s.PanelWidth < 320 || s.PanelHeight < 240 || s.PanelWidth > 7680 || s.PanelHeight > 4320 {
			return at("/panelWidth", fmt.Errorf("a panel is 320×240 to 7680×4320 pixels, not %d×%d", s.PanelWidth, s.PanelHeight))
		}
		if s.Name == "" {
			return at("/name", errors.New("a project needs a name"))
		}
		if place, err := s.checkJournal(); err != nil {
			return at(place, err)
		}
		if place, err := s.checkPalette(); err != nil {
			return at(place, err)
		}
		if s.Areas == nil {
			s.Areas = []access.Area{}
		}
		p.Site = s
		return nil
	case KindFolder:
		f := &tag.Folder{}
		if err := decode(doc, f); err != nil {
			return err
		}
		f.ID = id
		p.Folders[id] = f
		return at("/name", tag.CheckSegment(f.Name))
	case KindTag:
		return p.putTag(id, doc, shown)
	case KindDevice:
		d := &device.Device{}
		if err := decode(doc, d); err != nil {
			return err
		}
		d.ID = id
		p.Devices[id] = d
		field, err := d.Check()
		return at("/"+field, err)
	case KindScreen:
		return p.putScreen(id, doc, shown)
	case KindRole:
		r := &access.Role{}
		if err := decode(doc, r); err != nil {
			return err
		}
		r.ID = id
		p.Roles[id] = r
		field, err := r.Check()
		return at("/"+field, err)
	case KindType:
		return p.putType(id, doc, shown)
	case KindEquipment:
		return putThing(p.Equipment, id, doc, func(e *equipment.Instance) { e.ID = id })
	case KindAlarm:
		return p.putAlarm(id, doc, shown)
	case KindLook:
		return putThing(p.Looks, id, doc, func(l *screen.LookSet) { l.ID = id })
	case KindStyle:
		return putThing(p.Styles, id, doc, func(t *screen.TextStyle) { t.ID = id })
	case KindPicture:
		return putThing(p.Pictures, id, doc, func(x *Picture) { x.ID = id })
	case KindWords:
		return p.putWords(id, doc, shown)
	}
	return fmt.Errorf("a project holds no things of kind %q", kind)
}

// putThing decodes, checks and sets a thing that has but one form.
func putThing[T any, P interface {
	*T
	Check() (place string, err error)
}](m map[string]*T, id string, doc json.RawMessage, name func(P)) error {
	v := P(new(T))
	if err := decode(doc, v); err != nil {
		return err
	}
	name(v)
	if place, err := v.Check(); err != nil {
		return at(place, err)
	}
	m[id] = v
	return nil
}

func (p *Project) putTag(id string, doc json.RawMessage, shown bool) error {
	t, err := p.readTag(id, doc, shown)
	if err != nil {
		return err
	}
	p.Tags[id] = t
	return nil
}

// readTag decodes and checks a tag; it alters nothing of the project.
func (p *Project) readTag(id string, doc json.RawMessage, shown bool) (*tag.Tag, error) {
	t := &tag.Tag{}
	if err := decode(doc, t); err != nil {
		return nil, err
	}
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
	if t.Source == tag.Device {
		if d := p.Devices[t.Device]; d != nil {
			if field, err := d.CheckTag(t); err != nil {
				return nil, at("/"+field, err)
			}
			d.Canonical(t)
		}
	}
	return t, nil
}

func (p *Project) putScreen(id string, doc json.RawMessage, shown bool) error {
	s := &screen.Screen{}
	if err := decode(doc, s); err != nil {
		return err
	}
	s.ID = id
	if s.Elements == nil {
		s.Elements = map[string]*screen.Element{}
	}
	if path, err := s.Check(); err != nil {
		return at(path, err)
	}
	if shown {
		var path string
		var err error
		resolve := p.resolveOn(s)
		s, path, err = s.Convert(
			func(text string) (string, error) { return formula.Store(text, resolve, nil) },
			func(text string) (string, error) { return formula.StoreTemplate(text, resolve, nil) })
		if err != nil {
			return at(path, err)
		}
	}
	p.Screens[id] = s
	return nil
}

func (p *Project) drop(kind, id string) {
	p.take(kind)
	switch kind {
	case KindFolder:
		delete(p.Folders, id)
	case KindTag:
		delete(p.Tags, id)
	case KindDevice:
		delete(p.Devices, id)
	case KindScreen:
		delete(p.Screens, id)
	case KindRole:
		delete(p.Roles, id)
	case KindType:
		delete(p.Types, id)
	case KindEquipment:
		p.dismantle(id)
		delete(p.Equipment, id)
	case KindAlarm:
		delete(p.Alarms, id)
	case KindLook:
		delete(p.Looks, id)
	case KindStyle:
		delete(p.Styles, id)
	case KindPicture:
		delete(p.Pictures, id)
	case KindWords:
		delete(p.Words, id)
	}
}

// Entities lists the whole project in its stored form, sorted by kind and id.
// Folders, tags and alarms of equipment are not among them: they come of it.
func (p *Project) Entities() []Entity {
	out := []Entity{{KindSite, SiteID, mustJSON(p.Site)}}
	out = append(out, entities(KindDevice, p.Devices, nil)...)
	out = append(out, entities(KindEquipment, p.Equipment, nil)...)
	out = append(out, entities(KindFolder, p.Folders, func(id string) bool { _, of := p.gear.pieces[id]; return of })...)
	out = append(out, entities(KindAlarm, p.Alarms, func(id string) bool { _, of := p.gear.alarms[id]; return of })...)
	out = append(out, entities(KindLook, p.Looks, nil)...)
	out = append(out, entities(KindPicture, p.Pictures, nil)...)
	out = append(out, entities(KindRole, p.Roles, nil)...)
	out = append(out, entities(KindScreen, p.Screens, nil)...)
	out = append(out, entities(KindStyle, p.Styles, nil)...)
	out = append(out, entities(KindTag, p.Tags, func(id string) bool { _, of := p.gear.tags[id]; return of })...)
	out = append(out, entities(KindType, p.Types, nil)...)
	return append(out, entities(KindWords, p.Words, nil)...)
}

func entities[T any](kind string, m map[string]*T, leaveOut func(id string) bool) []Entity {
	var out []Entity
	for _, id := range SortedKeys(m) {
		if leaveOut == nil || !leaveOut(id) {
			out = append(out, Entity{kind, id, mustJSON(m[id])})
		}
	}
	return out
}

// Load builds a project from its stored form.
func Load(list []Entity) (*Project, error) {
	p := New("")
	by := map[string][]Entity{}
	for _, e := range list {
		by[e.Kind] = append(by[e.Kind], e)
	}
	for _, kind := range append([]string{KindSite}, kinds...) {
		if kind == KindTag {
			if err := p.loadTags(by[kind]); err != nil {
				return nil, err
			}
			// Screens name what equipment has.
			p.assembleAll()
			continue
		}
		for _, e := range by[kind] {
			if err := p.put(kind, e.ID, e.Doc, false); err != nil {
				return nil, fmt.Errorf("%s %s: %w", kind, e.ID, err)
			}
		}
		delete(by, kind)
	}
	delete(by, KindTag)
	for kind := range by {
		return nil, fmt.Errorf("a project holds no things of kind %q", kind)
	}
	p.paths = buildPaths(p)
	return p, nil
}

// loadTags reads the tags on every processor: they are most of a project, and
// one says nothing of another.
func (p *Project) loadTags(list []Entity) error {
	read := make([]*tag.Tag, len(list))
	refused := make([]error, len(list))
	var g sync.WaitGroup
	share := (len(list) + runtime.NumCPU() - 1) / runtime.NumCPU()
	for from := 0; from < len(list); from += share {
		g.Go(func() {
			for i := from; i < min(from+share, len(list)); i++ {
				read[i], refused[i] = p.readTag(list[i].ID, list[i].Doc, false)
			}
		})
	}
	g.Wait()
	p.take(KindTag)
	for i, t := range read {
		if refused[i] != nil {
			return fmt.Errorf("%s %s: %w", KindTag, list[i].ID, refused[i])
		}
		p.Tags[list[i].ID] = t
	}
	return nil
}
