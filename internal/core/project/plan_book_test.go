package project

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/recipe"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/value"
)

func cellsOf(sheet string) (cells [][]string) {
	for _, line := range strings.Split(sheet, "|") {
		cells = append(cells, strings.Split(line, ";"))
	}
	return cells
}

func TestFieldsComeFromASheet(t *testing.T) {
	p := larch(t)
	p = edited(t, p, put(KindBook, "single", "", recipe.Book{Name: "Single"}))
	for _, c := range []struct{ sheet, want string }{
		{"Name;Dry bulb (°C);Wood|Larch 50;62.5;Larch", "Dry_bulb REAL; Wood STRING(20)"},
		{"name;type;tag|A;REAL;Kiln1.DryBulb|B;REAL;Nowhere.X|C;REEL;|A;INT;",
			"A REAL; B REAL !there is no tag Nowhere.X; C  !type: \"REEL\" cannot be read; A INT !the sheet has this field twice"},
		{"name;type;low|A;STRING(9);3", "A STRING(9) !low: only a number has limits"},
	} {
		ids := counter()
		list, ops, err := p.PlanFields("single", cellsOf(c.sheet), ids)
		if err != nil || written(list) != c.want {
			t.Errorf("%s: %v\n got %s\nwant %s", c.sheet, err, written(list), c.want)
		}
		if strings.Contains(c.want, "!") {
			continue
		}
		q, _, err := p.Edit(ops)
		if err != nil {
			t.Fatal(err)
		}
		b := q.Books["single"]
		if len(b.Fields) != 2 || b.Fields[0].Title != "Dry bulb" || b.Fields[0].Unit != "°C" || *b.Fields[0].Decimals != 1 {
			t.Errorf("%+v", b.Fields)
		}
		// What is there is left alone, a new column comes behind it.
		again, ops, err := q.PlanFields("single", cellsOf("Dry bulb;Thickness|1;50"), ids)
		if err != nil || again[0].From != thereAlready || !again[1].Problem.IsZero() {
			t.Errorf("%+v %v", again, err)
		}
		if q, _, err = q.Edit(ops); err != nil || len(q.Books["single"].Fields) != 3 || q.Books["single"].Fields[0].ID != b.Fields[0].ID {
			t.Errorf("%v", err)
		}
	}
	// What somebody else did to the fields meanwhile is not written over.
	_, ops, err := p.PlanFields("single", cellsOf("A|1"), counter())
	if err != nil {
		t.Fatal(err)
	}
	other := edited(t, p, put(KindBook, "single", "/fields", []recipe.Field{{ID: "f", Name: "Theirs", Type: value.Type{Kind: value.INT}}}))
	if _, _, err := other.Edit(ops); err == nil {
		t.Error("a colleague's field was written over")
	}
	if _, _, err := p.PlanFields("gone", cellsOf("A|1"), counter()); err == nil {
		t.Error("a book that is gone got fields")
	}
}

// TestAFieldOfASheetGoesToAMember: in a book for equipment a place is a member by
// its name, or by the path of one of its tags.
func TestAFieldOfASheetGoesToAMember(t *testing.T) {
	p := kilns(t)
	p = edited(t, p, put(KindBook, "b", "", airBook(p)))
	list, ops, err := p.PlanFields("b", cellsOf("Name;Type;Tag;High|Top;LREAL;Fan[1].Speed;DryBulb + 5"), counter())
	if err != nil || written(list) != "Top LREAL" {
		t.Fatal(written(list), err)
	}
	p = edited(t, p, ops...)
	f, ok := p.Books["b"].Named("Top")
	if !ok || f.Member != "fan.1.speed" || !strings.Contains(f.High, "{$.f1|") {
		t.Errorf("%+v", f)
	}
}

