package project

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
)

// TypeOf says of what a type of equipment is made.
type TypeOf struct {
	Folder string `json:"folder" maxLength:"64" doc:"id of the folder that is the pattern"`
	Name   string `json:"name" maxLength:"64" doc:"of the type"`
	Alike  bool   `json:"alike" doc:"folders beside it with the same members become equipment of the type too"`
	// Others are further folders that become equipment of the type; those that
	// are not alike stay as they are.
	Others []string `json:"-"`
	// Names are the names of the types of folders within, by their ids; a
	// folder's own name serves otherwise.
	Names map[string]string `json:"-"`
}

// PlanType makes a type of a folder, types of the folders in it, and the
// folder equipment of the type; those beside it that are alike too. Each tag
// keeps its id, so that everything that refers to it holds. Arrays are found
// by their names, addresses by the step from one to the next; where something
// does not follow the pattern the instance has it for itself.
func (p *Project) PlanType(t TypeOf, newID func(kind string) string) (list []Planned, ops []Op, err error) {
	f := p.Folders[t.Folder]
	switch {
	case f == nil:
		return nil, nil, say.New("there is no such folder")
	case p.gear.pieces[t.Folder].Instance != "":
		return nil, nil, say.Errorf("%s is equipment already", p.FolderPath(t.Folder))
	}
	if err := tag.CheckSegment(t.Name); err != nil {
		return nil, nil, err
	}
	m := &typeMaker{p: p, newID: newID, taken: map[string]bool{}, chains: map[string]string{}, names: t.Names}
	for _, other := range p.Types {
		m.taken[strings.ToLower(other.Name)] = true
	}
	if m.taken[strings.ToLower(t.Name)] {
		return nil, nil, say.Errorf("there is already a type %s", t.Name)
	}
	pattern := m.node(t.Folder)
	if pattern.count() == 0 {
		return nil, nil, say.Errorf("%s holds no tags", p.FolderPath(t.Folder))
	}
	root := m.build(pattern, t.Name, "", peers{})
	folders := []string{t.Folder}
	for _, id := range SortedKeys(p.Folders) {
		wanted := t.Alike && p.Folders[id].Parent == f.Parent || slices.Contains(t.Others, id)
		if wanted && id != t.Folder && p.gear.pieces[id].Instance == "" && m.node(id).shape() == pattern.shape() {
			folders = append(folders, id)
		}
	}
	if len(folders) > 1 {
		slices.SortFunc(folders, func(a, b string) int { return tag.Compare(p.FolderPath(a), p.FolderPath(b)) })
	}
	var instances []*equipment.Instance
	for _, id := range folders {
		e, problem := m.instance(id, root)
		list = append(list, Planned{Path: p.FolderPath(id), Address: m.settingsOf(e), From: fmt.Sprintf("%d tags", m.node(id).count()),
			Problem: say.Text{Why: problem}})
		instances = append(instances, e)
	}
	for _, made := range m.types {
		ops = append(ops, Op{Kind: KindType, ID: made.ID, Value: mustJSON(p.shownWith(made, m.types))})
	}
	for _, id := range folders {
		ops = append(ops, m.takeAway(id)...)
	}
	for _, e := range instances {
		ops = append(ops, Op{Kind: KindEquipment, ID: e.ID, Value: mustJSON(e)})
	}
	return list, ops, nil
}

// shownWith shows a type whose members may be of types that are being made.
func (p *Project) shownWith(t *equipment.Type, made []*equipment.Type) *equipment.Type {
	q := p.fork()
	q.take(KindType)
	for _, m := range made {
		q.Types[m.ID] = m
	}
	return q.ShownType(t)
}

// gearNode is a folder with what lies in it.
type gearNode struct {
	folder string
	tags   map[string]*tag.Tag
	subs   map[string]*gearNode
}

type typeMaker struct {
	p      *Project
	newID  func(string) string
	types  []*equipment.Type
	taken  map[string]bool
	chains map[string]string // id of a tag or folder of the pattern to its chain
	names  map[string]string // id of a folder to the name of its type
}

func (m *typeMaker) node(folder string) *gearNode {
	n := &gearNode{folder: folder, tags: map[string]*tag.Tag{}, subs: map[string]*gearNode{}}
	for _, t := range m.p.Tags {
		if t.Folder == folder {
			n.tags[t.Name] = t
		}
	}
	for id, f := range m.p.Folders {
		if f.Parent == folder {
			n.subs[f.Name] = m.node(id)
		}
	}
	return n
}

