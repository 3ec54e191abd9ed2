package project

import (
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"strings"
)

// KindFolder are the folders that tags lie in, equipment among them.
const KindFolder = "folder"

var folderKind = &kindOf[tag.Folder]{
	ThingKind: ThingKind{Name: KindFolder, Stop: StopTags, Paths: true},
	of:        func(p *Project) *map[string]*tag.Folder { return &p.Folders },
	read: func(_ *Project, id string, f *tag.Folder, _ bool) (*tag.Folder, error) {
		f.ID = id
		if field, err := f.Record.Check(); err != nil {
			return f, at("/record/"+field, err)
		}
		return f, at("/name", tag.CheckSegment(f.Name))
	},
	name: func(p *Project, id string, _ *tag.Folder) string { return p.FolderPath(id) },
	refers: func(_ *Project, f *tag.Folder, say func(target, place, within string)) {
		say(f.Parent, "/folder", "")
		say(f.Area, "/area", "")
	},
	made: func(p *Project, id string) bool { _, made := p.gear.pieces[id]; return made },
	editRules: editRules{
		translate: func(p *Project, op Op) ([]Op, error) {
			piece, made := p.gear.pieces[op.ID]
			if !made {
				return nil, nil
			}
			return p.translateFolder(op, piece)
		},
		touched: func(t *touchedThings, _ *Project, _ string) { t.folders, t.stalePaths = true, true },
		settle:  settleFolders,
	},
}

// settleFolders renews the index where folders changed, and refuses a folder in
// itself, two at one path, and one that is gone with tags in it.
func settleFolders(p, _ *Project, touched *touchedThings) error {
	if !touched.folders {
		return nil
	}
	for id := range p.Folders {
		if err := p.checkFolder(id); err != nil {
			return refuse(KindFolder, id, "/parent", err)
		}
	}
	p.paths = buildPaths(p)
	if len(p.paths.folderByKey) != len(p.Folders) {
		return p.folderClash(touched)
	}
	for id, t := range p.Tags {
		if t.Folder != "" && p.Folders[t.Folder] == nil {
			return refuse(KindTag, id, "/folder", say.Errorf("the folder of %s would be gone: move or delete its tags with it", t.Name))
		}
	}
	return nil
}

func (p *Project) checkFolder(id string) error {
	f := p.Folders[id]
	if f.Parent != "" && p.Folders[f.Parent] == nil {
		return say.Errorf("the folder that %s lies in does not exist", f.Name)
	}
	for up, depth := f.Parent, 0; up != ""; depth++ {
		if up == id || depth > maxDepth {
			return say.Errorf("the folder %s would lie in itself, or deeper than %d folders", f.Name, maxDepth)
		}
		next := p.Folders[up]
		if next == nil {
			return say.Errorf("the folder that %s lies in does not exist", f.Name)
		}
		up = next.Parent
	}
	return nil
}

func (p *Project) folderClash(touched *touchedThings) error {
	seen := map[string]string{}
	for _, id := range SortedKeys(p.Folders) {
		path := p.paths.folder[id]
		if other, ok := seen[strings.ToLower(path)]; ok {
			if !touched.things[[2]string{KindFolder, id}] {
				id = other
			}
			return refuse(KindFolder, id, "/name", say.Errorf("there is already a folder %s: choose another name", path))
		}
		seen[strings.ToLower(path)] = id
	}
	return nil
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
