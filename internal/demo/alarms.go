package demo

import (
	"fmt"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
)

// alarms are those worth having: each says what follows and what to do. Their
// formulas are typed; ids are the same each time.
func alarms(p *project.Project) (out []alarm.Alarm, err error) {
	add := func(path, name string, kind alarm.Kind, priority alarm.Priority, a alarm.Alarm) {
		id, ok := p.FindPath(path)
		if !ok {
			err = fmt.Errorf("the alarm %s: there is no tag %s", name, path)
		}
		a.ID, a.Tag, a.Name, a.Kind, a.Priority, a.Reviewed = fmt.Sprintf("a-%03d", len(out)+1), id, name, kind, priority, true
		out = append(out, a)
	}
	for i := 1; i <= 3; i++ {
		k := fmt.Sprintf("Kiln%d", i)
		area, group := fmt.Sprintf("a-k%d", i), fmt.Sprintf("Chamber %d", i)
		own := func(a alarm.Alarm) alarm.Alarm {
			a.Area, a.Group, a.Screen = area, group, "s-chamber1"
			return a
		}
		add(k+".DryBulb", "Dry bulb high", alarm.HighLimit, alarm.High, own(alarm.Alarm{Limit: "82", Deadband: 1, OnDelay: 5, Message: "Chamber at {value:0.0} °C, limit {limit:0}; vent {" + k + ".VentPosition:0} %",
			Guidance: alarm.Guidance{Cause: "Heat valve stuck open, or vent closed", Consequence: "Timber dries too fast and checks", Action: "Close the heat valve by hand; open the vent", Respond: 15}}))
		add(k+".DryBulb", "Dry bulb high-high", alarm.HighHigh, alarm.Critical, own(alarm.Alarm{Limit: "90", Deadband: 1, OnDelay: 2, Latch: true, Message: "Chamber at {value:0.0} °C, above {limit:0}",
			Guidance: alarm.Guidance{Cause: "Heating out of control", Consequence: "Fire hazard, load lost", Action: "Stop the burner; leave the door shut", Respond: 3}}))
		add(k+".DryBulb", "Dry bulb changes too fast", alarm.Rate, alarm.Low, own(alarm.Alarm{Limit: "6", Window: 60, Suppress: k + ".Mode == 0", SuppressWhy: "chamber is idle", Message: "{value:0.0} °C, more than {limit:0} K within a minute",
			Guidance: alarm.Guidance{Cause: "Heat valve worked by hand, door open, or steam", Consequence: "Checks on the surface", Action: "Look at the heat valve", Respond: 20}}))
		add(k+".WetBulb", "Depression too small", alarm.Deviation, alarm.Medium, own(alarm.Alarm{Limit: "40", Target: k + ".DryBulb", Deadband: 1, OnDelay: 30, Suppress: k + ".Mode == 0", SuppressWhy: "chamber is idle",
			Message: "Wet bulb {value:0.0} °C, dry bulb {target:0.0} °C", Guidance: alarm.Guidance{Cause: "Wick dry, or spray shut", Consequence: "Drying out of schedule", Action: "Wet the wick; look at the spray", Respond: 30}}))
		for f := 1; f <= 4; f++ {
			fan := fmt.Sprintf("%s.Fan[%d]", k, f)
			add(fan+".Fault", fmt.Sprintf("Fan %d tripped", f), alarm.State, alarm.Medium, own(alarm.Alarm{Message: fmt.Sprintf("Fan %d tripped at {%s.Speed:0} %%", f, fan),
				Guidance: alarm.Guidance{Cause: "Overload, or a phase lost", Consequence: "Air falls, the load dries unevenly", Action: "Look at the breaker; reset once", Respond: 15}}))
		}
		add(k+".Burner.Lockout", "Burner lockout", alarm.State, alarm.High, own(alarm.Alarm{Latch: true, Message: "Burner locked out",
			Guidance: alarm.Guidance{Cause: "No flame within three seconds", Consequence: "The chamber cools", Action: "Look at gas and spark; reset the burner", Respond: 30}}))
		add(k+".DoorClosed", "Door open while heating", alarm.State, alarm.Medium, own(alarm.Alarm{Inverted: true, Latch: true, OnDelay: 3, Suppress: k + ".Mode == 0", SuppressWhy: "chamber is idle", Message: "The door is open, dry bulb {" + k + ".DryBulb:0.0} °C",
			Guidance: alarm.Guidance{Cause: "Somebody went in, or the latch is worn", Consequence: "Heat is lost, steam at the door", Action: "Shut the door", Respond: 10}}))
		for m := 1; m <= 4; m++ {
			add(fmt.Sprintf("%s.Moisture[%d]", k, m), fmt.Sprintf("Moisture probe %d broken", m), alarm.Quality, alarm.Low, own(alarm.Alarm{OnDelay: 5, Message: "The probe gives no value",
				Guidance: alarm.Guidance{Cause: "Probe fell out, or its cable broke", Consequence: "One probe fewer in the mean", Action: "Put it back at the next load", Respond: 240}}))
		}
	}
	add("Car.EStop", "Emergency stop", alarm.State, alarm.Critical, alarm.Alarm{Area: "a-car", Group: "Rail car", Screen: "s-car", Message: "Emergency stop of the car pressed",
		Guidance: alarm.Guidance{Cause: "Somebody pressed it", Consequence: "The car stands", Action: "Go and look; reset at the car", Respond: 2}})
	add("Plant.KilnLink", "Link to the kilns lost", alarm.State, alarm.High, alarm.Alarm{Inverted: true, OnDelay: 2, Area: "a-kilns", Group: "Links", Screen: "s-yard", Message: "The kilns' controller does not answer",
		Guidance: alarm.Guidance{Cause: "Cable, switch or controller", Consequence: "Nothing of the kilns is known", Action: "Look at the controller's cabinet; run by hand", Respond: 10}})
	return out, err
}
