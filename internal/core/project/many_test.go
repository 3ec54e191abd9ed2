package project

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

func counter() func(string) string {
	n := 0
	return func(kind string) string { n++; return fmt.Sprintf("%s-new%d", kind[:1], n) }
}

func written(list []Planned) string {
	var out []string
	for _, p := range list {
		s := p.Path + " " + p.Address
		if !p.Problem.IsZero() {
			s += " !" + p.Problem.String()
		}
		out = append(out, s)
	}
	return strings.Join(out, "; ")
}

func TestMakeMany(t *testing.T) {
	p := larch(t)
	real := tag.Tag{Type: value.Type{Kind: value.REAL}, Source: tag.Device, Device: "d1", Description: "zone {2} of kiln {1}"}
	bit := tag.Tag{Type: value.Type{Kind: value.BOOL}, Source: tag.Device, Device: "d1"}
	for _, c := range []struct {
		m    Many
		want string
	}{
		{Many{Path: "K{1..2}.Zone[1..2].T", Address: "holding:10", Tag: real},
			"K1.Zone[1].T holding:10; K1.Zone[2].T holding:12; K2.Zone[1].T holding:14; K2.Zone[2].T holding:16"},
		{Many{Path: "Z[1..3]", Address: "holding:10", Step: 10, Tag: real}, "Z[1] holding:10; Z[2] holding:20; Z[3] holding:30"},
		{Many{Path: "B[1..3]", Address: "holding:7.14", Tag: bit}, "B[1] holding:7.14; B[2] holding:7.15; B[3] holding:8.0"},
		{Many{Path: "B[0..1]", Address: "coil:{1}", Tag: bit}, "B[0] coil:0; B[1] coil:1"},
		{Many{Path: "Z[1..2]", Address: "holding:65532", Step: 4, Tag: real},
			"Z[1] holding:65532; Z[2] holding:65532 !holding:65532 moved by 4 leaves 0 to 65535"},
		{Many{Path: "Kiln1.{1..1}DryBulb", Tag: real, Address: "holding:1"},
			`Kiln1.1DryBulb holding:1 !"Kiln1.1DryBulb", character 7: a name starts with a letter`},
	} {
		list, ops, err := p.PlanMany(c.m, counter())
		if err != nil || written(list) != c.want {
			t.Errorf("%s: %v\n got %s\nwant %s", c.m.Path, err, written(list), c.want)
		}
		if !strings.Contains(c.want, "!") {
			q, _, err := p.Edit(ops)
			if err != nil {
				t.Errorf("%s: %v", c.m.Path, err)
				continue
			}
			if id, ok := q.FindPath("K2.Zone[1].T"); ok && q.Tags[id].Description != "zone 1 of kiln 2" {
				t.Errorf("description %q", q.Tags[id].Description)
			}
		}
	}
	for _, bad := range []string{"Z[3..1]", "Z[1..x]", "Z[1..", "Z[1..200].Y[1..200]"} {
		if _, _, err := p.PlanMany(Many{Path: bad, Tag: real}, counter()); err == nil {
			t.Errorf("%q was taken", bad)
		}
	}
}

