package e2e

import (
	"strings"
	"testing"
	"time"
)

// TestWhatLedToAnAlarmIsPlayed: an operator opens an alarm of the week on the
// axis, plays the two minutes before it, steps from change to change, and finds
// that nothing there can be operated.
func TestWhatLedToAnAlarmIsPlayed(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/history/v-climate")
	b.see("Kiln1.DryBulb")
	b.click("7 d")
	b.until("an alarm of a door is opened", func() bool {
		return b.js(`(m => { m?.click(); return String(!!m) })([...document.querySelectorAll('.mark.medium')][0])`) == "true"
	})
	b.see("Door open while heating")
	b.click("Play it")
	b.see("This is not now", "No alarm stood")
	when := func() string { return b.js(`document.querySelector('.when').textContent`) }
	b.choose("Screen", "Kiln1")
	b.until("the chamber is drawn with values of then", func() bool {
		return strings.Contains(b.js(`document.querySelector('.field svg').textContent`), "°C")
	})
	was := when()
	b.click("Next alarm or act")
	b.until("it goes to the alarm", func() bool { return when() != was })
	b.see("Door open while heating")
	b.until("the door has its flag", func() bool { return b.js(`String(!!document.querySelector('.field [data-alarm]'))`) == "true" })
	// The door opened within the second before: the clock may show the same.
	b.gone("No alarm stood")
	b.click("Last change")
	b.see("No alarm stood")
	b.click("60×")
	b.click("Play")
	was = when()
	b.until("it plays", func() bool { return when() != was })
	b.click("Pause")
	b.until("it stands", func() bool {
		was = when()
		time.Sleep(500 * time.Millisecond)
		return when() == was
	})
	b.js(`String(document.querySelector('.field').click())`)
	b.see("nothing can be operated here")
	// The address is a link to the moment.
	b.until("the address names the moment", func() bool {
		return b.js(`String(Math.abs(new URLSearchParams(location.search).get('at') - document.querySelector('.scrub').value) < 1000)`) == "true"
	})
	stands, address := when(), b.js(`location.pathname + location.search`)
	iris := openBrowser(t, s.base)
	iris.signIn("iris", "elm-and-yew")
	iris.see("Yard")
	iris.open(address)
	iris.see("This is not now", stands)
	// Somebody who is not signed in comes there by signing in.
	tom := openBrowser(t, s.base)
	tom.open(address)
	tom.fill("Name to sign in", "tom")
	tom.fill("Password", "oak-and-ash")
	tom.click("Sign in")
	tom.see("This is not now", stands)
	iris.click("Back to now")
	iris.see("Drying chamber")
	// From the journal it is one press.
	iris.open("/desk/larchmoor/s-alarms")
	iris.see("Alarms of the yard")
	iris.until("a line of the journal is played", func() bool {
		return iris.js(`(a => { a?.click(); return String(!!a) })(document.querySelector('a.when'))`) == "true"
	})
	iris.see("This is not now")
}

// TestADrawingIsPlayed: what an engineer draws in the editor is played through
// recorded time before anybody released it.
func TestADrawingIsPlayed(t *testing.T) {
	beside(t)
	_, b := workshop(t)
	b.edit(op{"kind": "screen", "id": "s-yard", "path": "/elements/fresh", "value": map[string]any{"kind": "readout", "name": "Fresh", "x": 40,
		"y": 700, "w": 300, "h": 32, "props": map[string]any{"tag": "t-001", "caption": "Drawn just now"}}})
	b.open("/p/larchmoor/screens/s-yard")
	b.see("Drawn just now")
	b.click("Play it through recorded time")
	b.see("This is not now")
	b.until("what was drawn is there with a value of then", func() bool {
		text := b.js(`document.querySelector('.field svg').textContent`)
		return strings.Contains(text, "Drawn just now") && strings.Contains(text, "°C")
	})
	if at := b.js(`location.search`); !strings.Contains(at, "program=draft") {
		t.Errorf("the address does not say that it is the draft: %s", at)
	}
	b.click("To the editor")
	b.see("Drawn just now", "Live")
}
