package project

import (
	"encoding/json"
	"slices"
	"strings"
)

// What a change may mean for those who show other things than the one it is of.

// treeFields are the properties that say where a thing stands and what it is called.
var treeFields = []string{"", "name", "folder", "parent"}

// plainTexts are properties whose texts name no other thing.
var plainTexts = []string{"description", "note", "unit", "title", "help", "sourceName", "initial", "address", "writeAddress"}

// Moves tells whether the change may be one of paths: a thing came or went, or has
// another name or place.
func (c *Change) Moves() bool {
	first, _, _ := strings.Cut(strings.TrimPrefix(c.Path, "/"), "/")
	return slices.Contains(treeFields, first)
}

// Names tells whether the change may be one of what names what: numbers and texts
// that are only read name nothing.
func (c *Change) Names() bool {
	plain := func(doc json.RawMessage) bool {
		return len(doc) == 0 || !strings.ContainsAny(string(doc[:1]), `"{[`)
	}
	last := c.Path[strings.LastIndexByte(c.Path, '/')+1:]
	if c.Path == "" {
		return true
	}
	return !slices.Contains(plainTexts, last) && !(plain(c.Before) && plain(c.After))
}
