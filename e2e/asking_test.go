package e2e

import (
	"strings"
	"testing"

	"readyrail/internal/plant"
)

// shut tells whether what sends is closed yet.
func (b *browser) shut() bool {
	return b.js(`String(document.querySelector('dialog[open] .go').disabled)`) == "true"
}

// answer sends what the dialogue asks for, and returns once it is gone: it stands
// until the server has answered.
func (b *browser) answer() {
	b.t.Helper()
	b.js(`[...document.querySelectorAll('dialog[open] button')].find(x => x.type === 'submit').click()`)
	b.until("the dialogue is gone", func() bool { return b.js(`String(!document.querySelector('dialog[open]'))`) == "true" })
}

// decelerate enters a deceleration of the car, up to what is asked for it.
func (b *browser) decelerate(value string) {
	b.t.Helper()
	b.clickElement("Deceleration")
	b.see("Limits")
	for _, k := range value {
		b.keys(string(k))
	}
	b.keys("\r")
	b.see("Signature of a second person: Shift lead", "load is secured")
}

// TestRulesAtTheDesk: what rules ask stands before an entry and a button: a reason
// that may be left out, one of a list, one's own signature, and a second person's;
// the wrong person, the wrong role, and one that gives up half-way send nothing.
func TestRulesAtTheDesk(t *testing.T) {
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("tom", "oak-and-ash")
	b.see("Larchmoor")
	b.open("/desk/larchmoor/s-car")
	b.see("Set zero here", "Deceleration", "500")
	car := func(want string) {
		t.Helper()
		if got := s.register(plant.CarUnit, "holding:2", "INT"); got != want {
			t.Errorf("the controller has a deceleration of %s, want %s", got, want)
		}
	}
	b.decelerate("180")
	b.see("→ 180 mm/s²")
	if !b.shut() {
		t.Error("what sends is open without a signature")
	}
	b.keys("\x1b")
	b.gone("load is secured")
	car("500")

	b.decelerate("180")
	sign := func(who, password string) {
		t.Helper()
		send := func() {
			b.fill("Name to sign in", who)
			b.fill("Password", password)
			b.click("Send")
		}
		send()
		b.until("it is answered", func() bool {
			says := b.js(`document.querySelector('dialog[open] [role=alert]')?.innerText ?? (document.querySelector('dialog[open]') ? '' : 'gone')`)
			if strings.Contains(says, "s old and was not carried out") {
				send()
				return false
			}
			return says != ""
		})
	}
	sign("tom", "oak-and-ash")
	b.see("a second person signs this, not you")
	sign("ada", "larch-and-spruce")
	b.see("Ada Birch has no such role here")
	sign("iris", "guess")
	b.see("do not match")
	if !b.shut() {
		t.Error("a secret that was refused is still there")
	}
	car("500")
	sign("iris", "elm-and-yew")
	b.see("Deceleration: 180")
	car("180")

	// One of a list, and one's own signature: name and password first, and then the
	// password alone.
	zero := func() {
		t.Helper()
		b.clickElement("Set zero here")
		b.see("Choose a reason", "After an emergency stop", "checked at the mark", "Your signature")
	}
	zero()
	b.fill("Name to sign in", "tom")
	b.fill("Password", "oak-and-ash")
	if !b.shut() {
		t.Error("what sends is open without the reason that is required")
	}
	b.js(`[...document.querySelectorAll('dialog[open] .choice')].find(x => x.innerText.includes('After an emergency stop')).click()`)
	b.click("Send")
	b.gone("checked at the mark")
	zero()
	if strings.Contains(b.js(`document.querySelector('dialog[open]').innerText`), "Name to sign in") {
		t.Error("the second signature asks for the name again")
	}
	b.keys("\x1b")

	e := openBrowser(t, s.base)
	e.signIn("ada", "larch-and-spruce")
	e.see("383 tags")
	e.open("/p/larchmoor/release")
	e.click("Audit trail")
	e.see("After an emergency stop", "a second person signs this, not you")
	e.js(`[...document.querySelectorAll('tr.record')].find(r => r.innerText.includes('180') && r.innerText.includes('confirmed')).click(); ''`)
	e.see("Signatures", "Iris Rowan: load is secured", "Values then", "Car.Position = ", "Car.Loaded = ")
}

