package project

import (
	"sort"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// Use is one place that refers to a thing.
type Use struct {
	Kind  string `json:"kind"`  // of the thing that refers
	ID    string `json:"id"`    // its id
	Place string `json:"place"` // JSON pointer into it
	Name  string `json:"name"`  // the place in words: "Chamber 1 › Readout"
}

// Uses lists where a tag, device, folder or screen is used.
func (p *Project) Uses(id string) []Use {
	p.usesOnce.Do(p.collectUses)
	return p.uses[id]
}

func (p *Project) collectUses() {
	p.uses = map[string][]Use{}
	add := func(target string, u Use) { p.uses[target] = append(p.uses[target], u) }
	for id, t := range p.Tags {
		path := p.paths.of[id]
		if t.Device != "" {
			add(t.Device, Use{KindTag, id, "/device", path})
		}
		if t.Folder != "" {
			add(t.Folder, Use{KindTag, id, "/folder", path})
		}
		if t.Formula != "" {
			for _, ref := range formula.References(t.Formula) {
				add(ref, Use{KindTag, id, "/formula", path})
			}
		}
		for place, ref := range map[string]string{"/lowTag": t.LowTag, "/highTag": t.HighTag} {
			if ref != "" {
				add(ref, Use{KindTag, id, place, path})
			}
		}
		if b := t.Behaviour; b != nil {
			for _, ref := range behaviourReferences(b) {
				add(ref, Use{KindTag, id, "/behaviour", path})
			}
		}
	}
	for id, d := range p.Devices {
		for _, r := range d.References() {
			add(r.ID, Use{KindDevice, id, r.Place, d.Name})
		}
	}
	for id, t := range p.Types {
		for place, ref := range map[string]string{"/symbol": t.Symbol, "/faceplate": t.Faceplate} {
			if ref != "" {
				add(ref, Use{KindType, id, place, t.Name})
			}
		}
		for mid, m := range t.Members {
			if m.Type != "" {
				add(m.Type, Use{KindType, id, "/members/" + mid + "/type", t.Name + " › " + m.Name})
			}
		}
	}
	for id, e := range p.Equipment {
		add(e.Type, Use{KindEquipment, id, "/type", p.FolderPath(e.Real(""))})
		if e.Device != "" {
			add(e.Device, Use{KindEquipment, id, "/device", p.FolderPath(e.Real(""))})
		}
	}
	for id, a := range p.Alarms {
		name := p.AlarmName(a)
		if a.Tag != "" {
			add(a.Tag, Use{KindAlarm, id, "/tag", name})
		}
		for place, text := range a.Formulas() {
			for _, ref := range formula.References(text) {
				add(ref, Use{KindAlarm, id, place, name})
			}
		}
		for _, ref := range formula.TemplateReferences(a.Message + a.Gone) {
			add(ref, Use{KindAlarm, id, "/message", name})
		}
		if a.Screen != "" {
			add(a.Screen, Use{KindAlarm, id, "/screen", name})
		}
	}
	for id, s := range p.Screens {
		for _, param := range s.Params {
			if param.Kind == screen.ParamEquipment && param.Type != "" {
				add(param.Type, Use{KindScreen, id, "/params", s.Name})
			}
		}
		for _, r := range s.References() {
			if r.Element == "" {
				add(r.ID, Use{KindScreen, id, "/" + r.Place, s.Name})
				continue
			}
			add(r.ID, Use{KindScreen, id, "/elements/" + r.Element + "/" + r.Place, s.Name + " › " + ElementName(s, r.Element)})
		}
	}
	for _, list := range p.uses {
		sortUses(list)
	}
}

func sortUses(list []Use) {
	sort.Slice(list, func(i, j int) bool {
		a, b := list[i], list[j]
		if a.Name != b.Name {
			return tag.Less(a.Name, b.Name)
		}
		return a.Place < b.Place
	})
}

// UsesOf lists where things are used, without the places inside them: those of
// a folder are the uses of everything below it from elsewhere.
func (p *Project) UsesOf(ids map[string]bool) []Use {
	var out []Use
	seen := map[Use]bool{}
	for _, id := range SortedKeys(ids) {
		for _, u := range p.Uses(id) {
			if u.Place == "/folder" || u.Place == "/device" || ids[u.ID] && u.Kind == KindTag || seen[u] {
				continue
			}
			seen[u] = true
			out = append(out, u)
		}
	}
	sortUses(out)
	return out
}

// Below lists a folder with all folders and tags in it, by id.
func (p *Project) Below(folder string) (folders, tags map[string]bool) {
	folders, tags = map[string]bool{folder: true}, map[string]bool{}
	for grew := true; grew; {
		grew = false
		for id, f := range p.Folders {
			if !folders[id] && folders[f.Parent] {
				folders[id], grew = true, true
			}
		}
	}
	for id, t := range p.Tags {
		if folders[t.Folder] {
			tags[id] = true
		}
	}
	return folders, tags
}

// ElementName names an element for people: its own name, or its kind.
func ElementName(s *screen.Screen, id string) string {
	if e := s.Elements[id]; e != nil {
		return e.Label()
	}
	return id
}

func behaviourReferences(b *tag.Behaviour) []string {
	refs := formula.References(b.Formula)
	if b.Tag != "" {
		refs = append(refs, b.Tag)
	}
	return refs
}
