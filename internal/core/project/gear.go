package project

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
)

// gear is what the equipment of a version has become: its tags and pieces
// stand among the project's, and here it says whose they are.
type gear struct {
	tags   map[string]GearTag // by the tag's id
	pieces map[string]Piece   // by the folder's id
	alias  map[string]string  // id by chain to the id it really has, where they differ
	made   map[string]made    // by instance
}

// GearTag says of which equipment a tag is.
type GearTag struct {
	Instance string   `json:"instance"`
	Chain    string   `json:"chain"`
	Type     string   `json:"type"` // id of the type that holds the member
	Member   string   `json:"member"`
	Differs  []string `json:"differs"` // properties that may differ
	Own      []string `json:"own"`     // properties that do
}

// Piece is equipment: an instance, or equipment within one.
type Piece struct {
	Instance string `json:"instance"`
	Chain    string `json:"chain"`
	Type     string `json:"type"`
}

type made struct {
	tags, folders []string
	problems      []equipment.Problem
}

func newGear() *gear {
	return &gear{tags: map[string]GearTag{}, pieces: map[string]Piece{}, alias: map[string]string{}, made: map[string]made{}}
}

const ownGear = "gear"

func (p *Project) takeGear() {
	if p.own[ownGear] {
		return
	}
	p.own[ownGear] = true
	g := p.gear
	p.gear = &gear{tags: maps.Clone(g.tags), pieces: maps.Clone(g.pieces), alias: maps.Clone(g.alias), made: maps.Clone(g.made)}
}

// Type finds a type of equipment by id, nil where there is none.
func (p *Project) Type(id string) *equipment.Type { return p.Types[id] }

// GearTag says of which equipment a tag is.
func (p *Project) GearTag(id string) (GearTag, bool) { g, ok := p.gear.tags[id]; return g, ok }

// Piece says what equipment a folder is.
func (p *Project) Piece(id string) (Piece, bool) { g, ok := p.gear.pieces[id]; return g, ok }

// Pieces lists all equipment, by the id of its folder. Callers do not alter it.
func (p *Project) Pieces() map[string]Piece { return p.gear.pieces }

// TypeOf returns the type of a piece of equipment, empty where there is none.
func (p *Project) TypeOf(id string) string { return p.gear.pieces[id].Type }

// Real returns the id of what lies at a chain below equipment, such as k.m1;
// any other id as it is.
func (p *Project) Real(id string) string {
	if real, ok := p.gear.alias[id]; ok {
		return real
	}
	// The equipment before the chain may itself have another id.
	for cut := strings.LastIndexByte(id, '.'); cut > 0; cut = strings.LastIndexByte(id[:cut], '.') {
		piece, ok := p.gear.pieces[id[:cut]]
		if !ok {
			continue
		}
		chain := id[cut+1:]
		if piece.Chain != "" {
			chain = piece.Chain + "." + chain
		}
		if e := p.Equipment[piece.Instance]; e != nil {
			return e.Real(chain)
		}
	}
	return id
}

// OfType lists the equipment of a type below a folder, in the order of paths;
// every type where none is given.
func (p *Project) OfType(typ, below string) []string {
	var out []string
	root := p.FolderPath(below)
	for id, piece := range p.gear.pieces {
		path := p.paths.folder[id]
		if (typ == "" || piece.Type == typ) && (below == "" || id == below || root != "" && strings.HasPrefix(path, root+".")) {
			out = append(out, id)
		}
	}
	slices.SortFunc(out, func(a, b string) int { return tag.Compare(p.paths.folder[a], p.paths.folder[b]) })
	return out
}

// Array lists the members of the array that a tag or equipment belongs to, in
// their order: Bay[1], Bay[2], … for any one of them.
func (p *Project) Array(id string) []string {
	base := func(name string) string {
		if i := strings.LastIndexByte(name, '['); i > 0 {
			return name[:i]
		}
		return name
	}
	var out []string
	if t := p.Tags[id]; t != nil {
		for other, o := range p.Tags {
			if o.Folder == t.Folder && base(o.Name) == base(t.Name) {
				out = append(out, other)
			}
		}
	} else if f := p.Folders[id]; f != nil {
		for other, o := range p.Folders {
			if o.Parent == f.Parent && base(o.Name) == base(f.Name) {
				out = append(out, other)
			}
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		x, _ := p.Path(a)
		y, _ := p.Path(b)
		return tag.Compare(x, y)
	})
	return out
}

// dismantle takes an instance's folders and tags out.
func (p *Project) dismantle(id string) {
	m, ok := p.gear.made[id]
	if !ok {
		return
	}
	p.take(KindTag)
	p.take(KindFolder)
	p.takeGear()
	for _, t := range m.tags {
		delete(p.Tags, t)
		delete(p.gear.tags, t)
	}
	for _, f := range m.folders {
		delete(p.Folders, f)
		delete(p.gear.pieces, f)
	}
	for chain := range p.gear.alias {
		if root, _ := equipment.Root(chain); root == id {
			delete(p.gear.alias, chain)
		}
	}
	delete(p.gear.made, id)
}

