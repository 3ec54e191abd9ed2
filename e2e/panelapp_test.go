package e2e

import (
	"context"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

func TestWhenAPageMayBeLoadedAnew(t *testing.T) {
	beside(t)
	free := `{entering: false, acting: false, unsaved: false, untouched: 20_000}`
	proved(t, "desk/renewal.ts", []shouldBe{
		{`M.mayGo('a', 'b', ` + free + `)`, true},
		{`M.mayGo('a', 'a', ` + free + `)`, false},
		{`M.mayGo('a', '', ` + free + `)`, false}, // the server does not answer
		{`M.mayGo('', 'b', ` + free + `)`, false},
		{`M.mayGo('a', 'b', {...` + free + `, entering: true})`, false},
		{`M.mayGo('a', 'b', {...` + free + `, acting: true})`, false},
		{`M.mayGo('a', 'b', {...` + free + `, unsaved: true})`, false},
		{`M.mayGo('a', 'b', {...` + free + `, untouched: 19_999})`, false},
	})
}

// TestAPanelAsAnApplication: the pages are an application that can be installed, with
// icons of our own; it starts at the Desk of the panel's project under the panel's name,
// and keeps the screen awake.
func TestAPanelAsAnApplication(t *testing.T) {
	s := newSite(t)
	b := s.panel("Kiln house", "Tom Alder", "1470")
	b.see("Kiln house")
	for _, file := range []string{"/panel.webmanifest", "/icon.svg", "/icon-192.png", "/icon-512.png"} {
		got := b.js(`(x => (x.open("GET", "` + file + `", false), x.send(), x.status + " " + x.getResponseHeader("Content-Type")))(new XMLHttpRequest())`)
		if !strings.HasPrefix(got, "200 application/manifest+json") && !strings.HasPrefix(got, "200 image/") {
			t.Errorf("%s: %s", file, got)
		}
	}
	b.do(chromedp.ActionFunc(func(ctx context.Context) error {
		_, err := page.AddScriptToEvaluateOnNewDocument(`navigator.wakeLock.request = async (what) => (window.awake = what,
			Object.assign(new EventTarget(), {released: false, release: async () => {}}))`).Do(ctx)
		return err
	}))
	b.open("/desk")
	b.until("the screen stays awake", func() bool { return b.js(`window.awake ?? ''`) == "screen" })
	b.until("the Desk of the panel's project is open", func() bool { return strings.HasPrefix(b.js(`location.pathname`), "/desk/larchmoor") })
	b.until("the page has the panel's name", func() bool { return b.js(`document.title`) == "Kiln house" })

	c := openBrowser(t, s.base)
	c.open("/desk")
	c.until("who is at no panel starts where everybody does", func() bool { return c.js(`location.pathname`) == "/" })
	c.see("Sign in")
}
