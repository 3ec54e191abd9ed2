package e2e

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/chromedp/chromedp"
)

// checker is what looks for barriers on a page (WCAG 2.2 A and AA).
const checker = "../web/node_modules/axe-core/axe.min.js"

// barrier is a rule that a page breaks, and where first.
type barrier struct {
	ID     string `json:"id"`
	Impact string `json:"impact"`
	Help   string `json:"help"`
	Count  int    `json:"count"`
	First  string `json:"first"`
}

// barriers are the serious ones of the page as it is now.
func (b *browser) barriers(script string) []barrier {
	b.t.Helper()
	b.do(chromedp.Evaluate(script, nil))
	// What an element of a screen shows beside its caption is its value, which is no
	// part of what it is called.
	b.js(`String(window.ours = (v, n) => v.id === 'label-content-name-mismatch' && n.html.includes('data-element'))`)
	out := b.async(`(async () => {
		const levels = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];
		const found = await axe.run(document, {runOnly: levels, resultTypes: ['violations']});
		const told = n => n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? '').slice(0, 160);
		return JSON.stringify(found.violations
			.map(v => ({...v, nodes: v.nodes.filter(n => !ours(v, n))}))
			.filter(v => v.nodes.length && ['serious', 'critical'].includes(v.impact))
			.map(v => ({id: v.id, impact: v.impact, help: v.help, count: v.nodes.length, first: v.nodes.slice(0, 3).map(told).join('\n      ')})));
	})()`)
	var list []barrier
	if err := json.Unmarshal([]byte(out), &list); err != nil {
		b.t.Fatal(err, out)
	}
	return list
}

// TestNoSeriousBarriers looks at every view in both themes.
func TestNoSeriousBarriers(t *testing.T) {
	beside(t)
	script, err := os.ReadFile(checker)
	if err != nil {
		t.Fatal(err)
	}
	s := newSite(t)
	b := openBrowser(t, s.base)
	look := func(path string, see ...string) {
		for _, theme := range []string{"light", "dark"} {
			b.js(`localStorage.setItem('rr-theme', '` + theme + `')`)
			b.open(path)
			b.see(see...)
			b.until("nothing is veiled", func() bool { return b.js(`String(document.querySelectorAll('.unsure').length)`) == "0" })
			for _, x := range b.barriers(string(script)) {
				t.Errorf("%s, %s: %s %s (%s), %d times\n      %s", path, theme, x.Impact, x.ID, x.Help, x.Count, x.First)
			}
		}
	}
	b.open("/")
	look("/", "Accounts of this demo")
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags")
	for _, view := range [][2]string{
		{"tags", "Kiln1.DryBulb"}, {"tags/t-001", "383 tags"}, {"devices/d-kiln", "KilnPLC"}, {"screens/s-chamber1", "Chamber"},
		{"equipment/t-gear-003", "Chamber"}, {"alarms", "Dry bulb high-high"}, {"history/v-climate", "Kiln1.DryBulb"},
		{"history/l-drying", "Drying record"}, {"recipes/b-drying?part=values", "Larch 50"}, {"recipes/b-drying?part=setup", "Fields"},
		{"recipes/b-drying?part=deliveries", "Deliveries"}, {"people", "What each role may do"},
		{"people/q-zero", "Why this rule is"}, {"site", "Areas"}, {"release", "Findings"},
	} {
		look("/p/larchmoor/"+view[0], view[1])
	}
	for _, screen := range [][2]string{
		{"s-yard", "Rail car"}, {"s-chamber1", "Dry bulb set point"}, {"s-car", "Rail car"}, {"s-energy", "Energy"},
		{"s-climate", "Climate of Kiln1"},
		{"s-loads", "Loads of the chambers"}, {"s-recipes", "Larch 50"}, {"s-alarms", "Standing"},
	} {
		look("/desk/larchmoor/"+screen[0], screen[1])
	}
}
