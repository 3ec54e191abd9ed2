package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"readyrail/internal/plant"
)

// arrows presses keys one after the other, each by its name.
func (b *browser) arrows(keys ...string) {
	b.t.Helper()
	for _, k := range keys {
		b.keys(k)
	}
}

// TestAPanelWithoutTouch: somebody signs in, enters a value and gives the reason and the
// signatures that it asks for with arrows and Enter alone.
func TestAPanelWithoutTouch(t *testing.T) {
	s := newSite(t)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	b.open("/desk/larchmoor/s-car")
	b.see("Deceleration", "Tom Alder")
	b.async(`fetch('/api/session', {method: 'DELETE'}).then(() => '')`)
	b.open("/")
	b.see("Iris Rowan", "Tom Alder")
	until := func(text string) {
		t.Helper()
		b.until("the focus is on "+text, func() bool {
			if b.js(`document.activeElement.innerText`) == text {
				return true
			}
			b.arrows(kb.ArrowRight)
			if b.js(`document.activeElement.innerText`) != text {
				b.arrows(kb.ArrowDown, kb.ArrowLeft)
			}
			return b.js(`document.activeElement.innerText`) == text
		})
	}
	until("Tom Alder")
	b.arrows(kb.Enter)
	b.see("somebody else")
	// 1 4 7 0 on the pad: the first key has the focus.
	b.arrows(kb.ArrowRight, kb.ArrowLeft, kb.Enter, kb.ArrowDown, kb.Enter, kb.ArrowDown, kb.Enter, kb.ArrowDown, kb.ArrowRight, kb.Enter,
		kb.ArrowRight, kb.Enter)
	b.see("Larchmoor")
	b.open("/desk/larchmoor/s-car")
	b.see("Deceleration", "500")
	b.js(`document.querySelector('[aria-label^="Deceleration"]').focus(); ''`)
	b.arrows(kb.Enter)
	b.see("Limits")
	b.arrows(kb.ArrowDown, kb.Enter)
	b.see("Signature of a second person: Shift lead")
	focus := func(want string) {
		t.Helper()
		b.until("the focus is on "+want, func() bool {
			return b.js(`((e) => e.tagName + ' ' + (e.innerText || '').trim())(document.activeElement)`) == want
		})
	}
	focus("TEXTAREA ")
	b.arrows(kb.ArrowDown)
	focus("SELECT " + b.js(`document.activeElement.innerText.trim()`))
	b.js(`((e) => { e.value = 'iris'; e.dispatchEvent(new Event('change', {bubbles: true})); })(document.activeElement); ''`)
	b.arrows(kb.ArrowRight)
	focus("INPUT ")
	b.arrows(kb.ArrowDown)
	const row, keys = 6, "1234567890⌫" // at this height the digits stand in two rows
	digit := func(d string) {
		t.Helper()
		want := strings.Index(keys, d)
		b.until("the focus is on "+d, func() bool {
			now := strings.Index(keys, b.js(`document.activeElement.innerText`))
			switch {
			case now == want:
				return true
			case now < row && want >= row:
				b.arrows(kb.ArrowDown)
			case now >= row && want < row:
				b.arrows(kb.ArrowUp)
			case now < want:
				b.arrows(kb.ArrowRight)
			default:
				b.arrows(kb.ArrowLeft)
			}
			return false
		})
		b.arrows(kb.Enter)
	}
	for _, d := range []string{"3", "6", "9", "0"} {
		digit(d)
	}
	b.until("down to what sends", func() bool {
		b.arrows(kb.ArrowDown)
		return b.js(`document.activeElement.type`) == "submit"
	})
	b.arrows(kb.Enter)
	b.gone("Signature of a second person")
	if got := s.register(plant.CarUnit, "holding:2", "INT"); got == "500" {
		t.Error("nothing was sent")
	}
}
