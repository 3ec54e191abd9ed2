package e2e

import (
	"strings"
	"testing"
)

// TestFromAnEmptyServerToAnOperatorsEntry walks the whole rail once, as a
// newcomer does: nothing is there at first, and at its end an operator enters
// a value at an enrolled panel, which the controller has.
func TestFromAnEmptyServerToAnOperatorsEntry(t *testing.T) {
	addr, modbus := freeAddr(t), freeAddr(t)
	s := &site{t: t, modbus: modbus}
	start(t, "Plant on", "plant", "--modbus", modbus, "--opcua", freeAddr(t), "--mqtt", freeAddr(t), "--speed", "20")
	start(t, "Ready Rail on", "serve", "--addr", addr, "--data", t.TempDir())
	b := openBrowser(t, "http://"+addr)
	steps := 0
	click := func(name string) { t.Helper(); steps++; b.click(name) }
	fill := func(label, text string) { t.Helper(); steps++; b.fill(label, text) }
	choose := func(label, option string) { t.Helper(); steps++; b.choose(label, option) }

	b.open("/")
	b.see("The first account")
	fill("Full name", "Ada Birch")
	fill("Name to sign in", "ada")
	fill("Password", "long enough for anybody")
	click("Make the account")
	fill("New project", "Yard two")
	click("Make")
	b.see("What holds for the whole project")

	// A device, tested there and then.
	click("Devices")
	b.see("No controller is connected yet")
	click("Modbus TCP")
	b.see("Device1")
	fill("Name", "Kiln")
	fill("Host", "127.0.0.1")
	fill("Port", port(modbus))
	click("Test")
	b.see("It answers in")

	// A tag, scaled and limited.
	click("Tags")
	b.see("No tag here")
	click("Tag")
	fill("Name", "Kiln.DryBulbSP")
	b.see("Kiln.DryBulbSP")
	choose("Source", "device")
	choose("Type", "INT")
	fill("Address", "holding:0")
	choose("Access", "read and write")
	choose("Scaling", "two points")
	fill("Raw, second point", "1000")
	fill("Shown, second point", "100")
	fill("Decimals", "1")
	fill("Unit", "°C")
	fill("Low limit", "20")
	fill("High limit", "95")
	b.see("72.0")

	// A screen with an entry.
	click("Screens")
	b.see("No screen yet")
	click("Screen")
	b.see("Screen 1")
	steps++
	b.js(`[...document.querySelectorAll('.left [role=tab]')][1].click()`)
	steps++
	b.drop(".left .row", "DryBulbSP", spot{560, 340})
	click("Entry")
	b.see("72.0")

	click("Release")
	click("Make release 1")
	b.see("Release 1 runs")

	// An operator, and the panel where they work.
	click("People")
	click("Person")
	fill("Full name", "Tom Alder")
	fill("Name to sign in", "tom")
	fill("PIN", "1470")
	click("Save")
	choose("Give a role … Tom Alder", "Operator")
	fill("Name of this panel", "Kiln house")
	click("Enrol this browser")
	b.see("This browser is the panel Kiln house")
	b.open("/")
	click("Sign out")
	b.see("Tom Alder")
	b.js(`(() => { window.tones = 0; const start = OscillatorNode.prototype.start; OscillatorNode.prototype.start = function (...a) { window.tones++; return start.apply(this, a) }; return '' })()`)
	b.pin("Tom Alder", "1470")
	steps += 6
	b.see("Choose your own now")
	for _, d := range "2581" {
		click(string(d))
	}
	click("Keep it and go on")
	b.see("72.0")
	b.until("a tone says that tones can be heard", func() bool { return b.js(`String(window.tones)`) == "1" })
	if text := b.text(); strings.Contains(text, "null") || strings.Contains(text, "undefined") {
		t.Errorf("the Desk shows what is not there:\n%s", text)
	}
	b.clickElement("DryBulbSP")
	steps++
	b.see("Limits", "20.0", "95.0")
	for _, k := range "71.5" {
		click(string(k))
	}
	click("Enter")
	b.see("71.5")
	b.until("the controller has it", func() bool { return s.register(1, "holding:0", "INT") == "715" })
	t.Logf("from an empty server to an operator's entry: %d clicks, choices and fields", steps)
}

// TestANewcomersFirstRecipe: from an empty server to a recipe that went through:
// a tag, a book made of it, a screen for it, a release, and sending at the Desk.
func TestANewcomersFirstRecipe(t *testing.T) {
	beside(t)
	addr := freeAddr(t)
	start(t, "Ready Rail on", "serve", "--addr", addr, "--data", t.TempDir())
	b := openBrowser(t, "http://"+addr)
	b.open("/")
	b.see("The first account")
	b.fill("Full name", "Ada Birch")
	b.fill("Name to sign in", "ada")
	b.fill("Password", "long enough for anybody")
	b.click("Make the account")
	b.fill("New project", "Bakery")
	b.click("Make")
	b.see("What holds for the whole project")
	b.click("Recipes")
	b.see("No books yet")
	b.click("Tags")
	b.see("No tag here")
	b.click("Tag")
	b.fill("Name", "Oven.Heat")
	b.see("Oven.Heat")
	b.click("Recipes")
	b.click("New book")
	b.see("No fields yet")
	b.fill("Pattern of paths of tags that fields are made from", "Oven.*")
	b.click("Make from tags")
	b.see("Book 1, 1 field")
	b.see("No alarm says that a delivery was left half-way.")
	b.click("Make a screen for it")
	b.see("Place in the navigation")
	b.click("Release")
	b.click("Make release 1")
	b.see("Release 1 running")
	b.open("/desk/" + b.js(`location.pathname.split("/")[2]`))
	b.click("New recipe …")
	b.fill("Name of the recipe", "Rye")
	b.js(`document.querySelector('dialog form').requestSubmit()`)
	b.until("its cell is there", func() bool { return b.js(`String(!!document.querySelector('.sheet input'))`) == "true" })
	cell := b.js(`document.querySelector('.sheet input').getAttribute('aria-label')`)
	b.fill(cell, "240")
	b.js(`[...document.querySelectorAll('button.press')].find(x => x.innerText.startsWith('Save')).click()`)
	b.see("draft 1", "1 field within")
	b.click("Send to Book 1")
	b.see("Book 1 has it: every field was read back.")
}
