package e2e

import (
	"context"
	"fmt"
	"net"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/link/modbus"
	"readyrail/internal/plant"
)

// third is where the registers of the third chamber begin.
const third = 2 * plant.ChamberStep

// hand writes a register of the kilns past the server, as somebody does at the
// controller's own panel.
func (s *site) hand(register int, n int64) {
	s.t.Helper()
	dev := device.New()
	host, port, _ := net.SplitHostPort(s.modbus)
	dev.Host = host
	dev.Port, _ = strconv.Atoi(port)
	d := modbus.New(dev, link.Env{}, link.NewMeters())
	ctx, cancel := context.WithTimeout(context.Background(), patience)
	defer cancel()
	if err := d.Connect(ctx); err != nil {
		s.t.Fatal(err)
	}
	defer d.Close()
	at, err := device.ParseAddress(fmt.Sprintf("holding:%d", register))
	if err != nil {
		s.t.Fatal(err)
	}
	p := link.Point{Unit: plant.KilnUnit, Addr: at, WriteAddr: at, Type: value.Type{Kind: value.INT}, Order: device.ABCD}
	if err := d.Write(ctx, dev, p, value.Int(value.INT, n)); err != nil {
		s.t.Fatal(err)
	}
}

func (s *site) scheduled(offset int) string {
	return s.register(plant.KilnUnit, fmt.Sprintf("holding:%d", third+offset), "INT")
}

// recipe opens a recipe in the list.
func (b *browser) recipe(name string) {
	b.t.Helper()
	b.until("the list has "+name, func() bool {
		return b.js(fmt.Sprintf(`String(!!document.querySelector('.recipes') &&
			(x => x && (x.click(), true))([...document.querySelectorAll('.recipes .name')].find(x => x.innerText.startsWith(%q))))`, name)) == "true"
	})
	b.until("it is open", func() bool { return b.js(`String(!!document.querySelector(".sheet"))`) == "true" })
}

// named types a name into the field that a button has become.
func (b *browser) named(label, text string) {
	b.t.Helper()
	b.into(label)
	b.do(chromedp.ActionFunc(func(ctx context.Context) error { return input.InsertText(text).Do(ctx) }), chromedp.KeyEvent(kb.Enter))
}

// target presses a button of the target in the list of what the devices have.
func (b *browser) target(name, button string) {
	b.t.Helper()
	b.until(name+": "+button, func() bool {
		return b.js(fmt.Sprintf(`String((x => !!x && (x.click(), true))([...document.querySelectorAll('.targets li')]
			.filter(x => x.innerText.startsWith(%q)).flatMap(x => [...x.querySelectorAll('button')]).find(x => x.innerText.trim() === %q)))`,
			name, button)) == "true"
	})
}

// desk opens the Desk's page of recipes for a person.
func (s *site) schedules(name, password string) *browser {
	s.t.Helper()
	b := openBrowser(s.t, s.base)
	b.signIn(name, password)
	b.see("Larchmoor")
	b.open("/desk/larchmoor/s-recipes")
	b.see("Larch 50")
	return b
}

