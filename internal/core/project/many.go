package project

import (
	"encoding/json"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// Planned is a tag that an edit in bulk would make or move.
type Planned struct {
	Path    string   `json:"path"`
	Address string   `json:"address"`
	From    string   `json:"from,omitempty"`   // path of the tag it comes from
	Text    string   `json:"text,omitempty"`   // its description; of an alarm, its message
	Used    string   `json:"used,omitempty"`   // path of a tag that has something of the same address
	Problem say.Text `json:"problem,omitzero"` // why it cannot be
}

// Many makes tags by a pattern; see tag.ExpandRanges.
type Many struct {
	Path    string  `json:"path" maxLength:"500" doc:"pattern, such as Zone[1..12].Temperature"`
	Address string  `json:"address,omitempty" maxLength:"1000" doc:"of the first; {1} in it is the first range's number"`
	Step    int     `json:"step,omitempty" doc:"registers or bits from one to the next; 0 is the size of the type"`
	Tag     tag.Tag `json:"tag" doc:"what they share"`
}

// PlanMany says what the pattern makes, and the edit that makes it where
// nothing stands against it.
func (p *Project) PlanMany(m Many, newID func(string) string) ([]Planned, []Op, error) {
	ranged, err := tag.ExpandRanges(strings.TrimSpace(m.Path))
	if err != nil {
		return nil, nil, err
	}
	plan := p.newPlan(newID)
	d := p.Devices[m.Tag.Device]
	for i, r := range ranged {
		t := m.Tag
		t.Description = r.Numbered(t.Description)
		var problem error
		if t.Source == tag.Device {
			if t.Address = r.Numbered(m.Address); d != nil && t.Address == m.Address && i > 0 {
				step := m.Step
				if step == 0 {
					step = device.StepOf(m.Address, t.Type)
				}
				next, err := d.Step(m.Address, t.Type, i*step)
				if err != nil {
					problem = err
				} else {
					t.Address = next
				}
			}
		}
		t.Formula = r.Numbered(t.Formula)
		plan.add(r.Path, t, "", problem)
	}
	return plan.done()
}

// plan gathers tags to be made.
type plan struct {
	p       *Project
	newID   func(string) string
	folders *Folders
	seen    map[string]bool
	taken   *occupied
	list    []Planned
	ops     []Op
}

func (p *Project) newPlan(newID func(string) string) *plan {
	return &plan{p: p, newID: newID, folders: NewFolders(p, newID), seen: map[string]bool{}, taken: p.occupied()}
}

// add plans a tag and returns its id, empty where it cannot be.
func (pl *plan) add(path string, t tag.Tag, from string, problem error) string {
	item := Planned{Path: path, Address: t.Address, From: from, Text: t.Description, Problem: say.Text{Why: problem}}
	item.Used = pl.taken.other("", &t)
	if t.Formula != "" {
		item.Address = t.Formula
	}
	if problem == nil {
		item.Problem.Why = pl.check(path, &t)
	}
	pl.seen[tag.Key(path)] = true
	pl.list = append(pl.list, item)
	if !item.Problem.IsZero() {
		return ""
	}
	t.ID = pl.newID(KindTag)
	parent := ""
	if i := strings.LastIndexByte(path, '.'); i >= 0 {
		parent = path[:i]
	}
	t.Folder = pl.folders.ID(parent)
	doc, _ := json.Marshal(&t)
	pl.ops = append(pl.ops, Op{Kind: KindTag, ID: t.ID, Value: doc})
	return t.ID
}

func (pl *plan) check(path string, t *tag.Tag) error {
	if err := tag.CheckPath(path); err != nil {
		return err
	}
	t.Name = path[strings.LastIndexByte(path, '.')+1:]
	if _, exists := pl.p.FindPath(path); exists {
		return say.New("there is already a tag with this path")
	}
	if pl.seen[tag.Key(path)] {
		return say.New("this path is made twice")
	}
	if t.Source == tag.Device && t.Access == "" {
		t.Access = tag.Read
	}
	if _, err := t.Check(); err != nil {
		return err
	}
	if t.Source == tag.Device {
		d := pl.p.Devices[t.Device]
		if d == nil {
			return say.New("a device tag needs its device")
		}
		if _, err := d.CheckTag(t); err != nil {
			return err
		}
	}
	return nil
}

func (pl *plan) done() ([]Planned, []Op, error) {
	return pl.list, append(pl.folders.Ops(), pl.ops...), nil
}

// Move puts tags and folders elsewhere. References are by id, so every
// formula, binding and text follows of itself.
type Move struct {
	Tags    []string `json:"tags,omitempty" maxItems:"200000" doc:"ids"`
	Folders []string `json:"folders,omitempty" maxItems:"20000" doc:"ids"`
	To      string   `json:"to" maxLength:"250" doc:"path of a folder; it is made where there is none, empty is the top"`
	Name    string   `json:"name,omitempty" maxLength:"64" doc:"a new name, where one thing alone is moved"`
}

// PlanMove says what moves where, and how many places refer to it and follow.
func (p *Project) PlanMove(m Move, newID func(string) string) (list []Planned, places int, ops []Op, err error) {
	if m.To != "" {
		if err := tag.CheckPath(m.To); err != nil {
			return nil, 0, nil, err
		}
	}
	if m.Name != "" && len(m.Tags)+len(m.Folders) != 1 {
		return nil, 0, nil, say.New("one thing at a time takes a new name")
	}
	folders := NewFolders(p, newID)
	to := folders.ID(m.To)
	moved := map[string]bool{}
	name := func(old string) string {
		if m.Name != "" {
			return m.Name
		}
		return old
	}
	set := func(kind, id, pointer, v string) {
		doc, _ := json.Marshal(v)
		if v == "" {
			doc = nil
		}
		ops = append(ops, Op{Kind: kind, ID: id, Path: pointer, Value: doc})
	}
	for _, id := range m.Folders {
		f := p.Folders[id]
		if f == nil {
			return nil, 0, nil, say.New("somebody deleted a folder meanwhile")
		}
		set(KindFolder, id, "/parent", to)
		set(KindFolder, id, "/name", name(f.Name))
		_, below := p.Below(id)
		for t := range below {
			moved[t] = true
		}
		list = append(list, Planned{Path: join(m.To, name(f.Name)), From: p.FolderPath(id)})
	}
	for _, id := range m.Tags {
		t := p.Tags[id]
		if t == nil {
			return nil, 0, nil, say.New("somebody deleted a tag meanwhile")
		}
		set(KindTag, id, "/folder", to)
		set(KindTag, id, "/name", name(t.Name))
		moved[id] = true
		item := Planned{Path: join(m.To, name(t.Name)), From: p.paths.of[id], Address: t.Address}
		if other, taken := p.FindPath(item.Path); taken && other != id {
			item.Problem.Why = say.New("there is already a tag with this path")
		}
		list = append(list, item)
	}
	places = len(p.UsesOf(moved))
	return list, places, append(folders.Ops(), ops...), nil
}
