package e2e

import (
	"context"
	"fmt"
	"io"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"

	"readyrail/internal/plant"
)

// key sends one event of a key, as a hand that holds it does.
func (b *browser) key(kind input.KeyType, key, code string, number int64) {
	b.t.Helper()
	b.do(chromedp.ActionFunc(func(ctx context.Context) error {
		e := input.DispatchKeyEvent(kind).WithKey(key).WithCode(code).WithWindowsVirtualKeyCode(number)
		if kind == input.KeyDown && len(key) == 1 {
			e = e.WithText(key)
		}
		return e.Do(ctx)
	}))
}

// focus puts the focus on an element of a screen.
func (b *browser) focus(name string) {
	b.t.Helper()
	b.element(name)
	b.js(fmt.Sprintf(`([...document.querySelectorAll('g[data-element]')].find(g => (g.getAttribute('aria-label') || '').startsWith(%q)).focus(), 'there')`, name))
}

// pressed holds a button until the car is told to move; a press that a machine
// under load let go, because it was not renewed in time, is made again.
func (s *site) pressed(name string, press, lift func()) {
	s.t.Helper()
	for range 3 {
		press()
		for end := time.Now().Add(3 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
			if s.jogging() {
				return
			}
		}
		lift()
		time.Sleep(time.Second)
	}
	s.t.Fatalf("%s: the car is not told to move", name)
}

// TestAPressEndsWithItsHand: whatever happens to the hand or under it, the coil
// goes off; nothing but the hand keeps it on.
func TestAPressEndsWithItsHand(t *testing.T) {
	alone(t)
	s := newSite(t)
	b := s.panel("Car stand", "Tom Alder", "1470")
	b.click("Rail car")
	forward := b.element("Hold to go forward")
	space := func(kind input.KeyType) { b.key(kind, " ", "Space", 32) }
	lift := func() {
		space(input.KeyUp)
		b.mouse(input.MouseReleased, forward.X, forward.Y)
	}
	pointer := func() { b.mouse(input.MousePressed, forward.X, forward.Y) }
	keyboard := func() { b.focus("Hold to go forward"); space(input.KeyDown) }
	for _, c := range []struct {
		name       string
		press, end func()
		after      func()
	}{
		{"Space, then Tab", keyboard, func() { b.key(input.KeyDown, "Tab", "Tab", 9) }, nil},
		{"Space, then an arrow", keyboard, func() { b.key(input.KeyDown, "ArrowRight", "ArrowRight", 39) }, nil},
		{"Space, then the focus goes", keyboard, func() { b.js(`(document.activeElement.blur(), 'gone')`) }, nil},
		{"Space let go elsewhere", keyboard, func() {
			b.js(`(document.body.dispatchEvent(new KeyboardEvent('keyup', {key: ' ', bubbles: true})), 'up')`)
		}, nil},
		{"a pointer, and a key", pointer, func() { b.key(input.KeyDown, "a", "KeyA", 65) }, nil},
		{"a pointer, and a second one", pointer, func() {
			b.js(`(document.body.dispatchEvent(new PointerEvent('pointerdown', {pointerId: 99, bubbles: true})), 'second')`)
		}, nil},
		{"a menu", pointer, func() {
			b.js(`(document.body.dispatchEvent(new PointerEvent('contextmenu', {bubbles: true})), 'menu')`)
		}, nil},
		{"the page hidden", pointer, func() { b.js(`(document.dispatchEvent(new Event('visibilitychange')), 'hidden')`) }, nil},
		{"the page frozen", pointer, func() { b.js(`(document.dispatchEvent(new Event('freeze')), 'frozen')`) }, nil},
		{"another screen", pointer, func() { b.js(`(document.querySelector('nav button').click(), 'left')`) }, func() { b.click("Rail car") }},
		{"another screen by a key held", keyboard, func() { b.js(`(document.querySelector('nav button').click(), 'left')`) },
			func() { b.click("Rail car") }},
		{"a list in front", pointer, func() { b.js(`(document.querySelector('button.counts').click(), 'open')`) },
			func() { b.click("Close") }},
		{"the screen drawn anew by a release", pointer, func() { s.release(t) }, nil},
		{"the button taken away", pointer, func() {
			b.js(`([...document.querySelectorAll('g[data-element]')].find(g => (g.getAttribute('aria-label') || '').startsWith('Hold to go forward')).remove(), 'away')`)
		}, func() { b.open("/desk/larchmoor/s-car") }},
	} {
		b.element("Hold to go forward")
		s.pressed(c.name, c.press, lift)
		time.Sleep(300 * time.Millisecond)
		if !s.jogging() {
			t.Errorf("%s: it let go by itself", c.name)
		}
		c.end()
		at := time.Now()
		b.until(c.name+": it is let go", func() bool { return !s.jogging() })
		if late := time.Since(at); late > 5*time.Second {
			t.Errorf("%s: let go after %v", c.name, late)
		}
		lift()
		if c.after != nil {
			c.after()
		}
	}

	// A function key held while the screen changes, and a press whose answer comes
	// after a second one began.
	for range 3 {
		pointer()
		b.mouse(input.MouseReleased, forward.X, forward.Y)
	}
	time.Sleep(time.Second)
	if s.jogging() {
		t.Error("short presses, one after another, left it on")
	}
	// Opposites: while one direction is held, the other is refused.
	other := openBrowser(t, s.base)
	other.signIn("iris", "elm-and-yew")
	other.see("Rail car")
	other.click("Rail car")
	pointer()
	b.until("the car is told to move", s.jogging)
	other.press("Hold to go back")
	other.see("which excludes this")
	if s.register(plant.CarUnit, "coil:1", "BOOL") == "true" {
		t.Error("forward and back stand on together")
	}
	lift()
}

