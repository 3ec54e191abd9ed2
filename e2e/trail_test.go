package e2e

import (
	"fmt"
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

// TestAPartOfTheTrailIsClosed by who has the right, with a reason: its file is there to be
// taken along, the trail begins anew and says so, and is whole.
func TestAPartOfTheTrailIsClosed(t *testing.T) {
	s, b := workshop(t)
	iris := openBrowser(t, s.base)
	iris.signIn("iris", "elm-and-yew")
	iris.see("Yard")
	b.open("/p/larchmoor/release")
	b.click("Audit")
	b.see("Iris Rowan", "Sign-in")
	b.click("Closed parts")
	b.fill("Why", "the year ends")
	b.click("Close this part")
	b.see("the year ends", ".trail", "Trail closed")
	b.gone("Iris Rowan")
	b.click("Check the seals")
	b.see("before it were closed and are in files")
	file := b.async(`fetch(document.querySelector('.archives a[download]').href).then(r => r.text())`)
	if !strings.Contains(file, "Iris Rowan") || !strings.Contains(file, `"signature"`) {
		t.Errorf("the file: %.300s", file)
	}
}

// TestTheTrailOnAScreen: an element shows who changed a set point, with its own columns,
// and is narrowed there; who may not look at the trail is told so.
func TestTheTrailOnAScreen(t *testing.T) {
	s, b := workshop(t)
	type m = map[string]any
	tag := b.async(`fetch('/api/projects/larchmoor/tags?text=' + encodeURIComponent('Kiln1.DryBulbSP')).then(r => r.json()).then(x => x.rows[0].tag.id)`)
	list := func(name string, y int, props m) m {
		return m{"kind": "trail", "name": name, "x": 20, "y": y, "w": 1000, "h": 320, "props": props}
	}
	out := b.edit(op{"kind": "screen", "id": "s-trail", "path": "", "value": m{"name": "Trail", "width": 1280, "height": 800, "elements": m{
		"one": list("One tag", 20, m{"tag": tag, "columns": "who,old,new,reason", "narrowed": false}),
		"all": list("People", 400, m{"kinds": "people", "columns": "who,what"})}}})
	if !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b.open("/p/larchmoor")
	b.release()
	hold := m{"value": "70", "reason": "the valve is being mended", "minutes": 5}
	if out := b.api("PUT", "/overrides/"+tag, hold); !strings.HasPrefix(out, "2") {
		t.Fatalf("%.300s", out)
	}
	table := func(head string) string { // the one that has a column
		return b.js(fmt.Sprintf(`([...document.querySelectorAll('.trail table')].find(t => t.tHead.innerText.includes(%q))?.innerText ?? '')`, head))
	}
	ofTag, ofPeople := func() string { return table("Old") }, func() string { return table("What") }
	b.open("/desk/larchmoor/s-trail")
	b.until("the tag's own trail", func() bool { return strings.Contains(ofTag(), "the valve is being mended") })
	b.until("people", func() bool { return strings.Contains(ofPeople(), "Sign-in") })
	if head := strings.Fields(strings.SplitN(ofTag(), "\n", 2)[0]); strings.Join(head, " ") != "Who Old New Reason" {
		t.Errorf("columns: %q", head)
	}
	if strings.Contains(ofTag(), "Sign-in") || strings.Contains(ofPeople(), "being mended") {
		t.Error("an element shows more than it says")
	}
	b.into("who")
	b.keys("nobody")
	b.until("narrowed", func() bool { return !strings.Contains(ofPeople(), "Sign-in") })
	b.click("Clear the filter")
	b.until("as the element says", func() bool {
		return strings.Contains(ofPeople(), "Sign-in") && !strings.Contains(ofPeople(), "Release")
	})

	tom := openBrowser(t, s.base)
	tom.signIn("tom", "oak-and-ash")
	tom.see("Larchmoor")
	tom.open("/desk/larchmoor/s-trail")
	tom.see("read the audit trail")
	if strings.Contains(tom.text(), "being mended") {
		t.Error("somebody without the right sees the trail")
	}
}
