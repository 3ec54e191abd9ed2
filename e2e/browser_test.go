// Package e2e drives the real interface of the real binary through Chromium,
// with the stand-in plant running. It finds things as a person does, by what
// they say, and waits on what shows.
package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
)

// patience is how long a person would wait for something to show.
const patience = time.Minute

// browser is one person's browser, with a profile of its own.
type browser struct {
	t      testing.TB
	ctx    context.Context
	cancel context.CancelFunc
	own    cdp.BrowserContextID // apart from the other pages of the shared browser
	base   string
	errors []string
}

// chromiumPath is Debian's Chromium: the one that has no window of its own to
// draw is twice as quick at the same pages.
func chromiumPath() string {
	const shell = "/usr/lib/chromium/chromium-headless-shell"
	if _, err := os.Stat(shell); err != nil {
		return "/usr/bin/chromium"
	}
	return shell
}

// chromium starts a browser whose profile lies in a folder.
func chromium(profile string) (context.Context, context.CancelFunc) {
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(chromiumPath()), chromedp.NoSandbox, chromedp.WindowSize(1280, 800), chromedp.UserDataDir(profile),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("force-color-profile", "srgb"),
		chromedp.Flag("disable-dev-shm-usage", true), chromedp.Flag("lang", "en-GB"), chromedp.Env("LANGUAGE=en"))
	alloc, stop := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := chromedp.NewContext(alloc)
	return ctx, func() { cancel(); stop() }
}

// shared is the browser of all journeys, each in a context of its own: no
// cookie, no storage and no window is another's.
var shared struct {
	sync.Mutex
	ctx context.Context
	end context.CancelFunc
}

// tab opens a page of its own. What is measured has the whole browser.
func tab(t testing.TB) (ctx context.Context, own cdp.BrowserContextID, end context.CancelFunc) {
	t.Helper()
	if _, measured := t.(*testing.B); measured {
		ctx, end = chromium(t.TempDir())
		return ctx, "", end
	}
	shared.Lock()
	defer shared.Unlock()
	if shared.ctx == nil {
		profile, err := os.MkdirTemp("", "journeys")
		if err != nil {
			t.Fatal(err)
		}
		ctx, cancel := chromium(profile)
		if err := chromedp.Run(ctx); err != nil {
			t.Fatal(err)
		}
		shared.ctx, shared.end = ctx, func() { cancel(); os.RemoveAll(profile) }
	}
	browser := cdp.WithExecutor(shared.ctx, chromedp.FromContext(shared.ctx).Browser)
	own, err := target.CreateBrowserContext().Do(browser)
	if err != nil {
		t.Fatal(err)
	}
	window, err := target.CreateTarget("about:blank").WithBrowserContextID(own).WithNewWindow(true).Do(browser)
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := chromedp.NewContext(shared.ctx, chromedp.WithTargetID(window))
	return ctx, own, func() { cancel(); target.DisposeBrowserContext(own).Do(browser) }
}

// openBrowser opens a page as a person of their own has it.
func openBrowser(t testing.TB, base string) *browser {
	t.Helper()
	ctx, own, end := tab(t)
	b := newPage(t, base, ctx, end)
	b.own = own
	return b
}

// ownBrowser is a browser that can be killed.
func ownBrowser(t testing.TB, base string) *browser {
	t.Helper()
	ctx, cancel := chromium(t.TempDir())
	return newPage(t, base, ctx, cancel)
}