// TestAScheduleGoesItsRound is the whole round: a shift lead changes a schedule and
// is told what does not hold, somebody else approves it, an operator sends it; it
// is altered at the controller, which shows, and read back from there; deleted and
// brought back.
func TestAScheduleGoesItsRound(t *testing.T) {
	s := newSiteAt(t, "300")
	iris := s.schedules("iris", "elm-and-yew")
	iris.recipe("Larch 50")
	iris.fill("Step 2 Dry bulb, Larch 50", "96")
	iris.until("it is above the limit", func() bool {
		return strings.Contains(iris.js(`document.querySelector('[aria-label="Step 2 Dry bulb, Larch 50"]').title`), "above 95")
	})
	iris.fill("Step 2 Dry bulb, Larch 50", "63.5")
	iris.until("the cell is right again", func() bool {
		return iris.js(`document.querySelector('[aria-label="Step 2 Dry bulb, Larch 50"]').title`) == ""
	})
	iris.see("1 recipe changed, not saved")
	iris.fill("Why? (goes with the version)", "it dried too slowly")
	iris.click("Save")
	iris.see("draft 2", "it dried too slowly", "somebody else approves it")
	iris.click("Kiln3")
	iris.see("version 2 of Larch 50 is not approved")

	ada := openBrowser(t, s.base)
	ada.signIn("ada", "larch-and-spruce")
	ada.see("383 tags")
	ada.open("/p/larchmoor/recipes/b-drying")
	ada.recipe("Larch 50")
	ada.see("it dried too slowly") // its versions are there
	ada.click("Approve")
	ada.see("approved 2", "approved by Ada Birch")

	tom := s.schedules("tom", "oak-and-ash")
	tom.recipe("Larch 50")
	tom.click("Kiln3")
	tom.see("Mode == 0 and DoorClosed")
	tom.see("31 fields within their limits", "1 request for 29 fields")
	if s.scheduled(39) == "635" {
		t.Error("it is there before it is sent")
	}
	tom.click("Send to Kiln3")
	tom.see("Kiln3 has it: every field was read back.", "Larch 50, version 2")
	if s.scheduled(39) != "635" || s.scheduled(0) != "520" {
		t.Errorf("step 2 at %s, set point %s", s.scheduled(39), s.scheduled(0))
	}
	s.hand(third+31, 95)
	tom.see("1 field changed there since")
	tom.target("Kiln3", "Compare")
	tom.see("In Kiln3 now")
	tom.until("the field differs", func() bool {
		return strings.Contains(tom.js(`[...document.querySelectorAll('.differs')].map(x => x.innerText).join()`), "9.5")
	})
	tom.target("Kiln3", "Read …")
	tom.named("Name of the recipe", "Larch as run")
	tom.see("1 recipe changed, not saved")
	tom.click("Save")
	tom.recipe("Larch as run")
	tom.see("draft 1")
	tom.deleted()
	tom.onASmallPanel()
	s.nothing()
}

// onASmallPanel looks at the page where its screen is drawn at half its size: it is
// laid out anew, for eyes and fingers.
func (b *browser) onASmallPanel() {
	b.t.Helper()
	b.size(800, 480, 1)
	b.until("what is pressed fits a finger", func() bool {
		return b.js(`String([...document.querySelectorAll('.recipes .ways .chip')].every(x => x.getBoundingClientRect().height > 43))`) == "true"
	})
	if got := b.js(`String(document.querySelector('.work').getBoundingClientRect().right <= innerWidth)`); got != "true" {
		b.t.Error("the page is wider than its panel")
	}
}

// deleted deletes the recipe that was read, and brings it back.
func (b *browser) deleted() {
	b.t.Helper()
	b.click("Tick Larch as run")
	b.click("Delete …")
	b.named("Why?", "only to compare")
	b.until("it is gone", func() bool {
		return !strings.Contains(b.js(`document.querySelector('.recipes .list').innerText`), "as run")
	})
	b.click("Deleted")
	b.see("deleted by Tom Alder")
	b.click("Tick Larch as run")
	b.click("Bring back")
	b.see("Nothing was deleted")
	b.click("All")
	b.recipe("Larch as run")
}

// nothing has a viewer look at the page: there is nothing to change or to send.
func (s *site) nothing() {
	sam := s.schedules("sam", "pine-and-fir")
	sam.recipe("Larch 50")
	sam.click("Kiln3")
	sam.see("Your roles do not send recipes there.")
	if got := sam.js(`String(document.querySelectorAll('.sheet input, .sheet select').length)`); got != "0" {
		s.t.Errorf("a viewer is offered %s fields", got)
	}
	for _, name := range []string{"New recipe …", "Save", "Withdraw …", "Delete …"} {
		if sam.js(fmt.Sprintf(`String([...document.querySelectorAll('button')].some(x => x.innerText.trim() === %q))`, name)) == "true" {
			s.t.Errorf("a viewer is offered %s", name)
		}
	}
}

// TestTwoAtOneSchedule has two people edit one recipe: who saves last is told who
// was before, and loses nothing of what was typed.
func TestTwoAtOneSchedule(t *testing.T) {
	alone(t)
	s := newSite(t)
	iris, tom := s.schedules("iris", "elm-and-yew"), s.schedules("tom", "oak-and-ash")
	iris.recipe("Ash 50")
	tom.recipe("Ash 50")
	tom.fill("Load Thickness, Ash 50", "52")
	iris.fill("Load Thickness, Ash 50", "51")
	iris.click("Save")
	iris.see("draft 2")
	tom.click("Save")
	tom.see("Iris Rowan wrote version 2")
	if got := tom.js(`document.querySelector('[aria-label="Load Thickness, Ash 50"]').value`); got != "52" {
		t.Errorf("what was typed is %q", got)
	}
	tom.until("the other version lies beside it", func() bool {
		return strings.Contains(tom.js(`[...document.querySelectorAll('.differs')].map(x => x.innerText).join()`), "51")
	})
	tom.click("Save")
	tom.see("draft 3")
}

