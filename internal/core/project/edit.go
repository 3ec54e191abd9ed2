package project

import (
	"encoding/json"
	"errors"
	"reflect"
	"slices"
	"sort"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
)

// Op is one step of an edit, in shown form: it sets the value at a JSON
// pointer (RFC 6901) of a thing, or removes it when Value is absent. The empty
// pointer is the whole thing. Arrays are set as a whole.
type Op struct {
	Kind  string          `json:"kind"`
	ID    string          `json:"id"`
	Path  string          `json:"path"`
	Value json.RawMessage `json:"value,omitempty"`
	// Was is the value that the editor saw. Where it is given and another one
	// stands there now, the edit is refused as stale.
	Was json.RawMessage `json:"was,omitempty"`
}

// Change is an applied Op in stored form; exchanging Before and After undoes
// it. Absent is nil.
type Change struct {
	Kind   string          `json:"kind"`
	ID     string          `json:"id"`
	Path   string          `json:"path"`
	Before json.RawMessage `json:"before,omitempty"`
	After  json.RawMessage `json:"after,omitempty"`
}

// Refusal says why an edit was not applied. Nothing of the edit was.
type Refusal struct {
	Kind    string          `json:"kind"`
	ID      string          `json:"id"`
	Path    string          `json:"path"` // JSON pointer to what it is about
	Message string          `json:"message"`
	Column  int             `json:"column"`           // in a formula, from 0; -1 elsewhere
	Stale   bool            `json:"stale"`            // somebody else changed it meanwhile
	Theirs  json.RawMessage `json:"theirs,omitempty"` // what stands there now
	Yours   json.RawMessage `json:"yours,omitempty"`  // what the edit would have set

	why error
}

func (r *Refusal) Error() string { return r.Message }

// Say gives the refusal in a language.
func (r *Refusal) Say(language string) string {
	if r.why == nil {
		return r.Message
	}
	return say.In(language, r.why)
}

func refuse(kind, id, path string, err error) *Refusal {
	r := &Refusal{Kind: kind, ID: id, Path: path, Message: err.Error(), Column: -1, why: err}
	var pl *place
	if errors.As(err, &pl) {
		r.Path = pl.path
	}
	var fe *formula.Error
	if errors.As(err, &fe) {
		r.Column = fe.Column
	}
	return r
}

var errOvertaken = say.New("somebody changed this meanwhile: both versions are below")

// stale refuses what was meant for something that now is otherwise.
func stale(op Op, now json.RawMessage, why error) *Refusal {
	r := refuse(op.Kind, op.ID, op.Path, why)
	r.Stale, r.Theirs, r.Yours = true, now, op.Value
	return r
}

// Edit applies ops in order and returns the new version with what changed.
// The error is a *Refusal.
func (p *Project) Edit(ops []Op) (*Project, []Change, error) {
	e := &editing{p: p.fork(), touched: newTouched(), changes: make([]Change, 0, len(ops))}
	for _, asked := range ops {
		if err := e.ask(asked); err != nil {
			return nil, nil, err
		}
	}
	if err := e.flush(); err != nil {
		return nil, nil, err
	}
	if err := e.resolveLater(); err != nil {
		return nil, nil, err
	}
	if err := e.p.settle(p, e.touched); err != nil {
		return nil, nil, err
	}
	// What changes nothing is no step to take back.
	changes := slices.DeleteFunc(e.changes, func(c Change) bool { return sameJSON(c.Before, c.After) })
	return e.p, changes, nil
}

