package project

import (
	"fmt"
	"sort"
	"strings"

	"readyrail/internal/core/device"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Severity of a finding.
type Severity string

// Errors stop a release; warnings and notes do not. Notes leave a stop's
// readiness alone.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Note    Severity = "note"
)

// Stop is a step of the rail.
type Stop string

// The stops of this version, in the order of the job.
const (
	StopSite      Stop = "site"
	StopDevices   Stop = "devices"
	StopTags      Stop = "tags"
	StopEquipment Stop = "equipment"
	StopScreens   Stop = "screens"
	StopAlarms    Stop = "alarms"
	StopPeople    Stop = "people"
	StopRelease   Stop = "release"
)

// Finding is something that the project check has to say.
type Finding struct {
	Rule     string            `json:"rule"`
	Severity Severity          `json:"severity"`
	Stop     Stop              `json:"stop"`
	Kind     string            `json:"kind"`
	ID       string            `json:"id"`
	Place    string            `json:"place"` // JSON pointer into the thing
	Name     string            `json:"name"`  // the thing in words
	Args     map[string]string `json:"args,omitempty"`
}

// Findings runs the check, once for each version.
func (p *Project) Findings() []Finding {
	p.checkOnce.Do(func() {
		c := &checker{p: p, findings: []Finding{}}
		c.site()
		c.devices()
		c.tags()
		c.overlaps()
		c.cycles()
		c.equipment()
		c.screens()
		c.alarms()
		c.people()
		sort.SliceStable(c.findings, func(i, j int) bool {
			a, b := c.findings[i], c.findings[j]
			if r := rank(a.Severity) - rank(b.Severity); r != 0 {
				return r < 0
			}
			if a.Stop != b.Stop {
				return stopOrder[a.Stop] < stopOrder[b.Stop]
			}
			return tag.Less(a.Name, b.Name)
		})
		p.findings = c.findings
	})
	return p.findings
}

// Releasable tells whether no error stands in the way.
func (p *Project) Releasable() bool {
	for _, f := range p.Findings() {
		if f.Severity == Error {
			return false
		}
	}
	return true
}

func rank(s Severity) int {
	return map[Severity]int{Error: 0, Warning: 1, Note: 2}[s]
}

var stopOrder = map[Stop]int{StopSite: 0, StopDevices: 1, StopTags: 2, StopEquipment: 3, StopScreens: 4, StopAlarms: 5, StopPeople: 6, StopRelease: 7}

type checker struct {
	p        *Project
	findings []Finding
}

func (c *checker) add(rule string, s Severity, stop Stop, kind, id, place, name string, args ...string) {
	f := Finding{Rule: rule, Severity: s, Stop: stop, Kind: kind, ID: id, Place: place, Name: name}
	if len(args) > 0 {
		f.Args = map[string]string{}
		for i := 0; i+1 < len(args); i += 2 {
			f.Args[args[i]] = args[i+1]
		}
	}
	c.findings = append(c.findings, f)
}

func (c *checker) site() {
	if len(c.p.Site.Areas) == 0 {
		c.add("site.areas", Note, StopSite, KindSite, SiteID, "/areas", c.p.Site.Name)
	}
}

func (c *checker) devices() {
	same := map[string]string{}
	for _, id := range SortedKeys(c.p.Devices) {
		d := c.p.Devices[id]
		used := false
		for _, u := range c.p.Uses(id) {
			used = used || u.Place == "/device"
		}
		if !used {
			c.add("device.unused", Warning, StopDevices, KindDevice, id, "", d.Name)
		}
		if d.Nowhere() {
			c.add("device.host", Error, StopDevices, KindDevice, id, "/host", d.Name)
			continue
		}
		key := fmt.Sprintf("%s/%d", d.Endpoint(), d.Unit)
		if other, ok := same[key]; ok {
			c.add("device.same", Warning, StopDevices, KindDevice, id, "/host", d.Name, "other", other, "endpoint", d.Endpoint(), "unit", fmt.Sprint(d.Unit))
		}
		same[key] = d.Name
		for _, r := range d.References() {
			t, ok := c.p.Tag(r.ID)
			switch {
			case !ok:
				c.add("device.tag", Error, StopDevices, KindDevice, id, r.Place, d.Name)
			case r.Writes && (!t.Writable() || t.Source != tag.Device || t.Device != id):
				c.add("device.tag.write", Error, StopDevices, KindDevice, id, r.Place, d.Name, "tag", c.p.paths.of[r.ID])
			case !r.Anywhere && (t.Source != tag.Device || t.Device != id):
				c.add("device.tag.other", Warning, StopDevices, KindDevice, id, r.Place, d.Name, "tag", c.p.paths.of[r.ID])
			}
		}
	}
}

