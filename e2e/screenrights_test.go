package e2e

import (
	"strings"
	"testing"
)

// TestScreensByRole: the engineer takes operating from a role on one screen and closes
// another, in one table; after the release the operator is refused with the roles that
// may, a closed screen offers signing in there, for that screen alone or for good, and goes on as who may.
func TestScreensByRole(t *testing.T) {
	beside(t)
	s, e := workshop(t)
	e.open("/p/larchmoor/people")
	e.click("Screens by role")
	e.choose("Chamber, Operator", "looks")
	e.choose("Energy, Operator", "closed")
	e.until("both are kept", func() bool {
		return strings.Count(e.js(`[...document.querySelectorAll('td.narrowed')].length + ''`), "2") == 1
	})
	e.js(`document.querySelector('input[type=checkbox]').click()`)
	e.until("the others are away", func() bool { return e.js(`document.querySelectorAll('tbody tr').length + ''`) == "2" })
	if out := e.api("POST", "/releases", map[string]any{"note": "screens by role"}); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b := s.yard("tom", "oak-and-ash")
	b.open("/desk/larchmoor/s-chamber1")
	b.clickElement("Dry bulb set point")
	b.see("Limits")
	b.keys("71")
	b.enter()
	b.see("is missing in Dry bulb set point; it comes with the role")
	b.keys("\x1b")
	energy := func() bool { return strings.Contains(b.js(`location.pathname`), "s-energy") }
	signIn := func(visit bool) {
		b.click("Energy")
		b.see("Shift lead", "Sign in", "For this screen only; then Tom Alder again")
		b.fill("Name", "iris")
		b.fill("Password", "elm-and-yew")
		if visit {
			b.js(`document.querySelector('.visits input').click()`)
		}
		b.enter()
		b.until("it goes on to what was refused", energy)
	}
	who := func() string { return b.js(`document.querySelector('.person').title`) }
	signIn(true)
	b.until("Iris is there for the screen", func() bool { return who() == "Iris Rowan" && energy() })
	b.click("Kiln1")
	b.until("Tom is there again", func() bool { return who() == "Tom Alder" })
	signIn(false)
	b.until("Iris is there", func() bool { return who() == "Iris Rowan" })
	b.open("/desk/larchmoor/s-chamber1")
	b.clickElement("Dry bulb set point")
	b.see("Limits")
	b.keys("71")
	b.enter()
	b.see("Dry bulb set point: 71.0")
}
