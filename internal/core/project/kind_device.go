package project

import (
	"fmt"
	"slices"

	"readyrail/internal/core/device"
	"readyrail/internal/core/tag"
)

// KindDevice are the controllers and instruments.
const KindDevice = "device"

var deviceKind = &kindOf[device.Device]{
	ThingKind: ThingKind{Name: KindDevice, Stop: StopDevices, Opens: true},
	of:        func(p *Project) *map[string]*device.Device { return &p.Devices },
	read: func(_ *Project, id string, d *device.Device, _ bool) (*device.Device, error) {
		d.ID = id
		field, err := d.Check()
		return d, at("/"+field, err)
	},
	name: func(_ *Project, _ string, d *device.Device) string { return d.Name },
	note: func(d *device.Device) string { return d.Description },
	refers: func(_ *Project, d *device.Device, say func(target, place, within string)) {
		for _, r := range d.References() {
			say(r.ID, r.Place, "")
		}
	},
	texts: func(_ *Project, _ string, d *device.Device, say sayText) {
		for _, c := range d.Conditions {
			say(c.Name, d.Name)
			for _, code := range c.Codes {
				say(code.Text, d.Name+" › "+c.Name)
			}
		}
	},
	check: func(c *checker) {
		same := map[string]string{}
		for _, id := range SortedKeys(c.p.Devices) {
			c.device(c.p.Devices[id], same)
		}
	},
	work: func(p *Project) int { return len(p.Devices) },
	editRules: editRules{
		touched: func(t *touchedThings, _ *Project, id string) { t.stale[[2]string{KindDevice, id}] = true },
	},
}

// device checks one device; same are those before it, by where they are.
func (c *checker) device(d *device.Device, same map[string]string) {
	say := func(rule string, s Severity, place string, args ...any) {
		c.add(rule, s, KindDevice, d.ID, place, d.Name, args...)
	}
	if !slices.ContainsFunc(c.p.Uses(d.ID), func(u Use) bool { return u.Place == "/device" }) {
		say("device.unused", Warning, "")
	}
	if d.Nowhere() {
		say("device.host", Error, "/host")
		return
	}
	key := fmt.Sprintf("%s/%d", d.Endpoint(), d.Unit)
	if other, ok := same[key]; ok {
		say("device.same", Warning, "/host", "other", other, "endpoint", d.Endpoint(), "unit", fmt.Sprint(d.Unit))
	}
	same[key] = d.Name
	for _, r := range d.References() {
		t, ok := c.p.Tag(r.ID)
		own := ok && t.Source == tag.Device && t.Device == d.ID
		switch {
		case !ok:
			say("device.tag", Error, r.Place)
		case r.Writes && (!t.Writable() || !own):
			say("device.tag.write", Error, r.Place, "tag", c.p.paths.of[r.ID])
		case !r.Anywhere && !own:
			say("device.tag.other", Warning, r.Place, "tag", c.p.paths.of[r.ID])
		}
	}
}