// TestAServerDiesInADelivery kills the server while the controller is asked: the
// next start says at the Desk what was left, and what was there is put back by a
// press.
func TestAServerDiesInADelivery(t *testing.T) {
	alone(t)
	s := newSiteAt(t, "300")
	s.fault("deaf", true)
	tom := s.schedules("tom", "oak-and-ash")
	tom.recipe("Larch 50")
	tom.click("Kiln3")
	tom.see("Mode == 0 and DoorClosed")
	was := s.scheduled(30)
	tom.click("Send to Kiln3")
	tom.see("Waiting for the controller to take them over")
	s.server.kill()
	if s.scheduled(30) != "50" {
		t.Errorf("the chamber has %s", s.scheduled(30))
	}
	tom.see("The server does not answer")
	s.startServer()
	tom.open("/desk/larchmoor/s-recipes")
	tom.see("Larch 50, version 1, did not go through", "the server ended while it was under way")
	tom.target("Kiln3", "Put back")
	tom.gone("did not go through")
	if got := s.scheduled(30); got != was {
		t.Errorf("the chamber has %s, not %s", got, was)
	}
}

// TestADeliveryIsGivenUp: an operator cancels one while the controller is asked, and
// what was there is put back; another one's end comes while the link is cut, and the
// page says so once it is back.
func TestADeliveryIsGivenUp(t *testing.T) {
	s := newSiteAt(t, "300")
	s.fault("deaf", true)
	w := newWire(t, s.addr)
	tom := openBrowser(t, "http://"+w.listener.Addr().String())
	tom.signIn("tom", "oak-and-ash")
	tom.see("Larchmoor")
	tom.open("/desk/larchmoor/s-recipes")
	tom.see("Larch 50")
	tom.recipe("Larch 50")
	tom.click("Kiln3")
	tom.see("Mode == 0 and DoorClosed")
	was := s.scheduled(30)
	tom.click("Send to Kiln3")
	tom.see("Waiting for the controller to take them over")
	tom.click("Cancel and put back")
	tom.see("Larch 50, version 1, did not go through")
	tom.until("what was there is back", func() bool { return s.scheduled(30) == was })
	tom.target("Kiln3", "Leave as it is …")
	tom.named("Why does it stay?", "looked at it: the old schedule runs")
	tom.gone("version 1, did not go through")

	tom.click("Send to Kiln3")
	tom.see("Waiting for the controller to take them over")
	w.cut()
	tom.see("The server does not answer: this is what it said last.")
	time.Sleep(6 * time.Second) // the controller's patience is over meanwhile
	w.mend()
	tom.see("Larch 50, version 1, did not go through")
	tom.gone("this is what it said last")
}

// TestWhatIsEditedIsAPersons: who takes a panel over sees nothing of what the one
// before had open and not saved; that one finds it again.
func TestWhatIsEditedIsAPersons(t *testing.T) {
	s := newSite(t)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	b.click("Recipes")
	b.recipe("Larch 50")
	b.fill("Load Thickness, Larch 50", "52")
	b.see("1 recipe changed, not saved")
	change := func(from, to, pin string) {
		t.Helper()
		b.click(from)
		b.click(to)
		for _, d := range pin {
			b.click(string(d))
		}
		b.click("Sign in")
		b.gone(from)
		b.see(to)
	}
	change("Tom Alder", "Iris Rowan", "3690")
	b.gone("1 recipe changed, not saved")
	b.see("Larch 50")
	if got := b.js(`String(document.querySelectorAll('.sheet').length)`); got != "0" {
		t.Error("what the one before had open is open")
	}
	change("Iris Rowan", "Tom Alder", "1470")
	b.see("1 recipe changed, not saved")
	// By the keyboard alone: into the cell, another value, down, and saved.
	b.until("the cell is there again", func() bool {
		return b.js(`document.querySelector('[aria-label="Load Thickness, Larch 50"]')?.value ?? ''`) == "52"
	})
	b.until("the caret is in the next field", func() bool {
		// The screen is drawn anew once for who signed in, which may take the caret.
		if b.js(`String((x => !!x && (x.focus(), document.activeElement === x))(`+
			`document.querySelector('[aria-label="Load Thickness, Larch 50"]')))`) == "true" {
			b.do(chromedp.KeyEvent("54"), chromedp.KeyEvent(kb.Enter))
		}
		for from := time.Now(); time.Since(from) < time.Second; time.Sleep(20 * time.Millisecond) {
			if b.js(`document.activeElement.getAttribute('aria-label')`) == "Load Target moisture, Larch 50" {
				return true
			}
		}
		return false
	})
	b.js(`document.querySelector('[aria-label="Why? (goes with the version)"]').focus()`)
	b.do(chromedp.KeyEvent("thicker"), chromedp.KeyEvent(kb.Enter))
	b.see("draft 2")
}

