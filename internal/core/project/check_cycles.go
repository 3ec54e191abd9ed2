package project

import (
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"slices"
	"strings"
)

// cycles finds computed tags that depend on themselves.
func (c *checker) cycles() {
	for _, cycle := range c.p.Cycles() {
		var names []string
		for _, id := range cycle {
			names = append(names, c.p.paths.of[id])
		}
		c.add("tag.cycle", Error, KindTag, cycle[0], "/formula", names[0], "members", strings.Join(append(names, names[0]), " → "))
	}
}

// Cycles lists the rings of computed tags, each as the ids on it.
func (p *Project) Cycles() [][]string {
	const (
		fresh = iota
		open
		done
	)
	state := map[string]int{}
	var stack []string
	var out [][]string
	var visit func(id string)
	visit = func(id string) {
		t := p.Tags[id]
		if t == nil || t.Source != tag.Computed || state[id] == done {
			return
		}
		if state[id] == open {
			for i, s := range stack {
				if s == id {
					out = append(out, append([]string(nil), stack[i:]...))
				}
			}
			return
		}
		state[id] = open
		stack = append(stack, id)
		for _, ref := range formula.References(t.Formula) {
			visit(ref)
		}
		stack = stack[:len(stack)-1]
		state[id] = done
	}
	var computed []string
	for id, t := range p.Tags {
		if t.Source == tag.Computed {
			computed = append(computed, id)
		}
	}
	slices.Sort(computed)
	for _, id := range computed {
		visit(id)
	}
	return out
}