// release makes a new release in the background.
func (s *site) release(t *testing.T) {
	t.Helper()
	e := openBrowser(t, s.base)
	e.signIn("ada", "larch-and-spruce")
	e.see("383 tags")
	e.js(`(fetch('/api/projects/larchmoor/edits', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({label: 'x', ops: [{kind: 'screen', id: 's-car', path: '/elements/e001/x', value: 25}]})})
		.then(() => fetch('/api/projects/larchmoor/releases', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({note: ''})})).then((r) => { document.title = 'released ' + r.status }), 'on its way')`)
	e.until("it is released", func() bool { return e.js(`document.title`) == "released 200" })
}

// TestTheKeyPadIsADialogue: its focus stays within, Cancel cancels by keyboard
// too, and every key can be reached on a small panel.
func TestTheKeyPadIsADialogue(t *testing.T) {
	s := newSite(t)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	b.click("Kiln1")
	inside := func() bool { return b.js(`String(!!document.activeElement.closest('dialog'))`) == "true" }
	b.clickElement("Dry bulb set point")
	b.see("Limits")
	b.keys("61.5")
	b.js(`([...document.querySelectorAll('dialog button')].find(x => x.innerText === 'Cancel').focus(), 'there')`)
	b.keys("\r")
	b.gone("Limits")
	time.Sleep(500 * time.Millisecond)
	if got := s.register(plant.KilnUnit, "holding:0", "INT"); got != "720" {
		t.Errorf("Enter on Cancel sent: %s", got)
	}
	if at := b.js(`document.activeElement.getAttribute('aria-label') || ''`); !strings.HasPrefix(at, "Dry bulb set point") {
		t.Errorf("the focus went to %q and not back", at)
	}
	b.keys("\r")
	b.see("Limits")
	for range 25 {
		b.keys("\t")
		// The browser's own bars are between the last button and the first.
		if !inside() && b.js(`document.activeElement.tagName`) != "BODY" {
			t.Fatal("Tab left the dialogue")
		}
	}
	b.js(`(document.querySelector('.pad').focus(), 'there')`)
	b.keys("99999")
	b.keys("\r")
	b.see("is outside 20.0", "the limits are set at the tag")
	if strings.Contains(b.text(), "INT") {
		t.Error("a refusal speaks of the integer's type")
	}
	b.js(`(document.querySelector('.pad').focus(), 'there')`)
	b.keys(strings.Repeat("8", 60))
	for _, size := range [][2]int64{{800, 480}, {1024, 600}, {1280, 800}} {
		b.do(emulation.SetDeviceMetricsOverride(size[0], size[1], 1, false))
		out := b.js(`[...document.querySelectorAll('dialog button, dialog .shown')].filter(x => { const r = x.getBoundingClientRect(); return r.left < 0 || r.top < 0 || r.right > innerWidth || r.bottom > innerHeight || r.height < 44 || r.width < 44 }).map(x => x.innerText).join(' ')`)
		if out != "" {
			t.Errorf("at %d by %d out of reach or too small: %s", size[0], size[1], out)
		}
		if wide := b.js(`String(document.querySelector('dialog .entered').scrollWidth > 0 && document.querySelector('dialog .shown').getBoundingClientRect().right <= document.querySelector('dialog').getBoundingClientRect().right)`); wide != "true" {
			t.Errorf("at %d by %d a long entry leaves its box", size[0], size[1])
		}
	}
	b.do(emulation.SetDeviceMetricsOverride(1280, 800, 1, false))
	b.keys("\x1b")
	b.gone("Limits")
}

