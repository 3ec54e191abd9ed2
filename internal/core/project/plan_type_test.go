package project

import (
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/device"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// chambers is an imported list: three chambers of four fans each, with a
// burner, and a computed tag in each.
func chambers(t *testing.T) *Project {
	d := device.New()
	d.Name = "PLC"
	ops := []Op{put(KindDevice, "plc", "", d)}
	folder := func(id, parent, name string) {
		ops = append(ops, put(KindFolder, id, "", tag.Folder{Name: name, Parent: parent}))
	}
	add := func(id, folder, name, address, description string) {
		ops = append(ops, put(KindTag, id, "", tag.Tag{Name: name, Folder: folder, Type: value.Type{Kind: value.INT}, Source: tag.Device,
			Device: "plc", Access: tag.Read, Address: address, Description: description}))
	}
	for k := 1; k <= 3; k++ {
		kiln := fmt.Sprintf("k%d", k)
		folder(kiln, "", fmt.Sprintf("Kiln%d", k))
		add(kiln+"dry", kiln, "DryBulb", fmt.Sprintf("input:%d", k*100), "Dry bulb")
		add(kiln+"sp", kiln, "SetPoint", fmt.Sprintf("holding:%d", 7+k*50), "Set point")
		for i := 1; i <= 4; i++ {
			fan := fmt.Sprintf("%sf%d", kiln, i)
			folder(fan, kiln, fmt.Sprintf("Fan[%d]", i))
			add(fan+"s", fan, "Speed", fmt.Sprintf("input:%d", k*100+20+5*i), fmt.Sprintf("Speed of fan %d", i))
			add(fan+"c", fan, "Current", fmt.Sprintf("holding:%d", 17+k*50+2*i), "")
		}
		ops = append(ops, put(KindTag, kiln+"sum", "",
			tag.Tag{Name: "Sum", Folder: kiln, Type: value.Type{Kind: value.LREAL}, Source: tag.Computed,
				Formula: fmt.Sprintf("Kiln%d.DryBulb + Kiln%d.Fan[3].Speed", k, k)}))
	}
	p := edited(t, New("Yard"), ops...)
	return edited(t, p, put(KindTag, "k2f3c", "/address", "holding:999"), put(KindTag, "k3dry", "/unit", "°C"))
}

func TestATypeOfTagsThatExist(t *testing.T) {
	p := chambers(t)
	n := 0
	ids := func(kind string) string { n++; return fmt.Sprintf("%s%d", kind, n) }
	list, ops, err := p.PlanType(TypeOf{Folder: "k1", Name: "Chamber", Alike: true}, ids)
	if err != nil || len(list) != 3 || list[0].Problem.String()+list[1].Problem.String()+list[2].Problem.String() != "" {
		t.Fatalf("%+v %v", list, err)
	}
	q, changes, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	if len(q.Types) != 2 || len(q.Equipment) != 3 || len(q.Tags) != len(p.Tags) || len(q.Folders) != len(p.Folders) {
		t.Fatalf("%d types, %d equipment, %d tags, %d folders", len(q.Types), len(q.Equipment), len(q.Tags), len(q.Folders))
	}
	// Every tag is where and what it was, under its own id.
	for id, old := range p.Tags {
		now := q.Tags[id]
		a, _ := p.Path(id)
		b, _ := q.Path(id)
		if now == nil || a != b || old.Address != now.Address || old.Description != now.Description || old.Unit != now.Unit ||
			p.ShownTag(old).Formula != q.ShownTag(now).Formula {
			t.Errorf("%s: %+v is now %+v", a, old, now)
		}
	}
	differ := map[string]int{}
	for _, e := range q.Equipment {
		differ[e.Name] = len(e.Differs)
	}
	if differ["Kiln1"] != 0 || differ["Kiln2"] != 1 || differ["Kiln3"] != 1 {
		t.Errorf("differences: %v", differ)
	}
	for _, ty := range q.Types {
		shown := string(mustJSON(q.ShownType(ty)))
		if ty.Name == "Chamber" && (!strings.Contains(shown, `"DryBulb + Fan[3].Speed"`) ||
			!strings.Contains(shown, `"input + 25 + 5 * i"`) && !strings.Contains(shown, `"input + 20 + 5 * i"`)) {
			t.Error(shown)
		}
		if ty.Name == "Fan" && !strings.Contains(shown, "Speed of fan {i}") {
			t.Error(shown)
		}
	}
	// Undone, the plain tags are back.
	back, _, err := q.Revert(changes)
	if err != nil || fmt.Sprint(back.Entities()) != fmt.Sprint(p.Entities()) {
		t.Errorf("%v", err)
	}
	// Detached, they are plain too, and the same.
	e, _ := q.Piece("k2")
	detach, err := q.Detach(e.Instance)
	if err != nil {
		t.Fatal(err)
	}
	r := edited(t, q, detach...)
	if _, still := r.GearTag("k2dry"); still || r.Tags["k2f3c"].Address != "holding:999" ||
		r.ShownTag(r.Tags["k2sum"]).Formula != "Kiln2.DryBulb + Kiln2.Fan[3].Speed" || len(r.Tags) != len(p.Tags) {
		t.Error("something is lost by detaching")
	}
}

func TestPlansOfEquipment(t *testing.T) {
	p := kilns(t)
	n := 0
	ids := func(kind string) string { n++; return fmt.Sprintf("%s%d", kind, n) }
	list, ops, err := p.PlanEquipment(NewEquipment{Type: "chamber",
		Rows: []EquipmentRow{{Path: "South.A", Settings: map[string]string{"base": "7"}}, {Path: "South.A"}, {Path: "North.Kiln1"},
			{Path: "1x"}, {Path: "B", Device: "none"}, {Path: "C", Settings: map[string]string{"bse": "1"}},
			{Path: "D", Settings: map[string]string{"base": "x"}}}}, ids)
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{"", "already something", "already something", "starts with a letter", "no device none", "no setting bse",
		`not "x"`} {
		if !strings.Contains(list[i].Problem.String(), want) || (want == "") != (list[i].Problem.IsZero()) {
			t.Errorf("%+v, want %q", list[i], want)
		}
	}
	q := edited(t, p, ops...)
	if id, ok := q.FindPath("South.A.DryBulb"); !ok || q.Tags[id].Address != "holding:10" {
		t.Error("the new equipment is not there")
	}
	effect, err := q.EffectOf([]Op{put(KindType, "chamber", "/members/dry/tag/unit", "°C"), put(KindType, "fan", "/members/half", nil)})
	if err != nil || effect.Instances != 11 || effect.Changed != 11 || effect.Gone != 22 || effect.New != 0 {
		t.Errorf("%+v %v", effect, err)
	}
	// Another type: what has the same name keeps its id.
	p = edited(t, q, put(KindType, "oven", "", map[string]any{"name": "Oven",
		"members": map[string]any{"x": map[string]any{"order": 1, "name": "DryBulb", "tag": analogue("holding:5")},
			"y": map[string]any{"order": 2, "name": "Door", "tag": analogue("holding:6")}}}))
	list, ops, err = p.Retype("k1", "oven")
	if err != nil || len(list) < 3 {
		t.Fatalf("%+v %v", list, err)
	}
	r := edited(t, p, ops...)
	if r.Tags["k1.dry"] == nil || r.Tags["k1.dry"].Address != "holding:5" || r.Tags["k1.y"] == nil || r.Tags["k1.fan.1.speed"] != nil {
		t.Error("members are not matched by name")
	}
}

func TestDrawingsAndSubstitution(t *testing.T) {
	p := chambers(t)
	n := 0
	ids := func(kind string) string { n++; return fmt.Sprintf("%s%d", kind, n) }
	_, ops, err := p.PlanType(TypeOf{Folder: "k1", Name: "Chamber", Alike: true}, ids)
	if err != nil {
		t.Fatal(err)
	}
	p = edited(t, p, ops...)
	for id := range p.Types {
		ops, err := p.PlanDrawings(Drawings{Type: id}, ids)
		if err != nil {
			t.Fatal(err)
		}
		p = edited(t, p, ops...)
		if _, err := p.PlanDrawings(Drawings{Type: id}, ids); err == nil {
			t.Error("drawn twice")
		}
	}
	p = edited(t, p, put(KindScreen, "s1", "", map[string]any{"name": "Kiln1", "width": 400, "height": 300, "home": true,
		"elements": map[string]any{
			"a": map[string]any{"kind": "readout", "x": 0, "y": 0, "w": 10, "h": 10, "z": 1,
				"props": map[string]any{"tag": "k1dry", "caption": "Kiln1 dry"},
				"bind":  map[string]any{"visible": "Kiln1.DryBulb > Kiln1.Fan[1].Speed"}},
			"b": map[string]any{"kind": "symbol", "x": 0, "y": 0, "w": 10, "h": 10, "z": 2,
				"props": map[string]any{"symbol": p.Types[p.TypeOf("k1f2")].Symbol}, "args": map[string]any{"e": "k1f2"}},
			"c": map[string]any{"kind": "text", "x": 0, "y": 0, "w": 10, "h": 10, "z": 3, "props": map[string]any{"text": "{Kiln1.Sum:0}"}}}}))
	for _, f := range p.Findings() {
		if f.Stop == StopScreens && f.Rule != "screen.unreachable" {
			t.Errorf("%+v", f)
		}
	}
	list, ops, err := p.PlanSubstitution(Substitution{Screen: "s1", Find: "Kiln1", Replace: "Kiln2", Copy: true}, ids)
	if err != nil || len(list) != 4 || !list[0].Problem.IsZero() {
		t.Fatalf("%+v %v", list, err)
	}
	q := edited(t, p, ops...)
	copy := q.Screens[ops[0].ID]
	if copy.Name != "Kiln2" || copy.Home || copy.Elements["a"].MainTag() != "k2dry" || copy.Elements["a"].Props["caption"] != "Kiln2 dry" ||
		copy.Elements["b"].Args["e"] != "k2f2" ||
		q.ShownScreen(copy).Elements["a"].Bind["visible"] != "Kiln2.DryBulb > Kiln2.Fan[1].Speed" ||
		q.ShownScreen(copy).Elements["c"].Props["text"] != "{Kiln2.Sum:0}" {
		t.Errorf("%+v", q.ShownScreen(copy).Elements["a"])
	}
	// What is not there is said, and kept where a name can be kept.
	list, ops, err = p.PlanSubstitution(Substitution{Screen: "s1", Elements: []string{"a"}, Find: ".Kiln1.", Replace: ".Kiln9."}, ids)
	if err != nil || len(list) != 2 || list[0].Problem.IsZero() {
		t.Fatalf("%+v %v", list, err)
	}
	q = edited(t, p, ops...)
	if got := q.ShownScreen(q.Screens["s1"]).Elements["a"].Bind["visible"]; got != "Kiln9.DryBulb > Kiln9.Fan[1].Speed" {
		t.Error(got)
	}
	// A selection copied lies beside the old one.
	_, ops, _ = p.PlanSubstitution(Substitution{Screen: "s1", Elements: []string{"a", "c"}, Find: "Kiln1", Replace: "Kiln3", Copy: true}, ids)
	if q = edited(t, p, ops...); len(q.Screens["s1"].Elements) != 5 {
		t.Errorf("%d elements", len(q.Screens["s1"].Elements))
	}
}
