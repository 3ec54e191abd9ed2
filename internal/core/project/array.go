package project

import (
	"slices"
	"strings"

	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// Array lists what differs from a tag or folder in an index of its path alone,
// itself among them, in the order of the paths: for Press1.Fan[2].Speed the
// Speed of every Fan of Press1. which says what index runs, where a path has
// several. A name without an index is an array of one.
func (p *Project) Array(id string, which screen.Index) []string {
	path, ok := p.Path(id)
	if !ok || path == "" {
		return nil
	}
	_, isTag := p.Tags[id]
	segments := strings.Split(path, ".")
	runs := running(segments, which)
	heads := []string{""}
	for i, s := range segments {
		var next []string
		for _, head := range heads {
			names := []string{s}
			if runs[i] {
				names = p.alike(head, s, isTag && i == len(segments)-1)
			}
			for _, name := range names {
				next = append(next, join(head, name))
			}
		}
		heads = next
	}
	find := p.FindFolder
	if isTag {
		find = p.FindPath
	}
	var out []string
	for _, path := range heads {
		if id, ok := find(path); ok {
			out = append(out, id)
		}
	}
	slices.SortFunc(out, func(a, b string) int { return tag.Compare(p.pathOf(a), p.pathOf(b)) })
	return out
}

// Indices counts the segments of a path that have an index.
func (p *Project) Indices(id string) int {
	n := 0
	for _, s := range strings.Split(p.pathOf(id), ".") {
		if _, ok := unindexed(s); ok {
			n++
		}
	}
	return n
}

// Beside is what stands to the second of two things of an array as one stands
// to the first: with Fan[1] and Fan[3], Fan[3].Running for Fan[1].Running.
// What does not lie below the first, and a plain value, is itself. ok is false
// where there is no such thing.
func (p *Project) Beside(first, second, id string) (beside string, ok bool) {
	if p.pathOf(first) == "" || p.pathOf(id) == "" {
		return id, true
	}
	from, to, path := strings.Split(p.pathOf(first), "."), strings.Split(p.pathOf(second), "."), strings.Split(p.pathOf(id), ".")
	last := len(from) - 1
	for last >= 0 && len(from) == len(to) && from[last] == to[last] {
		last--
	}
	if last < 0 || len(from) != len(to) || len(path) <= last || !slices.Equal(path[:last+1], from[:last+1]) {
		return id, true
	}
	wanted := strings.Join(slices.Concat(to[:last+1], path[last+1:]), ".")
	if _, isTag := p.Tags[id]; isTag {
		return p.FindPath(wanted)
	}
	return p.FindFolder(wanted)
}

func (p *Project) pathOf(id string) string {
	path, _ := p.Path(id)
	return path
}

// running marks the segments whose index runs.
func running(segments []string, which screen.Index) []bool {
	out := make([]bool, len(segments))
	last := -1
	for i, s := range segments {
		if _, ok := unindexed(s); !ok {
			continue
		}
		switch {
		case which == screen.EveryIndex, which == screen.FirstIndex && last < 0:
			out[i] = true
		}
		last = i
	}
	if which != screen.EveryIndex && which != screen.FirstIndex && last >= 0 {
		out[last] = true
	}
	return out
}

// alike lists the names in a folder that differ from a name in its index.
func (p *Project) alike(folder, name string, tags bool) []string {
	base, _ := unindexed(name)
	in := ""
	if folder != "" {
		id, ok := p.FindFolder(folder)
		if !ok {
			return nil
		}
		in = id
	}
	var out []string
	add := func(parent, other string) {
		if b, ok := unindexed(other); parent == in && ok && b == base {
			out = append(out, other)
		}
	}
	if tags {
		for _, t := range p.Tags {
			add(t.Folder, t.Name)
		}
		return out
	}
	for _, f := range p.Folders {
		add(f.Parent, f.Name)
	}
	return out
}

// unindexed is a name before its index.
func unindexed(name string) (base string, ok bool) {
	if i := strings.LastIndexByte(name, '['); i > 0 && strings.HasSuffix(name, "]") {
		return name[:i], true
	}
	return name, false
}
