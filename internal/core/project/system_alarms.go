package project

import (
	"slices"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
)

// alarmOn tells whether an alarm is on a system tag of a kind, or asks for one.
func (c *checker) alarmOn(tells func(*tag.Tag) bool) bool {
	system := func(id string) bool {
		t := c.p.Tags[id]
		return t != nil && t.Source == tag.System && tells(t)
	}
	for _, a := range c.p.Alarms {
		if system(a.Tag) || slices.ContainsFunc(formula.References(a.Condition), system) {
			return true
		}
	}
	return false
}