// Revert applies the inverse of changes, last first, unless somebody changed
// the same places since; then the error is a *Refusal.
func (p *Project) Revert(changes []Change) (*Project, []Change, error) {
	next := p.fork()
	touched := newTouched()
	back := make([]Change, 0, len(changes))
	for i := len(changes) - 1; i >= 0; {
		// As many of one thing as lie apart are taken back at once.
		var group apart
		from := i
		for i >= 0 && sameThing(changes[i], changes[from]) && (group.add(changes[i].Path) || i == from) {
			i--
		}
		if err := next.revertThing(changes[i+1 : from+1]); err != nil {
			return nil, nil, err
		}
		touched.add(next, changes[from].Kind, changes[from].ID)
		for k := from; k > i; k-- {
			c := changes[k]
			back = append(back, Change{Kind: c.Kind, ID: c.ID, Path: c.Path, Before: c.After, After: c.Before})
		}
	}
	touched.stalePaths = true
	if err := next.settle(p, touched); err != nil {
		return nil, nil, err
	}
	return next, back, nil
}

func sameThing(a, b Change) bool { return a.Kind == b.Kind && a.ID == b.ID }

// revertThing takes changes of one thing back that lie apart.
func (p *Project) revertThing(changes []Change) error {
	kind, id := changes[0].Kind, changes[0].ID
	raw, exists := p.Doc(kind, id)
	doc := &openDoc{raw: raw}
	for _, c := range changes {
		if now := doc.at(c.Path); !sameJSON(now, c.After) {
			return stale(Op{Kind: kind, ID: id, Path: c.Path, Value: c.Before}, now,
				say.New("this was changed again meanwhile, so taking the older step back would lose that change"))
		}
		if c.Path == "" {
			if c.Before == nil {
				p.drop(kind, id)
				return nil
			}
		} else if !exists {
			return refuse(kind, id, c.Path, say.New("somebody deleted this meanwhile"))
		}
		if err := doc.set(c.Path, c.Before); err != nil {
			return refuse(kind, id, c.Path, err)
		}
	}
	if err := p.put(kind, id, doc.json(), false); err != nil {
		return refuse(kind, id, changes[0].Path, err)
	}
	return nil
}

type touchedThings struct {
	things     map[[2]string]bool
	tags       map[string]bool
	folders    bool
	stalePaths bool     // a folder changed since the index was built
	unindexed  []string // ids of tags that changed since
	ownPaths   bool     // the index is the edit's own and may be altered
	// stale are the things whose equipment is to be made anew.
	stale map[[2]string]bool
}

func newTouched() *touchedThings {
	return &touchedThings{things: map[[2]string]bool{}, tags: map[string]bool{}, stale: map[[2]string]bool{}}
}

// add notes a thing that an edit has touched.
func (t *touchedThings) add(p *Project, kind, id string) {
	t.things[[2]string{kind, id}] = true
	if k := kindByName[kind]; k != nil && k.edits().touched != nil {
		k.edits().touched(t, p, id)
	}
}

func (p *Project) apply(op Op, touched *touchedThings) error {
	if op.ID == "" || strings.ContainsAny(op.ID, "{}|/ ") || len(op.ID) > 64 {
		return refuse(op.Kind, op.ID, "", say.Errorf("a thing needs an id of at most 64 plain characters"))
	}
	kind := kindByName[op.Kind]
	if kind == nil {
		return refuse(op.Kind, op.ID, "", noKind(op.Kind))
	}
	if may := kind.edits().id; may != nil {
		if err := may(op.ID); err != nil {
			return refuse(op.Kind, op.ID, "", err)
		}
	}
	if op.namesPaths() {
		p.index(touched)
	}
	shown, exists := p.Shown(op.Kind, op.ID)
	if op.Was != nil || op.Path != "" && !exists {
		now := valueAt(shown, op.Path)
		if !exists || !sameJSON(now, op.Was) {
			if !exists {
				return stale(op, now, say.New("somebody deleted this meanwhile"))
			}
			return stale(op, now, errOvertaken)
		}
	}
	if op.Path == "" {
		if op.Value == nil {
			if !exists {
				return stale(op, nil, say.New("somebody deleted this already"))
			}
			if stays := kind.edits().stays; stays != nil {
				return refuse(op.Kind, op.ID, "", stays())
			}
			p.drop(op.Kind, op.ID)
			return nil
		}
		if err := p.put(op.Kind, op.ID, op.Value, true); err != nil {
			return refuse(op.Kind, op.ID, "", err)
		}
		return nil
	}
	if op.namesOnly() {
		if err := p.setStored(op.Kind, op.ID, op.Path, op.Value); err != nil {
			return refuse(op.Kind, op.ID, op.Path, err)
		}
		return nil
	}
	doc, err := setValue(shown, op.Path, op.Value)
	if err != nil {
		return refuse(op.Kind, op.ID, op.Path, err)
	}
	if err := p.put(op.Kind, op.ID, doc, true); err != nil {
		return refuse(op.Kind, op.ID, op.Path, err)
	}
	return nil
}

