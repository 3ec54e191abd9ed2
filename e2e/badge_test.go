package e2e

import (
	"strings"
	"testing"
)

// TestABadgeSignsIn: somebody gives an operator a badge; at a panel that takes badges
// with a PIN the reader types its number, the person's PIN pad comes, and they are
// signed in, with nothing touched but the pad.
func TestABadgeSignsIn(t *testing.T) {
	beside(t)
	s, e := workshop(t)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	e.open("/p/larchmoor/people")
	e.click("Tom Alder")
	e.fill("Badge", "0012345678")
	e.click("Give this badge")
	e.see("Password, PIN, Badge")
	e.choose("Kiln house: badges", "badge and PIN")
	e.until("the panel has it", func() bool { return strings.Contains(e.api("GET", "/panels", nil), `"badges":"pin"`) })
	b.open("/desk/larchmoor/s-yard")
	b.see("Hold your badge to the reader, or touch your name.")
	read := func(number string) {
		b.js(`(document.activeElement.blur(), [...'` + number + `', 'Enter'].forEach((key) =>
			document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))), '')`)
	}
	read("1")
	read("0012345678")
	b.see("Tom Alder", "Sign in")
	for _, d := range "1470" {
		b.click(string(d))
	}
	b.click("Sign in")
	b.see("Kiln1", "Kiln house")
	e.open("/p/larchmoor/release")
	e.click("Audit trail")
	e.see("by badge")
}