// assemble makes an instance's folders and tags and takes their place among
// the project's.
func (p *Project) assemble(e *equipment.Instance) {
	p.dismantle(e.ID)
	p.take(KindTag)
	p.take(KindFolder)
	p.takeGear()
	x := equipment.Expand(e, p.Type)
	m := made{problems: x.Problems}
	for _, f := range x.Folders {
		folder := f.Folder
		p.Folders[f.ID] = &folder
		p.gear.pieces[f.ID] = Piece{e.ID, f.Chain, f.Type}
		m.folders = append(m.folders, f.ID)
		p.alias(e.ID, f.Chain, f.ID)
	}
	for _, t := range x.Tags {
		made := t.Tag
		if d := p.Devices[made.Device]; d != nil && made.Source == tag.Device {
			if _, err := d.CheckTag(&made); err == nil {
				d.Canonical(&made)
			}
		}
		p.Tags[t.ID] = &made
		p.gear.tags[t.ID] = GearTag{e.ID, t.Chain, t.Type, t.Member, t.Differs, SortedKeys(e.Differs[t.Chain])}
		m.tags = append(m.tags, t.ID)
		p.alias(e.ID, t.Chain, t.ID)
	}
	p.gear.made[e.ID] = m
}

func (p *Project) alias(instance, chain, id string) {
	usual := instance
	if chain != "" {
		usual += "." + chain
	}
	if usual != id {
		p.gear.alias[usual] = id
	}
}

func (p *Project) assembleAll() {
	for _, id := range SortedKeys(p.Equipment) {
		p.assemble(p.Equipment[id])
	}
}

// assembleTouched makes anew what an edit has touched: instances, those of
// types, and those that read a device.
func (p *Project) assembleTouched(touched *touchedThings) {
	again := map[string]bool{}
	for thing := range touched.stale {
		switch kind, id := thing[0], thing[1]; kind {
		case KindEquipment:
			again[id] = true
		case KindType:
			for _, e := range p.Equipment {
				if e.Type == id || equipment.Uses(e.Type, p.Type)[id] {
					again[e.ID] = true
				}
			}
		case KindDevice:
			for _, e := range p.Equipment {
				if e.Device == id {
					again[e.ID] = true
				}
			}
		}
	}
	clear(touched.stale)
	for _, id := range SortedKeys(again) {
		p.assembleAgain(id, touched)
	}
}

func (p *Project) assembleAgain(id string, touched *touchedThings) {
	before := map[string]*tag.Tag{}
	folders := map[string]*tag.Folder{}
	for _, t := range p.gear.made[id].tags {
		before[t] = p.Tags[t]
	}
	for _, f := range p.gear.made[id].folders {
		folders[f] = p.Folders[f]
	}
	if e := p.Equipment[id]; e != nil {
		p.assemble(e)
	} else {
		p.dismantle(id)
	}
	now := p.gear.made[id]
	if len(folders) != len(now.folders) {
		touched.folders, touched.stalePaths = true, true
	}
	for _, f := range now.folders {
		if old := folders[f]; old == nil || *old != *p.Folders[f] {
			touched.folders, touched.stalePaths = true, true
		}
	}
	for _, t := range now.tags {
		if old := before[t]; old != nil && reflect.DeepEqual(old, p.Tags[t]) {
			p.Tags[t] = old
		} else {
			touched.tags[t] = true
			touched.unindexed = append(touched.unindexed, t)
		}
		delete(before, t)
	}
	for t := range before {
		touched.tags[t] = true
		touched.unindexed = append(touched.unindexed, t)
	}
}

// ShownType returns a type with its formulas as people read them: members by
// their paths within the type.
func (p *Project) ShownType(t *equipment.Type) *equipment.Type {
	out, _ := convertType(t, func(f string) (string, error) {
		return formula.Show(f, func(id string) (string, bool) {
			if chain, ok := strings.CutPrefix(id, "."); ok {
				path, _, _, ok := equipment.Resolve(t, chain, p.Type)
				return path, ok
			}
			return p.Path(id)
		}), nil
	})
	return out
}

// StoreFormulaOf turns a formula typed at a member of a type into its stored
// form; a member goes before a tag of the same path.
func (p *Project) StoreFormulaOf(t *equipment.Type, text string) (string, error) {
	return formula.Store(text, func(path string) (string, bool) {
		if chain, at, _, ok := equipment.Find(t, path, p.Type); ok && at != nil {
			return "." + chain, true
		}
		return p.resolve(path)
	}, nil)
}

func (p *Project) putType(id string, doc json.RawMessage, shown bool) error {
	t := &equipment.Type{}
	if err := decode(doc, t); err != nil {
		return err
	}
	t.ID = id
	if t.Members == nil {
		t.Members = map[string]*equipment.Member{}
	}
	if place, err := t.Check(); err != nil {
		return at(place, err)
	}
	if shown {
		var err error
		if t, err = convertType(t, func(f string) (string, error) { return p.StoreFormulaOf(t, f) }); err != nil {
			return err
		}
	}
	p.Types[id] = t
	return nil
}

