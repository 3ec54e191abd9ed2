package device

import "fmt"

// Reference is a tag that a device's own functions read or write.
type Reference struct {
	ID     string
	Place  string // JSON pointer
	Writes bool
	// Anywhere says that it may be a tag of anything, a computed one too.
	Anywhere bool
}

// References lists the tags of the heartbeat, the clock and the conditions.
func (d *Device) References() []Reference {
	var out []Reference
	add := func(id, place string, writes bool) {
		if id != "" {
			out = append(out, Reference{ID: id, Place: place, Writes: writes})
		}
	}
	if h := d.Heartbeat; h != nil {
		add(h.Out, "/heartbeat/out", true)
		add(h.In, "/heartbeat/in", false)
	}
	if c := d.Clock; c != nil {
		for _, p := range c.Parts() {
			add(p.Tag, "/clock/"+p.Name, true)
		}
	}
	for i, c := range d.Conditions {
		out = append(out, Reference{ID: c.Tag, Place: fmt.Sprintf("/conditions/%d/tag", i), Anywhere: true})
	}
	return out
}

// ClockPart is one of the tags that a clock is set through.
type ClockPart struct{ Name, Tag string }

// Parts lists them in the order in which they are written; the one that makes
// the controller take them is last.
func (c *Clock) Parts() []ClockPart {
	return []ClockPart{{"unix", c.Unix}, {"year", c.Year}, {"month", c.Month}, {"day", c.Day}, {"hour", c.Hour}, {"minute", c.Minute},
		{"second", c.Second}, {"set", c.Set}}
}