func (n *gearNode) count() int {
	c := len(n.tags)
	for _, s := range n.subs {
		c += s.count()
	}
	return c
}

// shape writes the names and types of everything below, so that folders that
// are alike are written the same.
func (n *gearNode) shape() string {
	var b strings.Builder
	for _, name := range SortedKeys(n.tags) {
		t := n.tags[name]
		fmt.Fprintf(&b, "%s:%s/%s/%s;", name, t.Type, t.Source, t.Access)
	}
	for _, name := range SortedKeys(n.subs) {
		fmt.Fprintf(&b, "%s(%s)", name, n.subs[name].shape())
	}
	return b.String()
}

// lows are the lowest offsets of each space of a Modbus device that the tags
// below a node use.
func (m *typeMaker) lows(n *gearNode) map[string]int {
	out := map[string]int{}
	var walk func(*gearNode)
	walk = func(n *gearNode) {
		for _, t := range n.tags {
			for _, text := range []string{t.Address, t.WriteAddress} {
				if a, ok := m.address(t, text); ok {
					space := a.Space.String()
					if low, known := out[space]; !known || int(a.Offset) < low {
						out[space] = int(a.Offset)
					}
				}
			}
		}
		for _, s := range n.subs {
			walk(s)
		}
	}
	walk(n)
	return out
}

func (m *typeMaker) address(t *tag.Tag, text string) (device.Address, bool) {
	d := m.p.Devices[t.Device]
	if text == "" || t.Source != tag.Device || d == nil || d.Protocol != device.ModbusTCP {
		return device.Address{}, false
	}
	a, err := device.ParseAddress(text)
	return a, err == nil
}

// series is a run of names with indices, Fan[1] to Fan[4], or one name alone.
type series struct {
	base     string
	from, to int // 0, 0 for one name alone
}

func (s series) name(i int) string {
	if s.to == 0 {
		return s.base
	}
	return fmt.Sprintf("%s[%d]", s.base, i)
}

// seriesOf gathers names into runs; alike tells whether two may be members of
// one array.
func seriesOf(names []string, alike func(a, b string) bool) []series {
	runs := map[string][]int{}
	var out []series
	single := func(name string) { out = append(out, series{base: name}) }
	for _, name := range names {
		base, index := name, -1
		if i := strings.LastIndexByte(name, '['); i > 0 {
			if n, err := strconv.Atoi(name[i+1 : len(name)-1]); err == nil {
				base, index = name[:i], n
			}
		}
		if index < 0 || strings.Contains(base, "[") {
			single(name)
			continue
		}
		runs[base] = append(runs[base], index)
	}
	for _, base := range SortedKeys(runs) {
		list := runs[base]
		slices.Sort(list)
		s := series{base, list[0], list[len(list)-1]}
		whole := len(list) > 1 && s.to-s.from == len(list)-1
		for _, i := range list {
			whole = whole && alike(s.name(list[0]), s.name(i))
		}
		if whole {
			out = append(out, s)
			continue
		}
		for _, i := range list {
			single(s.name(i))
		}
	}
	slices.SortFunc(out, func(a, b series) int { return tag.Compare(a.name(a.from), b.name(b.from)) })
	return out
}

// linear finds first + step*i through values at from, from+1, …; ok is false
// where they do not lie on one line.
func linear(from int, values []int) (k, step int, ok bool) {
	if len(values) > 1 {
		step = values[1] - values[0]
	}
	for i, v := range values {
		if v != values[0]+step*i {
			return 0, 0, false
		}
	}
	return values[0] - step*from, step, true
}

// plus writes an offset behind a setting: "base + 3", and with a step of an
// array "base + 3 + 5 * i".
func plus(setting string, k, step int) string {
	text := setting
	switch {
	case k > 0:
		text += fmt.Sprintf(" + %d", k)
	case k < 0:
		text += fmt.Sprintf(" - %d", -k)
	}
	switch {
	case step > 0:
		text += fmt.Sprintf(" + %d * i", step)
	case step < 0:
		text += fmt.Sprintf(" - %d * i", -step)
	}
	return text
}

// peers are the nodes of an array that a node is the first of, itself among
// them.
type peers struct {
	from  int
	nodes []*gearNode
}

// within are the peers of a node below each.
func (ps peers) within(name string) peers {
	out := peers{from: ps.from}
	for _, n := range ps.nodes {
		out.nodes = append(out.nodes, n.subs[name])
	}
	return out
}

