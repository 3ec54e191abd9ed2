package e2e

import (
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
)

// TestABookIsMadeOfASheet: the columns of a spreadsheet become fields, which are laid
// out in registers; each is one step to take back.
func TestABookIsMadeOfASheet(t *testing.T) {
	beside(t)
	_, b := workshop(t)
	b.click("Recipes")
	b.click("New book")
	b.see("No fields yet")
	b.click("From a sheet …")
	b.fill("or paste cells here", "Name\tDry bulb (°C)\tSteps\tVents open\tWood\nLarch 50\t62.5\t6\ttrue\tLarch\nOak 27\t48\t9\tfalse\tOak")
	b.see("Dry_bulb", "REAL", "DINT", "STRING(20)", "Add 4 fields")
	b.click("Add 4 fields")
	b.see("Book 3, 4 fields")
	b.click("From a sheet …")
	b.fill("or paste cells here", "Dry bulb\tWet bulb\n1\t2\n")
	b.see("there already", "Add 1 field")
	b.keys(kb.Escape)
	b.click("As a block …")
	b.choose("Device", "KilnPLC")
	b.fill("First address", "holding:900")
	b.see("Book_3.Dry_bulb", "holding:900", "holding:902", "holding:904.0", "holding:905", "Make 4 tags")
	b.fill("First address", "holding:65535")
	b.see("would run past the end")
	b.fill("First address", "holding:900")
	b.see("holding:905")
	b.click("Make 4 tags")
	b.until("the fields go there", func() bool {
		return b.js(`String([...document.querySelectorAll('td.place')].filter(x => x.innerText.startsWith('Book_3.')).length)`) == "4"
	})
	b.click("Tags")
	b.see("387 tags")
	b.keys("z", input.ModifierCtrl)
	b.see("383 tags")
}