// applyAll sets several parts of one thing at once, which decodes and checks it
// once. The ops lie apart, and none is of the whole.
func (p *Project) applyAll(ops []Op, touched *touchedThings) error {
	kind, id := ops[0].Kind, ops[0].ID
	for _, op := range ops {
		if op.namesOnly() {
			return errTogether
		}
	}
	if slices.ContainsFunc(ops, Op.namesPaths) {
		p.index(touched)
	}
	shown, _ := p.Shown(kind, id)
	doc := &openDoc{raw: shown}
	for _, op := range ops {
		if op.Was != nil && !sameJSON(doc.at(op.Path), op.Was) {
			return errTogether
		}
		if err := doc.set(op.Path, op.Value); err != nil {
			return err
		}
	}
	return p.put(kind, id, doc.json(), true)
}

// namesPaths tells whether an op may hold formulas, which name paths.
func (op Op) namesPaths() bool {
	k := kindByName[op.Kind]
	return k != nil && k.edits().paths != nil && k.edits().paths(op)
}

// namesOnly tells whether an op alters names alone that formulas of the same
// thing use.
func (op Op) namesOnly() bool {
	k := kindByName[op.Kind]
	return k != nil && k.edits().names != nil && k.edits().names(op)
}

// index brings the index up to what the edit has done so far, as far as one
// tag after another can: of two tags that exchange their paths one may be
// missing until the edit settles.
func (p *Project) index(touched *touchedThings) {
	p.assembleTouched(touched)
	switch {
	case touched.stalePaths:
		p.paths = buildPaths(p)
		touched.ownPaths = true
	case len(touched.unindexed) > 0:
		if !touched.ownPaths {
			p.paths = p.paths.clone()
			touched.ownPaths = true
		}
		for _, id := range touched.unindexed {
			p.paths.drop(id)
			if t := p.Tags[id]; t != nil {
				p.paths.put(id, t)
			}
		}
	}
	touched.stalePaths, touched.unindexed = false, touched.unindexed[:0]
}

func (p *Project) setStored(kind, id, path string, v json.RawMessage) error {
	if path == "" {
		if v == nil {
			p.drop(kind, id)
			return nil
		}
		return p.put(kind, id, v, false)
	}
	doc, ok := p.Doc(kind, id)
	if !ok {
		return say.New("somebody deleted this meanwhile")
	}
	doc, err := setValue(doc, path, v)
	if err != nil {
		return err
	}
	return p.put(kind, id, doc, false)
}

// settle refuses what holds only for the whole, kind by kind.
func (p *Project) settle(old *Project, touched *touchedThings) error {
	p.assembleTouched(touched)
	for _, k := range kinds {
		if settle := k.edits().settle; settle != nil {
			if err := settle(p, old, touched); err != nil {
				return err
			}
		}
	}
	return nil
}

// SortedKeys lists a map's keys in order.
func SortedKeys[T any](m map[string]T) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

func sameJSON(a, b json.RawMessage) bool {
	x, y := parsed(a), parsed(b)
	return reflect.DeepEqual(x, y)
}

func parsed(raw json.RawMessage) any {
	if len(raw) == 0 {
		return nil
	}
	var v any
	if json.Unmarshal(raw, &v) != nil {
		return string(raw)
	}
	return v
}