// build makes the type of a node and of everything in it.
func (m *typeMaker) build(n *gearNode, name, chain string, ps peers) *equipment.Type {
	t := &equipment.Type{ID: m.newID(KindType), Name: m.free(name), Members: map[string]*equipment.Member{}}
	m.types = append(m.types, t)
	m.chains[n.folder] = chain
	lows := m.lows(n)
	for _, space := range SortedKeys(lows) {
		t.Settings = append(t.Settings, equipment.Setting{Name: space, Default: fmt.Sprint(lows[space]), Description: "first " + space})
	}
	order := 0.0
	add := func(s series, member *equipment.Member, ids func(i int) string) {
		order++
		id := fmt.Sprintf("m%d", int(order))
		member.Order, member.Name, member.From, member.To = order, s.base, s.from, s.to
		t.Members[id] = member
		for i := s.from; i <= s.to; i++ {
			c := join(chain, id)
			if s.to > 0 {
				c += fmt.Sprintf(".%d", i)
			}
			m.chains[ids(i)] = c
		}
	}
	tags := seriesOf(SortedKeys(n.tags), func(a, b string) bool { return m.tagsAlike(n.tags[a], n.tags[b]) })
	for _, s := range tags {
		if s.to > 0 && !m.steps(n, s) {
			for i := s.from; i <= s.to; i++ {
				one := series{base: s.name(i)}
				add(one, m.tagMember(n, one, lows, ps), func(int) string { return n.tags[one.base].ID })
			}
			continue
		}
		add(s, m.tagMember(n, s, lows, ps), func(i int) string { return n.tags[s.name(i)].ID })
	}
	subs := seriesOf(SortedKeys(n.subs), func(a, b string) bool { return n.subs[a].shape() == n.subs[b].shape() })
	for _, s := range subs {
		first := n.subs[s.name(s.from)]
		member := &equipment.Member{Settings: m.nestedSettings(n, s, lows)}
		add(s, member, func(i int) string { return n.subs[s.name(i)].folder })
		inside := ps.within(s.base)
		if s.to > 0 {
			inside = peers{from: s.from}
			for i := s.from; i <= s.to; i++ {
				inside.nodes = append(inside.nodes, n.subs[s.name(i)])
			}
		}
		inner := m.build(first, cmp.Or(m.names[first.folder], s.base), m.chains[first.folder], inside)
		member.Type = inner.ID
		m.follow(n, s, m.chains[first.folder])
	}
	for _, member := range t.Members {
		m.relate(member, n, chain)
	}
	return t
}

// follow gives the chains of the first of an array to the others.
func (m *typeMaker) follow(n *gearNode, s series, first string) {
	var walk func(a, b *gearNode, chain string)
	walk = func(a, b *gearNode, chain string) {
		m.chains[b.folder] = chain
		for name, t := range a.tags {
			m.chains[b.tags[name].ID] = chain + strings.TrimPrefix(m.chains[t.ID], m.chains[a.folder])
		}
		for name, sub := range a.subs {
			walk(sub, b.subs[name], chain+strings.TrimPrefix(m.chains[sub.folder], m.chains[a.folder]))
		}
	}
	for i := s.from + 1; i <= s.to; i++ {
		walk(n.subs[s.name(s.from)], n.subs[s.name(i)], strings.TrimSuffix(first, fmt.Sprint(s.from))+fmt.Sprint(i))
	}
}

func (m *typeMaker) free(name string) string {
	try := name
	for n := 2; m.taken[strings.ToLower(try)] || tag.CheckSegment(try) != nil; n++ {
		try = fmt.Sprintf("%s%d", strings.Map(func(r rune) rune {
			if r == '[' || r == ']' {
				return -1
			}
			return r
		}, name), n)
	}
	m.taken[strings.ToLower(try)] = true
	return try
}

func (m *typeMaker) tagsAlike(a, b *tag.Tag) bool {
	return a.Type == b.Type && a.Source == b.Source && a.Access == b.Access && a.Device == b.Device && a.Source != tag.Computed
}

// steps tells whether the addresses of an array of tags go by one step.
func (m *typeMaker) steps(n *gearNode, s series) bool {
	var offsets []int
	var first device.Address
	for i := s.from; i <= s.to; i++ {
		t := n.tags[s.name(i)]
		a, ok := m.address(t, t.Address)
		if !ok || t.WriteAddress != "" {
			return t.Source != tag.Device
		}
		if i == s.from {
			first = a
		}
		if a.Space != first.Space || a.Bit != first.Bit {
			return false
		}
		offsets = append(offsets, int(a.Offset))
	}
	_, _, ok := linear(s.from, offsets)
	return ok
}

