package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// fans makes a screen with two elements of the first of three fans that are
// plain tags, and opens it.
func fans(t *testing.T) *browser {
	t.Helper()
	_, b := workshop(t)
	ops := []op{{"kind": "folder", "id": "fp", "path": "", "value": map[string]any{"name": "Press1"}}}
	for i := 1; i <= 3; i++ {
		f := fmt.Sprintf("fp%d", i)
		ops = append(ops, op{"kind": "folder", "id": f, "path": "", "value": map[string]any{"name": fmt.Sprintf("Fan[%d]", i), "parent": "fp"}},
			op{"kind": "tag", "id": f + "s", "path": "", "value": map[string]any{"name": "Speed", "folder": f, "type": "REAL",
				"source": "internal", "initial": fmt.Sprint(100 * i)}},
			op{"kind": "tag", "id": f + "r", "path": "", "value": map[string]any{"name": "Run", "folder": f, "type": "BOOL", "source": "internal"}})
	}
	ops = append(ops, op{"kind": "screen", "id": "sp", "path": "",
		"value": map[string]any{"name": "Press", "width": 1280, "height": 676, "order": 90, "elements": map[string]any{
			"a": map[string]any{"kind": "readout", "x": 40, "y": 40, "w": 120, "h": 60, "z": 1,
				"props": map[string]any{"tag": "fp1s", "caption": "Fan 1"}},
			"b": map[string]any{"kind": "lamp", "x": 170, "y": 40, "w": 24, "h": 24, "z": 2, "props": map[string]any{"tag": "fp1r"},
				"bind": map[string]any{"visible": "Press1.Fan[1].Speed > 1"}}}}})
	if got := b.edit(ops...); !strings.HasPrefix(got, "200") {
		t.Fatal(got)
	}
	b.open("/p/larchmoor/screens/sp")
	b.see("1280 × 676", "Fan 1")
	b.focusCanvas()
	b.keys("a", input.ModifierCtrl)
	b.see("2 of 2 selected")
	return b
}

// TestARepeatOfTheSelection: a symbol is made of the selection and repeated
// over an index in the middle of its tags' paths, in one step and undone in
// one.
func TestARepeatOfTheSelection(t *testing.T) {
	b := fans(t)
	b.keys("m", input.ModifierCtrl, input.ModifierShift)
	b.see("A symbol of 2 selected elements", "Run = Press1.Fan[1].Run", "Speed = Press1.Fan[1].Speed", "Repeated for 3", "Press1.Fan[3].Run")
	b.fill("Name", "Press fan")
	b.click("Make the symbol")
	b.see("1 of 1 selected", "Index that runs")
	b.until("each cell has its own", func() bool {
		text := b.js(`document.querySelector('.frame svg').textContent`)
		return strings.Contains(text, "100") && strings.Contains(text, "200") && strings.Contains(text, "300")
	})
	// What was made stands where it was made, before anything is loaded anew.
	cell := b.js(`(() => { const r = [...document.querySelectorAll('.frame g[data-kind="readout"]')].map(g => g.parentNode.closest('g[data-kind="repeat"]')); return String(r.length === 3 && r.every(Boolean)) })()`)
	if cell != "true" {
		t.Error("the cells lie outside their repeat")
	}
	if got := b.api("GET", "/findings", nil); strings.Contains(got, "screen.beside") || strings.Contains(got, "screen.arg") {
		t.Error(got)
	}
	b.focusCanvas()
	b.keys("z", input.ModifierCtrl)
	b.until("one step back", func() bool {
		got := b.api("GET", "/screens/sp", nil)
		return strings.Contains(got, `"kind":"readout"`) && !strings.Contains(got, `"repeat"`)
	})
}