func (c *checker) tags() {
	for id, t := range c.p.Tags {
		path := c.p.paths.of[id]
		switch t.Source {
		case tag.Device:
			d := c.p.Devices[t.Device]
			if d == nil {
				c.add("tag.device", Error, StopTags, KindTag, id, "/device", path)
				continue
			}
			if field, err := d.CheckTag(t); err != nil {
				c.add("tag.address", Error, StopTags, KindTag, id, "/"+field, path, "reason", err.Error())
			}
		case tag.Computed:
			prog, err := formula.Compile(t.Formula, c.p.Scope())
			if err != nil {
				c.formula(err, StopTags, KindTag, id, "/formula", path)
			} else if !fitsKind(t.Type.Kind, prog.Kind()) {
				c.add("tag.formula.type", Error, StopTags, KindTag, id, "/formula", path, "type", t.Type.String(), "gives", prog.Kind().String())
			}
			for _, ref := range formula.References(t.Formula) {
				if own, ok := c.p.Tag(ref); ok && own.Own() {
					c.add("tag.own", Error, StopTags, KindTag, id, "/formula", path, "tag", c.p.paths.of[ref])
				}
			}
		case tag.System:
			if s, _ := tag.SystemValueOf(t.System); s.Device && c.p.Devices[t.Device] == nil {
				c.add("tag.device", Error, StopTags, KindTag, id, "/device", path)
			}
		}
		for place, ref := range map[string]string{"/lowTag": t.LowTag, "/highTag": t.HighTag} {
			if ref == "" {
				continue
			}
			if l, ok := c.p.Tag(ref); !ok {
				c.add("tag.limit", Error, StopTags, KindTag, id, place, path)
			} else if !l.Kind().IsNumber() {
				c.add("tag.limit.type", Error, StopTags, KindTag, id, place, path, "tag", c.p.paths.of[ref], "type", l.Type.String())
			}
		}
		if b := t.Behaviour; b != nil {
			c.behaviour(id, path, b)
		}
	}
}

func (c *checker) behaviour(id, path string, b *tag.Behaviour) {
	if b.Kind == tag.Follow && c.p.Tags[b.Tag] == nil {
		c.add("tag.follow", Warning, StopTags, KindTag, id, "/behaviour", path)
	}
	if b.Kind == tag.Formula {
		if _, err := formula.Compile(b.Formula, c.p.Scope()); err != nil {
			c.add("tag.behaviour", Warning, StopTags, KindTag, id, "/behaviour", path, "reason", err.Error())
		}
	}
}

// fitsKind tells whether a computed tag of kind t can take a formula's result.
func fitsKind(t, result value.Kind) bool {
	switch {
	case t.IsReal():
		return result.IsNumber()
	case t.IsInteger():
		return result.IsInteger()
	}
	return t == result
}

func (c *checker) formula(err error, stop Stop, kind, id, place, name string) {
	column, message := "", err.Error()
	if fe, ok := err.(*formula.Error); ok {
		column, message = fmt.Sprint(fe.Column+1), fe.Message
	}
	rule := "formula"
	if strings.HasSuffix(message, "no longer exists") {
		rule = "formula.gone"
	}
	c.add(rule, Error, stop, kind, id, place, name, "column", column, "reason", message)
}

// Scope is the scope in which the project's formulas are checked: every tag is
// in slot 0, so that the program is good for its type alone.
func (p *Project) Scope() formula.Scope { return p.ScopeOn(nil) }

