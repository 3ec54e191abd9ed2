package exchange

import (
	"encoding/json"
	"errors"
	"maps"
	"reflect"
	"slices"
	"sort"
	"strconv"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Status of a line of an import.
type Status string

// The statuses.
const (
	New      Status = "new"
	Changed  Status = "changed"
	Same     Status = "same"
	Gone     Status = "gone"     // in the project, from this source, and no longer in the list
	Clashing Status = "clashing" // list and project mean different things by one path
	Refused  Status = "refused"
)

// Statuses lists them in the order in which they are shown.
var Statuses = []Status{New, Changed, Same, Gone, Clashing, Refused}

// Difference is one field that an import would change.
type Difference struct {
	Field string `json:"field"`
	Was   string `json:"was"`
	Now   string `json:"now"`
}

// Line is what an import would do with one row, or with a tag that the list
// no longer has.
type Line struct {
	Key         string       `json:"key"`  // tells the line from others of the preview
	Line        int          `json:"line"` // in the source; 0 for a tag that is gone
	Path        string       `json:"path"`
	Type        string       `json:"type"`
	Address     string       `json:"address"`
	Status      Status       `json:"status" enum:"new,changed,same,gone,clashing,refused"`
	Was         string       `json:"was,omitempty"`     // what the source calls it
	Renames     string       `json:"renames,omitempty"` // path of the tag that it would rename
	Column      string       `json:"column,omitempty"`  // of a refusal
	Reason      say.Text     `json:"reason,omitzero"`   // why it is refused or clashes
	Differences []Difference `json:"differences,omitempty"`

	tag    *tag.Tag
	id     string // of the tag it changes
	parent string // path of the folder
}

// Takes tells whether the line is applied when nobody says otherwise: what is
// new or changed is, what would delete or overrule is not.
func (l *Line) Takes() bool { return l.Status == New || l.Status == Changed }

// Can tells whether the line could be applied at all.
func (l *Line) Can() bool {
	return l.Takes() || l.Status == Gone || l.Status == Clashing && l.tag != nil
}

// Options of a preview.
type Options struct {
	Device    string   `json:"device,omitempty" doc:"id for rows that name none"`
	Leave     []string `json:"leave,omitempty" maxItems:"1000" doc:"folders that are left out"`
	Keep      []string `json:"keep,omitempty" maxItems:"50" doc:"columns in which the project's value wins over the list's"`
	NoRenames bool     `json:"noRenames,omitempty" doc:"take a tag with the address of one that is gone as a new one"`
}

// Preview compares rows with a project. Nothing is changed.
func Preview(rows []Row, p *project.Project, o Options) []Line {
	x := newIndex(p)
	if o.Device != "" {
		x.only = o.Device
	}
	out := make([]Line, 0, len(rows))
	seen := map[string]int{}
	for _, row := range rows {
		if left(row.Fields["path"], o.Leave) {
			continue
		}
		l := x.preview(row, o.Keep)
		l.Key = "r" + strconv.Itoa(len(out))
		if first, twice := seen[tag.Key(l.Path)]; l.Status != Refused && twice {
			l.clash("path", say.Errorf("this path stands in line %d already", first))
			l.tag = nil
		} else if l.Status != Refused {
			seen[tag.Key(l.Path)] = row.Line
		}
		out = append(out, l)
	}
	return x.gone(out, o)
}

// Count counts the lines by status.
func Count(lines []Line) map[Status]int {
	out := map[Status]int{}
	for _, s := range Statuses {
		out[s] = 0
	}
	for i := range lines {
		out[lines[i].Status]++
	}
	return out
}

func left(path string, leave []string) bool {
	key := tag.Key(path)
	for _, l := range leave {
		if k := tag.Key(l); key == k || strings.HasPrefix(key, k+".") || strings.HasPrefix(key, k+"[") {
			return true
		}
	}
	return false
}

func (l *Line) refuse(column string, why error) {
	l.Status, l.Column, l.Reason, l.Differences = Refused, column, say.Text{Why: why}, nil
}

func (l *Line) clash(column string, why error) {
	l.Status, l.Column, l.Reason = Clashing, column, say.Text{Why: why}
}

func (x *index) preview(row Row, keep []string) Line {
	path := row.Fields["path"]
	l := Line{Line: row.Line, Path: path, Type: row.Fields["type"], Address: row.Fields["address"], Was: row.Was}
	if row.Problem != nil {
		l.refuse(row.Problem.Column, row.Problem.Why)
		return l
	}
	if err := tag.CheckPath(path); err != nil {
		var pe *tag.PathError
		errors.As(err, &pe)
		l.refuse("path", pe.Why)
		return l
	}
	if i := strings.LastIndexByte(path, '.'); i >= 0 {
		l.parent = path[:i]
	}
	t := &tag.Tag{}
	id, exists := x.p.FindPath(path)
	var old *tag.Tag
	if exists {
		old = x.p.ShownTag(x.p.Tags[id])
		*t = *old
		row = row.without(keep)
	} else {
		t.Name = path[strings.LastIndexByte(path, '.')+1:]
	}
	if err := x.apply(t, row); err != nil {
		var c *Cell
		errors.As(err, &c)
		l.refuse(c.Column, c.Why)
		return l
	}
	if err := x.check(t); err != nil {
		l.refuse(err.Column, err.Why)
		return l
	}
	x.resolveLimits(t)
	l.tag, l.id, l.Type, l.Address = t, id, t.Type.String(), t.Address
	if t.Source == tag.System {
		l.Address = systemAddress(x.p, t)
	}
	if !exists {
		l.Status = New
		return l
	}
	x.compare(&l, old, path)
	return l
}

// without is the row less some columns.
func (r Row) without(columns []string) Row {
	if len(columns) == 0 {
		return r
	}
	r.Fields = maps.Clone(r.Fields)
	for _, c := range columns {
		delete(r.Fields, c)
	}
	return r
}

// compare settles a line whose tag is in the project already.
func (x *index) compare(l *Line, old *tag.Tag, oldPath string) {
	if reflect.DeepEqual(old, l.tag) {
		l.Status = Same
		return
	}
	l.Status = Changed
	was, now := record(x.p, old, oldPath), record(x.p, l.tag, l.Path)
	for i, c := range Columns {
		if was[i] != now[i] {
			l.Differences = append(l.Differences, Difference{c, was[i], now[i]})
		}
	}
	switch {
	case old.Source != l.tag.Source:
		l.clash("source", say.Errorf("the project has it as %s: tick it to let the list win", say.Term(old.Source)))
	case old.Device != l.tag.Device:
		l.clash("device", say.New("the project has it on another device: tick it to let the list win"))
	}
}

// resolveLimits turns limit tags given as paths into ids where the project has
// them; those that the list itself brings are found when it is applied.
func (x *index) resolveLimits(t *tag.Tag) {
	for _, ref := range []*string{&t.LowTag, &t.HighTag} {
		if id, ok := x.p.FindPath(*ref); ok && *ref != "" {
			*ref = id
		}
	}
}

// check runs the checks that an edit would, so that the preview refuses what
// applying would refuse.
func (x *index) check(t *tag.Tag) *Cell {
	columnOf := map[string]string{"scale": "raw_low", "low": "limit_low", "group": "poll", "writeAddress": "write_address",
		"system": "address", "plausible": "plausible_low"}
	name := func(field string) string {
		if c, ok := columnOf[field]; ok {
			return c
		}
		return field
	}
	if t.Source == tag.Device && t.Access == "" {
		t.Access = tag.Read
	}
	if field, err := t.Check(); err != nil {
		return &Cell{name(field), err}
	}
	if d := x.p.Devices[t.Device]; t.Source == tag.Device && d != nil {
		if field, err := d.CheckTag(t); err != nil {
			return &Cell{name(field), err}
		}
		d.Canonical(t)
	}
	if t.Formula != "" {
		if _, err := formula.Store(t.Formula, func(string) (string, bool) { return "x", true }, nil); err != nil {
			return &Cell{"formula", err}
		}
	}
	return nil
}

// gone finds the tags of the list's devices that the list no longer has, and
// among them those that only changed their name: one with the same address,
// device and type has come new.
func (x *index) gone(lines []Line, o Options) []Line {
	type place struct {
		device, address string
		typ             value.Type
	}
	devices, listed := map[string]bool{}, map[string]bool{}
	fresh := map[place]int{}
	for i := range lines {
		l := &lines[i]
		listed[tag.Key(l.Path)] = true
		if l.tag == nil || l.tag.Source != tag.Device {
			continue
		}
		devices[l.tag.Device] = true
		if l.Status == New {
			at := place{l.tag.Device, l.tag.Address, l.tag.Type}
			if _, twice := fresh[at]; twice {
				fresh[at] = -1 // two newcomers at one place: neither is the old one
			} else {
				fresh[at] = i
			}
		}
	}
	whole := x.wholeLists(listed)
	for _, id := range x.p.SortedTags() {
		t := x.p.Tags[id]
		path, _ := x.p.Path(id)
		if t.Source != tag.Device || !devices[t.Device] || listed[tag.Key(path)] || left(path, o.Leave) {
			continue
		}
		if i, ok := fresh[place{t.Device, t.Address, t.Type}]; ok && i >= 0 && !o.NoRenames && whole[t.Device] && lines[i].Renames == "" {
			x.rename(&lines[i], t, path)
			continue
		}
		lines = append(lines, Line{Key: "g" + id, Path: path, Type: t.Type.String(), Address: t.Address, Status: Gone, id: id})
	}
	return lines
}

// wholeLists tells of which devices a list names at least half of the tags: only
// then does a missing name beside a new one at its address mean a rename. A
// list of a few further tags renames nothing.
func (x *index) wholeLists(listed map[string]bool) map[string]bool {
	all, named := map[string]int{}, map[string]int{}
	for id, t := range x.p.Tags {
		if t.Source != tag.Device {
			continue
		}
		all[t.Device]++
		if path, _ := x.p.Path(id); listed[tag.Key(path)] {
			named[t.Device]++
		}
	}
	out := map[string]bool{}
	for device, n := range all {
		out[device] = 2*named[device] >= n
	}
	return out
}

// rename turns a new line into the change of an old tag's name. What the list
// does not say stays as it was.
func (x *index) rename(l *Line, t *tag.Tag, path string) {
	old := x.p.ShownTag(t)
	merged := *l.tag
	merged.ID, merged.Folder = old.ID, old.Folder
	for _, keep := range []struct {
		column string
		copy   func()
	}{
		{"description", func() { merged.Description = old.Description }}, {"unit", func() { merged.Unit = old.Unit }},
		{"decimals", func() { merged.Decimals = old.Decimals }},
		{"raw_low", func() { merged.Scale = old.Scale }}, {"limit_low", func() { merged.Low, merged.LowTag = old.Low, old.LowTag }},
		{"limit_high", func() { merged.High, merged.HighTag = old.High, old.HighTag }},
		{"states", func() { merged.States = old.States }}, {"area", func() { merged.Area = old.Area }},
		{"access", func() { merged.Access = old.Access }},
	} {
		blank := record(x.p, &merged, "")[slices.Index(Columns, keep.column)]
		if blank == "" || keep.column == "access" {
			keep.copy()
		}
	}
	merged.Behaviour, merged.Order, merged.Group = old.Behaviour, old.Order, old.Group
	merged.Poll, merged.Step, merged.Plausible = old.Poll, old.Step, old.Plausible
	l.tag, l.id, l.Renames = &merged, t.ID, path
	cmp := *old
	cmp.Name = merged.Name
	x.compare(l, &cmp, path)
	l.Status = Changed
	if len(l.Differences) == 0 || l.Differences[0].Field != "path" {
		l.Differences = append([]Difference{{"path", path, l.Path}}, l.Differences...)
	}
}

// Ops returns the edit that brings in the lines that take says; those that are
// applied of themselves when it is nil. newID makes ids.
func Ops(lines []Line, p *project.Project, take func(*Line) bool, newID func(kind string) string) []project.Op {
	if take == nil {
		take = (*Line).Takes
	}
	folders := project.NewFolders(p, newID)
	var tags []project.Op
	made := map[string]string{} // path key to the id of a tag that this makes
	var list []*Line
	for i := range lines {
		l := &lines[i]
		if !l.Can() || !take(l) {
			continue
		}
		list = append(list, l)
		if l.Status == New && l.id == "" {
			made[tag.Key(l.Path)] = newID(project.KindTag)
		}
	}
	// What goes makes room for what comes.
	sort.SliceStable(list, func(i, j int) bool { return list[i].Status == Gone && list[j].Status != Gone })
	for _, l := range list {
		if l.Status == Gone {
			tags = append(tags, project.Op{Kind: project.KindTag, ID: l.id})
			continue
		}
		t := *l.tag
		if l.id != "" {
			t.ID = l.id
		} else {
			t.ID = made[tag.Key(l.Path)]
		}
		if l.id == "" || l.Renames != "" {
			t.Folder = folders.ID(l.parent)
			t.Name = l.Path[strings.LastIndexByte(l.Path, '.')+1:]
		}
		for _, ref := range []*string{&t.LowTag, &t.HighTag} {
			if id, ok := made[tag.Key(*ref)]; ok {
				*ref = id
			}
		}
		doc, _ := json.Marshal(&t)
		tags = append(tags, project.Op{Kind: project.KindTag, ID: t.ID, Value: doc})
	}
	return append(folders.Ops(), tags...)
}