func TestCopyFolderWithSubstitution(t *testing.T) {
	p := larch(t)
	list, ops, err := p.PlanCopies(Copies{Folder: "f1", Count: 2, Find: "Kiln1", Replace: "Kiln{n}0", AddressStep: 100}, counter())
	if err != nil {
		t.Fatal(err)
	}
	if got := written(list); got != "Kiln10.DryBulb holding:200; Kiln10.DryBulbSP holding:240; Kiln10.Gap Kiln10.DryBulbSP - Kiln10.DryBulb; "+
		"Kiln20.DryBulb holding:300; Kiln20.DryBulbSP holding:340; Kiln20.Gap Kiln20.DryBulbSP - Kiln20.DryBulb" {
		t.Error(got)
	}
	q, changes, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	id, _ := q.FindPath("Kiln20.Gap")
	if got := q.ShownTag(q.Tags[id]).Formula; got != "Kiln20.DryBulbSP - Kiln20.DryBulb" {
		t.Error(got)
	}
	if back, _, err := q.Revert(changes); err != nil || len(back.Tags) != len(p.Tags) || len(back.Folders) != 1 {
		t.Errorf("undo: %v", err)
	}
	list, _, _ = p.PlanCopies(Copies{Tags: []string{"t1"}, Count: 1, NameStep: 1}, counter())
	if list[0].Used != "Kiln1.DryBulb" {
		t.Errorf("an address that is used already: %+v", list[0])
	}
	if got := written(list); got != "Kiln2.DryBulb holding:100" {
		t.Error(got)
	}
	list, _, _ = p.PlanCopies(Copies{Tags: []string{"t1"}, Count: 1, Find: "nothing", Replace: "x"}, counter())
	if !strings.Contains(written(list), "same path") {
		t.Error(written(list))
	}
}

func TestMoveFollowsEverywhere(t *testing.T) {
	p := larch(t)
	list, places, ops, err := p.PlanMove(Move{Folders: []string{"f1"}, To: "Yard.North", Name: "Chamber"}, counter())
	if err != nil || places != 3 || list[0].Path != "Yard.North.Chamber" {
		t.Fatalf("%v, %d places, %v", list, places, err)
	}
	q, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	if got := q.ShownTag(q.Tags["t3"]).Formula; got != "Yard.North.Chamber.DryBulbSP - Yard.North.Chamber.DryBulb" {
		t.Error(got)
	}
	if got := q.ShownScreen(q.Screens["s1"]).Elements["e2"].Props["text"]; got != "at {Yard.North.Chamber.DryBulb:0.0}" {
		t.Error(got)
	}
	if _, _, _, err := p.PlanMove(Move{Tags: []string{"t1", "t2"}, To: "A", Name: "B"}, counter()); err == nil {
		t.Error("two things took one name")
	}
}

func TestFourHundredTagsOnOneCoilAreNoFlood(t *testing.T) {
	p := larch(t)
	var ops []Op
	for i := range 400 {
		doc := json.RawMessage(fmt.Sprintf(`{"name":"C%d","type":"BOOL","source":"device","device":"d1","address":"coil:7"}`, i))
		ops = append(ops, Op{Kind: KindTag, ID: fmt.Sprintf("c%d", i), Value: doc})
	}
	q, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	for _, f := range q.Findings() {
		if f.Rule == "tag.twice" {
			n++
		}
	}
	if n != 399 {
		t.Errorf("%d findings, want one for each tag but the first", n)
	}
}

// A dot in a new name is the way to a folder, which is made where it is missing.
func TestADotInANameIsAFolder(t *testing.T) {
	p, _, err := New("yard").Edit([]Op{
		{Kind: KindFolder, ID: "f1", Value: json.RawMessage(`{"id":"f1","name":"Kiln1"}`)},
		{Kind: KindTag, ID: "t1", Value: json.RawMessage(`{"id":"t1","name":"A","type":"INT","source":"internal"}`)},
		{Kind: KindTag, ID: "t2", Value: json.RawMessage(`{"id":"t2","name":"B","folder":"f1","type":"INT","source":"internal"}`)},
	})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ id, name, path, refused string }{
		{"t1", "Kiln1.A", "Kiln1.A", ""},
		{"t1", "Kiln2.Fan[2].Speed", "Kiln2.Fan[2].Speed", ""},
		{"t2", "Fan.B", "Kiln1.Fan.B", ""},
		{"t2", "C", "Kiln1.C", ""},
		{"t2", "Fan..B", "", "name"},
		{"t2", ".B", "", "name"},
		{"t2", "B.", "", "name"},
	} {
		name, _ := json.Marshal(c.name)
		ops := SpreadNames(p, []Op{{Kind: KindTag, ID: c.id, Path: "/name", Value: name}}, counter())
		next, _, err := p.Edit(ops)
		if c.refused != "" {
			if err == nil {
				t.Errorf("%s as %q is not refused", c.id, c.name)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s as %q: %v", c.id, c.name, err)
			continue
		}
		if got, _ := next.Path(c.id); got != c.path {
			t.Errorf("%s as %q lies at %s, want %s", c.id, c.name, got, c.path)
		}
	} // A new one too.
	next, _, err := p.Edit(SpreadNames(p, []Op{{Kind: KindTag, ID: "t3",
		Value: json.RawMessage(`{"id":"t3","name":"Pump.On","folder":"f1","type":"BOOL","source":"internal"}`)}}, counter()))
	if err != nil {
		t.Fatal(err)
	}
	if got, _ := next.Path("t3"); got != "Kiln1.Pump.On" {
		t.Errorf("a new one lies at %s", got)
	}
}

