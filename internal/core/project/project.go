// Package project holds a whole project: its things by id, their paths, the
// edits that change them, where each is used, and what the check has to say.
// A Project is never altered once made; an edit gives a new one that shares
// what did not change.
package project

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"sync"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/device"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/history"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
)

// Heights of what the Desk draws around a screen, in pixels.
const (
	BannerHeight     = 56
	NavigationHeight = 68
)

// Project is one version of a project.
type Project struct {
	things

	paths *paths
	gear  *gear
	own   map[string]bool // kinds whose maps this fork has copied

	checkOnce  sync.Once
	findings   []Finding
	usesOnce   sync.Once
	uses       map[string][]Use
	sortOnce   sync.Once
	textsOnce  sync.Once
	alarmsOnce sync.Once
	alarmsOf   map[string][]*alarm.Alarm // by the tag they watch
	texts      []string
	sorted     []string

	alarmAreasOnce sync.Once
	alarmAreas     []string

	recordedOnce sync.Once
	recorded     map[string]float64 // bands, by tag
	recordedDays map[string]int
	logged       sync.Map // what logs name, by id: *namedTags
	ruled        sync.Map // rules of books, by id: *recipe.Rules
	answersOnce  sync.Once
	answers      map[string]string // see Behaves
}

// things are everything that a project consists of, each kind by id.
type things struct {
	site    map[string]*Site // the one
	Folders map[string]*tag.Folder
	Tags    map[string]*tag.Tag
	Devices map[string]*device.Device
	Screens map[string]*screen.Screen
	Roles   map[string]*access.Role
	Rules   map[string]*access.Rule
	Alarms  map[string]*alarm.Alarm
	// Tags, Folders and Alarms hold those of the equipment too.
	Types     map[string]*equipment.Type
	Equipment map[string]*equipment.Instance
	Looks     map[string]*screen.LookSet
	Styles    map[string]*screen.TextStyle
	Pictures  map[string]*Picture
	Words     map[string]*Words
	Views     map[string]*history.View
	Logs      map[string]*history.Log
	Books     map[string]*recipe.Book
}

// New returns an empty project.
func New(name string) *Project {
	p := &Project{gear: newGear(), own: map[string]bool{}}
	for _, k := range kinds {
		k.begin(p)
		p.own[k.told().Name] = true
	}
	p.site[SiteID] = &Site{ID: SiteID, Name: name, PanelWidth: 1280, PanelHeight: 800, Areas: []access.Area{}}
	p.paths = buildPaths(p)
	return p
}

// Site is what holds for the whole project.
func (p *Project) Site() *Site { return p.site[SiteID] }

// ScreenSize is what a panel leaves to a screen, in pixels.
func (p *Project) ScreenSize() (w, h int) {
	return p.Site().PanelWidth, p.Site().PanelHeight - BannerHeight - NavigationHeight
}

// fork returns a copy that shares every map until it is altered.
func (p *Project) fork() *Project {
	return &Project{things: p.things, paths: p.paths, gear: p.gear, own: map[string]bool{}}
}

// take makes the map of a kind the fork's own.
func (p *Project) take(kind string) {
	if p.own[kind] {
		return
	}
	p.own[kind] = true
	kindByName[kind].copied(p)
}

// Tag finds a tag by id.
func (p *Project) Tag(id string) (*tag.Tag, bool) { t, ok := p.Tags[id]; return t, ok }

// SortedTags lists the tags' ids by path, as people order paths. The list is
// shared: callers do not alter it.
func (p *Project) SortedTags() []string {
	p.sortOnce.Do(func() {
		type placed struct{ key, id string }
		list := make([]placed, 0, len(p.Tags))
		for id := range p.Tags {
			list = append(list, placed{p.paths.of[id], id})
		}
		InShares(len(list), func(from, to int) {
			for i := from; i < to; i++ {
				list[i].key = tag.OrderKey(list[i].key)
			}
		})
		slices.SortFunc(list, func(a, b placed) int { return strings.Compare(a.key, b.key) })
		p.sorted = make([]string, len(list))
		for i, l := range list {
			p.sorted[i] = l.id
		}
	})
	return p.sorted
}

// TagTexts are what a tag is found by, in the order of SortedTags: path,
// description and address in lower case. The list is shared.
func (p *Project) TagTexts() []string {
	p.textsOnce.Do(func() {
		ids := p.SortedTags()
		p.texts = make([]string, len(ids))
		for i, id := range ids {
			t := p.Tags[id]
			p.texts[i] = strings.ToLower(p.paths.of[id] + "\n" + t.Description + "\n" + t.Address)
		}
	})
	return p.texts
}

// Path returns the path of a tag, a folder or equipment.
func (p *Project) Path(id string) (string, bool) {
	s, ok := p.paths.of[id]
	if !ok {
		s, ok = p.paths.folder[id]
	}
	return s, ok
}

// FolderPath returns the path of a folder; the empty id is the top.
func (p *Project) FolderPath(id string) string { return p.paths.folder[id] }

// FindPath returns the id of the tag at a path, whatever its case.
func (p *Project) FindPath(path string) (id string, ok bool) {
	id, ok = p.paths.byKey[tag.Key(path)]
	return id, ok
}

// FindFolder returns the id of the folder at a path.
func (p *Project) FindFolder(path string) (id string, ok bool) {
	if path == "" {
		return "", true
	}
	id, ok = p.paths.folderByKey[tag.Key(path)]
	return id, ok
}

// Screen finds a screen by id, nil where there is none.
func (p *Project) Screen(id string) *screen.Screen { return p.Screens[id] }