// TestDuplicatesWithSteps: two copies stand beside the selection with the tags
// and texts of the next two; what would refer to nothing is said before.
func TestDuplicatesWithSteps(t *testing.T) {
	b := fans(t)
	b.keys("d", input.ModifierCtrl, input.ModifierShift)
	b.see("Press1.Fan[1].Speed → Press1.Fan[2].Speed")
	b.fill("Copies", "3")
	b.see("there is no Press1.Fan[4].Speed")
	b.fill("Copies", "2")
	b.gone("there is no")
	b.click("Make 2 copies")
	b.see("4 of 6 selected")
	b.until("captions and values stepped", func() bool {
		text := b.js(`document.querySelector('.frame svg').textContent`)
		return strings.Contains(text, "Fan 2") && strings.Contains(text, "Fan 3") && strings.Contains(text, "300")
	})
	got := b.api("GET", "/screens/sp", nil)
	if !strings.Contains(got, `"visible":"Press1.Fan[3].Speed > 1"`) || !strings.Contains(got, `"x":380`) {
		t.Error(got)
	}
	// What is taken back takes its selection along, and so does what is deleted
	// and brought back.
	b.focusCanvas()
	b.keys("z", input.ModifierCtrl)
	b.until("the copies are gone", func() bool { return !strings.Contains(b.api("GET", "/screens/sp", nil), "Fan 3") })
	b.keys("y", input.ModifierCtrl)
	b.see("4 of 6 selected")
	b.do(chromedp.KeyEvent(kb.Delete))
	b.until("deleted", func() bool { return !strings.Contains(b.api("GET", "/screens/sp", nil), "Fan 3") })
	b.keys("z", input.ModifierCtrl)
	b.see("4 of 6 selected")
	// Escape closes the box and makes nothing.
	b.keys("d", input.ModifierCtrl, input.ModifierShift)
	b.see("In 4 selected elements")
	b.do(chromedp.KeyEvent("\x1b"))
	b.gone("In 4 selected elements")
}

// TestColoursArePicked: by a picker of our own, with transparency and the
// project's palette; in a formula where the colour stands.
func TestColoursArePicked(t *testing.T) {
	_, b := workshop(t)
	b.click("Screens")
	b.click("+ Screen")
	b.see("Screen 16", "Rectangle")
	b.drop(".left .kind", "Rectangle", spot{560, 340})
	b.see("1 of 1 selected")
	screen := func() string {
		id := b.js(`location.pathname.split('/').at(-1)`)
		return b.api("GET", "/screens/"+id, nil)
	}
	b.click("Fill: sheet")
	b.click("wood")
	b.until("a colour of the theme", func() bool { return strings.Contains(screen(), `"fill":"wood"`) })
	b.js(`(() => { const r = [...document.querySelectorAll('.picker input[type=range]')].at(-1); r.value = '40'; r.dispatchEvent(new Event('change')); })()`)
	b.see("wood 40%")
	b.until("half of it", func() bool { return strings.Contains(screen(), `"fill":"wood 40%"`) })
	b.fill("Colour in hex", "#4B6C9E80")
	b.see("Covers 50 %")
	b.click("Keep in the palette")
	b.until("it is in the palette", func() bool { return strings.Contains(b.api("GET", "", nil), `"palette":["#4b6c9e80"]`) })
	b.click("Drive by a formula: Fill")
	b.formula("Fill", `Kiln1.Mode == 2 ? "heat" : "ink 40%"`)
	// The field grows as its formula is taken over: a press may come to nothing under it.
	b.until("the picker of the formula is open", func() bool {
		if b.js(`String(!!document.querySelector('.picker'))`) == "true" {
			return true
		}
		b.js(`document.querySelector('[aria-label="Pick a colour heat"]')?.click()`)
		time.Sleep(300 * time.Millisecond)
		return false
	})
	b.click("#4b6c9e80")
	b.until("the formula has the colour that was picked", func() bool {
		return strings.Contains(screen(), `Kiln1.Mode == 2 ? \"#4b6c9e80\" : \"ink 40%\"`)
	})
	b.gone("which is no colour")
}
