package plant

import (
	"context"
	"time"
)

// resetCoil takes back what tripped in the first chamber.
const resetCoil = 2

// Act is a step of a script of faults.
type Act struct {
	After time.Duration // since the step before
	Fault string        // of Faults; empty for the chamber's reset
	On    bool
}

// Script shows in twelve minutes what alarms do: one comes and clears, one
// chatters, the link is lost, and many come at once.
var Script = script()

func script() []Act {
	const soon = 200 * time.Millisecond
	out := []Act{{90 * time.Second, "fan2", true}, {20 * time.Second, "fan2", false}, {10 * time.Second, "", true},
		{60 * time.Second, "door", true}, {15 * time.Second, "door", false}}
	// A loose contact.
	for range 6 {
		out = append(out, Act{3 * time.Second, "fan3", true}, Act{2 * time.Second, "fan3", false}, Act{soon, "", true})
	}
	out = append(out, Act{90 * time.Second, "link", true}, Act{30 * time.Second, "bus", true}, Act{20 * time.Second, "bus", false})
	// The power dips.
	out = append(out, Act{90 * time.Second, "fan1", true}, Act{soon, "fan2", true}, Act{soon, "fan3", true}, Act{soon, "fan4", true},
		Act{soon, "burner", true}, Act{time.Second, "probe", true}, Act{soon, "door", true}, Act{time.Second, "estop", true})
	for i, name := range []string{"fan1", "fan2", "fan3", "fan4", "burner", "probe", "door", "estop"} {
		after := 2 * time.Second
		if i == 0 {
			after = 60 * time.Second
		}
		out = append(out, Act{after, name, false})
	}
	return append(out, Act{5 * time.Second, "", true}, Act{180 * time.Second, "", true})
}

// Play acts a script over and over until ctx ends.
func (p *Plant) Play(ctx context.Context, script []Act) {
	for {
		for _, a := range script {
			select {
			case <-ctx.Done():
				return
			case <-time.After(a.After):
			}
			p.act(a)
		}
	}
}

func (p *Plant) act(a Act) {
	coil := uint16(resetCoil)
	if a.Fault != "" {
		coil = Faults[a.Fault]
	}
	// Both lie within the unit's coils.
	_ = p.WriteBits(KilnUnit, coil, []bool{a.On})
}