func newPage(t testing.TB, base string, ctx context.Context, cancel context.CancelFunc) *browser {
	t.Helper()
	b := &browser{t: t, ctx: ctx, base: base}
	b.cancel = cancel
	chromedp.ListenTarget(ctx, func(ev any) {
		switch e := ev.(type) {
		case *runtime.EventExceptionThrown:
			b.errors = append(b.errors, e.ExceptionDetails.Error())
		case *runtime.EventConsoleAPICalled:
			if e.Type == runtime.APITypeError {
				for _, a := range e.Args {
					b.errors = append(b.errors, string(a.Value)+a.Description)
				}
			}
		}
	})
	b.do(network.Enable(), emulation.SetDeviceMetricsOverride(1280, 800, 1, false), emulation.SetFocusEmulationEnabled(true),
		page.BringToFront())
	t.Cleanup(func() {
		if t.Failed() {
			b.keep(strings.ReplaceAll(t.Name(), "/", "-"))
			t.Logf("page: %s\n%.1500s", b.js(`location.href`), b.text())
		}
		if len(b.errors) > 0 && !t.Failed() {
			t.Errorf("the page reported errors: %v", b.errors)
		}
		b.cancel()
	})
	return b
}

func (b *browser) do(actions ...chromedp.Action) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 2*patience)
	defer cancel()
	// A cancelled sub-context must not close the tab: actions run on it only.
	if err := chromedp.Run(b.ctx, chromedp.ActionFunc(func(c context.Context) error {
		done := make(chan error, 1)
		go func() {
			for _, a := range actions {
				if err := a.Do(c); err != nil {
					done <- err
					return
				}
			}
			done <- nil
		}()
		select {
		case err := <-done:
			return err
		case <-ctx.Done():
			return ctx.Err()
		}
	})); err != nil {
		b.t.Fatalf("browser: %v", err)
	}
}

// keep stores a picture of a failed journey.
func (b *browser) keep(name string) {
	var png []byte
	if chromedp.Run(b.ctx, chromedp.CaptureScreenshot(&png)) == nil {
		os.MkdirAll("failures", 0o755)
		os.WriteFile(filepath.Join("failures", name+".png"), png, 0o644)
	}
}

func (b *browser) shot(path string) {
	b.t.Helper()
	var png []byte
	b.do(chromedp.CaptureScreenshot(&png))
	if err := os.WriteFile(path, png, 0o644); err != nil {
		b.t.Fatal(err)
	}
}

func (b *browser) open(path string) {
	b.t.Helper()
	b.do(chromedp.Navigate(b.base + path))
}

// js evaluates an expression to text. One that a page is left under is asked of
// the next page; one about a thing that isn't there yet is asked until it is.
func (b *browser) js(expr string) string {
	b.t.Helper()
	var out any
	b.do(chromedp.ActionFunc(func(ctx context.Context) error {
		err := chromedp.Evaluate(expr, &out).Do(ctx)
		for end := time.Now().Add(patience); notYet(err) && time.Now().Before(end); err = chromedp.Evaluate(expr, &out).Do(ctx) {
			time.Sleep(50 * time.Millisecond)
		}
		return err
	}))
	if s, ok := out.(string); ok {
		return s
	}
	j, _ := json.Marshal(out)
	return string(j)
}

func notYet(err error) bool {
	return err != nil && (strings.Contains(err.Error(), "navigated or closed") || strings.Contains(err.Error(), "Cannot read properties of"))
}

// text is everything that shows, the texts inside drawings included.
func (b *browser) text() string {
	return b.js(`(() => {
		const svg = [...document.querySelectorAll('svg text')].filter(t => t.checkVisibility()).map(t => t.textContent).join('\n');
		const fields = [...document.querySelectorAll('input,select')].filter(t => t.checkVisibility()).map(t => t.value).join('\n');
		return (document.body?.innerText ?? '') + '\n' + svg + '\n' + fields;
	})()`)
}

func (b *browser) until(what string, ok func() bool) {
	b.t.Helper()
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(30 * time.Millisecond) {
		if ok() {
			return
		}
	}
	b.t.Fatalf("not within %v: %s", patience, what)
}

// see waits until a text shows.
func (b *browser) see(texts ...string) {
	b.t.Helper()
	for _, s := range texts {
		b.until("see "+s, func() bool { return strings.Contains(b.text(), s) })
	}
}

func (b *browser) gone(s string) {
	b.t.Helper()
	b.until("no longer see "+s, func() bool { return !strings.Contains(b.text(), s) })
}

