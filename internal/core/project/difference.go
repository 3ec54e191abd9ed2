package project

import (
	"bytes"
	"cmp"
	"encoding/json"
	"reflect"
	"slices"
)

// Difference is what differs in one thing between two versions of a project, in
// the form that people read: formulas have names.
type Difference struct {
	Kind   string            `json:"kind"`
	ID     string            `json:"id"`
	Name   string            `json:"name" doc:"in the later version; in the earlier one where the thing is gone"`
	Was    string            `json:"was" doc:"the name in the earlier version, where that was another"`
	Made   bool              `json:"made" doc:"the earlier version does not have it"`
	Gone   bool              `json:"gone" doc:"the later version does not have it"`
	Fields []FieldDifference `json:"fields"`
}

// FieldDifference is a field that differs: one that is no object itself.
type FieldDifference struct {
	Path   string          `json:"path" doc:"JSON pointer within the thing"`
	Before json.RawMessage `json:"before,omitempty" doc:"absent where there was none"`
	After  json.RawMessage `json:"after,omitempty" doc:"absent where there is none"`
}

// DifferenceOf tells what differs in a thing between two versions; ok is false
// where nothing does.
func DifferenceOf(before, after *Project, kind, id string) (d Difference, ok bool) {
	k := kindByName[kind]
	if k == nil {
		return d, false
	}
	d = Difference{Kind: kind, ID: id}
	then, now := k.shown(before, id), k.shown(after, id)
	switch {
	case then == nil && now == nil:
		return d, false
	case then == nil:
		d.Made, d.Name = true, k.called(after, id)
	case now == nil:
		d.Gone, d.Name = true, k.called(before, id)
	default:
		if d.Name = k.called(after, id); k.called(before, id) != d.Name {
			d.Was = k.called(before, id)
		}
	}
	d.fields("", tree(then), tree(now))
	return d, d.Made || d.Gone || d.Was != "" || len(d.Fields) > 0
}

// tree is a thing as its JSON is; nil for none.
func tree(thing any) any {
	if thing == nil {
		return nil
	}
	var out any
	d := json.NewDecoder(bytes.NewReader(mustJSON(thing)))
	d.UseNumber()
	if d.Decode(&out) != nil {
		return nil
	}
	return out
}

// fields adds what differs below a place.
func (d *Difference) fields(path string, before, after any) {
	if reflect.DeepEqual(before, after) {
		return
	}
	then, wasObject := object(before)
	now, isObject := object(after)
	if (wasObject || before == nil) && (isObject || after == nil) && (wasObject || isObject) {
		for _, name := range fieldsOf(then, now) {
			d.fields(path+"/"+name, then[name], now[name])
		}
		return
	}
	f := FieldDifference{Path: path}
	if before != nil {
		f.Before = mustJSON(before)
	}
	if after != nil {
		f.After = mustJSON(after)
	}
	d.Fields = append(d.Fields, f)
}

// fieldsOf are the names that one of two objects has, sorted.
func fieldsOf(a, b map[string]any) []string {
	names := SortedKeys(a)
	for name := range b {
		if _, has := a[name]; !has {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}

// object gives what has named parts: an object, or a list whose entries have ids,
// by those; an entry that moved within its list differs in no field.
func object(v any) (map[string]any, bool) {
	switch v := v.(type) {
	case map[string]any:
		return v, true
	case []any:
		out := map[string]any{}
		for _, x := range v {
			entry, _ := x.(map[string]any)
			id, _ := entry["id"].(string)
			if _, twice := out[id]; id == "" || twice {
				return nil, false
			}
			out[id] = entry
		}
		return out, true
	}
	return nil, false
}

// Differences lists what differs between two versions, in the order of the kinds
// and by name.
func Differences(before, after *Project) []Difference {
	out := []Difference{}
	for _, k := range kinds {
		if k.same(before, after) {
			continue
		}
		from := len(out)
		for _, id := range k.differing(before, after) {
			if d, ok := DifferenceOf(before, after, k.told().Name, id); ok {
				out = append(out, d)
			}
		}
		slices.SortStableFunc(out[from:], func(a, b Difference) int { return cmp.Compare(a.Name, b.Name) })
	}
	return out
}

// called is what a thing is called in lists.
func (k *kindOf[T]) called(p *Project, id string) string {
	t := k.things(p)[id]
	if t == nil {
		return ""
	}
	return k.name(p, id, t)
}

// differing lists the things that are stored and may differ between two versions:
// those that are not the same in memory.
func (k *kindOf[T]) differing(a, b *Project) []string {
	var out []string
	for id, t := range k.things(a) {
		if other := k.things(b)[id]; t != other && !k.comesOf(a, id) && !reflect.DeepEqual(t, other) {
			out = append(out, id)
		}
	}
	for id := range k.things(b) {
		if k.things(a)[id] == nil && !k.comesOf(b, id) {
			out = append(out, id)
		}
	}
	slices.Sort(out)
	return out
}
