package project

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"sync"

	"readyrail/internal/core/access"
	"readyrail/internal/core/device"
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
	out, _, _ := s.Convert(
		func(f string) (string, error) { return formula.Show(f, p.Path), nil },
		func(f string) (string, error) { return formula.ShowTemplate(f, p.Path), nil })
	return out
}

func (p *Project) resolve(path string) (string, bool) {
	if id, ok := p.FindPath(path); ok {
		return id, true
	}
	return formula.Unresolved, true
}

// StoreFormula turns a typed formula into its stored form. Unknown paths are
// kept; only text that cannot be stored at all is refused.
func (p *Project) StoreFormula(text string) (string, error) {
	return formula.Store(text, p.resolve, nil)
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
	}
	return fmt.Errorf("a project holds no things of kind %q", kind)
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
		s, path, err = s.Convert(p.StoreFormula, func(text string) (string, error) {
			return formula.StoreTemplate(text, p.resolve, nil)
		})
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
	}
}

// Entities lists the whole project in its stored form, sorted by kind and id.
func (p *Project) Entities() []Entity {
	out := []Entity{{KindSite, SiteID, mustJSON(p.Site)}}
	out = append(out, entities(KindDevice, p.Devices)...)
	out = append(out, entities(KindFolder, p.Folders)...)
	out = append(out, entities(KindRole, p.Roles)...)
	out = append(out, entities(KindScreen, p.Screens)...)
	return append(out, entities(KindTag, p.Tags)...)
}

func entities[T any](kind string, m map[string]*T) []Entity {
	var out []Entity
	for _, id := range SortedKeys(m) {
		out = append(out, Entity{kind, id, mustJSON(m[id])})
	}
	return out
}

// Load builds a project from its stored form.
func Load(list []Entity) (*Project, error) {
	p := New("")
	// Devices first: a tag's address is checked against its device.
	var tags []Entity
	for _, devices := range []bool{true, false} {
		for _, e := range list {
			switch {
			case (e.Kind == KindDevice) != devices:
			case e.Kind == KindTag:
				tags = append(tags, e)
			default:
				if err := p.put(e.Kind, e.ID, e.Doc, false); err != nil {
					return nil, fmt.Errorf("%s %s: %w", e.Kind, e.ID, err)
				}
			}
		}
	}
	if err := p.loadTags(tags); err != nil {
		return nil, err
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