func (m *typeMaker) tagMember(n *gearNode, s series, lows map[string]int, ps peers) *equipment.Member {
	t := *n.tags[s.name(s.from)]
	t.ID, t.Folder, t.Name, t.Area = "", "", s.base, ""
	step := 0
	if s.to > 0 {
		a, _ := m.address(n.tags[s.name(s.from)], t.Address)
		b, _ := m.address(n.tags[s.name(s.from+1)], n.tags[s.name(s.from+1)].Address)
		step = int(b.Offset) - int(a.Offset)
	}
	for _, text := range []*string{&t.Address, &t.WriteAddress} {
		if a, ok := m.address(&t, *text); ok {
			space := a.Space.String()
			*text = fmt.Sprintf("%s:{%s}", space, plus(space, int(a.Offset)-lows[space]-step*s.from, step))
			if a.Bit != device.NoBit {
				*text += fmt.Sprintf(".%d", a.Bit)
			}
		} else {
			*text = escapeBraces(*text)
		}
	}
	var texts []string
	from := s.from
	if s.to > 0 {
		for i := s.from; i <= s.to; i++ {
			texts = append(texts, n.tags[s.name(i)].Description)
		}
	} else {
		from = ps.from
		for _, peer := range ps.nodes {
			texts = append(texts, peer.tags[s.base].Description)
		}
	}
	t.Description = numbered(t.Description, from, texts)
	t.SourceName = ""
	t.Device = ""
	return &equipment.Member{Tag: &t, Differs: slices.Clone(loose)}
}

// loose are the properties that a type made of existing tags leaves to its
// instances: what was edited tag by tag before goes on being so.
var loose = []string{"access", "address", "decimals", "description", "high", "low", "scale", "step", "unit", "writeAddress"}

// numbered is the first text of an array with {i} in place of its index, where
// every other is the same with its own.
func numbered(first string, from int, texts []string) string {
	for n, text := range texts {
		if strings.ReplaceAll(first, fmt.Sprint(from), fmt.Sprint(from+n)) != text {
			return escapeBraces(first)
		}
	}
	if len(texts) < 2 || texts[1] == first {
		return escapeBraces(first)
	}
	return strings.ReplaceAll(escapeBraces(first), fmt.Sprint(from), "{i}")
}

var braces = strings.NewReplacer(`\`, `\\`, "{", `\{`, "}", `\}`)

func escapeBraces(s string) string { return braces.Replace(s) }

// nestedSettings are the expressions that give equipment within its settings.
func (m *typeMaker) nestedSettings(n *gearNode, s series, lows map[string]int) map[string]string {
	values := map[string][]int{}
	for i := s.from; i <= s.to; i++ {
		for space, low := range m.lows(n.subs[s.name(i)]) {
			values[space] = append(values[space], low-lows[space])
		}
	}
	out := map[string]string{}
	for space, list := range values {
		k, step, ok := linear(s.from, list)
		if !ok {
			// Those that do not follow have their addresses for themselves.
			k, step = list[0], 0
		}
		if s.to == 0 {
			step = 0
		}
		out[space] = plus(space, k, step)
	}
	return out
}

// relate turns references of a member's tag to tags of the pattern below the
// same folder into its type's own.
func (m *typeMaker) relate(member *equipment.Member, n *gearNode, chain string) {
	t := member.Tag
	if t == nil {
		return
	}
	own := func(id string) (string, bool) {
		c, ok := m.chains[id]
		if !ok || chain != "" && !strings.HasPrefix(c, chain+".") || c == "" {
			return "", false
		}
		if chain != "" {
			c = strings.TrimPrefix(c, chain+".")
		}
		return "." + c, true
	}
	t.Formula = formula.Substitute(t.Formula, func(id, path string) (string, bool) {
		to, ok := own(id)
		return formula.Reference(to, path), ok
	})
	for _, ref := range []*string{&t.LowTag, &t.HighTag} {
		if to, ok := own(*ref); ok {
			*ref = to
		}
	}
	if t.Behaviour != nil {
		b := *t.Behaviour
		if to, ok := own(b.Tag); ok {
			b.Tag = to
		}
		t.Behaviour = &b
	}
}
