package project

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// instance is a folder as equipment of the type, with what it has for itself.
func (m *typeMaker) instance(folder string, t *equipment.Type) (e *equipment.Instance, problem error) {
	f, n := m.p.Folders[folder], m.node(folder)
	e = &equipment.Instance{ID: m.newID(KindEquipment), Folder: f.Parent, Name: f.Name, Description: f.Description, Type: t.ID, Area: f.Area,
		Settings: map[string]string{}, IDs: map[string]string{"": folder}, Differs: map[string]map[string]json.RawMessage{}}
	for space, low := range m.lows(n) {
		e.Settings[space] = fmt.Sprint(low)
	}
	originals := map[string]*tag.Tag{}
	areas, devices := map[string]int{}, map[string]int{}
	pattern := m.patternChains()
	root := m.p.FolderPath(folder)
	_, below := m.p.Below(folder)
	for id := range below {
		chain := pattern[strings.TrimPrefix(m.p.paths.of[id], root+".")]
		o := m.p.Tags[id]
		e.IDs[chain], originals[chain] = id, o
		areas[o.Area]++
		if o.Source == tag.Device {
			devices[o.Device]++
		}
	}
	folders, _ := m.p.Below(folder)
	for id := range folders {
		if id != folder {
			e.IDs[pattern[strings.TrimPrefix(m.p.FolderPath(id), root+".")]] = id
		}
	}
	if len(areas) == 1 && e.Area == "" {
		for a := range areas {
			e.Area = a
		}
	}
	for _, d := range SortedKeys(devices) {
		if devices[d] > devices[e.Device] {
			e.Device = d
		}
	}
	return e, m.compare(e, originals)
}

// patternChains are the chains by paths relative to the pattern.
func (m *typeMaker) patternChains() map[string]string {
	out := map[string]string{}
	root := ""
	for id, chain := range m.chains {
		if chain == "" {
			root = m.p.FolderPath(id)
		}
	}
	for id, chain := range m.chains {
		path, _ := m.p.Path(id)
		out[strings.TrimPrefix(path, root+".")] = chain
	}
	return out
}

// compare notes what an instance has for itself, and lets it differ at the
// type.
func (m *typeMaker) compare(e *equipment.Instance, originals map[string]*tag.Tag) (problem error) {
	types := func(id string) *equipment.Type {
		for _, t := range m.types {
			if t.ID == id {
				return t
			}
		}
		return m.p.Types[id]
	}
	for _, made := range equipment.Expand(e, types).Tags {
		original := originals[made.Chain]
		if original == nil {
			return say.Errorf("it lacks %s", made.Name)
		}
		var a, b map[string]json.RawMessage
		_ = errors.Join(json.Unmarshal(mustJSON(made.Tag), &a), json.Unmarshal(mustJSON(original), &b))
		for name := range union(a, b) {
			same := bytes.Equal(a[name], b[name])
			switch {
			case same, name == "id", name == "folder", name == "name":
				continue
			case name == "area" && original.Area == e.Area:
				continue
			case name == "formula" && bare(wrap(made.Formula)) == bare(wrap(original.Formula)):
				continue
			case !slices.Contains(equipment.Differing, name):
				return say.Errorf("%s of %s is not as in the pattern", name, made.Name)
			}
			own := e.Differs[made.Chain]
			if own == nil {
				own = map[string]json.RawMessage{}
				e.Differs[made.Chain] = own
			}
			own[name] = b[name]
			if own[name] == nil {
				own[name] = json.RawMessage("null")
			}
			member := types(made.Type).Members[made.Member]
			if !slices.Contains(member.Differs, name) {
				member.Differs = append(member.Differs, name)
				slices.Sort(member.Differs)
			}
		}
	}
	return nil
}

// wrap makes a template of a formula, for bare.
func wrap(f string) string { return "{" + f + "}" }

func (m *typeMaker) settingsOf(e *equipment.Instance) string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(e.Settings)) {
		out = append(out, name+" "+e.Settings[name])
	}
	if n := len(e.Differs); n > 0 {
		out = append(out, fmt.Sprintf("%d tags differ", n))
	}
	return strings.Join(out, ", ")
}

// takeAway is the edit that takes a folder with all in it out of the draft.
func (m *typeMaker) takeAway(folder string) []Op {
	folders, tags := m.p.Below(folder)
	var ops []Op
	for _, id := range SortedKeys(tags) {
		ops = append(ops, Op{Kind: KindTag, ID: id})
	}
	list := SortedKeys(folders)
	slices.SortFunc(list, func(a, b string) int {
		return len(strings.Split(m.p.FolderPath(b), ".")) - len(strings.Split(m.p.FolderPath(a), "."))
	})
	for _, id := range list {
		ops = append(ops, Op{Kind: KindFolder, ID: id})
	}
	return ops
}