type spot struct{ X, Y float64 }

const finder = `((name, exact, kinds) => {
	const clean = s => (s || '').replace(/\s+/g, ' ').trim();
	const all = [...document.querySelectorAll(kinds)].filter(e => e.checkVisibility({visibilityProperty: true, opacityProperty: true}));
	const label = e => clean(e.getAttribute('aria-label') || (e.labels && e.labels[0] && e.labels[0].innerText) || e.innerText || e.textContent || e.title);
	const hits = all.filter(e => exact ? label(e) === name : label(e).includes(name));
	hits.sort((a, b) => label(a).length - label(b).length);
	const e = hits[0];
	if (!e) return null;
	e.scrollIntoView({block: 'nearest'});
	window.found = e;
	const r = e.getBoundingClientRect();
	return {X: r.x + r.width / 2, Y: r.y + r.height / 2};
})`

const pressable = `button, a, [role=button], [role=tab], [role=menuitem], [role=option], [role=row], .v-list-item, label.check, summary, td .bare, input[type=checkbox]`

func (b *browser) find(name, kinds string) spot {
	b.t.Helper()
	n, _ := json.Marshal(name)
	var at steady
	b.until(fmt.Sprintf("find %q", name), func() bool {
		for _, exact := range []string{"true", "false"} {
			var s *spot
			b.do(chromedp.Evaluate(finder+"("+string(n)+","+exact+",`"+kinds+"`)", &s))
			if s != nil {
				return at.stands(*s)
			}
		}
		return false
	})
	return at.spot
}

// steady tells when something has stood at one place for as long as a person
// needs to see it there.
type steady struct {
	spot
	since time.Time
}

func (a *steady) stands(at spot) bool {
	if at != a.spot || a.since.IsZero() {
		a.spot, a.since = at, time.Now()
	}
	return time.Since(a.since) >= 100*time.Millisecond
}

// click presses what carries a name, again where the page moved under the press, as
// a person does who sees that nothing came of it.
func (b *browser) click(name string) {
	b.t.Helper()
	for from := time.Now(); time.Since(from) < patience; {
		s := b.find(name, pressable)
		b.js(watchThePress)
		b.do(chromedp.MouseClickXY(s.X, s.Y))
		if b.js(`String(window.missed === true)`) != "true" {
			return
		}
	}
	b.t.Fatalf("%q moved away from every press", name)
}

// watchThePress has the next press say whether what was found last still stands
// under it, and no dialogue that is still closing lies over it.
const watchThePress = `(() => {
	window.missed = false;
	addEventListener('pointerdown', p => {
		if (!window.found) return;
		const r = window.found.getBoundingClientRect();
		const within = p.x >= r.left && p.x <= r.right && p.y >= r.top && p.y <= r.bottom;
		const over = p.target.closest('dialog');
		window.missed = window.found.isConnected && (!within || !!over && !over.contains(window.found));
	}, {capture: true, once: true});
	return '';
})()`

// fill types into a labelled field and leaves it.
func (b *browser) fill(label, text string) {
	b.t.Helper()
	b.into(label)
	b.keys("a", input.ModifierCtrl)
	b.do(chromedp.KeyEvent("\b"))
	if text != "" {
		b.do(chromedp.ActionFunc(func(ctx context.Context) error { return input.InsertText(text).Do(ctx) }))
	}
	b.do(chromedp.KeyEvent("\t"))
}

// into clicks into a field, again where the page moved under the click, as a
// person does who sees no caret there.
func (b *browser) into(label string) {
	b.t.Helper()
	b.until("caret in "+label, func() bool {
		s := b.find(label, `input, textarea`)
		b.do(chromedp.MouseClickXY(s.X, s.Y))
		now := b.find(label, `input, textarea`)
		return b.js(fmt.Sprintf(`document.elementFromPoint(%f, %f) === document.activeElement`, now.X, now.Y)) == "true"
	})
}