// TestABookIsMade from nothing: of tags by a pattern, for all equipment of their
// type, with a check and a condition; a field gets another name, and the formulas
// follow. What is wrong with it is said.
func TestABookIsMade(t *testing.T) {
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags")
	b.open("/p/larchmoor/recipes/b-drying")
	b.click("New book")
	b.see("No fields yet")
	b.choose("For equipment of the type", "Chamber")
	b.fill("Pattern of paths of tags that fields are made from", "Kiln2.*BulbSP")
	b.click("Make from tags")
	b.see("Chamber.DryBulbSP", "Chamber.WetBulbSP")
	names := func() string {
		return b.js(`[...document.querySelectorAll('[aria-label="Name in formulas"]')].map(x => x.value).join()`)
	}
	if got := names(); got != "DryBulbSP,WetBulbSP" {
		t.Fatal(got)
	}
	b.fill("WetBulb < DryBulb", "WetBulbSP < DryBulbSP")
	b.until("the check is there", func() bool {
		return b.js(`document.querySelector('[aria-label="Condition"]')?.value ?? ''`) == "WetBulbSP < DryBulbSP"
	})
	b.fill("May be sent while", "Mode ==")
	b.see("Column") // a formula that is none is a finding at its place
	b.fill("May be sent while", "Mode == 0")
	b.fill("Name in formulas", "Dry")
	b.until("the check follows the name", func() bool {
		return b.js(`document.querySelector('[aria-label="Condition"]')?.value ?? ''`) == "WetBulbSP < Dry"
	})
	b.click("Values")
	b.see("The running plant does not have this book yet")
}

// TestABookIsDrawn: a screen for a book by one press, whose parts have in common
// what is open; what is edited is still there after another screen was looked at.
func TestABookIsDrawn(t *testing.T) {
	s := newSite(t)
	ada := openBrowser(t, s.base)
	ada.signIn("ada", "larch-and-spruce")
	ada.see("383 tags")
	ada.open("/p/larchmoor/recipes/b-drying?part=setup")
	ada.click("Make a screen for it")
	ada.see("Place in the navigation", "Recipes are sent at the Desk")
	s.release(t)
	tom := openBrowser(t, s.base)
	tom.signIn("tom", "oak-and-ash")
	tom.see("Drying schedule")
	tom.click("Drying schedule")
	tom.recipe("Larch 50")
	tom.fill("Load Thickness, Larch 50", "52")
	tom.see("1 recipe changed, not saved")
	tom.click("Yard")
	tom.gone("1 recipe changed, not saved")
	tom.click("Drying schedule")
	tom.see("1 recipe changed, not saved")
	tom.until("what was typed is there", func() bool {
		return tom.js(`document.querySelector('[aria-label="Load Thickness, Larch 50"]')?.value ?? ''`) == "52"
	})
	tom.js(`[...document.querySelectorAll('button.press')].find(x => x.innerText.startsWith('Save')).click()`)
	tom.see("draft 2")
	tom.click("New recipe …")
	tom.fill("Name of the recipe", "Larch thin")
	tom.js(`document.querySelector('dialog form').requestSubmit()`)
	tom.see("Larch thin")
	tom.js(`[...document.querySelectorAll('button.press')].find(x => x.innerText.startsWith('Take back')).click()`)
	tom.gone("Larch thin")
	tom.click("Kiln1")
	tom.see("version 2 of Larch 50 is not approved")
}