// convertType returns a copy with the formulas of its members replaced.
func convertType(t *equipment.Type, change func(string) (string, error)) (*equipment.Type, error) {
	c := *t
	c.Members = make(map[string]*equipment.Member, len(t.Members))
	for id, m := range t.Members {
		c.Members[id] = m
		if m.Tag == nil || m.Tag.Formula == "" {
			continue
		}
		f, err := change(m.Tag.Formula)
		if err != nil {
			return nil, at("/members/"+id+"/tag/formula", err)
		}
		n, g := *m, *m.Tag
		g.Formula = f
		n.Tag = &g
		c.Members[id] = &n
	}
	return &c, nil
}

// translate turns an edit of a tag or folder that equipment has made into one
// of the equipment. Any other edit is given back.
func (p *Project) translate(op Op) ([]Op, error) {
	switch op.Kind {
	case KindTag:
		if g, ok := p.gear.tags[op.ID]; ok {
			return p.translateTag(op, g)
		}
	case KindFolder:
		if piece, ok := p.gear.pieces[op.ID]; ok {
			return p.translateFolder(op, piece)
		}
	}
	return []Op{op}, nil
}

func (p *Project) translateFolder(op Op, piece Piece) ([]Op, error) {
	e := p.Equipment[piece.Instance]
	if piece.Chain != "" || e == nil {
		return nil, refuse(op.Kind, op.ID, op.Path, fmt.Errorf("%s comes of the type %s: change it there", p.FolderPath(op.ID), p.typeName(piece.Type)))
	}
	to := map[string]string{"": "", "/name": "/name", "/parent": "/folder", "/description": "/description", "/area": "/area"}
	path, ok := to[op.Path]
	if !ok || op.Path == "" && op.Value != nil {
		return nil, refuse(op.Kind, op.ID, op.Path, errors.New("equipment is edited as equipment"))
	}
	op.Kind, op.ID, op.Path = KindEquipment, e.ID, path
	return []Op{op}, nil
}

func (p *Project) typeName(id string) string {
	if t := p.Types[id]; t != nil {
		return t.Name
	}
	return "that is gone"
}

// translateTag turns what an edit sets at a tag into what its instance has for
// itself, where the type leaves that to its instances.
func (p *Project) translateTag(op Op, g GearTag) ([]Op, error) {
	path := p.paths.of[op.ID]
	if op.Path == "" && op.Value == nil {
		return nil, refuse(op.Kind, op.ID, "", fmt.Errorf("%s comes of the type %s: take it out there, or detach the equipment", path, p.typeName(g.Type)))
	}
	shown, _ := p.Shown(KindTag, op.ID)
	if op.Was != nil && !sameJSON(valueAt(shown, op.Path), op.Was) {
		return nil, &Refusal{Kind: op.Kind, ID: op.ID, Path: op.Path, Column: -1, Stale: true, Theirs: valueAt(shown, op.Path), Yours: op.Value, Message: "somebody changed this meanwhile: both versions are below"}
	}
	next, err := setValue(shown, op.Path, op.Value)
	if err != nil {
		return nil, refuse(op.Kind, op.ID, op.Path, err)
	}
	var was, now map[string]json.RawMessage
	if err := errors.Join(json.Unmarshal(shown, &was), json.Unmarshal(next, &now)); err != nil {
		return nil, refuse(op.Kind, op.ID, op.Path, err)
	}
	e := p.Equipment[g.Instance]
	plain := p.typical(e, g.Chain)
	var out []Op
	for _, name := range SortedKeys(union(was, now)) {
		if sameJSON(was[name], now[name]) {
			continue
		}
		if !slices.Contains(g.Differs, name) {
			return nil, refuse(op.Kind, op.ID, "/"+name, fmt.Errorf("%s of %s comes of the type %s: change it there, or let it differ from one instance to another", name, path, p.typeName(g.Type)))
		}
		step := Op{Kind: KindEquipment, ID: e.ID, Path: "/differs/" + g.Chain + "/" + name}
		switch {
		case sameJSON(plain[name], now[name]):
		case now[name] == nil:
			step.Value = json.RawMessage("null")
		default:
			step.Value = now[name]
		}
		out = append(out, step)
	}
	return out, nil
}

// typical is the document of a tag as it would be if its instance had nothing
// for itself there.
func (p *Project) typical(e *equipment.Instance, chain string) map[string]json.RawMessage {
	bare := *e
	bare.Differs = nil
	out := map[string]json.RawMessage{}
	for _, t := range equipment.Expand(&bare, p.Type).Tags {
		if t.Chain == chain {
			_ = json.Unmarshal(mustJSON(t.Tag), &out)
		}
	}
	return out
}

func union[T any](a, b map[string]T) map[string]bool {
	out := make(map[string]bool, len(a)+len(b))
	for k := range a {
		out[k] = true
	}
	for k := range b {
		out[k] = true
	}
	return out
}
