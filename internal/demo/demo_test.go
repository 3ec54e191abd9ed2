package demo

import "testing"

func TestTheDemoHasNoErrorsAndNoWarnings(t *testing.T) {
	p, err := Project("127.0.0.1", 5020)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range p.Findings() {
		if f.Severity != "note" {
			t.Errorf("%s at %s %s: %s", f.Rule, f.Name, f.Place, f.Render("en").Says)
		}
	}
	if len(p.Tags) < 70 || len(p.Screens) != 3 {
		t.Errorf("%d tags, %d screens", len(p.Tags), len(p.Screens))
	}
}
