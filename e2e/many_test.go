package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
)

// TestManyTagsAtOnce: everything that one tag can be given, many are given at
// once, when they are made and afterwards, in one edit that is taken back by
// one key. Nothing of it is cut at 1280.
func TestManyTagsAtOnce(t *testing.T) {
	_, b := workshop(t)
	b.click("More")
	b.click("Make many tags")
	b.fill("Pattern of paths", "Hall.Zone[1..6].Level")
	b.choose("Type", "DINT")
	b.choose("Device", "CarPLC")
	b.fill("Address of the first", "holding:600")
	b.click("Scaling, limits, unit, state names …")
	b.choose("Scaling", "two points")
	b.fill("Raw, second point", "10000")
	b.fill("Shown, second point", "100")
	b.fill("Unit", "mm")
	b.see("Hall.Zone[6].Level", "holding:610", "6 tags")
	b.uncut("the form")
	b.click("Make 6")
	b.see("6 tags made")
	all := func(what string, want ...string) {
		t.Helper()
		b.until(what, func() bool {
			doc := b.api("GET", "/tags?text=Hall*Level", nil)
			for _, w := range want {
				if strings.Count(doc, w) != 6 {
					return false
				}
			}
			return true
		})
	}
	all("made with scaling and unit", `"rawHigh":10000`, `"engHigh":100`, `"unit":"mm"`)

	b.fill("words, * for anything", "Hall Level")
	b.see("6 tags")
	b.cell("Hall.Zone[1].Level")
	b.see("Where used")
	b.js(`document.querySelector('.list').focus()`)
	b.keys("a", input.ModifierCtrl)
	b.see("An edit goes to all of them")
	b.uncut("the inspector of many")
	b.fill("Shown, second point", "250")
	all("another scaling", `"engHigh":250`)
	b.choose("Byte order", "CDAB · low word first")
	all("a byte order", `"order":"CDAB"`)
	b.fill("High limit", "240")
	b.fill("Decimals", "1")
	b.fill("Poll rate, ms", "2000")
	all("limits, decimals, a rate", `"high":240`, `"decimals":1`, `"poll":2000`)
	b.choose("Source", "internal")
	all("another source", `"source":"internal"`)
	b.click("Kept over a restart")
	b.fill("Initial value", "12.5")
	all("retained", `"retain":true`, `"initial":"12.5"`)
	b.js(`document.activeElement.blur()`)
	b.keys("z", input.ModifierCtrl)
	all("one key takes one edit of all back", `"retain":true`)
	b.until("no initial value", func() bool { return !strings.Contains(b.api("GET", "/tags?text=Hall*Level", nil), `"initial"`) })
}

// uncut fails where a control that is shown ends outside of the window.
func (b *browser) uncut(where string) {
	b.t.Helper()
	out := b.js(`(() => {
		const out = [];
		for (const e of document.querySelectorAll('button, input, select, textarea')) {
			if (!e.checkVisibility({visibilityProperty: true, opacityProperty: true})) continue;
			const r = e.getBoundingClientRect();
			if (r.width && (r.right > innerWidth + 1 || r.left < -1)) out.push(e.getAttribute('aria-label') || e.innerText || e.id || e.tagName);
		}
		return out.join(', ');
	})()`)
	if out != "" {
		b.t.Errorf("%s: cut at the window's edge: %s", where, out)
	}
}
