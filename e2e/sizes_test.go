package e2e

import (
	"fmt"
	"readyrail/internal/plant"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// size makes the window as large as a panel; ratio is its zoom.
func (b *browser) size(w, h int64, ratio float64) {
	b.t.Helper()
	b.do(emulation.SetDeviceMetricsOverride(w, h, ratio, false))
	time.Sleep(400 * time.Millisecond) // the page settles
}

// targets says what a finger could not hit: controls of the page that are too
// small, lie outside of the window or under something else.
const targets = `(() => {
	const out = [];
	const say = (e, why) => out.push(why + ': ' + (e.getAttribute('aria-label') || e.innerText || e.placeholder || e.tagName).replace(/\s+/g, ' ').slice(0, 40));
	const modal = document.querySelector('dialog[open]');
	for (const e of document.querySelectorAll('.desk button, .desk select, .desk input, .desk a, .desk textarea, .desk label.tick')) {
		if (modal && !modal.contains(e)) continue;
		if (!e.checkVisibility({visibilityProperty: true, opacityProperty: true}) || e.closest('svg') || (e.type === 'checkbox' && e.closest('label'))) continue;
		const r = e.getBoundingClientRect();
		const scrolled = e.closest('.scroll, .detail, .embed, .journal');
		if (scrolled) {
			const s = scrolled.getBoundingClientRect();
			if (r.bottom > s.bottom + 1 || r.top < s.top - 1) continue;
		}
		if (e.closest('.embed')) continue; // a list within a screen is drawn at the screen's size
		if (r.width < 43.5 || r.height < 43.5) say(e, 'small ' + Math.round(r.width) + 'x' + Math.round(r.height));
		if (r.left < -1 || r.right > innerWidth + 1 || r.top < -1 || r.bottom > innerHeight + 1) say(e, 'outside');
		else {
			const at = document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2);
			if (at && !e.contains(at) && !at.contains(e)) say(e, 'under ' + (at.className.baseVal ?? at.className));
		}
	}
	return out.join('\n');
})()`

// TestTheDeskAtEverySize walks the Desk at the panels' sizes and at 200 %: what
// is to be pressed can be hit.
func TestTheDeskAtEverySize(t *testing.T) {
	s := newSite(t)
	s.fault("fan2", true)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	for _, z := range []struct {
		w, h  int64
		ratio float64
	}{{800, 480, 1}, {1024, 600, 1}, {1280, 800, 1}, {1920, 1080, 1}, {640, 400, 2}} {
		name := fmt.Sprintf("%dx%d", z.w, z.h)
		b.size(1280, 800, 1)
		b.open("/desk/larchmoor")
		b.see("Kiln1")
		b.click("Kiln1")
		b.element("Dry bulb set point")
		b.size(z.w, z.h, z.ratio)
		check := func(where string) {
			t.Helper()
			if bad := b.js(targets); bad != "" {
				t.Errorf("%s, %s:\n%s", name, where, bad)
			}
		}
		check("a screen")
		b.js(`(document.querySelector('button.counts').click(), 'open')`)
		b.see("Standing")
		check("the alarms")
		if b.js(`String(!!document.querySelector('.fold')?.checkVisibility())`) == "true" {
			b.click("Filter")
			check("the filters")
			b.click("Filter")
		}
		b.js(`[...document.querySelectorAll('.panel [role=row]')].find(r => r.innerText.includes('Fan 2 tripped')).click()`)
		time.Sleep(300 * time.Millisecond)
		check("an alarm")
		b.js(`[...document.querySelectorAll('.shut')].find(x => x.checkVisibility())?.click()`)
		b.click("Set aside")
		check("set aside")
		b.click("Close")
		b.clickElement("Dry bulb set point")
		b.see("Limits")
		check("the key pad")
		b.keys("\x1b")
		b.gone("Limits")
	}
	// What is drawn smaller than a finger answers beside itself too.
	b.size(800, 480, 1)
	b.open("/desk/larchmoor/s-car")
	at := b.element("Set zero here")
	high := b.js(`String(Math.round([...document.querySelectorAll('g[data-element]')].find(g => (g.getAttribute('aria-label') || '').startsWith('Set zero here')).getBoundingClientRect().height))`)
	if number(high) >= 44 {
		t.Fatalf("the button is %s px high: nothing is proved here", high)
	}
	b.do(chromedp.MouseClickXY(at.X, at.Y+20))
	b.see("Set zero here")
	b.until("it was pressed", func() bool {
		return b.js(`String(!!document.querySelector('.banner .message'))`) == "true" ||
			b.js(`String(!!document.querySelector('dialog[open]'))`) == "true"
	})
}

// tabTo goes on with the Tab key until what has the focus carries a name.
func (b *browser) tabTo(name string) {
	b.t.Helper()
	for range 80 {
		has := b.js(`(a => a === document.body ? '' : (a.getAttribute('aria-label') || '') + ' ' + a.textContent)(document.activeElement)`)
		if strings.Contains(has, name) {
			return
		}
		b.do(chromedp.KeyEvent(kb.Tab))
	}
	b.t.Fatalf("the Tab key does not come to %q", name)
}

// TestTheDeskByKeyboardInGerman: on the smallest panel, without a pointer and
// without motion, a value is entered, a refusal read, an alarm acknowledged and
// another screen opened.
func TestTheDeskByKeyboardInGerman(t *testing.T) {
	s := newSite(t)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	b.click("Tom Alder")
	b.click("Deutsch")
	b.do(emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}))
	b.size(800, 480, 1)
	b.open("/desk/larchmoor/s-chamber1")
	b.see("Schritt 3 von 6")
	b.tabTo("Sollwert Trockenkugel")
	b.keys("\r")
	b.see("Grenzen")
	b.keys("99\r")
	b.see("99.0")
	b.until("the refusal is in the banner", func() bool {
		return strings.Contains(b.js(`document.querySelector('.banner .message')?.textContent ?? ''`), "die Grenzen stehen an der Variable")
	})
	refused := b.js(`(() => {
		const box = document.querySelector('.banner .message'), text = box?.querySelector('span');
		const [o, i] = [box.getBoundingClientRect(), text.getBoundingClientRect()];
		return i.top < Math.max(0, o.top) || i.bottom > o.bottom || i.right > o.right ? 'the refusal is cut' : '';
	})()`)
	if refused != "" {
		t.Error(refused)
	}
	b.do(chromedp.KeyEvent(kb.Backspace), chromedp.KeyEvent(kb.Backspace))
	b.keys("61.5\r")
	b.gone("Grenzen")
	b.until("the controller has it", func() bool { return s.register(plant.KilnUnit, "holding:0", "INT") == "615" })
	s.fault("fan2", true)
	b.see("Lüfter 2")
	b.tabTo("Quittieren")
	b.keys("\r")
	b.until("it is acknowledged", func() bool {
		_, rest, _ := strings.Cut(b.api("GET", "/alarms?program=release", nil), "Kiln1.Fan[2].Fault")
		return strings.Contains(rest[:min(len(rest), 400)], `"state":"acknowledged"`)
	})
	b.tabTo("Kiln2")
	b.keys("\r")
	b.until("the other chamber is open", func() bool {
		return strings.HasPrefix(b.js(`document.querySelector('.nav .on')?.innerText ?? ''`), "Kiln2")
	})
	s.fault("link", true)
	b.until("why values are bad is said in German too", func() bool {
		html := b.js(`document.querySelector('.field svg').outerHTML`)
		return strings.Contains(html, "keine Verbindung zum Gerät") || strings.Contains(html, "das Gerät antwortet nicht")
	})
}
