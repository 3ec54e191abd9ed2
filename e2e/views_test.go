package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// TestTheScreenMapByLevels: every screen is a picture of itself, what leads to
// another stands left of it, and no line runs through a box.
func TestTheScreenMapByLevels(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/screen-map")
	b.see("Yard", "Chamber", "Burner", "a faceplate")
	b.until("the screens are drawn", func() bool {
		return b.js(`String([...document.querySelectorAll('.spot')].filter(s => s.getBoundingClientRect().top < innerHeight)
			.every(s => s.querySelectorAll('svg [data-element]').length > 0))`) == "true"
	})
	b.until("live values are in the pictures", func() bool {
		return strings.Contains(b.js(`[...document.querySelectorAll('.spot')].find(s => s.innerText.includes('Yard')).querySelector('svg').textContent`), "°C")
	})
	out := b.js(`(() => {
		const boxes = [...document.querySelectorAll('.plan .spot')].map(s => {
			const p = s.offsetParent.getBoundingClientRect(), r = s.getBoundingClientRect();
			return {name: s.querySelector('strong').innerText, l: r.left - p.left, t: r.top - p.top, r: r.right - p.left, b: r.bottom - p.top};
		});
		const out = [];
		const lines = [...document.querySelectorAll('.lines > path')];
		if (lines.length < 4) out.push('only ' + lines.length + ' lines');
		for (const path of lines)
			for (let at = 2; at < path.getTotalLength() - 2; at += 3) {
				const p = path.getPointAtLength(at);
				const through = boxes.find(x => p.x > x.l + 1 && p.x < x.r - 1 && p.y > x.t + 1 && p.y < x.b - 1);
				if (through) { out.push('a line runs through ' + through.name); break; }
			}
		const left = n => boxes.find(x => x.name.startsWith(n)).l;
		if (!(left('Yard') < left('Chamber') && left('Chamber') < left('Burner'))) out.push('the levels are not in order');
		return out.join('\n');
	})()`)
	if out != "" {
		t.Error(out)
	}
	b.click("Burner")
	b.see("Lamp test")
	b.until("its editor is open", func() bool { return strings.Contains(b.js(`location.pathname`), "/screens/") })
}

// TestThePictureOfTheSite: panels, server, endpoints and devices, each with the
// state that its link has now.
func TestThePictureOfTheSite(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/site")
	state := func(name string) string {
		return b.js(`[...document.querySelectorAll('.picture .box')].find(x => x.innerText.startsWith('` + name + `'))?.className ?? 'none'`)
	}
	for _, name := range []string{"Ready Rail server", "KilnPLC", "CarPLC", "Meter", "Weather"} {
		b.until(name+" is connected", func() bool { return strings.HasSuffix(state(name), "up") })
	}
	if got := state("Kiln house"); got != "none" {
		t.Errorf("a panel before it was enrolled: %s", got)
	}
	panel := s.panel("Kiln house", "Tom Alder", "1470")
	b.until("the panel and who is there", func() bool {
		return strings.HasSuffix(state("Kiln house"), "up") && strings.Contains(b.js(`document.querySelector('.picture').innerText`), "Tom Alder")
	})
	panel.do(chromedp.Navigate("about:blank"))
	b.until("the panel is gone", func() bool { return strings.HasSuffix(state("Kiln house"), "idle") })
	s.plant.kill()
	b.until("the controllers are down", func() bool {
		return strings.HasSuffix(state("KilnPLC"), "down") || strings.HasSuffix(state("KilnPLC"), "connecting")
	})
	b.until("and so is the line to them", func() bool {
		return b.js(`String(document.querySelectorAll('.lines .down').length > 0)`) == "true"
	})
	b.click("KilnPLC")
	b.see("Round trip")
}