// ScreensInOrder lists the screens as the navigation has them.
func (p *Project) ScreensInOrder() []*screen.Screen {
	out := make([]*screen.Screen, 0, len(p.Screens))
	for _, id := range SortedKeys(p.Screens) {
		out = append(out, p.Screens[id])
	}
	slices.SortStableFunc(out, func(a, b *screen.Screen) int { return cmp.Compare(a.Order, b.Order) })
	return out
}

// LookSet finds state looks by id, nil where there are none.
func (p *Project) LookSet(id string) *screen.LookSet { return p.Looks[id] }

// TextStyle finds a text style by id, nil where there is none.
func (p *Project) TextStyle(id string) *screen.TextStyle { return p.Styles[id] }

// AreaOf returns the area of a tag: its own, or the nearest folder's.
func (p *Project) AreaOf(t *tag.Tag) string {
	area, folder := t.Area, t.Folder
	for depth := 0; area == "" && folder != "" && depth < maxDepth; depth++ {
		f := p.Folders[folder]
		if f == nil {
			break
		}
		area, folder = f.Area, f.Parent
	}
	return area
}

// Within adds what is in an area or in one that lies in it: ids of tags, and names of
// areas, paths of folders and equipment, names of books.
func (p *Project) Within(area string, tags, names map[string]bool) {
	in := map[string]bool{}
	for _, a := range p.Site().Areas {
		if slices.Contains(p.AreaPath(a.ID), area) {
			in[a.ID], names[a.Name] = true, true
		}
	}
	for id, t := range p.Tags {
		if in[p.AreaOf(t)] {
			tags[id] = true
		}
	}
	for id := range p.Folders {
		if in[p.AreaOf(&tag.Tag{Folder: id})] {
			names[p.FolderPath(id)] = true
		}
	}
	for _, b := range p.Books {
		if in[b.Area] {
			names[b.Name] = true
		}
	}
}

// PointsOf counts the tags that a device is read for.
func (p *Project) PointsOf(device string) (n int) {
	for _, t := range p.Tags {
		if t.Source == tag.Device && t.Device == device {
			n++
		}
	}
	return n
}

// AreaPath lists an area and those that it lies in, from the inside out.
func (p *Project) AreaPath(id string) []string { return access.AreaPath(p.Site().Areas, id) }

// HasArea tells whether the site has an area.
func (p *Project) HasArea(id string) bool {
	return slices.ContainsFunc(p.Site().Areas, func(a access.Area) bool { return a.ID == id })
}

// AreaName returns an area's name; "the whole plant" for none.
func (p *Project) AreaName(id string) string {
	for _, a := range p.Site().Areas {
		if a.ID == id {
			return a.Name
		}
	}
	return "the whole plant"
}

// maxDepth bounds the nesting of folders.
const maxDepth = 32

// paths is the index between ids and paths of one version.
type paths struct {
	of          map[string]string // tag id to path
	byKey       map[string]string // path key to tag id
	folder      map[string]string
	folderByKey map[string]string
	clash       []string // ids of tags whose path another tag has
}

func buildPaths(p *Project) *paths {
	x := &paths{of: make(map[string]string, len(p.Tags)), byKey: make(map[string]string, len(p.Tags)),
		folder: make(map[string]string, len(p.Folders)), folderByKey: make(map[string]string, len(p.Folders))}
	for id := range p.Folders {
		path := folderPath(p, id, 0)
		x.folder[id] = path
		x.folderByKey[tag.Key(path)] = id
	}
	type placed struct{ id, path, key string }
	list := make([]placed, 0, len(p.Tags))
	for id := range p.Tags {
		list = append(list, placed{id: id})
	}
	InShares(len(list), func(from, to int) {
		for i := from; i < to; i++ {
			t := p.Tags[list[i].id]
			list[i].path = join(x.folder[t.Folder], t.Name)
			list[i].key = tag.Key(list[i].path)
		}
	})
	var both sync.WaitGroup
	both.Go(func() {
		for _, l := range list {
			x.of[l.id] = l.path
		}
	})
	for _, l := range list {
		x.find(l.id, l.key)
	}
	both.Wait()
	return x
}

func folderPath(p *Project, id string, depth int) string {
	f := p.Folders[id]
	if f == nil || depth > maxDepth {
		return ""
	}
	return join(folderPath(p, f.Parent, depth+1), f.Name)
}

func join(folder, name string) string {
	if folder == "" {
		return name
	}
	return folder + "." + name
}

func (x *paths) put(id string, t *tag.Tag) {
	path := join(x.folder[t.Folder], t.Name)
	x.of[id] = path
	x.find(id, tag.Key(path))
}

// find lets a tag be found by the key of its path.
func (x *paths) find(id, key string) {
	if other, taken := x.byKey[key]; taken && other != id {
		x.clash = append(x.clash, id)
		return
	}
	x.byKey[key] = id
}

// clone returns an index whose tags may be altered.
func (x *paths) clone() *paths {
	return &paths{of: maps.Clone(x.of), byKey: maps.Clone(x.byKey), folder: x.folder, folderByKey: x.folderByKey}
}

// drop takes a tag out.
func (x *paths) drop(id string) {
	path, ok := x.of[id]
	if !ok {
		return
	}
	if key := tag.Key(path); x.byKey[key] == id {
		delete(x.byKey, key)
	}
	delete(x.of, id)
}

// withTags returns the index after some tags changed and no folder did.
func (x *paths) withTags(old, now map[string]*tag.Tag, touched map[string]bool) *paths {
	moved := false
	for id := range touched {
		a, b := old[id], now[id]
		moved = moved || a == nil || b == nil || a.Name != b.Name || a.Folder != b.Folder
	}
	if !moved {
		return x
	}
	y := x.clone()
	for id := range touched {
		y.drop(id)
	}
	for id := range touched {
		if t := now[id]; t != nil {
			y.put(id, t)
		}
	}
	return y
}
