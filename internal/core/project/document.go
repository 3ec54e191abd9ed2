package project

import (
	"bytes"
	"encoding/json"
	"fmt"

	fastjson "github.com/go-json-experiment/json"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
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
	if k := kindByName[kind]; k != nil {
		return k.get(p, id)
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
	k := kindByName[kind]
	if k == nil {
		return nil, false
	}
	v := k.shown(p, id)
	if v == nil {
		return nil, false
	}
	return mustJSON(v), true
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

// decodeStored is decode for what this program has written itself, as strict
// and two to three times as fast: it reads most of the time that a project takes
// to open.
func decodeStored(doc json.RawMessage, into any) error {
	return fastjson.Unmarshal(doc, into, fastjson.RejectUnknownMembers(true))
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
	k := kindByName[kind]
	if k == nil {
		return noKind(kind)
	}
	return k.put(p, id, doc, shown)
}

func (p *Project) drop(kind, id string) {
	if k := kindByName[kind]; k != nil {
		k.drop(p, id)
	}
}

func noKind(kind string) error { return say.Errorf("a project holds no things of kind %q", kind) }

// Entities lists the whole project in its stored form, sorted by kind and id.
// Folders, tags and alarms of equipment are not among them: they come of it.
func (p *Project) Entities() []Entity {
	var out []Entity
	for _, k := range byName(kinds) {
		for _, id := range k.ids(p) {
			if !k.comesOf(p, id) {
				out = append(out, Entity{k.told().Name, id, mustJSON(k.get(p, id))})
			}
		}
	}
	return out
}
