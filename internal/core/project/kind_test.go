package project

import (
	"os"
	"regexp"
	"testing"
)

// TestWhatGoesOverAllKindsNamesNone reads the files that work on every kind of
// thing: a kind's name in one of them would have to be added for the next kind.
func TestWhatGoesOverAllKindsNamesNone(t *testing.T) {
	named := regexp.MustCompile(`\bKind(Site|Device|Type|Equipment|Folder|Tag|Alarm|Screen|Role|Look|Style|Picture|Words|View)\b`)
	for _, file := range []string{"kind.go", "document.go", "loading.go", "edit.go", "editing.go",
		"uses.go", "check.go", "ready.go", "sheet.go", "finder.go"} {
		text, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		if at := named.FindString(string(text)); at != "" {
			t.Errorf("%s names %s: what is special to a kind stands in its own file", file, at)
		}
	}
}

// TestTheTableOfKinds looks at what holds for every kind of thing.
func TestTheTableOfKinds(t *testing.T) {
	seen := map[string]bool{}
	for _, k := range Kinds() {
		if k.Name == "" || k.Stop == "" || seen[k.Name] {
			t.Errorf("a kind needs a name of its own and a stop: %+v", k)
		}
		seen[k.Name] = true
	}
	p := New("Larchmoor")
	for _, k := range kinds {
		name := k.told().Name
		if p.Has(name, "no-such-thing") {
			t.Errorf("there is a %s that nobody made", name)
		}
		if _, _, err := p.Edit([]Op{{Kind: name, ID: "x", Value: []byte(`{"noSuchField":1}`)}}); err == nil {
			t.Errorf("a %s takes a field that it does not have", name)
		}
		if _, _, err := p.Edit([]Op{{Kind: name, ID: "a/b", Value: []byte(`{}`)}}); err == nil {
			t.Errorf("a %s takes any id", name)
		}
	}
	if _, _, err := p.Edit([]Op{{Kind: "no-such-kind", ID: "x", Value: []byte(`{}`)}}); err == nil {
		t.Error("a project takes things of a kind that it does not know")
	}
}

// TestTheFinderSharesItsList: many of one kind hide none of another.
func TestTheFinderSharesItsList(t *testing.T) {
	p := New("Larchmoor")
	ops := []Op{{Kind: KindDevice, ID: "d", Value: []byte(`{"name":"FanControl","protocol":"modbus-tcp","host":"127.0.0.1","port":502,"unit":1,"order":"ABCD","numbering":0,"poll":1000,"timeout":500,"maxGap":8,"maxBlock":125}`)}}
	for i := range 60 {
		ops = append(ops, Op{Kind: KindTag, ID: "t" + string(rune('A'+i%26)) + string(rune('a'+i/26)),
			Value: []byte(`{"name":"Fan` + string(rune('A'+i%26)) + string(rune('a'+i/26)) + `","type":"INT","source":"internal"}`)})
	}
	p, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	count := map[string]int{}
	for _, h := range p.Find(func(text string) bool { return regexp.MustCompile("fan").MatchString(text) }, 40) {
		count[h.Kind]++
	}
	if count[KindDevice] != 1 || count[KindTag] != 39 {
		t.Errorf("of 40 lines the devices and tags have %v", count)
	}
}