// choose picks an option of a labelled list.
func (b *browser) choose(label, option string) {
	b.t.Helper()
	l, _ := json.Marshal(label)
	o, _ := json.Marshal(option)
	b.until("choose "+option, func() bool {
		return b.js(`((label, option) => {
			const s = [...document.querySelectorAll('select')].find(e => e.checkVisibility() && ((e.labels[0] && e.labels[0].innerText.trim() === label) || e.getAttribute('aria-label') === label));
			const o = s && ([...s.options].find(x => x.text.trim() === option) || [...s.options].find(x => x.text.includes(option)));
			if (!o) return false;
			s.value = o.value; s.dispatchEvent(new Event('change', {bubbles: true})); return true;
		})(`+string(l)+`,`+string(o)+`)`) == "true"
	})
}

// keys presses a key with modifiers.
func (b *browser) keys(key string, m ...input.Modifier) {
	b.t.Helper()
	b.do(chromedp.KeyEvent(key, chromedp.KeyModifiers(m...)))
}

// element finds an element of a screen by the start of what it says.
func (b *browser) element(name string) spot {
	b.t.Helper()
	n, _ := json.Marshal(name)
	var at steady
	b.until("element "+name, func() bool {
		var s *spot
		b.do(chromedp.Evaluate(`((name) => {
			const e = [...document.querySelectorAll('g[data-element]')].find(g => (g.getAttribute('aria-label') || '').startsWith(name) && g.checkVisibility());
			if (!e) return null; const r = e.getBoundingClientRect(); return {X: r.x + r.width / 2, Y: r.y + r.height / 2};
		})(`+string(n)+`)`, &s))
		return s != nil && at.stands(*s)
	})
	return at.spot
}

func (b *browser) clickElement(name string) {
	b.t.Helper()
	s := b.element(name)
	b.do(chromedp.MouseClickXY(s.X, s.Y))
}

// mouse sends one mouse event.
func (b *browser) mouse(kind input.MouseType, x, y float64) {
	b.t.Helper()
	b.do(chromedp.ActionFunc(func(ctx context.Context) error {
		e := input.DispatchMouseEvent(kind, x, y).WithButton(input.Left).WithClickCount(1)
		if kind == input.MouseMoved {
			e = e.WithButtons(1)
		}
		return e.Do(ctx)
	}))
}

// drag moves the mouse with its button down.
func (b *browser) drag(from, to spot) {
	b.t.Helper()
	b.mouse(input.MousePressed, from.X, from.Y)
	for i := 1; i <= 8; i++ {
		f := float64(i) / 8
		b.mouse(input.MouseMoved, from.X+(to.X-from.X)*f, from.Y+(to.Y-from.Y)*f)
	}
	b.mouse(input.MouseReleased, to.X, to.Y)
}

// drop carries something draggable to a place, through the page's own drag
// events: headless Chromium does not run the desktop's.
func (b *browser) drop(selector, name string, to spot) {
	b.t.Helper()
	s, _ := json.Marshal(selector)
	n, _ := json.Marshal(name)
	b.until("drag "+name, func() bool {
		return b.js(fmt.Sprintf(`((sel, name, x, y) => {
			const from = [...document.querySelectorAll(sel)].find(e => e.innerText.includes(name) && e.checkVisibility());
			const onto = document.elementFromPoint(x, y);
			if (!from || !onto) return false;
			const data = new DataTransfer();
			const send = (node, type) => node.dispatchEvent(new DragEvent(type, {bubbles: true, cancelable: true, dataTransfer: data, clientX: x, clientY: y}));
			send(from, 'dragstart'); send(onto, 'dragenter'); send(onto, 'dragover'); send(onto, 'drop'); send(from, 'dragend');
			return true;
		})(%s, %s, %f, %f)`, s, n, to.X, to.Y)) == "true"
	})
}

// signIn signs in by name and password at the start page.
func (b *browser) signIn(name, password string) {
	b.t.Helper()
	b.open("/")
	b.see("Sign in")
	b.fill("Name to sign in", name)
	b.fill("Password", password)
	b.click("Sign in")
}
