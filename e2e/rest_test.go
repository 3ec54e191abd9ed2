package e2e

import (
	"strings"
	"testing"
)

// asleep lets the page's clock go on, so that nobody touched it for so many seconds.
func (b *browser) asleep(seconds string) {
	b.js(`(window.__now ??= Date.now.bind(Date), window.__ahead = (window.__ahead ?? 0) + ` + seconds + ` * 1000,
		Date.now = () => window.__now() + window.__ahead, '')`)
}

// TestWhoRestsIsSignedOut: a panel warns whoever did nothing for some minutes, a
// touch keeps them, and without one they are signed out, which the trail says.
func TestWhoRestsIsSignedOut(t *testing.T) {
	beside(t)
	s, e := workshop(t)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	b.see("Tom Alder")
	e.open("/p/larchmoor/people")
	e.see("Kiln house")
	e.fill("Kiln house: signs out after so many minutes", "5")
	e.until("the panel has it", func() bool { return strings.Contains(e.api("GET", "/panels", nil), `"rest":5`) })
	b.open("/desk/larchmoor/s-yard")
	b.see("Tom Alder")
	b.asleep("280")
	b.see("Nobody is here?")
	b.click("I am here")
	b.gone("Nobody is here?")
	b.see("Tom Alder")
	b.asleep("280")
	b.see("Nobody is here?")
	b.shot("/tmp/rest1.png")
	b.asleep("30")
	b.gone("Nobody is here?")
	b.until("who may sign in is offered", func() bool { return strings.Contains(b.text(), "Iris Rowan") })
	e.open("/p/larchmoor/release")
	e.click("Audit trail")
	e.see("after 5 min of rest")
}
