package project

import (
	"bytes"
	"cmp"
	"slices"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
)

// editing is an edit on its way. Ops at one thing that lie apart are gathered
// and applied together, so that a thing is decoded and checked once however
// many of its parts an edit sets.
type editing struct {
	p       *Project
	touched *touchedThings
	changes []Change
	open    []Op // whose things hold names that nothing had yet
	pending []Op
	apart   apart
}

var unresolved = []byte("{" + formula.Unresolved + "|")

// ask takes an op as people give it.
func (e *editing) ask(asked Op) error {
	// What equipment has made is read while it is translated.
	if k := kindByName[asked.Kind]; k != nil && k.edits().translate != nil && len(e.pending) > 0 && asked.Kind != e.pending[0].Kind {
		if err := e.flush(); err != nil {
			return err
		}
	}
	steps, err := e.p.translate(asked)
	if err != nil {
		return err
	}
	for _, op := range steps {
		if err := e.take(op); err != nil {
			return err
		}
	}
	return nil
}

func (e *editing) take(op Op) error {
	alone := op.Path == "" || op.namesOnly()
	if len(e.pending) > 0 {
		first := e.pending[0]
		if alone || op.Kind != first.Kind || op.ID != first.ID || !e.apart.add(op.Path) {
			if err := e.flush(); err != nil {
				return err
			}
		}
	}
	if alone {
		return e.step(op)
	}
	if len(e.pending) == 0 {
		e.apart = apart{}
		e.apart.add(op.Path)
	}
	e.pending = append(e.pending, op)
	return nil
}

// flush applies what was gathered. What is refused together is applied one by
// one, so that the refusal names its op.
func (e *editing) flush() error {
	ops := e.pending
	e.pending = nil
	if len(ops) > 1 && e.together(ops) == nil {
		return nil
	}
	for _, op := range ops {
		if err := e.step(op); err != nil {
			return err
		}
	}
	return nil
}

// step applies one op.
func (e *editing) step(op Op) error {
	before, _ := e.p.Doc(op.Kind, op.ID)
	if err := e.p.apply(op, e.touched); err != nil {
		return err
	}
	e.applied([]Op{op}, &openDoc{raw: before})
	return nil
}

var errTogether = say.New("these are applied one by one")

// together applies ops of one thing that lie apart.
func (e *editing) together(ops []Op) error {
	kind, id := ops[0].Kind, ops[0].ID
	before, exists := e.p.Doc(kind, id)
	if !exists {
		return errTogether
	}
	if err := e.p.applyAll(ops, e.touched); err != nil {
		return err
	}
	e.applied(ops, &openDoc{raw: before})
	return nil
}

// applied notes what ops of one thing have changed.
func (e *editing) applied(ops []Op, before *openDoc) {
	kind, id := ops[0].Kind, ops[0].ID
	e.touched.add(e.p, kind, id)
	raw, _ := e.p.Doc(kind, id)
	after := &openDoc{raw: raw}
	unsolved := bytes.Contains(raw, unresolved)
	for _, op := range ops {
		if unsolved {
			e.open = append(e.open, op)
		}
		e.changes = append(e.changes, Change{Kind: kind, ID: id, Path: op.Path, Before: before.at(op.Path), After: after.at(op.Path)})
	}
}

// resolveLater reads such things again once everything that the edit makes is
// there, so that the order of an edit's ops does not matter to its formulas.
func (e *editing) resolveLater() error {
	if len(e.open) == 0 {
		return nil
	}
	e.touched.stalePaths = true
	e.p.index(e.touched)
	of := map[[2]string][]int{} // the changes of each thing
	for i, c := range e.changes {
		key := [2]string{c.Kind, c.ID}
		of[key] = append(of[key], i)
	}
	paths := map[[2]string][]string{}
	var things [][2]string
	for _, op := range e.open {
		key := [2]string{op.Kind, op.ID}
		if paths[key] == nil {
			things = append(things, key)
		}
		paths[key] = append(paths[key], op.Path)
	}
	for _, key := range things {
		if e.p.Has(key[0], key[1]) {
			if err := e.readAgain(key[0], key[1], paths[key], of[key]); err != nil {
				return err
			}
		}
	}
	return nil
}

// readAgain reads a thing as people see it, so that names in it find what is
// there by now, and notes what that changed at the paths.
func (e *editing) readAgain(kind, id string, paths []string, changes []int) error {
	raw, _ := e.p.Doc(kind, id)
	shown, _ := e.p.Shown(kind, id)
	if err := e.p.put(kind, id, shown, true); err != nil {
		return refuse(kind, id, "", err)
	}
	e.touched.add(e.p, kind, id)
	now, _ := e.p.Doc(kind, id)
	before, after := &openDoc{raw: raw}, &openDoc{raw: now}
	// A change that no later one has altered is as it would have been; for the
	// others there is a change of its own.
	var later apart
	last := map[string]int{}
	for _, i := range slices.Backward(changes) {
		path := e.changes[i].Path
		if !later.meets(path) {
			last[path] = i
		}
		later.note(path)
	}
	// What lies within another path changes with it.
	slices.SortFunc(paths, func(a, b string) int { return cmp.Compare(len(a), len(b)) })
	var group apart
	for _, path := range paths {
		if !group.add(path) {
			continue
		}
		was, is := before.at(path), after.at(path)
		i, own := last[path]
		switch {
		case sameJSON(was, is):
		case own:
			e.changes[i].After = is
		default:
			e.changes = append(e.changes, Change{Kind: kind, ID: id, Path: path, Before: was, After: is})
		}
	}
	return nil
}
