package e2e

import (
	"context"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
)

// upload gives a file to the page's file field.
func (b *browser) upload(name, content string) {
	b.t.Helper()
	path := filepath.Join(b.t.TempDir(), name)
	if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
		b.t.Fatal(err)
	}
	b.do(chromedp.SetUploadFiles(`input[type=file]`, []string{path}, chromedp.ByQuery))
}

// workshop is a site with the engineer in the Workshop.
func workshop(t testing.TB) (*site, *browser) {
	t.Helper()
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags")
	return s, b
}

// uploadFile gives a file to a labelled field.
func (b *browser) uploadFile(label, path string) {
	b.t.Helper()
	b.do(chromedp.SetUploadFiles(`input[type=file][aria-label="`+label+`"]`, []string{path}, chromedp.ByQuery))
}

// formula types into a formula field.
func (b *browser) formula(label, text string) {
	b.t.Helper()
	s := b.find(label, `.cm-content`)
	b.do(chromedp.MouseClickXY(s.X, s.Y))
	b.keys("a", input.ModifierCtrl)
	b.do(chromedp.KeyEvent("\b"), chromedp.ActionFunc(func(ctx context.Context) error { return input.InsertText(text).Do(ctx) }))
}

func port(addr string) string { return addr[strings.LastIndexByte(addr, ':')+1:] }

// greeter is a server that says hello to whoever comes, in no protocol of ours.
func greeter(t *testing.T) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { l.Close() })
	go func() {
		for c, err := l.Accept(); err == nil; c, err = l.Accept() {
			c.Write([]byte("220 mail.example ready\r\n"))
		}
	}()
	return l.Addr().String()
}

// TestWorkshopDevices: a device is tested there and then, and says why not.
func TestWorkshopDevices(t *testing.T) {
	s := newSite(t)
	spare := freeAddr(t)
	b := openBrowser(t, s.base)
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags")

	// Devices: refused, wrong unit, not Modbus, and then right.
	b.click("Devices")
	b.see("4 devices")
	b.click("Device")
	b.click("Modbus TCP")
	b.see("Device5", "Nobody has said yet where this device is.")
	b.fill("Name", "SparePLC")
	b.see("SparePLC")
	b.fill("Host", "127.0.0.1")
	b.fill("Port", port(spare))
	// The page may move while the device's link comes up: a person presses again.
	test := func(says string) {
		b.until("the test says "+says, func() bool {
			b.click("Test")
			for end := time.Now().Add(3 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
				if strings.Contains(b.text(), says) {
					return true
				}
			}
			return false
		})
	}
	test("nothing listens on port " + port(spare))
	b.fill("Port", port(greeter(t)))
	test("does not speak Modbus TCP")
	plant := start(t, "Plant on", "plant", "--modbus", spare, "--opcua", freeAddr(t), "--mqtt", freeAddr(t), "--speed", "20")
	b.fill("Port", port(spare))
	b.fill("Unit id", "9")
	test("not for unit 9")
	b.fill("Unit id", "1")
	b.choose("Registers count", "from 1")
	test("It answers in")
	b.fill("Unit id", "300")
	b.see("unit id 300: use 0 to 255")
	plant.kill()
	b.see("SparePLC is down")
}

func TestWorkshopTags(t *testing.T) {
	_, b := workshop(t)
	b.click("Bring in")
	b.upload("spare.csv", "path;type;device;address;unit;description\n"+
		"Spare.Dry;INT;KilnPLC;input:0;°C;from the spare list\n"+
		"Spare.Bad-Name;INT;KilnPLC;input:1;;\n"+
		"Spare.Wet;INT;KilnPLC;300002;°C;\n"+
		"Spare.Level;REAL;KilnPLC;coil:7;;\n"+
		"Kiln1.DryBulb;INT;KilnPLC;input:0;K;Dry-bulb temperature, air inlet side\n")
	b.see("New 2", "Changed 1", "Gone 271", "Refused 2", "'-' is not allowed", "only a BOOL fits")
	b.click("Kiln1.DryBulb")
	b.see("Bring in 2")
	b.click("Bring in 2")
	b.see("2 tags brought in", "385 tags")
	b.fill("words, * for anything", "spare*dry")
	b.see("Spare.Dry")
	b.fill("words, * for anything", "")

	// One by hand, scaled from raw to engineering, with unit, decimals, limits.
	b.click("Tag")
	b.see("NewTag1", "Where used")
	b.fill("Name", "1st")
	b.see("a name starts with a letter")
	b.fill("Name", "SpareSP")
	b.choose("Source", "device")
	b.see("holding:0")
	b.choose("Device", "KilnPLC")
	b.fill("Address", "coil:3")
	b.see("only a BOOL fits")
	b.fill("Address", "400001")
	b.see("holding:0 · 400001")
	b.choose("Access", "read and write")
	b.see("720")
	b.choose("Scaling", "two points")
	b.see("Cut to the two points")
	b.fill("Raw, second point", "1200")
	b.fill("Shown, second point", "120")
	b.see("72")
	b.fill("Decimals", "1")
	b.fill("Unit", "°C")
	b.fill("Low limit", "20")
	b.fill("High limit", "10")
	b.see("the low limit 20 is above the high limit 10")
	b.fill("High limit", "95")
	b.see("72.0")

	// The list filters, and undo takes the last step back.
	b.fill("words, * for anything", "fan*speed")
	b.see("Kiln1.Fan[1].Speed")
	b.gone("Kiln1.Burner.Call")
	b.fill("words, * for anything", "FansRunning")
	b.see("3 tags")
	b.click("Kiln1.FansRunning")
	b.see("How many fans run")
	b.fill("Unit", "fans")
	b.see("fans")
	b.do(chromedp.MouseClickXY(1100, 20))
	b.keys("z", input.ModifierCtrl)
	b.see("Taken back: change Kiln1.FansRunning")
}