func TestABlockIsLaidOut(t *testing.T) {
	p := larch(t)
	fields, _, err := recipe.FieldsOf(cellsOf("name;type;low;high;unit|Dry;REAL;20;95;°C|Fan1;BOOL;;;|Fan2;BOOL;;;|Wood;STRING(5);;;|Sum;REAL;;;|Count;INT;;;"))
	if err != nil {
		t.Fatal(err)
	}
	book := recipe.Book{Name: "Single"}
	for i, f := range fields {
		f.ID = "f" + string(rune('a'+i))
		if f.Name == "Sum" {
			f.Formula = "Dry + Count"
		}
		book.Fields = append(book.Fields, f.Field)
	}
	p = edited(t, p, put(KindBook, "s", "", book))
	for address, want := range map[string]string{
		"holding:400": "R.Dry holding:400; R.Fan1 holding:402.0; R.Fan2 holding:402.1; R.Wood holding:403; R.Count holding:406",
		"400402":      "R.Dry holding:401; R.Fan1 holding:403.0; R.Fan2 holding:403.1; R.Wood holding:404; R.Count holding:407",
		"holding:65532": "R.Dry holding:65532; R.Fan1 holding:65534.0; R.Fan2 holding:65534.1; " +
			"R.Wood holding:65535 !holding:65535: a STRING(5) takes 3 registers and would run past the end, 65535; R.Count holding:65535",
	} {
		list, ops, err := p.PlanBlock(FieldBlock{Book: "s", Device: "d1", Address: address, Folder: "R"}, counter())
		if err != nil || written(list) != want {
			t.Errorf("%s: %v\n got %s\nwant %s", address, err, written(list), want)
		}
		if strings.Contains(want, "!") {
			continue
		}
		q := edited(t, p, ops...)
		dry := q.BookTag(&q.Books["s"].Fields[0], "")
		if dry == nil || !dry.Writable() || dry.Unit != "°C" || *dry.High != 95 || q.Books["s"].Fields[4].Goes() {
			t.Errorf("%+v", dry)
		}
		if _, _, err := q.PlanBlock(FieldBlock{Book: "s", Device: "d1", Address: "holding:1"}, counter()); err == nil {
			t.Error("fields that go somewhere were laid out again")
		}
	}
	for _, m := range []FieldBlock{
		{Book: "s", Device: "no", Address: "holding:1"}, {Book: "s", Device: "d1", Address: "x"}, {Book: "no", Device: "d1"},
	} {
		if _, _, err := p.PlanBlock(m, counter()); err == nil {
			t.Errorf("%+v is laid out", m)
		}
	}
}

// TestTagsOfTheOpenRecipe: one for each field, of its type and unit, and for what is
// told beside them; made once, and a finding where the book changes under them.
func TestTagsOfTheOpenRecipe(t *testing.T) {
	p := kilns(t)
	p = edited(t, p, put(KindBook, "b", "", airBook(p)))
	m := OpenTags{Book: "b", Folder: "Air.Open"}
	list, ops, err := p.PlanOpen(m, counter())
	if err != nil || len(list) != len(openParts)+len(p.Books["b"].Fields) {
		t.Fatalf("%+v %v", list, err)
	}
	p = edited(t, p, ops...)
	f := &p.Books["b"].Fields[0]
	id, _ := p.FindPath("Air.Open." + f.Name)
	made := p.Tags[id]
	if made == nil || !made.OfField() || made.Field != f.ID || made.Type != f.Type || made.Writable() || !made.Enterable() || !made.Own() {
		t.Fatalf("%+v", made)
	}
	if got := rulesOf(p, KindTag); strings.Contains(got, "tag.field") || strings.Contains(got, "tag.book") {
		t.Error(got)
	}
	again, more, err := p.PlanOpen(m, counter())
	if err != nil || len(more) != 0 || again[0].From != thereAlready {
		t.Errorf("a second time: %+v %v", more, err)
	}
	// Another type of the field, or none, is a finding at the tag.
	fields := slices.Clone(p.ShownBook(p.Books["b"]).Fields)
	fields[0].Type = value.Type{Kind: value.INT}
	q := edited(t, p, put(KindBook, "b", "/fields", fields))
	if got := rulesOf(q, KindTag); !strings.Contains(got, "tag.field.type /type") {
		t.Error(got)
	}
	q = edited(t, p, Op{Kind: KindTag, ID: id, Path: "/field", Value: json.RawMessage(`"gone"`)})
	if got := rulesOf(q, KindTag); !strings.Contains(got, "tag.field /field") {
		t.Error(got)
	}
	// It is entered and set; what is held, or goes to the plant too, is a finding.
	button := func(action string, then ...screen.Action) *screen.Element {
		return &screen.Element{Kind: "button", W: 60, H: 40, Then: then, Props: map[string]any{"action": action, "tag": id, "value": "50", "by": 1.0}}
	}
	drawn := screen.Screen{Name: "Open", Width: 800, Height: 480, Elements: map[string]*screen.Element{
		"a": {Kind: "entry", W: 60, H: 40, Props: map[string]any{"tag": id}}, "b": button("set"), "c": button("step"),
		"h": button("hold"), "p": button("pulse"), "t": button("set", screen.Action{Do: "record", Text: "x"})}}
	got := rulesOf(edited(t, p, put(KindScreen, "o", "", drawn)), KindScreen)
	for _, place := range []string{"/elements/h/props/action", "/elements/p/props/action", "/elements/t/then/0"} {
		if !strings.Contains(got, "screen.open "+place) {
			t.Errorf("nothing is said of %s: %s", place, got)
		}
	}
	if strings.Count(got, "screen.open") != 3 || strings.Contains(got, "screen.readonly") {
		t.Error(got)
	}
	if _, _, err := p.PlanOpen(OpenTags{Book: "gone"}, counter()); err == nil {
		t.Error("a book that is gone got tags")
	}
}
