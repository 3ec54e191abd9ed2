package e2e

import (
	"testing"
)

// TestEveryDialogueByKeyboard opens with the focus in it, keeps it there, ends by
// Escape, and gives the focus back to what opened it.
func TestEveryDialogueByKeyboard(t *testing.T) {
	beside(t)
	_, b := workshop(t)
	b.size(1280, 800, 1)
	const box = "dialog[open], input[placeholder=\"Name of the mark\"]"
	focused := func(where string) bool {
		return b.js(`String(!!document.activeElement?.closest('`+where+`'))`) == "true"
	}
	for _, d := range []struct{ at, button, first string }{
		{"/p/larchmoor/recipes/b-drying", "From a sheet …", "Set-up"},
		{"/p/larchmoor/recipes/b-drying", "Open recipe as tags …", "Set-up"},
		{"/p/larchmoor/history/l-drying", "From a file …", ""},
		{"/p/larchmoor/history/l-drying", "Mark …", ""},
		{"/p/larchmoor/history/v-climate", "Keep as a view …", ""},
	} {
		b.open(d.at)
		if d.first != "" {
			b.click(d.first)
		}
		b.see(d.button)
		b.js(`[...document.querySelectorAll('button')].find(x => x.textContent.includes('` + d.button + `')).focus(); 'x'`)
		b.keys("\r")
		b.until(d.button+" opens with the focus in it", func() bool { return focused(box) })
		for n := 0; n < 25 && focused("dialog[open]"); n++ {
			b.keys("\t")
			if b.js(`String(document.activeElement === document.body)`) == "false" && !focused(box) {
				t.Errorf("the focus leaves %s by the Tab key", d.button)
				break
			}
		}
		b.js(`document.querySelector('dialog[open] button, dialog[open] input')?.focus(); 'x'`)
		b.keys("\x1b")
		b.until(d.button+" ends by Escape", func() bool { return b.js(`String(!document.querySelector('`+box+`'))`) == "true" })
		if at := b.js(`document.activeElement.textContent.trim()`); at != d.button {
			t.Errorf("after %s the focus is at %.60q", d.button, at)
		}
	}
}
