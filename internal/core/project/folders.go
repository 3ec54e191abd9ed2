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