// wire is a line between a browser and the server that can be cut.
type wire struct {
	listener net.Listener
	to       string
	mu       sync.Mutex
	open     []net.Conn
	cutOff   bool
}

func newWire(t *testing.T, to string) *wire {
	t.Helper()
	l, err := net.Listen("tcp", freeAddr(t))
	if err != nil {
		t.Fatal(err)
	}
	w := &wire{listener: l, to: to}
	t.Cleanup(func() { l.Close(); w.cut() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			w.join(c)
		}
	}()
	return w
}

func (w *wire) join(c net.Conn) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.cutOff {
		c.Close()
		return
	}
	far, err := net.Dial("tcp", w.to)
	if err != nil {
		c.Close()
		return
	}
	w.open = append(w.open, c, far)
	go func() { io.Copy(far, c); far.Close() }()
	go func() { io.Copy(c, far); c.Close() }()
}

func (w *wire) cut() {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.cutOff = true
	for _, c := range w.open {
		c.Close()
	}
	w.open = nil
}

func (w *wire) mend() {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.cutOff = false
}

// TestAlarmsAfterACutLink: what came and went while the link was cut shows as it
// stands once the link is back, and until then nothing looks as if it were known.
func TestAlarmsAfterACutLink(t *testing.T) {
	s := newSiteAt(t, "1") // in which the chamber that cools down raises no alarm
	w := newWire(t, s.addr)
	b := openBrowser(t, "http://"+w.listener.Addr().String())
	b.signIn("tom", "oak-and-ash")
	b.see("Rail car")
	b.click("Rail car")
	b.see("no alarm")
	w.cut()
	b.see("No word from the server.")
	unsure := func(is string) {
		t.Helper()
		b.until("the alarms are unsure: "+is, func() bool { return b.js(`String(!!document.querySelector('.alarms.unsure [role=alert]'))`) == is })
	}
	unsure("true")
	if strings.Contains(b.text(), "no alarm") {
		t.Error("it says that there is no alarm, and cannot know")
	}
	s.fault("estop", true)
	time.Sleep(2 * time.Second)
	w.mend()
	b.gone("No word from the server.")
	at := time.Now()
	b.see("Car.EStop")
	if late := time.Since(at); late > 3*time.Second {
		t.Errorf("the emergency stop showed %v after the screen was live", late)
	}
	unsure("false")
	w.cut()
	unsure("true")
	s.fault("estop", false)
	time.Sleep(2 * time.Second)
	w.mend()
	b.gone("No word from the server.")
	unsure("false")
	b.click("Car.EStop")
	b.see("returned, unacknowledged")
}

// TestASessionThatEndsElsewhere: the Desk shows the sign-in, and nothing of who
// was there.
func TestASessionThatEndsElsewhere(t *testing.T) {
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("tom", "oak-and-ash")
	b.see("Rail car", "Tom Alder")
	e := openBrowser(t, s.base)
	e.signIn("ada", "larch-and-spruce")
	e.see("383 tags")
	e.click("People")
	e.click("Tom Alder")
	e.fill("Password", "larch-and-fir")
	e.see("lets in once")
	e.click("Save")
	b.see("Name to sign in")
	if strings.Contains(b.text(), "Tom Alder") {
		t.Error("the name is still there")
	}
	e.see("set by Ada Birch, for one sign-in")
	// What somebody else set lets in once; then the person chooses.
	b.fill("Name to sign in", "tom")
	b.fill("Password", "larch-and-fir")
	b.click("Sign in")
	b.see("Choose your own password or PIN now")
	b.fill("Password", "password1")
	b.click("Keep it and go on")
	b.see("tried first")
	b.fill("Password", "the-old-larch")
	b.click("Keep it and go on")
	b.see("Rail car", "Tom Alder")
}

