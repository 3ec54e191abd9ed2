package e2e

import (
	"strings"
	"testing"
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
