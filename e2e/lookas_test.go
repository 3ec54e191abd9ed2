package e2e

import (
	"testing"

	"readyrail/internal/plant"
)

// TestTheDeskIsLookedAtAsARole: an engineer sees what an operator of the kilns sees; a
// press changes nothing; ended, the Workshop is there again.
func TestTheDeskIsLookedAtAsARole(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/people")
	b.see("What each role may do")
	b.js(`document.querySelector('.matrix .look[aria-label$="Operator"]').click()`)
	b.see("Look at the Desk as Operator")
	b.choose("In the area", "Kilns")
	b.click("Look")
	b.see("You look as Operator", "in Kilns", "Nothing is changed.")
	b.click("Kiln1")
	b.see("Dry bulb set point", "72.0")
	b.clickElement("Dry bulb set point")
	b.see("Limits")
	b.keys("7")
	b.keys("1")
	b.keys("\r")
	b.see("nothing is changed meanwhile")
	if got := s.register(plant.KilnUnit, "holding:0", "INT"); got != "720" {
		t.Errorf("something went out: %s", got)
	}
	b.keys("\x1b")
	b.click("End it")
	b.see("What each role may do", "4 accounts")
}
