package exchange

import (
	"encoding/json"
	"errors"
	"reflect"
	"strconv"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
)

// Status of a line of an import.
type Status string

// The statuses.
const (
	New     Status = "new"
	Changed Status = "changed"
	Same    Status = "same"
	Refused Status = "refused"
)

// Difference is one field that an import would change.
type Difference struct {
	Field string `json:"field"`
	Was   string `json:"was"`
	Now   string `json:"now"`
}

// Line is what an import would do with one row.
type Line struct {
	Line        int          `json:"line"`
	Path        string       `json:"path"`
	Type        string       `json:"type"`
	Address     string       `json:"address"`
	Status      Status       `json:"status"`
	Column      string       `json:"column,omitempty"` // of a refusal
	Reason      string       `json:"reason,omitempty"`
	Differences []Difference `json:"differences,omitempty"`

	tag    *tag.Tag
	parent string // path of the folder
}

// Preview compares rows with a project. Nothing is changed.
func Preview(rows []Row, p *project.Project) []Line {
	out := make([]Line, 0, len(rows))
	seen := map[string]int{}
	for _, row := range rows {
		l := preview(row, p)
		if first, twice := seen[tag.Key(l.Path)]; twice && l.Status != Refused {
			l.refuse("path", "this path stands in line "+strconv.Itoa(first)+" already")
		} else if l.Status != Refused {
			seen[tag.Key(l.Path)] = row.Line
		}
		out = append(out, l)
	}
	return out
}

func (l *Line) refuse(column, reason string) {
	l.Status, l.Column, l.Reason, l.Differences = Refused, column, reason, nil
}

func preview(row Row, p *project.Project) Line {
	path := row.Fields["path"]
	l := Line{Line: row.Line, Path: path, Type: row.Fields["type"], Address: row.Fields["address"]}
	if err := tag.CheckPath(path); err != nil {
		var pe *tag.PathError
		errors.As(err, &pe)
		l.refuse("path", pe.Reason)
		return l
	}
	segments := tag.Split(path)
	l.parent = strings.Join(segments[:len(segments)-1], ".")
	t := &tag.Tag{}
	id, exists := p.FindPath(path)
	if exists {
		old, _ := p.Tag(id)
		*t = *p.ShownTag(old)
	} else {
		t.Name = segments[len(segments)-1]
	}
	if err := apply(t, row, p); err != nil {
		var c *Cell
		errors.As(err, &c)
		l.refuse(c.Column, c.Reason)
		return l
	}
	if err := check(t, p); err != nil {
		l.refuse(err.Column, err.Reason)
		return l
	}
	l.tag, l.Type, l.Address = t, t.Type.String(), t.Address
	if !exists {
		l.Status = New
		return l
	}
	old, _ := p.Tag(id)
	if reflect.DeepEqual(p.ShownTag(old), t) {
		l.Status = Same
		return l
	}
	l.Status = Changed
	was, now := record(p, p.ShownTag(old)), record(p, t)
	for i, c := range Columns {
		if was[i] != now[i] {
			l.Differences = append(l.Differences, Difference{c, was[i], now[i]})
		}
	}
	return l
}

// check runs the checks that an edit would, so that the preview refuses what
// applying would refuse.
func check(t *tag.Tag, p *project.Project) *Cell {
	columnOf := map[string]string{"scale": "raw_low", "low": "limit_low"}
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
		return &Cell{name(field), err.Error()}
	}
	if d := p.Devices[t.Device]; t.Source == tag.Device && d != nil {
		if field, err := d.CheckTag(t); err != nil {
			return &Cell{name(field), err.Error()}
		}
		a, _ := device.ParseAddress(t.Address)
		t.Address = a.String()
	}
	if t.Formula != "" {
		if _, err := formula.Store(t.Formula, func(string) (string, bool) { return "x", true }, nil); err != nil {
			return &Cell{"formula", err.Error()}
		}
	}
	return nil
}

// Ops returns the edit that brings in the lines whose numbers are taken; all
// new and changed ones when taken is nil. newID makes ids.
func Ops(lines []Line, p *project.Project, taken map[int]bool, newID func(kind string) string) []project.Op {
	var ops []project.Op
	folders := map[string]string{}
	var folder func(path string) string
	folder = func(path string) string {
		if id, ok := p.FindFolder(path); ok {
			return id
		}
		if id, ok := folders[tag.Key(path)]; ok {
			return id
		}
		parent, name := "", path
		if i := strings.LastIndexByte(path, '.'); i >= 0 {
			parent, name = path[:i], path[i+1:]
		}
		id := newID(project.KindFolder)
		folders[tag.Key(path)] = id
		doc, _ := json.Marshal(tag.Folder{ID: id, Parent: folder(parent), Name: name})
		ops = append(ops, project.Op{Kind: project.KindFolder, ID: id, Value: doc})
		return id
	}
	for _, l := range lines {
		if l.Status != New && l.Status != Changed || taken != nil && !taken[l.Line] {
			continue
		}
		t := *l.tag
		if l.Status == New {
			t.ID = newID(project.KindTag)
			t.Folder = folder(l.parent)
		}
		doc, _ := json.Marshal(&t)
		ops = append(ops, project.Op{Kind: project.KindTag, ID: t.ID, Value: doc})
	}
	return ops
}
