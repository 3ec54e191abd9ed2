package demo

import (
	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
)

// rules are what writes of the yard ask beyond what single elements do.
func rules(p *project.Project) []access.Rule {
	tag := func(path string) string {
		id, _ := p.FindPath(path)
		return id
	}
	return []access.Rule{
		{ID: "q-zero", Name: "Origin of the car", Note: "A wrong origin moves every stop of the car",
			Area: "a-car", Tag: tag("Car.SetZero"), Does: access.DoesWrite,
			Reason:  access.ReasonRequired,
			Reasons: []string{"After work on the rail", "After an emergency stop", "The position was lost"},
			Sign:    access.SignOwn, Meaning: "checked at the mark"},
		{ID: "q-brake", Name: "Braking of the car", Note: "A loaded car that brakes hard sheds its stacks",
			Tag: tag("Car.DecelSP"), Does: access.DoesWrite, Role: "r-operator",
			Reason: access.ReasonOffered, Sign: access.SignSecond, By: "r-lead", Meaning: "load is secured",
			Capture: []string{tag("Car.Position"), tag("Car.Velocity"), tag("Car.Loaded")}},
		{ID: "q-limits", Name: "Limits of the chambers", Note: "An alarm that comes too late costs a load of timber",
			Area: "a-kilns", Does: access.DoesLimit, Reason: access.ReasonRequired, Sign: access.SignOwn, Meaning: "allowed by the schedule"},
	}
}