func TestWorkshopScreens(t *testing.T) {
	_, b := workshop(t)
	b.click("Screens")
	b.see("Chamber")
	b.click("+ Screen")
	b.see("Screen 16", "1280 × 676", "Rectangle")

	// A tag dropped on the screen offers what fits it.
	b.js(`[...document.querySelectorAll('.left [role=tab]')][1].click()`)
	b.fill("words, * for anything", "DryBulbSP")
	b.until("the list is filtered", func() bool {
		return strings.Contains(b.js(`document.querySelector('.left').innerText`), "Kiln1.DryBulbSP")
	})
	mid := spot{560, 340}
	b.drop(".left .row", "Kiln1.DryBulbSP", mid)
	b.see("Entry", "Bar", "Readout")
	b.click("Entry")
	b.see("Dry-bulb set point", "72.0")
	b.see("Label")

	// Every other element of the stock.
	b.js(`[...document.querySelectorAll('.left [role=tab]')][2].click()`)
	for i, k := range []string{"Readout", "State lamp", "Button", "Bar", "Text", "Rectangle"} {
		b.drop(".left .kind", k, spot{440 + float64(i%3)*150, 250 + float64(i/3)*190})
		n := i + 2
		b.see(fmt.Sprintf("of %d selected", n))
	}
	// The button opens another screen.
	b.js(`[...document.querySelectorAll('.left [role=tab]')][0].click()`)
	btn := b.spotOf(`.frame g[data-kind="button"]`)
	b.do(chromedp.MouseClickXY(btn.X, btn.Y))
	b.see("It has no tag.")
	b.choose("Does", "open a screen")
	b.choose("Screen it opens", "Yard")
	b.gone("It has no tag.")

	count := func() string { return b.js(`String(document.querySelectorAll('.frame g[data-element]').length)`) }
	at := func(kind string) string {
		return b.js(`(() => { const g = document.querySelector('.frame g[data-kind="` + kind + `"]'); return g ? g.getAttribute('transform') : '' })()`)
	}
	// Mouse: move and resize the rectangle; guides appear and go.
	r := b.spotOf(`.frame g[data-kind="rect"]`)
	before := at("rect")
	b.drag(r, spot{r.X + 40, r.Y + 32})
	b.until("the rectangle moved", func() bool { return at("rect") != before })
	b.see("Rectangle")
	w := b.value("W")
	h := b.spotOf(`.handle.h11`)
	b.drag(h, spot{h.X + 30, h.Y + 20})
	b.until("the rectangle grew", func() bool { return b.value("W") != w })
	// Keyboard: by the grid, by a pixel, duplicate, delete.
	x := b.value("X")
	b.focusCanvas()
	b.do(chromedp.KeyEvent("\u0303")) // ArrowRight
	b.until("8 pixels to the right", func() bool { return b.value("X") == plus(x, 8) })
	b.keys("\u0303", input.ModifierAlt)
	b.until("one more", func() bool { return b.value("X") == plus(x, 9) })
	n := count()
	b.keys("d", input.ModifierCtrl)
	b.until("one more element", func() bool { return count() == plus(n, 1) })
	b.keys("c", input.ModifierCtrl)
	b.keys("v", input.ModifierCtrl)
	b.until("two more elements", func() bool { return count() == plus(n, 2) })
	b.do(chromedp.KeyEvent("\u007f"))
	b.until("one deleted", func() bool { return count() == plus(n, 1) })
	b.keys("z", input.ModifierCtrl)
	b.until("undo brings it back", func() bool { return count() == plus(n, 2) })
	b.keys("z", input.ModifierCtrl, input.ModifierShift)
	b.until("redo deletes it again", func() bool { return count() == plus(n, 1) })
	// Align all left edges.
	b.keys("a", input.ModifierCtrl)
	b.see("elements")
	b.click("Align left edges")
	columns := func() string {
		return b.js(`String(new Set([...document.querySelectorAll('.frame g[data-element]')].map(g => g.getAttribute('transform').match(/\(([-\d.]+)/)[1])).size)`)
	}
	b.until("all share one X", func() bool { return columns() == "1" })
	b.keys("z", input.ModifierCtrl)
	b.until("undo puts them back", func() bool { return columns() != "1" })

	// Bind visibility and fill; a mistake is shown at its column.
	b.do(chromedp.KeyEvent("\x1b"))
	b.gone("selected")
	r = b.spotOf(`.frame g[data-kind="text"]`)
	b.do(chromedp.MouseClickXY(r.X, r.Y))
	b.see("Text colour")
	b.click("Drive by a formula: Visible")
	b.formula("Visible", "Kiln1.Fan[1].Running + 1")
	b.see("Column 1:", "takes numbers, and this is a BOOL")
	b.formula("Visible", "Kiln1.DryBulb >")
	b.see("Column 15:", "ends too early")
	b.formula("Visible", "Kiln1.DryBulb > 20")
	b.see("on")
	b.do(chromedp.KeyEvent("\r"))
	b.gone("ends too early")
	r = b.spotOf(`.frame g[data-kind="rect"]`)
	b.do(chromedp.MouseClickXY(r.X, r.Y))
	b.see("Corner radius")
	b.click("Drive by a formula: Fill")
	b.formula("Fill", `Kiln1.Mode == 2 ? "wood" : "sheet"`)
	b.see("wood")
	b.do(chromedp.KeyEvent("\r"))
	b.until("the fill follows", func() bool {
		return strings.Contains(b.js(`[...document.querySelectorAll('.frame g[data-kind="rect"] rect')].map(r => r.getAttribute('fill')).join()`), "--c-wood")
	})
}