// ScopeOn is Scope on a screen: its parameters are known by what their types
// say.
func (p *Project) ScopeOn(s *screen.Screen) formula.Scope {
	return formula.Scope{
		Tag: func(id string) (int32, value.Kind, bool) {
			if t, ok := p.Tags[p.Real(id)]; ok {
				return 0, t.Kind(), true
			}
			_, _, kind, ok := s.ResolveParam(id, p.Type)
			return 0, kind, ok && kind != value.None
		},
		Path: p.PathOn(s),
	}
}

// span is a tag's place in one space of a device.
type span struct {
	id         string
	start, end int // registers or bits, end behind the last
	bit        int8
	typ        value.Type
}

// overlaps finds addresses used twice with types that clash, and registers
// whose bits are tags of their own.
func (c *checker) overlaps() {
	spaces := map[string][]span{}
	for _, id := range SortedKeys(c.p.Tags) {
		t := c.p.Tags[id]
		if t.Source != tag.Device || c.p.Devices[t.Device] == nil {
			continue
		}
		a, err := device.ParseAddress(t.Address)
		if err != nil || c.p.Devices[t.Device].Protocol != device.ModbusTCP {
			continue
		}
		key := t.Device + "/" + a.Space.String()
		start := int(a.Offset)
		spaces[key] = append(spaces[key], span{id, start, start + device.Registers(t.Type), a.Bit, t.Type})
	}
	for _, key := range SortedKeys(spaces) {
		list := spaces[key]
		sort.SliceStable(list, func(i, j int) bool { return list[i].start < list[j].start })
		// Each tag is said to clash once, with the nearest before it or with the
		// one that reaches farthest: four hundred tags at one place are no
		// eighty thousand findings.
		far := 0
		for j := 1; j < len(list); j++ {
			said := false
			for i := j - 1; i >= max(0, j-maxLookBack) && !said; i-- {
				said = list[i].end > list[j].start && c.pair(list[i], list[j])
			}
			if !said && list[far].end > list[j].start {
				c.pair(list[far], list[j])
			}
			if list[j].end > list[far].end {
				far = j
			}
		}
	}
}

// maxLookBack is how many tags before one in a space are looked at for a
// clash: more than the bits and the word of one register.
const maxLookBack = 20

func (c *checker) pair(a, b span) (said bool) {
	args := []string{"other", c.p.paths.of[a.id], "address", c.p.Tags[b.id].Address}
	name := c.p.paths.of[b.id]
	switch {
	case a.bit >= 0 && b.bit >= 0:
		if a.bit != b.bit {
			return false
		}
		c.twice(a, b, name, args)
	case a.bit >= 0 || b.bit >= 0:
		c.add("tag.bits", Warning, StopTags, KindTag, b.id, "/address", name, args...)
	case a.start == b.start && a.typ == b.typ:
		c.twice(a, b, name, args)
	default:
		c.add("tag.overlap", Error, StopTags, KindTag, b.id, "/address", name, append(args, "type", b.typ.String(), "otherType", a.typ.String())...)
	}
	return true
}

// twice says that two tags are one value of the controller. Of equipment it is
// a setting that was forgotten: two pieces do not share a register.
func (c *checker) twice(a, b span, name string, args []string) {
	one, made := c.p.GearTag(a.id)
	other, also := c.p.GearTag(b.id)
	if made && also && (one.Instance != other.Instance || one.Chain != other.Chain) {
		c.add("equipment.twice", Warning, StopEquipment, KindEquipment, other.Instance, "/settings", name, args...)
		return
	}
	c.add("tag.twice", Note, StopTags, KindTag, b.id, "/address", name, args...)
}

// cycles finds computed tags that depend on themselves.
func (c *checker) cycles() {
	for _, cycle := range c.p.Cycles() {
		var names []string
		for _, id := range cycle {
			names = append(names, c.p.paths.of[id])
		}
		c.add("tag.cycle", Error, StopTags, KindTag, cycle[0], "/formula", names[0], "members", strings.Join(append(names, names[0]), " → "))
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
	for _, id := range SortedKeys(p.Tags) {
		visit(id)
	}
	return out
}

func (c *checker) people() {
	operate := false
	for _, r := range c.p.Roles {
		operate = operate || r.Has("operate")
	}
	if !operate {
		c.add("people.operate", Warning, StopPeople, KindSite, SiteID, "", c.p.Site.Name)
	}
}
