package e2e

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
)

// TestTwoPeopleReleaseAndReturn: what is open is said; two people sign; while an operator
// holds a button of a screen that neither release touches, and enters nothing twice, it
// goes live; an earlier release runs again by the same road.
func TestTwoPeopleReleaseAndReturn(t *testing.T) {
	alone(t)
	s := newSite(t)
	tom := s.panel("Car stand", "Tom Alder", "1470")
	tom.click("Rail car")
	tom.press("Hold to go forward")
	tom.until("the car is told to move", s.jogging)

	b := openBrowser(t, s.base)
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags")
	if out := b.api("POST", "/edits", json.RawMessage(`{"label":"two","ops":[{"kind":"site","id":"site","path":"/release","value":{"note":true,`+
		`"sign":"both","meaning":"looked at together"}},{"kind":"screen","id":"s-yard","path":"/title","value":"The whole yard"},`+
		`{"kind":"tag","id":"t-spare","path":"","value":{"name":"Spare","type":"REAL","source":"internal"}}]}`)); out[:3] != "200" {
		t.Fatal(out)
	}
	var people []struct{ ID, FullName string }
	if out := b.api("GET", "/people", nil); json.Unmarshal([]byte(out[4:]), &people) != nil {
		t.Fatal(out)
	}
	iris := people[slices.IndexFunc(people, func(p struct{ ID, FullName string }) bool { return p.FullName == "Iris Rowan" })].ID
	engineer := json.RawMessage(`[{"person":"` + iris + `","role":"r-engineer","area":""}]`)
	if out := b.api("PUT", "/people/"+iris+"/grants", engineer); out[:1] != "2" {
		t.Fatal(out)
	}
	b.open("/p/larchmoor/release")
	b.see("3 things differ from what runs", "points proved", "Takes your signature and that of a second person")
	if b.js(`String([...document.querySelectorAll('button')].find(x => x.innerText === 'Make release 2').disabled)`) != "true" {
		t.Error("a release is open without the note that the site asks for")
	}
	b.fill("Note", "a title for the yard")
	b.click("Make release 2")
	b.see("looked at together", "Your signature")
	b.sign("ada", "larch-and-spruce", "iris", "elm-and-yew")
	b.see("Release 2 runs: 3 things differ from before, 1 tags new, 0 gone")
	b.see("Release 2 running")
	b.click("Releases")
	b.see("Ada Birch, Iris Rowan: looked at together")

	// Held all the while: the machine may be too slow to go on with the lease, and then
	// it is pressed anew.
	if s.jogging() {
		time.Sleep(time.Second)
	}
	at := tom.element("Hold to go forward")
	tom.mouse(input.MouseReleased, at.X, at.Y)
	tom.until("let go with the button", func() bool { return !s.jogging() })

	b.click("Run release 1 again")
	b.keys("the title was wrong\r")
	b.see("Your signature")
	b.sign("larch-and-spruce", "iris", "elm-and-yew")
	b.see("Release 3 runs", "is 1 again", "the title was wrong")
	b.see("The draft differs from release 3")
}

// sign fills the fields of what is asked in their order, and sends that.
func (b *browser) sign(texts ...string) {
	b.t.Helper()
	for i, text := range texts {
		b.until("the field is there", func() bool {
			return b.js(fmt.Sprintf(`String((x => !!x && (x.focus(), document.activeElement === x))(document.querySelectorAll('dialog[open] input')[%d]))`,
				i)) == "true"
		})
		b.keys(text)
	}
	b.keys("\r")
}
