package project

import (
	"strconv"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/screen"
)

// LimitMarks are the limits of a tag's alarms that are plain numbers; a limit
// that is a formula has no lasting place on a scale.
func (p *Project) LimitMarks(tag string) []screen.LimitMark {
	var out []screen.LimitMark
	for _, a := range p.AlarmsOf(tag) {
		switch a.Kind {
		case alarm.HighHigh, alarm.HighLimit, alarm.LowLimit, alarm.LowLow:
			if at, err := strconv.ParseFloat(a.Limit, 64); err == nil && !a.Off {
				out = append(out, screen.LimitMark{Priority: string(a.Priority), At: at})
			}
		}
	}
	return out
}
