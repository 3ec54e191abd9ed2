// Package engine runs one compiled program: a table of tag values, scaling,
// computed tags, staleness and delivery to subscribers. An Engine is driven
// step by step with time passed in; a Runner gives it a goroutine.
package engine

import (
	"maps"
	"slices"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Program is a project compiled for the engine. Every tag has a dense slot. A
// program compiled after another keeps the slots of the tags they share, and
// never gives a slot to another tag, so that values in flight find their way.
type Program struct {
	specs      []*spec          // by slot; nil where a tag is gone
	hot        []hot            // by slot: what every change of a value needs
	slots      map[string]int32 // by id
	order      []int32          // slots of computed tags, each behind all it depends on
	dependents [][]int32        // by slot: ranks of the computed tags that read it
	links      bool             // what is read from the devices differs from prev
	options    Options
	systems    []int32 // slots of system tags
	standins   []standIn
	sparing    []int32 // slots that are read only while they are needed
	alarms     []*alarmSpec
	alarmsOf   [][]int32      // by slot: alarms that look at it
	captured   map[int32]bool // slots that messages of alarms show
	words      wording        // that the messages were compiled with
	of         *project.Project
}

// standIn is a tag on a stand-in.
type standIn struct {
	slot    int32
	follows int32            // slot that it goes after, -1 for none
	moves   *formula.Program // its formula, nil for none
}

// Options say how a project is compiled.
type Options struct {
	// StandIn tells which devices are replaced by stand-ins; nil for none but
	// those that are stand-ins themselves.
	StandIn func(device string) bool
}

func (o Options) standIn(d *device.Device) bool {
	return d != nil && (d.Protocol == device.StandIn || o.StandIn != nil && o.StandIn(d.ID))
}

// LinksChanged tells whether what is read from the devices differs from the
// program that this one was compiled after.
func (p *Program) LinksChanged() bool { return p.links }

// hot is a slot's share of the hot path, side by side with its neighbours': a
// change touches one of these instead of a definition somewhere in memory.
type hot struct {
	lin  tag.Linear
	kind value.Kind // engineering
	raw  value.Kind // None where no value is taken from a device
	how  conversion
	deps bool // computed tags or alarms read it
	// low and high are where the value can be, where that is bounded: raw, or in
	// engineering units before any clamp.
	low, high  float64
	bounded    bool
	boundedRaw bool
}

type conversion uint8

const (
	asIs conversion = iota
	scaled
	inverted
)

func newHot(s *spec, deps bool) hot {
	if s == nil {
		return hot{}
	}
	h := hot{lin: s.lin, kind: s.kind, deps: deps}
	if s.device != nil && !s.broken && !s.device.Off {
		h.raw = s.tag.Type.Kind
	}
	if r := s.tag.Plausible; r != nil && s.tag.Source == tag.Device {
		h.low, h.high = r.Ends()
		h.bounded, h.boundedRaw = true, r.Raw || !s.scaled
	}
	switch {
	case s.scaled:
		h.how = scaled
	case s.invert:
		h.how = inverted
	}
	return h
}

// spec is what the engine needs to know of one tag.
type spec struct {
	tag     *tag.Tag
	kind    value.Kind
	scaled  bool
	lin     tag.Linear
	invert  bool
	device  *device.Device // nil unless the source is a device
	maxAge  time.Duration  // of a device tag's value until it is stale
	program *formula.Program
	initial value.Value
	broken  bool
	standIn bool
	sparing bool          // read only while needed
	motion  tag.Behaviour // on a stand-in
}

// Slot returns a tag's slot.
func (p *Program) Slot(id string) (int32, bool) { s, ok := p.slots[id]; return s, ok }

// Len is the number of slots, including those of tags that are gone.
func (p *Program) Len() int { return len(p.specs) }

// Tag returns the definition in a slot, nil where the tag is gone.
func (p *Program) Tag(slot int32) *tag.Tag {
	if s := p.specs[slot]; s != nil {
		return s.tag
	}
	return nil
}

// Compile turns a project into a program. prev, which may be nil, is the
// program that it will follow; what did not change is taken from there.
func Compile(p *project.Project, prev *Program, o Options) *Program {
	if prev != nil && project.Same(prev.of, p, project.KindTag, project.KindDevice, project.KindAlarm, project.KindWords, project.KindSite) {
		// Another edit than one of what an engine knows.
		next := *prev
		next.of, next.links = p, false
		return &next
	}
	next := &Program{options: o, of: p, slots: map[string]int32{}}
	changed := map[string]bool{} // tags whose kind or presence changed
	computed := false
	if prev != nil {
		next.specs = slices.Clone(prev.specs)
		next.slots = prev.slots
		var gone []string
		for slot, s := range next.specs {
			if s == nil {
				continue
			}
			t := p.Tags[s.tag.ID]
			if t == nil {
				next.links = next.links || s.device != nil
				gone = append(gone, s.tag.ID)
				changed[s.tag.ID] = true
				computed = computed || s.program != nil || s.broken
				next.specs[slot] = nil
				continue
			}
			if t == s.tag && s.device == deviceOf(p, t) {
				continue
			}
			n := newSpec(p, t, o)
			if n.kind != s.kind {
				changed[t.ID] = true
			}
			computed = computed || t.Source == tag.Computed || s.tag.Source == tag.Computed
			next.links = next.links || !sameLink(s, n)
			next.specs[slot] = n
		}
		if len(gone) > 0 {
			next.slots = maps.Clone(prev.slots)
			for _, id := range gone {
				delete(next.slots, id)
			}
		}
	}
	if len(next.slots) < len(p.Tags) {
		slots := make(map[string]int32, len(p.Tags))
		maps.Copy(slots, next.slots)
		next.slots = slots
		next.specs = slices.Grow(next.specs, len(p.Tags)-len(next.slots))
		more := make([]*tag.Tag, 0, cap(next.specs)-len(next.specs))
		first := len(next.specs)
		// By path, as neighbours in the plant are often read together.
		for _, id := range p.SortedTags() {
			if _, ok := next.slots[id]; ok {
				continue
			}
			t := p.Tags[id]
			next.slots[id] = int32(first + len(more))
			more = append(more, t)
			if prev != nil {
				changed[id] = true
			}
			next.links = next.links || t.Source == tag.Device
			computed = computed || t.Source == tag.Computed
		}
		next.specs = append(next.specs, make([]*spec, len(more))...)
		project.InShares(len(more), func(from, to int) {
			for i := from; i < to; i++ {
				next.specs[first+i] = newSpec(p, more[i], o)
			}
		})
	}
	if prev != nil && !computed && len(changed) == 0 {
		next.order, next.dependents = prev.order, prev.dependents
	} else {
		next.compileFormulas(p, changed)
		next.sort(p)
	}
	next.compileAlarms(p, prev, changed)
	next.hot = make([]hot, len(next.specs))
	for i, s := range next.specs {
		next.hot[i] = newHot(s, len(next.dependents[i]) > 0 || len(next.alarmsOf[i]) > 0)
		next.list(p, int32(i), s)
	}
	return next
}

// list notes a slot in the lists that the engine goes through.
func (p *Program) list(proj *project.Project, slot int32, s *spec) {
	switch {
	case s == nil:
	case s.tag.Source == tag.System:
		p.systems = append(p.systems, slot)
	case s.standIn:
		in := standIn{slot: slot, follows: -1}
		if f, ok := p.slots[s.motion.Tag]; ok && s.motion.Kind == tag.Follow {
			in.follows = f
		}
		if s.motion.Kind == tag.Formula {
			in.moves, _ = formula.Compile(s.motion.Formula, p.scope(proj))
		}
		p.standins = append(p.standins, in)
	case s.sparing:
		p.sparing = append(p.sparing, slot)
	}
}

func (p *Program) scope(proj *project.Project) formula.Scope {
	return formula.Scope{
		Tag: func(id string) (int32, value.Kind, bool) {
			slot, ok := p.slots[id]
			if !ok {
				return 0, 0, false
			}
			return slot, p.specs[slot].kind, true
		},
		Path: proj.Path,
	}
}

// SystemTag is a tag that the application itself gives a value.
type SystemTag struct {
	Slot   int32
	Name   string // see tag.SystemValues
	Device string // id of the one that it is about
	Log    string // id of the one that it is about
	Book   string // id of the one that it is about
	Tag    string // id of the tag itself
}

// Systems lists the system tags.
func (p *Program) Systems() []SystemTag {
	out := make([]SystemTag, len(p.systems))
	for i, slot := range p.systems {
		t := p.specs[slot].tag
		out[i] = SystemTag{slot, t.System, t.Device, t.Log, t.Book, t.ID}
	}
	return out
}

// OnStandIn tells whether a tag's device is replaced by a stand-in here.
func (p *Program) OnStandIn(id string) bool {
	slot, ok := p.slots[id]
	return ok && p.specs[slot].standIn
}

// sameLink tells whether two definitions of a tag are read alike.
func sameLink(a, b *spec) bool {
	if a.device == nil && b.device == nil {
		return true
	}
	x, y := a.tag, b.tag
	return a.device == b.device && x.WriteAddress == y.WriteAddress && x.Group == y.Group && a.standIn == b.standIn &&
		x.Address == y.Address && x.Type == y.Type && x.Order == y.Order && x.Poll == y.Poll
}

func deviceOf(p *project.Project, t *tag.Tag) *device.Device {
	if t.Source != tag.Device {
		return nil
	}
	return p.Devices[t.Device]
}

func newSpec(p *project.Project, t *tag.Tag, o Options) *spec {
	s := &spec{tag: t, kind: t.Kind(), invert: t.Invert, device: deviceOf(p, t)}
	if t.Scale != nil && t.Type.Kind.IsNumber() {
		s.scaled, s.lin = true, t.Scale.Linear()
	}
	switch t.Source {
	case tag.Device:
		s.broken = s.device == nil
		if s.device != nil {
			s.maxAge = s.device.MaxAge(t)
			s.sparing = s.device.OnlyNeeded(t)
			_, err := s.device.CheckTag(t)
			s.broken = err != nil
			if s.standIn = o.standIn(s.device); s.standIn {
				s.broken, s.sparing, s.maxAge = false, false, 0
				s.motion = p.Behaves(t)
			}
		}
	case tag.Internal:
		s.initial = zero(s.kind)
		if t.Initial != "" {
			if v, err := value.Parse(t.EngineeringType(), t.Initial); err == nil {
				s.initial = v
			}
		}
	}
	return s
}

func zero(k value.Kind) value.Value {
	switch {
	case k == value.STRING:
		return value.Str("")
	case k.IsReal():
		return value.Real(k, 0)
	case k == value.BOOL:
		return value.Bool(false)
	}
	return value.Int(k, 0)
}

func (p *Program) compileFormulas(proj *project.Project, changed map[string]bool) {
	scope := p.scope(proj)
	var slots []int
	for i, s := range p.specs {
		if s != nil && s.tag.Source == tag.Computed && (s.program == nil || refersTo(s.tag.Formula, changed)) {
			slots = append(slots, i)
		}
	}
	made := make([]*spec, len(slots))
	project.InShares(len(slots), func(from, to int) {
		for i := from; i < to; i++ {
			n := *p.specs[slots[i]]
			prog, err := formula.Compile(n.tag.Formula, scope)
			n.program, n.broken = prog, err != nil
			made[i] = &n
		}
	})
	for i, slot := range slots {
		p.specs[slot] = made[i]
	}
}

func refersTo(stored string, changed map[string]bool) bool {
	if len(changed) == 0 {
		return false
	}
	for _, id := range formula.References(stored) {
		if changed[id] {
			return true
		}
	}
	return false
}

// sort orders the computed tags by dependency. Members of a ring are broken.
func (p *Program) sort(proj *project.Project) {
	p.dependents = make([][]int32, len(p.specs))
	for _, ring := range proj.Cycles() {
		for _, id := range ring {
			slot := p.slots[id]
			n := *p.specs[slot]
			n.program, n.broken = nil, true
			p.specs[slot] = &n
		}
	}
	state := make([]uint8, len(p.specs))
	var visit func(slot int32)
	visit = func(slot int32) {
		s := p.specs[slot]
		if s == nil || s.program == nil || state[slot] != 0 {
			return
		}
		state[slot] = 1
		for _, d := range s.program.Slots() {
			visit(d)
		}
		p.order = append(p.order, slot)
	}
	for slot := range p.specs {
		visit(int32(slot))
	}
	for r, slot := range p.order {
		for _, d := range p.specs[slot].program.Slots() {
			p.dependents[d] = append(p.dependents[d], int32(r))
		}
	}
}
