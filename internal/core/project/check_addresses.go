package project

import (
	"readyrail/internal/core/device"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"sort"
)

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
	args := []any{"other", c.p.paths.of[a.id], "address", c.p.Tags[b.id].Address}
	name := c.p.paths.of[b.id]
	switch {
	case a.bit >= 0 && b.bit >= 0:
		if a.bit != b.bit {
			return false
		}
		c.twice(a, b, name, args)
	case a.bit >= 0 || b.bit >= 0:
		c.add("tag.bits", Warning, KindTag, b.id, "/address", name, args...)
	case a.start == b.start && a.typ == b.typ:
		c.twice(a, b, name, args)
	default:
		c.add("tag.overlap", Error, KindTag, b.id, "/address", name, append(args, "type", b.typ.String(), "otherType", a.typ.String())...)
	}
	return true
}

// twice says that two tags are one value of the controller. Of equipment it is
// a setting that was forgotten: two pieces do not share a register.
func (c *checker) twice(a, b span, name string, args []any) {
	one, made := c.p.GearTag(a.id)
	other, also := c.p.GearTag(b.id)
	if made && also && (one.Instance != other.Instance || one.Chain != other.Chain) {
		c.add("equipment.twice", Warning, KindEquipment, other.Instance, "/settings", name, args...)
		return
	}
	c.add("tag.twice", Note, KindTag, b.id, "/address", name, args...)
}