// TestOnlyWhatIsInViewIsAcknowledged: the button says how many, and what is
// scrolled out stays.
func TestOnlyWhatIsInViewIsAcknowledged(t *testing.T) {
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("iris", "elm-and-yew")
	b.see("Rail car")
	for _, fault := range []string{"estop", "fan1", "fan2", "fan3", "fan4", "burner"} {
		s.fault(fault, true)
	}
	b.see("Car.EStop")
	b.do(emulation.SetDeviceMetricsOverride(1280, 460, 1, false))
	b.js(`(document.querySelector('button.counts').click(), 'open')`)
	b.see("Kiln1.Fan[1].Fault")
	waiting := func() string {
		return b.js(`fetch('/api/projects/larchmoor/alarms').then(r => r.json()).then(x => { window.__n = x.alarms.filter(a => a.state === 'unacknowledged').length }) && String(window.__n)`)
	}
	b.until("six wait", func() bool { n := waiting(); return n != "undefined" && n >= "6" })
	inView := func() int {
		var n int
		b.until("the button says how many", func() bool {
			_, err := fmt.Sscanf(b.js(`([...document.querySelectorAll('button')].map(x => x.innerText.trim()).find(x => x.endsWith('in view')) || '')`), "Acknowledge %d in view", &n)
			return err == nil
		})
		return n
	}
	n := inView()
	if n < 1 || n > 4 {
		t.Fatalf("%d are said to be in view", n)
	}
	b.click("in view")
	b.until("the others still wait", func() bool { return waiting() != "undefined" && b.js(`String(window.__n >= 2)`) == "true" })
	time.Sleep(time.Second)
	waiting()
	time.Sleep(300 * time.Millisecond)
	if left := waiting(); left == "0" {
		t.Error("what was scrolled out was acknowledged too")
	}
}

// A browser that forbids tones until it is touched says so, and takes the first
// touch as leave.
func TestAMutedSoundIsSaid(t *testing.T) {
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("tom", "oak-and-ash")
	b.see("Rail car", "Tom Alder")
	b.open("/desk/larchmoor/s-car")
	b.see("Sound is off: touch the screen")
	b.click("Yard")
	b.gone("Sound is off")
}

// TestTheWorkshopAfterACutLink: while nothing is heard it says so, and claims
// nothing of the plant; what a colleague did meanwhile is there afterwards.
func TestTheWorkshopAfterACutLink(t *testing.T) {
	s := newSite(t)
	w := newWire(t, s.addr)
	b := openBrowser(t, "http://"+w.listener.Addr().String())
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags")
	b.open("/p/larchmoor/site")
	state := func() string {
		return b.js(`[...document.querySelectorAll('.picture .box')].find(x => x.innerText.startsWith('KilnPLC'))?.className ?? 'none'`)
	}
	b.until("the controller is connected", func() bool { return strings.HasSuffix(state(), "up") })
	w.cut()
	b.see("The server does not answer", "not known now")
	if got := state(); !strings.HasSuffix(got, "idle") {
		t.Errorf("behind a server that does not answer the controller is shown as %s", got)
	}
	w.mend()
	b.gone("The server does not answer")
	b.until("the controller is connected again", func() bool { return strings.HasSuffix(state(), "up") })

	b.open("/p/larchmoor/screens/s-chamber1")
	b.see("Parameters")
	b.js(`[...document.querySelectorAll('.left [role=tab]')][1].click()`)
	b.see("Weather")
	w.cut()
	b.see("The server does not answer")
	e := openBrowser(t, s.base)
	e.signIn("ada", "larch-and-spruce")
	e.see("383 tags")
	if out := e.edit(op{"kind": "folder", "id": "f-later", "path": "", "value": map[string]any{"name": "Later"}}); !strings.HasPrefix(out,
		"200") {
		t.Fatal(out)
	}
	time.Sleep(10 * time.Second)
	w.mend()
	b.gone("The server does not answer")
	b.see("Later")
}
