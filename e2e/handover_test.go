package e2e

import (
	"strings"
	"testing"
)

// TestAShiftIsHandedOver: an operator leaves a note; whoever comes next has it in
// front of them without its hiding anything, takes it over, and it is gone
// everywhere; the trail has both. A viewer and its writer are not asked.
func TestAShiftIsHandedOver(t *testing.T) {
	beside(t)
	s := newSite(t)
	b := s.yard("tom", "oak-and-ash")
	v := s.yard("sam", "pine-and-fir")
	b.js(`document.querySelector('button.person').click()`)
	b.click("Hand over the shift")
	b.see("What the next shift has to know")
	b.fill("What the next shift has to know", "Fan 2 of Kiln1 is noisy, maintenance knows")
	b.answer()
	b.gone("What the next shift has to know")
	iris := s.yard("iris", "elm-and-yew")
	iris.see("Handover from Tom Alder:", "Fan 2 of Kiln1 is noisy")
	iris.click("Read")
	iris.see("maintenance knows")
	iris.keys("\x1b")
	iris.gone("Take over")
	iris.click("Read")
	iris.click("Take over")
	iris.gone("Handover from Tom Alder:")
	for _, x := range []*browser{b, v} {
		if strings.Contains(x.text(), "Handover from") {
			t.Error("somebody is asked who has nothing to take over")
		}
	}
	b.js(`document.querySelector('button.person').click()`)
	b.click("Hand over the shift")
	b.js(`document.querySelector('dialog[open] details').open = true; ''`)
	b.see("taken over by Iris Rowan")
	b.keys("\x1b")
	iris.js(`document.querySelector('.counts').click()`)
	iris.click("Audit trail")
	iris.see("taken over from Tom Alder")
}
