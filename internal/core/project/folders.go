package project

import (
	"encoding/json"
	"strings"

	"readyrail/internal/core/tag"
)

// Folders finds folders by path for an edit under way, and makes those that
// are missing.
type Folders struct {
	p     *Project
	newID func(kind string) string
	made  map[string]string
	ops   []Op
}

// NewFolders begins; newID makes ids.
func NewFolders(p *Project, newID func(kind string) string) *Folders {
	return &Folders{p: p, newID: newID, made: map[string]string{}}
}

// ID returns the id of the folder at a path; the empty path is the top.
func (f *Folders) ID(path string) string {
	if id, ok := f.p.FindFolder(path); ok {
		return id
	}
	if id, ok := f.made[tag.Key(path)]; ok {
		return id
	}
	parent, name := "", path
	if i := strings.LastIndexByte(path, '.'); i >= 0 {
		parent, name = path[:i], path[i+1:]
	}
	id := f.newID(KindFolder)
	f.made[tag.Key(path)] = id
	doc, _ := json.Marshal(tag.Folder{ID: id, Parent: f.ID(parent), Name: name})
	f.ops = append(f.ops, Op{Kind: KindFolder, ID: id, Value: doc})
	return id
}

// Ops is the part of the edit that makes the missing folders.
func (f *Folders) Ops() []Op { return f.ops }

// SpreadNames reads a dot in the name of a tag, a new one or a changed one, as
// the way to a folder, from where the tag lies: naming A.Speed "Fan.Speed" moves
// it to A.Fan.Speed. Folders that are missing are made by the edit; ops that
// name no folder stay as they are.
func SpreadNames(p *Project, ops []Op, newID func(kind string) string) []Op {
	folders := NewFolders(p, newID)
	out := make([]Op, 0, len(ops))
	for _, op := range ops {
		steps := folders.spread(op)
		out = append(out, folders.TakeOps()...)
		out = append(out, steps...)
	}
	return out
}

// spread parts the dotted name that an op gives to a tag.
func (f *Folders) spread(op Op) []Op {
	asIs := []Op{op}
	if op.Kind != KindTag || op.Path != "" && op.Path != "/name" {
		return asIs
	}
	doc := map[string]json.RawMessage{}
	name, folder := "", ""
	if op.Path == "/name" {
		if json.Unmarshal(op.Value, &name) != nil {
			return asIs
		}
		if t, ok := f.p.Tag(op.ID); ok {
			folder = t.Folder
		}
	} else if json.Unmarshal(op.Value, &doc) != nil || json.Unmarshal(doc["name"], &name) != nil ||
		doc["folder"] != nil && json.Unmarshal(doc["folder"], &folder) != nil {
		return asIs
	}
	cut := strings.LastIndexByte(name, '.')
	if cut < 0 {
		return asIs
	}
	way := name[:cut]
	if at := f.p.FolderPath(folder); at != "" {
		way = at + "." + way
	}
	last, _ := json.Marshal(name[cut+1:])
	to, _ := json.Marshal(f.ID(way))
	if op.Path == "/name" {
		op.Value = last
		return []Op{{Kind: KindTag, ID: op.ID, Path: "/folder", Value: to}, op}
	}
	doc["name"], doc["folder"] = last, to
	op.Value, _ = json.Marshal(doc)
	return []Op{op}
}

// TakeOps is the part of the edit that makes the folders that were missing
// since it was asked last.
func (f *Folders) TakeOps() []Op {
	ops := f.ops
	f.ops = nil
	return ops
}
