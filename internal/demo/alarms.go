package demo

import (
	"encoding/json"
	"fmt"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/equipment"
	"readyrail/internal/core/project"
)

// typeAlarms are the alarms that every chamber, fan and burner has, by the
// name of the type and then of the member. Their formulas are typed.
var typeAlarms = map[string][]alarm.Alarm{
	"Chamber": {
		{Tag: "DryBulb", Name: "Dry bulb high", Kind: alarm.HighLimit, Priority: alarm.High, Limit: "82", Deadband: 1, OnDelay: 5, AtDesk: true, Message: "Chamber at {value:0.0} °C, limit {limit:0}; vent {VentPosition:0} %",
			Guidance: alarm.Guidance{Cause: "Heat valve stuck open, or vent closed", Consequence: "Timber dries too fast and checks", Action: "Close the heat valve by hand; open the vent", Respond: 10, Severity: alarm.Major}},
		{Tag: "DryBulb", Name: "Dry bulb high-high", Kind: alarm.HighHigh, Priority: alarm.Critical, Limit: "90", Deadband: 1, OnDelay: 2, Latch: true, Message: "Chamber at {value:0.0} °C, above {limit:0}",
			Guidance: alarm.Guidance{Cause: "Heating out of control", Consequence: "Fire hazard, load lost", Action: "Stop the burner; leave the door shut", Respond: 3, Severity: alarm.Severe}},
		{Tag: "DryBulb", Name: "Dry bulb changes too fast", Kind: alarm.Rate, Priority: alarm.Low, Limit: "6", Window: 60, Suppress: "Mode == 0", SuppressWhy: "chamber is idle", Message: "{value:0.0} °C, more than {limit:0} K within a minute",
			Guidance: alarm.Guidance{Cause: "Heat valve worked by hand, door open, or steam", Consequence: "Checks on the surface", Action: "Look at the heat valve", Respond: 20, Severity: alarm.Minor}},
		{Tag: "WetBulb", Name: "Depression too small", Kind: alarm.Formula, Priority: alarm.Medium, Condition: "DryBulb - WetBulb < 1.5", OnDelay: 30, Suppress: "Mode == 0", SuppressWhy: "chamber is idle",
			Message: "Wet bulb {WetBulb:0.0} °C, dry bulb {DryBulb:0.0} °C", Guidance: alarm.Guidance{Cause: "Wick dry, or spray stuck open", Consequence: "The load does not dry", Action: "Wet the wick; look at the spray", Respond: 30, Severity: alarm.Major}},
		{Tag: "DryBulb", Name: "Dry bulb off its set point", Kind: alarm.Deviation, Priority: alarm.Low, Limit: "12", Target: "DryBulbSP", Deadband: 2, OnDelay: 60, Suppress: "Mode != 2", SuppressWhy: "chamber is not drying", Message: "{value:0.0} °C, set point {target:0.0} °C",
			Guidance: alarm.Guidance{Cause: "Burner off, or set point just changed", Consequence: "Drying takes longer", Action: "Look at the burner and the heat valve", Respond: 60, Severity: alarm.Minor}},
		{Tag: "MoistureAvg", Name: "Moisture spread too large", Kind: alarm.Formula, Priority: alarm.Low, OnDelay: 30,
			Condition: "max(Moisture[1], Moisture[2], Moisture[3], Moisture[4]) - min(Moisture[1], Moisture[2], Moisture[3], Moisture[4]) > 8", Suppress: "Mode == 0", SuppressWhy: "chamber is idle", Message: "Probes differ by more than 8 %, mean {value:0.0} %",
			Guidance: alarm.Guidance{Cause: "Mixed timber in the load, or a probe in a knot", Consequence: "Part of the load stays wet", Action: "Lengthen conditioning; check the probes", Respond: 120, Severity: alarm.Minor}},
		{Tag: "DoorClosed", Name: "Door open while heating", Kind: alarm.State, Priority: alarm.Medium, Inverted: true, Latch: true, OnDelay: 3, Suppress: "Mode == 0", SuppressWhy: "chamber is idle", Message: "The door is open, dry bulb {DryBulb:0.0} °C",
			Guidance: alarm.Guidance{Cause: "Somebody went in, or the latch is worn", Consequence: "Heat is lost, steam at the door", Action: "Shut the door", Respond: 10, Severity: alarm.Minor}},
		{Tag: "Schedule.Left", Name: "Half a schedule", Kind: alarm.Formula, Priority: alarm.Medium, Condition: "Schedule.Left > 0", Message: "A delivery was left half-way: see Recipes",
			Guidance: alarm.Guidance{Cause: "The link or the server failed while a schedule was sent", Consequence: "The chamber would run a mix of two schedules", Action: "Put back or send again, at Recipes", Respond: 30, Severity: alarm.Major}},
		{Tag: "Moisture", Name: "Moisture probe {i} broken", Kind: alarm.Quality, Priority: alarm.Low, OnDelay: 5, Message: "Probe {i} gives no value",
			Guidance: alarm.Guidance{Cause: "Probe {i} fell out, or its cable broke", Consequence: "One probe fewer in the mean", Action: "Put it back at the next load", Respond: 240, Severity: alarm.Minor}},
	},
	"Fan": {
		{Tag: "Fault", Name: "Fan {i} tripped", Kind: alarm.State, Priority: alarm.Medium, Message: "Fan {i} tripped at {Speed:0} %",
			Guidance: alarm.Guidance{Cause: "Overload, or a phase lost", Consequence: "Air falls, the load dries unevenly", Action: "Look at the breaker; reset once", Respond: 15, Severity: alarm.Major}},
	},
	"Burner": {
		{Tag: "Lockout", Name: "Burner lockout", Kind: alarm.State, Priority: alarm.High, Latch: true, Message: "Burner locked out",
			Guidance: alarm.Guidance{Cause: "No flame within three seconds", Consequence: "The chamber cools", Action: "Look at gas and spark; reset the burner", Respond: 10, Severity: alarm.Major}},
	},
}

