package project

import (
	"sort"

	"readyrail/internal/core/device"
	"readyrail/internal/core/tag"
)

// occupied knows which tag has which registers and bits of each device.
type occupied struct {
	p  *Project
	by map[string][]claimed // by device and space, sorted by from until something is added
}

type claimed struct {
	from, to int // in bits of the space
	longest  int // the greatest to of all up to here
	path     string
}

func (p *Project) occupied() *occupied {
	o := &occupied{p: p, by: map[string][]claimed{}}
	for id, t := range p.Tags {
		if key, c, ok := o.place(p.paths.of[id], t); ok {
			o.by[key] = append(o.by[key], c)
		}
	}
	for _, list := range o.by {
		sort.Slice(list, func(i, j int) bool { return list[i].from < list[j].from })
		longest := 0
		for i := range list {
			longest = max(longest, list[i].to)
			list[i].longest = longest
		}
	}
	return o
}

func (o *occupied) place(path string, t *tag.Tag) (key string, c claimed, ok bool) {
	d := o.p.Devices[t.Device]
	if t.Source != tag.Device || d == nil || d.Protocol != device.ModbusTCP {
		return "", c, false
	}
	a, err := device.ParseAddress(t.Address)
	if err != nil {
		return "", c, false
	}
	from, to := 16*int(a.Offset), 16*(int(a.Offset)+device.Registers(t.Type))
	if a.Bit >= 0 {
		from += int(a.Bit)
		to = from + 1
	}
	return t.Device + "/" + a.Space.String(), claimed{from: from, to: to, path: path}, true
}

// other says which tag of the project but the one at a path has something of a tag's address.
func (o *occupied) other(path string, t *tag.Tag) string {
	key, c, ok := o.place(path, t)
	if !ok {
		return ""
	}
	list := o.by[key]
	for i := sort.Search(len(list), func(i int) bool { return list[i].from >= c.to }) - 1; i >= 0 && list[i].longest > c.from; i-- {
		if list[i].to > c.from && list[i].path != path {
			return list[i].path
		}
	}
	return ""
}
