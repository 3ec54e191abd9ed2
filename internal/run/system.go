package run

import (
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/link"
)

// tellSystem sets the system tags that the engine cannot know by itself.
func (r *Runs) tellSystem(now time.Time) {
	for _, name := range programs {
		runner, version := r.Runner(name), r.Version(name)
		if runner == nil || version == nil {
			continue
		}
		var systems []engine.SystemTag
		runner.Do(func(e *engine.Engine) { systems = e.Program().Systems() })
		// What is asked of others is asked outside of the engine.
		values := make([]value.Value, len(systems))
		known := make([]bool, len(systems))
		for i, s := range systems {
			values[i], known[i] = r.systemValue(name, s, version.Devices, now)
		}
		runner.Do(func(e *engine.Engine) {
			for i, s := range systems {
				if known[i] {
					e.SetSystem(s.Slot, values[i], now)
				}
			}
		})
	}
}

func (r *Runs) systemValue(program Program, s engine.SystemTag, devices map[string]*device.Device, now time.Time) (value.Value, bool) {
	status := func() link.Status {
		if d := devices[s.Device]; d != nil {
			return r.o.Hub.Status(*d)
		}
		return link.Status{}
	}
	if about, _ := tag.SystemValueOf(s.Name); about.Own {
		return value.Value{}, false // it is each viewer's own
	}
	switch s.Name {
	case "link.up":
		return value.Bool(status().State == link.Up), true
	case "link.roundTrip":
		return value.Real(value.LREAL, float64(status().RoundTrip.Microseconds())/1000), true
	case "link.errors":
		return value.Int(value.LINT, status().Errors), true
	case "link.heartbeat":
		return value.Bool(r.Heard(s.Device)), true
	case "links.down":
		down := int64(0)
		for _, d := range devices {
			if st := r.o.Hub.Status(*d); st.State == link.Down || st.State == link.Connecting {
				down++
			}
		}
		return value.Int(value.INT, down), true
	}
	return r.o.System(program, s, now)
}
