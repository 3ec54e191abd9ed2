package e2e

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
)

// TestTryProvesABook: in a trial a recipe is made and sent to a stand-in by the
// draft's book; at the plant nothing of it is there.
func TestTryProvesABook(t *testing.T) {
	beside(t)
	s, b := workshop(t)
	if out := b.edit(op{"kind": "book", "id": "b-drying", "path": "/sending/when"}); !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	if out := b.api("PUT", "/try", map[string]any{"live": []string{}}); !strings.HasPrefix(out, "20") {
		t.Fatal(out)
	}
	b.open("/try/larchmoor/s-recipes")
	b.see("Trying the draft", "Larch 50")
	b.recipe("Larch 50")
	b.click("Kiln1")
	b.click("Send to Kiln1")
	b.see("Kiln1 has it: every field was read back.")
	tom := s.schedules("tom", "oak-and-ash")
	tom.see("Nothing was sent there yet.")
}

// TestAnyElementEditsTheOpenRecipe: an engineer makes tags of what is open and puts
// them on a screen beside the list; an operator chooses a recipe there, enters a field
// by the key pad, sees that it is edited, and saves it. Another page sees nothing of it.
func TestAnyElementEditsTheOpenRecipe(t *testing.T) {
	s, b := workshop(t)
	b.open("/p/larchmoor/recipes")
	b.click("Drying schedule")
	b.click("Set-up")
	b.click("Open recipe as tags …")
	b.see("Drying_schedule.Open.Recipe", "Drying_schedule.Open.Step[1].Dry")
	b.fill("Folder of the tags", "Open")
	b.until("the folder is another", func() bool { return strings.Contains(b.text(), "\nOpen.Recipe") })
	b.click("Make 34 tags")
	b.gone("With these tags")
	var list struct {
		Rows []struct {
			Tag  struct{ ID string }
			Path string
		}
	}
	answer := b.api("GET", "/tags?limit=500", nil)
	if err := json.Unmarshal([]byte(strings.TrimPrefix(answer, "200 ")), &list); err != nil {
		t.Fatal(err, answer[:200])
	}
	id := func(path string) string {
		t.Helper()
		for _, r := range list.Rows {
			if r.Path == path {
				return r.Tag.ID
			}
		}
		t.Fatalf("there is no tag %s", path)
		return ""
	}
	type m = map[string]any
	const book = "b-drying"
	element := func(kind, name string, x, y, w, h int, props m) m {
		return m{"kind": kind, "name": name, "x": x, "y": y, "w": w, "h": h, "props": props}
	}
	drawing := m{"name": "Open recipe", "width": 1280, "height": 800, "elements": m{
		"list":    element("recipelist", "List", 20, 20, 260, 420, m{"book": book}),
		"save":    element("recipebutton", "Save", 320, 300, 168, 48, m{"book": book, "does": "save"}),
		"name":    element("readout", "Name", 320, 40, 400, 32, m{"tag": id("Open.Recipe"), "caption": "Recipe"}),
		"changed": element("lamp", "Changed", 320, 90, 160, 28, m{"tag": id("Open.Changed"), "caption": "Edited"}),
		"more": element("button", "One more", 560, 140, 160, 56,
			m{"tag": id("Open.Step[1].Dry"), "action": "step", "by": 1.5, "caption": "One more"}),
		"dry": element("entry", "Dry", 320, 140, 200, 56, m{"tag": id("Open.Step[1].Dry"), "caption": "First dry bulb"})}}
	out := b.edit(op{"kind": "screen", "id": "s-open", "path": "", "value": drawing})
	if !strings.HasPrefix(out, "200") {
		t.Fatal(out)
	}
	b.open("/p/larchmoor")
	b.release()

	w := newWire(t, s.addr)
	iris := openBrowser(t, "http://"+w.listener.Addr().String())
	iris.signIn("iris", "elm-and-yew")
	iris.see("Yard")
	iris.open("/desk/larchmoor/s-open")
	iris.see("Ash 27", "First dry bulb")
	b.open("/desk/larchmoor/s-open")
	b.see("Ash 27", "First dry bulb")
	drawn := func(p *browser) string {
		return p.js(`document.querySelector('svg.screen-svg, .screen svg, svg').parentElement.textContent`)
	}
	enter := func(text string) {
		iris.clickElement("First dry bulb")
		for _, c := range text {
			iris.keys(string(c))
		}
		iris.keys(kb.Enter)
	}
	enter("63")
	iris.see("No recipe is open here")
	iris.keys(kb.Escape)
	iris.js(`[...document.querySelectorAll('button.name')].find(x => x.textContent.includes('Ash 27')).click()`)
	iris.until("the open recipe is shown by plain elements", func() bool {
		return iris.js(`String([...document.querySelectorAll('[data-quality]')].some(x => x.textContent.includes('Ash 27') && !x.querySelector('.embed')))`) == "true"
	})
	shows := func(text string) func() bool {
		return func() bool {
			return iris.js(`String([...document.querySelectorAll('[data-quality=good]')].some(x => x.textContent.includes('`+text+`')))`) == "true"
		}
	}
	enter("61.5")
	iris.until("its edit is shown", shows("61.5"))
	iris.clickElement("One more")
	iris.until("a step is added to what is open", shows("63.0"))
	// A connection that was gone for ten seconds knows of it again, and meanwhile it is
	// not shown as known.
	w.cut()
	iris.until("nothing is shown as known", func() bool {
		return iris.js(`String(!!document.querySelector('.lost') || !document.querySelector('[data-quality=good]'))`) == "true"
	})
	time.Sleep(10 * time.Second)
	w.mend()
	iris.until("what is open is known again", func() bool {
		return shows("63.0")() && iris.js(`String(!document.querySelector('.lostnote'))`) == "true"
	})
	if at := drawn(b); !strings.Contains(at, "First dry bulb") || strings.Contains(at, "63.0") {
		t.Error("another page shows what is edited here")
	}
	iris.click("Save")
	iris.until("it is a version", func() bool {
		return strings.Contains(iris.api("GET", "/books/"+book+"/recipes?text=Ash+27", nil), `"latest":2`)
	})
}