// Registers step, and the bits of a word stay the bits that they are; a number
// in the texts steps with the name; alarms come along; used addresses are said.
func TestCopiesStepAddressesAndTexts(t *testing.T) {
	p, _, err := New("yard").Edit([]Op{
		{Kind: KindDevice, ID: "d", Value: json.RawMessage(`{"id":"d","name":"PLC","protocol":"modbus-tcp","host":"h","port":502,"unit":1,"order":"ABCD","poll":250,"timeout":1000,"maxGap":0,"maxBlock":100}`)},
		{Kind: KindTag, ID: "w", Value: json.RawMessage(`{"id":"w","name":"Drive1","type":"BOOL","source":"device","device":"d","access":"read","address":"holding:852.0","description":"Drive 1 of 10 runs at 1.1"}`)},
		{Kind: KindTag, ID: "c", Value: json.RawMessage(`{"id":"c","name":"Coil1","type":"BOOL","source":"device","device":"d","access":"read","address":"coil:7","description":"Coil"}`)},
		{Kind: KindTag, ID: "o", Value: json.RawMessage(`{"id":"o","name":"Other","type":"DINT","source":"device","device":"d","access":"read","address":"holding:871"}`)},
		{Kind: KindAlarm, ID: "a", Value: json.RawMessage(`{"id":"a","name":"Drive 1 fault","tag":"w","kind":"state","priority":"low","message":"Drive 1 at {Drive1}: see drive 1"}`)},
	})
	if err != nil {
		t.Fatal(err)
	}
	list, ops, err := p.PlanCopies(Copies{Tags: []string{"w", "c"}, Count: 2, NameStep: 1, AddressStep: 10, BitStep: 3, Texts: true,
		Alarms: true}, counter())
	if err != nil {
		t.Fatal(err)
	}
	got := ""
	for _, l := range list {
		got += fmt.Sprintf("%s|%s|%s|%s|%s\n", l.Path, l.Address, l.Text, l.Used, l.Problem)
	}
	if want := `Coil2|coil:10|Coil||
Drive2|holding:862.3|Drive 2 of 10 runs at 1.1||
Drive2 · Drive 2 fault||Drive 2 at {Drive2}: see drive 2||
Coil3|coil:13|Coil||
Drive3|holding:872.6|Drive 3 of 10 runs at 1.1|Other|
Drive3 · Drive 3 fault||Drive 3 at {Drive3}: see drive 3||
`; got != want {
		t.Errorf("got\n%s", got)
	}
	q, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	id, _ := q.FindPath("Drive3")
	if a := q.AlarmsOf(id); len(a) != 1 || !strings.Contains(a[0].Message, "{"+id+"|Drive3}") {
		t.Errorf("%+v", a)
	}
	// Without a step in bits they stay.
	list, _, _ = p.PlanCopies(Copies{Tags: []string{"w"}, Count: 1, NameStep: 1, AddressStep: 10}, counter())
	if list[0].Address != "holding:862.0" || list[0].Text != "Drive 1 of 10 runs at 1.1" {
		t.Errorf("%+v", list[0])
	}
}