// alarmTypes gives the types of equipment their alarms.
func alarmTypes(p *project.Project) (ops []project.Op, err error) {
	for _, id := range project.SortedKeys(p.Types) {
		t := p.Types[id]
		made := map[string]equipment.TypeAlarm{}
		for i, a := range typeAlarms[t.Name] {
			chain, _, _, ok := equipment.Find(t, a.Tag, p.Type)
			if mid, m := t.Member(a.Tag); !ok && m != nil && m.To > 0 {
				chain, ok = mid, true
			}
			if !ok {
				return nil, fmt.Errorf("the alarm %s: %s has no member %s", a.Name, t.Name, a.Tag)
			}
			a.Tag, a.Reviewed, a.Screen = "."+chain, true, "s-chamber1"
			made[fmt.Sprintf("a%d", i+1)] = equipment.TypeAlarm{Alarm: a, Differs: equipment.AlarmUsual}
		}
		if len(made) == 0 {
			continue
		}
		doc, err := json.Marshal(made)
		if err != nil {
			return nil, err
		}
		ops = append(ops, project.Op{Kind: project.KindType, ID: id, Path: "/alarms", Value: doc})
	}
	return ops, nil
}

// alarms are those of no equipment. Their formulas are typed; ids are the same
// each time.
func alarms(p *project.Project) (out []alarm.Alarm, err error) {
	add := func(path string, a alarm.Alarm) {
		id, ok := p.FindPath(path)
		if !ok {
			err = fmt.Errorf("the alarm %s: there is no tag %s", a.Name, path)
		}
		a.ID, a.Tag, a.Reviewed = fmt.Sprintf("a-%03d", len(out)+1), id, true
		out = append(out, a)
	}
	add("Car.EStop", alarm.Alarm{Name: "Emergency stop", Kind: alarm.State, Priority: alarm.Critical, Area: "a-car", Group: "Rail car", Screen: "s-car", Message: "Emergency stop of the car pressed",
		Guidance: alarm.Guidance{Cause: "Somebody pressed it", Consequence: "The car stands", Action: "Go and look; reset at the car", Respond: 2, Severity: alarm.Severe}})
	add("Plant.KilnLink", alarm.Alarm{Name: "Link to the kilns lost", Kind: alarm.State, Priority: alarm.High, Inverted: true, OnDelay: 2, Area: "a-kilns", Group: "Links", Screen: "s-yard", Message: "The kilns' controller does not answer",
		Guidance: alarm.Guidance{Cause: "Cable, switch or controller", Consequence: "Nothing of the kilns is known", Action: "Look at the controller's cabinet; run by hand", Respond: 10, Severity: alarm.Major}})
	add("Car.MotionLeft", alarm.Alarm{Name: "Half a motion", Kind: alarm.HighLimit, Limit: "0", Priority: alarm.Low, Area: "a-car", Group: "Rail car", Screen: "s-car", Message: "A delivery was left half-way: see Recipes",
		Guidance: alarm.Guidance{Cause: "The link or the server failed while a motion was sent", Consequence: "The car would move by a mix of two motions", Action: "Put back or send again, at Recipes", Respond: 30, Severity: alarm.Minor}})
	return out, err
}