// TestTagsByFolderInTheEditor: tags stand by folder, are reached with the arrow
// keys, and are dragged from there; a filter makes a list of them.
func TestTagsByFolderInTheEditor(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/screens/s-chamber1")
	b.see("Parameters")
	b.js(`[...document.querySelectorAll('.left [role=tab]')][1].click()`)
	b.see("Kiln1", "Weather")
	b.gone("DryBulbSP")
	at := func() string { return b.js(`document.activeElement.innerText.split('\n')[0]`) }
	b.js(`document.querySelector('.left [role=treeitem]').focus()`)
	press := func(key, want string) {
		t.Helper()
		b.do(chromedp.KeyEvent(key))
		b.until("the focus is on "+want, func() bool { return at() == want })
	}
	press(kb.ArrowDown, "Kiln1")
	press(kb.ArrowRight, "Kiln1")
	b.see("DryBulbSP")
	press(kb.ArrowDown, "Burner")
	press(kb.ArrowDown, "Fan[1]")
	press(kb.ArrowRight, "Fan[1]")
	b.see("HandMode")
	press(kb.ArrowRight, "Current")
	press(kb.ArrowLeft, "Fan[1]")
	press(kb.ArrowLeft, "Fan[1]")
	b.gone("HandMode")
	press(kb.ArrowLeft, "Kiln1")
	// A range of two, dragged onto the screen.
	b.js(`[...document.querySelectorAll('.left .row')].find(x => x.innerText.startsWith('DryBulb\n')).click()`)
	b.js(`[...document.querySelectorAll('.left .row')].find(x => x.innerText.startsWith('DryBulbSP'))
		.dispatchEvent(new MouseEvent('click', {bubbles: true, shiftKey: true}))`)
	b.until("both are picked", func() bool { return b.js(`String(document.querySelectorAll('.left .row.on').length)`) == "2" })
	b.drop(".left .row", "DryBulbSP", spot{640, 700})
	b.see("2 tags")
	b.keys("\x1b")
	b.fill("words, * for anything", "Fan*Speed")
	b.see("Kiln1.Fan[1].Speed")
	b.fill("words, * for anything", "")
	b.click("By folder")
	b.see("Car.AccelSP")
}

// TestFoldersAreExportedTogether: what is ticked in the tree goes out as one list.
func TestFoldersAreExportedTogether(t *testing.T) {
	_, b := workshop(t)
	for _, name := range []string{"Car", "Meter"} {
		b.js(`document.querySelector('[aria-label="Tick ` + name + ` for export"]').click()`)
	}
	b.see("2 folders to export")
	list := b.async(`(async () => (await fetch([...document.querySelectorAll('.ticked a')].find(x => x.innerText === 'CSV').href)).text())()`)
	both := strings.Contains(list, "Car.AccelSP") && strings.Contains(list, "Meter.Power") && !strings.Contains(list, "Kiln1")
	if lines := strings.Count(list, "\n") - 1; lines != 24 || !both {
		t.Errorf("%d lines:\n%.300s", lines, list)
	}
	b.click("Close")
	b.gone("folders to export")
}

// TestPanesOfTheEditorFold: the canvas takes their room; it is remembered.
func TestPanesOfTheEditorFold(t *testing.T) {
	_, b := workshop(t)
	b.open("/p/larchmoor/screens/s-chamber1")
	b.see("Parameters")
	b.until("the canvas is there", func() bool { return b.js(`String(!!document.querySelector('.frame'))`) == "true" })
	wide := func() int { return number(b.js(`String(document.querySelector('.frame')?.clientWidth ?? 0)`)) }
	before := wide()
	b.click("Right pane")
	b.gone("Parameters")
	b.click("Left pane")
	b.until("the canvas took the room", func() bool { return wide() > before+500 })
	b.open("/p/larchmoor/screens/s-chamber1")
	b.until("it stays so", func() bool { return wide() > before+500 })
	b.keys(`\`, input.ModifierCtrl)
	b.until("both are back", func() bool { return wide() == before })
	b.see("Parameters")
	// Sections of the stock fold, and stay folded.
	b.js(`[...document.querySelectorAll('.left [role=tab]')][2].click()`)
	b.see("Rectangle")
	b.click("Shapes")
	b.gone("Rectangle")
	b.open("/p/larchmoor/screens/s-chamber1")
	b.see("Parameters")
	b.js(`[...document.querySelectorAll('.left [role=tab]')][2].click()`)
	b.see("Shapes", "Readout")
	b.gone("Rectangle")
	b.fill("Find", "rect")
	b.see("Rectangle")
}
