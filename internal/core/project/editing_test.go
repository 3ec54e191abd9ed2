package project

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
)

// whole writes everything of a project as it is stored.
func whole(t *testing.T, p *Project) string {
	t.Helper()
	var b strings.Builder
	for _, e := range p.Entities() {
		fmt.Fprintf(&b, "%s %s %s\n", e.Kind, e.ID, e.Doc)
	}
	return b.String()
}

// One edit of many ops does what the same ops do one after the other, and is
// taken back whole, whichever of its parts lie within each other.
func TestTogetherIsAsOneByOne(t *testing.T) {
	paths := []string{
		"/elements/e1/x", "/elements/e1/y", "/elements/e1/props/caption", "/name", "/title",
		"/elements/e2", "/elements/e2/x", "/elements/e2/w", "/elements/e2/props", "/elements/e2/bind/visible",
	}
	value := func(r *rand.Rand, path string) string {
		switch {
		case path == "/elements/e2":
			return `{"kind":"text","x":3,"y":4,"w":100,"h":50,"z":2,"props":{"text":"New"},"bind":{"visible":"Somebody.Else > 1"}}`
		case strings.HasSuffix(path, "caption"), path == "/name", path == "/title":
			return fmt.Sprintf("%q", fmt.Sprint("N", r.IntN(90)))
		case strings.HasSuffix(path, "props"):
			return fmt.Sprintf(`{"text":"T%d"}`, r.IntN(90))
		case strings.HasSuffix(path, "visible"):
			return []string{`"Kiln1.Gap > 3"`, `"Nobody.There > 1"`, `"Kiln1.Gap < 9"`}[r.IntN(3)]
		}
		return fmt.Sprint(1 + r.IntN(400))
	}
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 7))
		var ops []Op
		for range 1 + r.IntN(14) {
			path := paths[r.IntN(len(paths))]
			ops = append(ops, set(KindScreen, "s1", path, value(r, path)))
			if r.IntN(5) == 0 {
				ops = append(ops, set(KindTag, "t2", "/description", fmt.Sprintf("%q", fmt.Sprint("D", r.IntN(9)))))
			}
		}
		start := larch(t)
		one := start
		for _, op := range ops {
			var err error
			if one, _, err = one.Edit([]Op{op}); err != nil {
				t.Fatalf("seed %d, %v: %v", seed, op, err)
			}
		}
		all, changes, err := start.Edit(ops)
		if err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		if a, b := whole(t, one), whole(t, all); a != b {
			t.Fatalf("seed %d: one by one\n%s\ntogether\n%s", seed, a, b)
		}
		back, again, err := all.Revert(changes)
		if err != nil {
			t.Fatalf("seed %d, taking back: %v", seed, err)
		}
		if a, b := whole(t, start), whole(t, back); a != b {
			t.Fatalf("seed %d: before\n%s\ntaken back\n%s", seed, a, b)
		}
		forth, _, err := back.Revert(again)
		if err != nil || whole(t, forth) != whole(t, all) {
			t.Fatalf("seed %d, brought back: %v", seed, err)
		}
	}
}

// What is refused among many names its op, and nothing of the edit stays.
func TestARefusalAmongManyNamesItsOp(t *testing.T) {
	p := larch(t)
	stale := set(KindScreen, "s1", "/elements/e2/y", "5")
	stale.Was = json.RawMessage("77777")
	for name, c := range map[string]struct {
		op   Op
		path string
	}{
		"a value of another type": {set(KindScreen, "s1", "/elements/e2/x", `"left"`), "/elements/e2/x"},
		"an unknown field":        {set(KindScreen, "s1", "/elements/e2/colourful", `1`), "/elements/e2/colourful"},
		"within a number":         {set(KindScreen, "s1", "/width/x", `1`), "/width/x"},
		"no pointer":              {set(KindScreen, "s1", "width", `1`), "width"},
		"stale":                   {stale, "/elements/e2/y"},
	} {
		ops := []Op{set(KindScreen, "s1", "/elements/e1/x", "11"), set(KindScreen, "s1", "/elements/e1/y", "12"), c.op,
			set(KindScreen, "s1", "/elements/e1/w", "13")}
		before := whole(t, p)
		_, _, err := p.Edit(ops)
		r, ok := err.(*Refusal)
		if !ok || r.Path != c.path || r.ID != "s1" {
			t.Errorf("%s: %+v", name, err)
		}
		if whole(t, p) != before {
			t.Errorf("%s: something stayed", name)
		}
	}
}

// A part that is set at a null is set; one that is only looked at stays null.
func TestPointersIntoDocuments(t *testing.T) {
	doc := json.RawMessage(`{"a":{"b":1,"c":null},"d":[1,2],"e":null}`)
	open := &openDoc{raw: doc}
	for path, want := range map[string]string{"/a/b": "1", "/a/c": "null", "/a/c/x": "", "/e/f": "", "/d/0": "", "/a": `{"b":1,"c":null}`,
		"": string(doc)} {
		if got := string(open.at(path)); got != want {
			t.Errorf("%s: %s, want %s", path, got, want)
		}
	}
	if err := open.set("/e/f", json.RawMessage("2")); err != nil {
		t.Fatal(err)
	}
	if err := open.set("/a/b", nil); err != nil {
		t.Fatal(err)
	}
	if err := open.set("/d/0", json.RawMessage("2")); err == nil {
		t.Error("an array was opened")
	}
	if got := string(open.json()); got != `{"a":{"c":null},"d":[1,2],"e":{"f":2}}` {
		t.Error(got)
	}
	var a apart
	for _, c := range []struct {
		path string
		want bool
	}{{"/a/b", true}, {"/a/c", true}, {"/a", false}, {"/a/b/x", false}, {"/a/bc", true}, {"", false}, {"x", false}, {"/b", true}} {
		if a.add(c.path) != c.want {
			t.Errorf("%q beside the others: %v", c.path, !c.want)
		}
	}
}

// A name that the edit gives late is found wherever it stands, whatever else of
// the same thing the edit sets, and everything is taken back.
func TestNamesThatComeLate(t *testing.T) {
	start := larch(t)
	late := set(KindTag, "t9", "", `{"name":"Late","folder":"f1","type":"INT","source":"internal"}`)
	whole2 := set(KindScreen, "s1", "/elements/e2", `{"kind":"text","x":1,"y":1,"w":9,"h":9,"z":2,"bind":{"visible":"Kiln1.Late > 1"}}`)
	visible := set(KindScreen, "s1", "/elements/e2/bind/visible", `"Kiln1.Late > 2"`)
	for name, c := range map[string]struct {
		ops  []Op
		want string
	}{
		"alone":                    {[]Op{visible, late}, "> 2"},
		"a part after the whole":   {[]Op{whole2, set(KindScreen, "s1", "/elements/e2/x", "7"), late}, "> 1"},
		"the whole after a part":   {[]Op{visible, whole2, late}, "> 1"},
		"replaced by another name": {[]Op{visible, set(KindScreen, "s1", "/elements/e2/bind/visible", `"Kiln1.Gap > 3"`), late}, "Kiln1.Gap > 3"},
	} {
		p, changes, err := start.Edit(c.ops)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		shown := p.ShownScreen(p.Screens["s1"])
		stored := whole(t, p)
		if got := shown.Elements["e2"].Bind["visible"]; !strings.Contains(got, c.want) || strings.Contains(stored, "{?|") {
			t.Errorf("%s: %q\n%s", name, got, stored)
		}
		back, _, err := p.Revert(changes)
		if err != nil || whole(t, back) != whole(t, start) {
			t.Errorf("%s, taken back: %v", name, err)
		}
	}
}
