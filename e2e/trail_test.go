package e2e

import (
	"strings"
	"testing"
)

// TestTheTrailIsLookedThrough: an engineer finds who did what by filters, keeps one,
// says something of a record, comes from a tag to its own part of the trail, and takes
// what is shown along; the trail has that too.
func TestTheTrailIsLookedThrough(t *testing.T) {
	beside(t)
	s, b := workshop(t)
	tag := b.async(`fetch('/api/projects/larchmoor/tags?text=' + encodeURIComponent('Kiln1.DryBulbSP')).then(r => r.json()).then(x => x.rows[0].tag.id)`)
	hold := map[string]any{"value": "70", "reason": "the valve is being mended", "minutes": 5}
	if out := b.api("PUT", "/overrides/"+tag, hold); !strings.HasPrefix(out, "2") {
		t.Fatalf("%.300s", out)
	}
	iris := openBrowser(t, s.base)
	iris.signIn("iris", "elm-and-yew")
	iris.see("Yard")

	b.open("/p/larchmoor/tags/" + tag)
	b.see("What was done to it")
	b.js(`document.querySelector('.inspector details, details').open = true; ''`)
	b.see("the valve is being mended")
	b.click("All of it, in the trail")
	b.see("Only what was done to Kiln1.DryBulbSP", "Held", "the valve is being mended")
	b.gone("Iris Rowan")
	b.click("Of every tag again")
	b.see("Iris Rowan", "Sign-in")

	b.into("who")
	b.keys("rowan")
	b.gone("the valve is being mended")
	b.see("Iris Rowan")
	b.click("Keep the filter …")
	b.into("What the kept filter is called")
	b.keys("Iris alone\r")
	b.see("Forget Iris alone")
	b.click("Clear the filter")
	b.see("the valve is being mended")
	b.choose("Kept filters", "Iris alone")
	b.gone("the valve is being mended")
	b.click("Clear the filter")
	b.fill("tag (* is anything)", "Kiln?.DryBulbSP")
	b.see("No record is like that.")
	b.fill("tag (* is anything)", "Kiln*.DryBulbSP")
	b.see("the valve is being mended")

	b.js(`[...document.querySelectorAll('tr.record')].find(r => r.innerText.includes('being mended')).click(); ''`)
	b.fill("Say something of it", "seen by the shift lead")
	b.click("Comment")
	b.see("seen by the shift lead")
	b.until("what is shown goes out", func() bool {
		return strings.Contains(b.async(`fetch([...document.querySelectorAll('a[download]')].find(a => a.innerText === 'CSV').href).then(r => r.text())`),
			"the valve is being mended")
	})
	b.click("Clear the filter")
	b.see("Comment", "seen by the shift lead", "Export", "path Kiln*.DryBulbSP")
	b.click("Check the seals")
	b.see("none altered", "by this machine's word alone")
	signed := b.async(`fetch([...document.querySelectorAll('a[download]')].find(a => a.innerText === 'signed').href).then(r => r.text())`)
	if lines := strings.Split(strings.TrimSpace(signed), "\n"); len(lines) < 6 || !strings.Contains(lines[len(lines)-1], `"head larchmoor`) {
		t.Errorf("%d lines, the last is %.200s", len(lines), lines[len(lines)-1])
	}
}
