package project

import (
	"maps"
	"reflect"
	"slices"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/tag"
)

// gear is what the equipment of a version has become: its tags and pieces
// stand among the project's, and here it says whose they are.
type gear struct {
	tags   map[string]GearTag // by the tag's id
	alarms map[string]GearTag // by the alarm's id
	pieces map[string]Piece   // by the folder's id
	alias  map[string]string  // id by chain to the id it really has, where they differ
	made   map[string]made    // by instance
}

// GearTag says of which equipment a tag or an alarm is.
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
	tags, folders, alarms []string
	problems              []equipment.Problem
}

func newGear() *gear {
	return &gear{tags: map[string]GearTag{}, alarms: map[string]GearTag{}, pieces: map[string]Piece{}, alias: map[string]string{},
		made: map[string]made{}}
}

const ownGear = "gear"

func (p *Project) takeGear() {
	if p.own[ownGear] {
		return
	}
	p.own[ownGear] = true
	g := p.gear
	p.gear = &gear{tags: maps.Clone(g.tags), alarms: maps.Clone(g.alarms), pieces: maps.Clone(g.pieces), alias: maps.Clone(g.alias),
		made: maps.Clone(g.made)}
}

// Type finds a type of equipment by id, nil where there is none.
func (p *Project) Type(id string) *equipment.Type { return p.Types[id] }

// GearTag says of which equipment a tag is.
func (p *Project) GearTag(id string) (GearTag, bool) { g, ok := p.gear.tags[id]; return g, ok }

// GearAlarm says of which equipment an alarm is.
func (p *Project) GearAlarm(id string) (GearTag, bool) { g, ok := p.gear.alarms[id]; return g, ok }

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

// dismantle takes an instance's folders and tags out.
func (p *Project) dismantle(id string) {
	m, ok := p.gear.made[id]
	if !ok {
		return
	}
	p.take(KindTag)
	p.take(KindFolder)
	p.take(KindAlarm)
	p.takeGear()
	for _, t := range m.tags {
		delete(p.Tags, t)
		delete(p.gear.tags, t)
	}
	for _, f := range m.folders {
		delete(p.Folders, f)
		delete(p.gear.pieces, f)
	}
	for _, a := range m.alarms {
		delete(p.Alarms, a)
		delete(p.gear.alarms, a)
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
	p.take(KindAlarm)
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
	for _, a := range x.Alarms {
		made := a.Alarm
		p.Alarms[a.ID] = &made
		p.gear.alarms[a.ID] = GearTag{e.ID, a.Chain, a.Type, a.Member, a.Differs, SortedKeys(e.Differs[a.Chain])}
		m.alarms = append(m.alarms, a.ID)
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
	alarms := map[string]*alarm.Alarm{}
	for _, a := range p.gear.made[id].alarms {
		alarms[a] = p.Alarms[a]
	}
	if e := p.Equipment[id]; e != nil {
		p.assemble(e)
	} else {
		p.dismantle(id)
	}
	now := p.gear.made[id]
	for _, a := range now.alarms {
		// What did not change stays the same thing to who compares.
		if old := alarms[a]; old != nil && *old == *p.Alarms[a] {
			p.Alarms[a] = old
		}
	}
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
