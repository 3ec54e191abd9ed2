package access

import "slices"

// InControl is the area that asks for one place in control before anybody acts in
// area: itself, or the nearest that it lies in; empty where none asks.
func InControl(areas []Area, area string) string {
	for _, id := range AreaPath(areas, area) {
		if slices.ContainsFunc(areas, func(a Area) bool { return a.ID == id && a.Control }) {
			return id
		}
	}
	return ""
}

// asksForControl tells whether any area asks for one place in control.
func (p *Policy) asksForControl() bool {
	return slices.ContainsFunc(p.Areas, func(a Area) bool { return a.Control })
}
