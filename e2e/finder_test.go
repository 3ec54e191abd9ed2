package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/input"
)

// TestTheFinderKnowsThePlant: recipes and loads are found by their names as things of
// the project are, and open in what has them.
func TestTheFinderKnowsThePlant(t *testing.T) {
	beside(t)
	_, b := workshop(t)
	find := func(text string, see ...string) {
		b.keys("k", input.ModifierCtrl)
		b.fill("Find anything", text)
		b.see(see...)
		b.js(fmt.Sprintf(`[...document.querySelectorAll('[role=option]')].find(x => x.innerText.startsWith(%q)).click()`, see[0]))
	}
	find("Spruce 3", "Recipe", "Spruce 32", "Drying schedule")
	b.until("it is open", func() bool {
		return b.js(`String([...document.querySelectorAll('.sheet th')].some(x => x.innerText.includes('Spruce 32')))`) == "true"
	})
	find("L-2611-0", "Span", "L-2611-06", "Drying record")
	b.until("the load is shown", func() bool {
		return b.js(`location.search`) != "" && b.js(`location.pathname`) == "/p/larchmoor/history/l-drying"
	})
	find("Drying sch", "Book", "Drying schedule")
	b.see("Drying schedule, 31 fields")
}
