package e2e

import (
	"strings"
	"testing"
	"time"
)

// TestOnePlaceInControl: the engineer asks for one place in control of the kilns; a
// panel takes it, another is refused and told who has it, asks, and is handed it; a
// shift lead takes it away with a reason. Everybody's Desk says who has it at once.
func TestOnePlaceInControl(t *testing.T) {
	alone(t)
	s, e := workshop(t)
	tom := s.panel("Kiln house", "Tom Alder", "1470")
	iris := s.yard("iris", "elm-and-yew")
	e.open("/p/larchmoor/site")
	e.see("One place in control")
	e.js(`document.querySelector('input[aria-label="One place in control"]').click()`)
	e.until("the draft has it", func() bool { return strings.Contains(e.api("GET", "", nil), `"control":true`) })
	if out := e.api("POST", "/releases", map[string]any{"note": "control"}); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	set := func(b *browser, value string) {
		b.clickElement("Dry bulb set point")
		b.see("Limits")
		b.keys(value)
		b.enter()
	}
	for _, b := range []*browser{tom, iris} {
		b.open("/desk/larchmoor/s-chamber1")
		b.see("72.0", "Kilns", "nobody")
	}
	set(tom, "71")
	tom.see("nobody has control of Kilns: take it first")
	tom.keys("\x1b")
	tom.click("Control: Kilns, nobody")
	tom.click("Take control")
	tom.see("this place")
	iris.see("Kiln house")
	set(tom, "71")
	tom.see("Dry bulb set point: 71.0")
	set(iris, "70")
	iris.see("Tom Alder (Kiln house) has control of Kilns: ask for it")
	iris.keys("\x1b")
	iris.click("Control: Kilns, Kiln house")
	iris.click("Ask for it")
	iris.see("the other place has two minutes to answer")
	tom.see("Control of Kilns is asked for by", "Iris Rowan")
	tom.click("Keep it")
	iris.see("Kilns was not handed over")
	iris.click("Ask for it")
	tom.click("Hand over")
	iris.keys("\x1b")
	iris.see("This place has control of Kilns now.")
	tom.see("Iris Rowan has control of Kilns now.")
	set(iris, "70")
	iris.see("Dry bulb set point: 70.0")
	tom.click("Control: Kilns, Iris Rowan")
	tom.see("Ask for it")
	if strings.Contains(tom.text(), "Take it away") {
		t.Error("an operator is offered to take it away")
	}
	tom.click("Ask for it")
	tom.keys("\x1b")
	iris.click("Hand over")
	tom.see("This place has control of Kilns now.")
	iris.click("Control: Kilns, Kiln house")
	iris.click("Take it away")
	iris.fill("Why it is taken away", "nobody answers there")
	iris.click("Take it away")
	tom.see("Iris Rowan has control of Kilns now.")

	// By the keyboard alone, in German, at a small panel; over a link that is cut for ten
	// seconds, which costs nothing.
	w := newWire(t, s.addr)
	small := openBrowser(t, "http://"+w.listener.Addr().String())
	small.open("/")
	small.js(`localStorage.setItem('rr-desk-language', 'de')`)
	small.size(800, 480, 1)
	small.signIn("iris", "elm-and-yew")
	small.see("Larchmoor")
	small.open("/desk/larchmoor/s-chamber1")
	small.see("Kilns", "dieser Platz")
	w.cut()
	small.see("Der Server ist nicht zu hören.")
	time.Sleep(10 * time.Second)
	w.mend()
	small.gone("Der Server ist nicht zu hören.")
	small.see("dieser Platz")
	small.clickElement("Sollwert Trockenkugel")
	small.see("Grenzen")
	small.keys("72")
	small.enter()
	iris.see("72.0")
	small.js(`document.querySelector('button.control').focus()`)
	small.keys("\r")
	small.see("Abgeben")
	if at := small.js(`String(!!document.activeElement.closest('dialog'))`); at != "true" {
		t.Error("the focus is not in the box")
	}
	small.js(`[...document.querySelectorAll('dialog button')].find(x => x.innerText === 'Abgeben').focus()`)
	small.keys("\r")
	tom.see("nobody")
	e.open("/p/larchmoor/release")
	e.click("Audit trail")
	e.see("nobody answers there", "handed over by Tom Alder", "Iris Rowan")
}