// TestRulesWithTheKeyboardAlone: a reason and a signature by arrows and keys, in
// German.
func TestRulesWithTheKeyboardAlone(t *testing.T) {
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("tom", "oak-and-ash")
	b.see("Larchmoor")
	b.js(`localStorage.setItem('rr-desk-language', 'de'); ''`)
	b.open("/desk/larchmoor/s-car")
	b.see("Hier nullen")
	b.focus("Hier nullen")
	b.keys("\r")
	b.see("Grund wählen", "Nach einem Not-Halt", "an der Marke geprüft", "Ihre Unterschrift")
	b.until("the first reason is in reach", func() bool {
		return b.js(`String(document.activeElement.type)`) == "radio"
	})
	b.keys(" ")
	b.keys("\t")
	b.keys("tom")
	b.keys("\t")
	b.keys("oak-and-ash")
	b.keys("\r")
	b.gone("an der Marke geprüft")
	b.see("Hier nullen: ")
}

// TestARuleIsMadeAndTried: an engineer makes a rule, sees where it applies, tries it
// for a tag and a role, and it asks at the Desk once it is released.
func TestARuleIsMadeAndTried(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/people")
	b.click("What a write asks")
	b.see("Origin of the car", "Braking of the car", "Try it")
	b.click("Rule")
	b.see("New rule", "Why this rule is")
	b.fill("Name", "Set points of the chambers")
	b.keys("\r")
	b.see("Set points of the chambers")
	b.choose("Area", "Kilns")
	b.choose("Of", "writes")
	b.choose("Who acts", "Operator")
	b.named("Tag 1", "Kiln2.DryBulb")
	b.see("Tag 2", "1 value kept")
	b.named("A tag", "Kiln2.DryBulbSP")
	b.see("Nothing is asked.")
	b.choose("Somebody with the role", "Operator")
	b.until("the rule asks", func() bool {
		return strings.Contains(b.js(`document.querySelector('.says').innerText`), "Set points of the chambers")
	})
	b.open("/p/larchmoor/release")
	b.click("Make release 2")
	b.see("Release 2 running")

	o := openBrowser(t, s.base)
	o.signIn("tom", "oak-and-ash")
	o.see("Larchmoor")
	o.open("/desk/larchmoor/s-chamber1")
	o.see("Dry bulb set point", "72.0")
	o.clickElement("Dry bulb set point")
	o.see("Limits")
	o.keys("7")
	o.keys("1")
	o.keys("\r")
	o.see("Reason", "→ 71 °C")
	if !o.shut() {
		t.Error("what sends is open without a reason")
	}
	o.fill("Reason", "boards of another thickness")
	o.click("Send")
	o.see("Dry bulb set point: 71.0")
}

// TestABoxWhoseLinkIsCut: what is answered while the link is cut is said not to have
// got through, stays as it was typed, and goes once the link is back.
func TestABoxWhoseLinkIsCut(t *testing.T) {
	beside(t)
	s := newSite(t)
	s.fault("fan1", true)
	w := newWire(t, s.addr)
	b := openBrowser(t, "http://"+w.listener.Addr().String())
	b.signIn("iris", "elm-and-yew")
	b.see("Yard")
	b.open("/desk/larchmoor/s-yard")
	b.see("Fan 1 tripped")
	b.js(`document.querySelector('.counts').click()`)
	b.js(`document.querySelector('.panel [role=row]').click()`)
	b.click("Out of service")
	b.fill("Reason", "motor is away")
	w.cut()
	b.js(`[...document.querySelectorAll('dialog[open] button')].find(x => x.type === 'submit').click()`)
	b.until("it is said that nobody answered", func() bool {
		return b.js(`document.querySelector('dialog[open] [role=alert]')?.innerText ?? ''`) != ""
	})
	w.mend()
	b.answer()
	b.click("Set aside")
	b.see("motor is away")
}