func plus(s string, n float64) string {
	f, _ := strconv.ParseFloat(s, 64)
	return strconv.FormatFloat(f+n, 'f', -1, 64)
}

// value reads a labelled field.
func (b *browser) value(label string) string {
	return b.js(`(() => { const e = [...document.querySelectorAll('input')].find(i => i.labels && i.labels[0] && i.labels[0].innerText.trim() === '` + label + `'); return e ? e.value : '' })()`)
}

func (b *browser) focusCanvas() { b.js(`document.querySelector('.frame').focus()`) }

// spotOf is the middle of what a selector finds.
func (b *browser) spotOf(selector string) spot {
	b.t.Helper()
	var s *spot
	b.until("find "+selector, func() bool {
		b.do(chromedp.Evaluate("(() => { const e = document.querySelector(`"+selector+"`); if (!e) return null; const r = e.getBoundingClientRect(); return {X: r.x + r.width / 2, Y: r.y + r.height / 2} })()", &s))
		return s != nil
	})
	return *s
}

// TestFindingsAndRelease: each finding is a link to its place; a release is
// held back until the errors are mended, then runs at the Desk.
func TestFindingsAndRelease(t *testing.T) {
	_, b := workshop(t)
	b.fill("words, * for anything", "Car.VelocitySP")
	b.see("1 tag")
	b.click("Car.VelocitySP")
	b.see("Where used")
	b.choose("Access", "read")
	b.fill("words, * for anything", "Car.Loaded")
	b.see("1 tag")
	b.click("Car.Loaded")
	b.see("Where used")
	b.click("Delete")
	b.click("Release")
	b.see("Car.VelocitySP can only be read.", "the tag Car.Loaded no longer exists", "Choose a tag that can be written, or use a readout.")
	if got := b.js(`String([...document.querySelectorAll('button')].find(x => x.innerText.includes('Make release')).disabled)`); got != "true" {
		t.Error("a draft with errors can be released")
	}
	b.click("Rail car › Jog speed")
	b.see("Entry", "Car.VelocitySP can only be read.")
	b.do(chromedp.MouseClickXY(1100, 20))
	b.keys("z", input.ModifierCtrl)
	b.see("Taken back: delete 1 tag")
	b.keys("z", input.ModifierCtrl)
	b.see("Taken back: change Car.VelocitySP")
	b.click("Release")
	b.gone("can only be read")
	b.fill("Note", "second try")
	b.click("Make release 2")
	b.see("Release 2 runs")
	b.click("Releases")
	b.see("second try", "Ada Birch")
}
