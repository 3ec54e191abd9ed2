package e2e

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
)

func TestDifferencesAsTheyAreListed(t *testing.T) {
	beside(t)
	const list = `[{stop: 'tags', by: ['Ada Birch'], name: 'Car.Speed', was: 'Car.VelocitySP', fields: [{path: '/name', before: 'VelocitySP', after: 'Speed'}]},
		{stop: 'alarms', by: [], name: 'Too hot', was: '', fields: [{path: '/limit', before: 70, after: {a: 1}}]}]`
	named := func(args string) string { return `M.narrow(` + list + `, ` + args + `).map((d) => d.name)` }
	proved(t, "stops/release/changes.ts", []shouldBe{
		{named(`'', '', ''`), []string{"Car.Speed", "Too hot"}},
		{named(`'velocity speed', '', ''`), []string{"Car.Speed"}},
		{named(`'70', '', ''`), []string{"Too hot"}},
		{named(`'', 'alarms', ''`), []string{"Too hot"}},
		{named(`'', '', 'Ada Birch'`), []string{"Car.Speed"}},
		{named(`'warm', '', ''`), []any{}},
		{`M.countsOf([{made: true, gone: false}, {made: false, gone: false}, {made: false, gone: false}])`, m{"made": 1, "changed": 2}},
		{`[M.placeOf('/elements/e1/text'), M.placeOf(''), M.placeOf('/states/a~1b~0c')]`, []string{"elements › e1 › text", "·", "states › a/b~c"}},
		{`[M.toldValue(undefined), M.toldValue(''), M.toldValue('x'), M.toldValue(0), M.toldValue({a: 1})]`,
			[]string{"—", "—", "x", "0", `{"a":1}`}},
	})
}

// TestWhatChangedIsSeenAndTakenBack: an engineer sees what the draft changed since the
// release, and by whom; takes one thing back, and then all of it.
func TestWhatChangedIsSeenAndTakenBack(t *testing.T) {
	_, b := workshop(t)
	b.api("POST", "/edits", json.RawMessage(`{"label":"two","ops":[{"kind":"rule","id":"q-zero","path":"/note","value":"moved"},`+
		`{"kind":"rule","id":"q-zero","path":"/name","value":"Zero of the car"},{"kind":"role","id":"r-new","path":"","value":{"name":"Yard hand","rights":["view"]}}]}`))
	b.open("/p/larchmoor/release")
	b.click("Changes")
	b.see("1 new", "1 changed", "Yard hand", "Zero of the car", "was Origin of the car", "Ada Birch")
	row := func(name, part string) string {
		return `[...document.querySelectorAll('.changes .line')].find(x => x.innerText.includes('` + name + `')).querySelector('` + part + `').click()`
	}
	b.js(row("Zero of the car", "button"))
	b.see("A wrong origin moves every stop of the car", "moved")
	b.fill("Find in changes", "hand")
	b.gone("Zero of the car")
	b.fill("Find in changes", "")
	b.see("Zero of the car")
	b.js(row("Yard hand", "input"))
	b.click("Take 1 back to release 1")
	b.see("The draft has 1 changes.")
	b.until("the role is gone", func() bool {
		return !strings.Contains(b.js(`document.querySelector('.changes .list').innerText`), "Yard hand")
	})
	b.click("Everything back to release 1 …")
	b.see("The draft becomes what release 1 was: 1 things.")
	b.click("Everything back to release 1")
	b.see("Both are the same.")
	b.keys("z", input.ModifierCtrl)
	b.see("Zero of the car")
}
