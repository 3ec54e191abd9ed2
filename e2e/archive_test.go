package e2e

import (
	"encoding/base64"
	"os"
	"path/filepath"
	"testing"
)

// TestAProjectMovesWithItsRecipes: the archive that the Release stop gives makes a
// second project with the same recipes; what is no archive makes none.
func TestAProjectMovesWithItsRecipes(t *testing.T) {
	beside(t)
	s := newSite(t)
	b := openBrowser(t, s.base)
	b.signIn("ada", "larch-and-spruce")
	b.see("383 tags")
	b.click("Release")
	b.click("Releases")
	b.click("with the plant’s recipes and their versions")
	link := b.js(`[...document.querySelectorAll('a[download]')].find(a => a.innerText.includes('project archive')).getAttribute('href')`)
	packed := b.async(`fetch(` + "`" + link + "`" + `).then(r => r.arrayBuffer()).then(x => {
		let text = ""
		for (const c of new Uint8Array(x)) text += String.fromCharCode(c)
		return btoa(text)
	})`)
	data, err := base64.StdEncoding.DecodeString(packed)
	if err != nil || len(data) < 10_000 {
		t.Fatalf("%d bytes (%v)", len(data), err)
	}
	path := filepath.Join(t.TempDir(), "yard.zip")
	if err := os.WriteFile(path, data[:len(data)/2], 0o600); err != nil {
		t.Fatal(err)
	}
	b.open("/")
	b.fill("New project", "Second yard")
	b.uploadFile("From an archive …", path)
	b.see("the file is not a project archive")
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	b.uploadFile("From an archive …", path)
	b.see("What holds for the whole project", "Nothing released yet", "Second yard")
	b.click("Recipes")
	b.click("Drying schedule")
	b.click("Values")
	b.see("Larch 50", "Oak 27", "approved")
	b.open("/")
	b.see("Second yard")
	if n := b.js(`String(document.querySelectorAll('.project').length)`); n != "2" {
		t.Errorf("%s projects", n)
	}
}
