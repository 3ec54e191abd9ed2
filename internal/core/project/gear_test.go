package project

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// put is an op that sets what v is as JSON; nil removes.
func put(kind, id, path string, v any) Op {
	if v == nil {
		return set(kind, id, path, "")
	}
	return set(kind, id, path, string(mustJSON(v)))
}

func edited(t *testing.T, p *Project, ops ...Op) *Project {
	t.Helper()
	q, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	return q
}

func analogue(address string) *tag.Tag {
	return &tag.Tag{Type: value.Type{Kind: value.INT}, Source: tag.Device, Access: tag.ReadWrite, Address: address}
}

// kilns is a project with a type of chamber, two fans in each, and ten of it.
func kilns(t *testing.T) *Project {
	fan := equipment.Type{Name: "Fan", Settings: []equipment.Setting{{Name: "base"}}, Members: map[string]*equipment.Member{
		"speed": {Order: 1, Name: "Speed", Tag: analogue("holding:{base}"), Differs: []string{"high", "description"}},
		"half":  {Order: 2, Name: "Half", Tag: &tag.Tag{Type: value.Type{Kind: value.LREAL}, Source: tag.Computed, Formula: "Speed / 2"}}}}
	chamber := equipment.Type{Name: "Chamber", Settings: []equipment.Setting{{Name: "base", Default: "0"}},
		Members: map[string]*equipment.Member{
			"dry": {Order: 1, Name: "DryBulb", Tag: analogue("holding:{base + 3}"), Differs: []string{"high"}},
			"fan": {Order: 2, Name: "Fan", From: 1, To: 2, Type: "fan", Settings: map[string]string{"base": "base + 10 * i"}},
			"hot": {Order: 3, Name: "Hot", Tag: &tag.Tag{Type: value.Type{Kind: value.BOOL}, Source: tag.Computed,
				Formula: "DryBulb > 80 and Fan[2].Half < 10 and Limit > 0"}}}}
	p := edited(t, New("Yard"),
		put(KindTag, "limit", "", tag.Tag{Name: "Limit", Type: value.Type{Kind: value.INT}, Source: tag.Internal}),
		put(KindType, "fan", "", fan), put(KindType, "chamber", "", chamber), put(KindFolder, "north", "", tag.Folder{Name: "North"}))
	for i := 1; i <= 10; i++ {
		p = edited(t, p, put(KindEquipment, fmt.Sprintf("k%d", i), "",
			equipment.Instance{Name: fmt.Sprintf("Kiln%d", i), Folder: "north", Type: "chamber",
				Settings: map[string]string{"base": fmt.Sprint(i * 100)}}))
	}
	return p
}

func TestEquipmentBecomesTags(t *testing.T) {
	p := kilns(t)
	if len(p.Tags) != 1+10*6 {
		t.Fatalf("%d tags", len(p.Tags))
	}
	id, ok := p.FindPath("North.Kiln3.Fan[2].Speed")
	if !ok || id != "k3.fan.2.speed" || p.Tags[id].Address != "holding:320" {
		t.Errorf("%s %v", id, p.Tags[id])
	}
	hot := p.ShownTag(p.Tags["k3.hot"])
	if hot.Formula != "North.Kiln3.DryBulb > 80 and North.Kiln3.Fan[2].Half < 10 and Limit > 0" {
		t.Error(hot.Formula)
	}
	doc, _ := p.Shown(KindType, "chamber")
	if !strings.Contains(string(doc), `"DryBulb \u003e 80 and Fan[2].Half \u003c 10 and Limit \u003e 0"`) {
		t.Errorf("%s", doc)
	}
	// Saved and loaded it is the same, and what comes of equipment is not saved.
	q, err := Load(p.Entities())
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range p.Entities() {
		if strings.Contains(e.ID, ".") {
			t.Errorf("%s %s is saved", e.Kind, e.ID)
		}
	}
	if a, b := fmt.Sprint(p.Entities()), fmt.Sprint(q.Entities()); a != b || len(q.Tags) != len(p.Tags) {
		t.Errorf("loaded:\n%s\nsaved:\n%s", b, a)
	}
	for _, f := range q.Findings() {
		if f.Severity == Error && f.Rule != "tag.device" {
			t.Errorf("%+v", f)
		}
	}
}

// A type changed under ten instances, three of which have something of their
// own.
func TestATypeChangesUnderItsInstances(t *testing.T) {
	p := kilns(t)
	p = edited(t, p, put(KindTag, "k2.dry", "/high", 95), put(KindTag, "k5.dry", "/high", 85),
		put(KindTag, "k7.fan.1.speed", "/description", "The old fan"))
	if got := p.Equipment["k2"].Differs["dry"]["high"]; string(got) != "95" {
		t.Errorf("%s", got)
	}
	// Something added to one instance alone.
	p = edited(t, p, put(KindTag, "extra", "", tag.Tag{Folder: "k4", Name: "Note", Type: value.Type{Kind: value.STRING, Len: 20},
		Source: tag.Internal}))
	p = edited(t, p, put(KindType, "chamber", "/members/dry/tag/high", 120), put(KindType, "chamber", "/members/dry/name", "Dry"),
		put(KindType, "fan", "/members/speed/tag/unit", "%"))
	for i := 1; i <= 10; i++ {
		dry := p.Tags[fmt.Sprintf("k%d.dry", i)]
		want := map[int]float64{2: 95, 5: 85}[i]
		if want == 0 {
			want = 120
		}
		if dry.Name != "Dry" || *dry.High != want || p.Tags[fmt.Sprintf("k%d.fan.1.speed", i)].Unit != "%" {
			t.Errorf("Kiln%d: %+v", i, dry)
		}
	}
	if p.Tags["k7.fan.1.speed"].Description != "The old fan" || p.Tags["extra"] == nil {
		t.Error("what one instance has for itself is gone")
	}
	if path, _ := p.Path("extra"); path != "North.Kiln4.Note" {
		t.Error(path)
	}
	if f := p.ShownTag(p.Tags["k1.hot"]).Formula; !strings.HasPrefix(f, "North.Kiln1.Dry > 80") {
		t.Error(f)
	}
	// What is set back to the type's own is no difference any more.
	p = edited(t, p, put(KindTag, "k2.dry", "/high", 120))
	if len(p.Equipment["k2"].Differs) != 0 {
		t.Errorf("%v", p.Equipment["k2"].Differs)
	}
	// Undone step by step, all is as it was.
	q := kilns(t)
	r, changes, err := q.Edit([]Op{put(KindType, "chamber", "/members/fan/to", 1), put(KindTag, "k2.dry", "/high", 95)})
	if err != nil || r.Tags["k2.fan.2.speed"] != nil {
		t.Fatal(err)
	}
	back, _, err := r.Revert(changes)
	if err != nil || fmt.Sprint(back.Entities()) != fmt.Sprint(q.Entities()) || back.Tags["k2.fan.2.speed"] == nil ||
		back.Tags["k2.dry"].High != nil {
		t.Errorf("%v", err)
	}
}

func TestWhatATypeDoesNotLeaveToInstancesIsRefused(t *testing.T) {
	p := kilns(t)
	for what, op := range map[string]Op{
		"let it differ":      put(KindTag, "k1.dry", "/unit", "K"),
		"name of":            put(KindTag, "k1.dry", "/name", "Other"),
		"detach":             put(KindTag, "k1.dry", "", nil),
		"comes of the type":  put(KindFolder, "k1.fan.1", "/name", "Other"),
		"as equipment":       put(KindFolder, "k1", "", tag.Folder{Name: "X"}),
		"already a folder":   put(KindEquipment, "k11", "", equipment.Instance{Name: "Kiln1", Folder: "north", Type: "chamber"}),
		"does not exist":     put(KindEquipment, "k11", "", equipment.Instance{Name: "Kiln11", Folder: "south", Type: "chamber"}),
		"somebody changed":   {Kind: KindTag, ID: "k1.dry", Path: "/high", Value: json.RawMessage("1"), Was: json.RawMessage("7")},
		"needs a type":       put(KindEquipment, "k11", "", equipment.Instance{Name: "Kiln11"}),
		"already a member":   put(KindType, "fan", "/members/half/name", "speed"),
		"cannot differ from": put(KindType, "fan", "/members/half/differs", []string{"type"}),
	} {
		if _, _, err := p.Edit([]Op{op}); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%s: %v", what, err)
		}
	}
	// A folder's name and place are the equipment's.
	q := edited(t, p, put(KindFolder, "k1", "/name", "Oven"))
	if q.Equipment["k1"].Name != "Oven" || q.Folders["k1"].Name != "Oven" {
		t.Error("the equipment is not renamed")
	}
	if _, ok := q.FindPath("North.Oven.DryBulb"); !ok {
		t.Error("its tags are not found")
	}
	q = edited(t, q, put(KindFolder, "k1", "", nil))
	if q.Equipment["k1"] != nil || q.Tags["k1.dry"] != nil || q.Folders["k1.fan.1"] != nil {
		t.Error("something is left of deleted equipment")
	}
}

func TestScreensNameMembersOfTheirParameters(t *testing.T) {
	p := kilns(t)
	p = edited(t, p, put(KindScreen, "sc", "", screen.Screen{Name: "Chamber", Width: 200, Height: 200, Home: true,
		Params: []screen.Param{{ID: "p1", Name: "K", Kind: screen.ParamEquipment, Type: "chamber", Default: "k1"}},
		Elements: map[string]*screen.Element{"a": {Kind: "text", W: 10, H: 10, Props: map[string]any{"text": "{K} {K.DryBulb:0} {Limit}"},
			Bind: map[string]string{"visible": "K.Fan[2].Half > 1 and K.Hot"}},
			"b": {Kind: "entry", W: 10, H: 10, Props: map[string]any{"tag": "$p1.dry"}}}}))
	a := p.Screens["sc"].Elements["a"]
	if a.Bind["visible"] != "{$p1.fan.2.half|K.Fan[2].Half} > 1 and {$p1.hot|K.Hot}" ||
		a.Props["text"] != "{{$p1|K}} {{$p1.dry|K.DryBulb}:0} {{limit|Limit}}" {
		t.Errorf("%v %v", a.Bind, a.Props)
	}
	for _, f := range p.Findings() {
		if f.Stop == StopScreens {
			t.Errorf("%+v", f)
		}
	}
	p = edited(t, p, put(KindType, "chamber", "/members/dry/name", "Dry"))
	shown := p.ShownScreen(p.Screens["sc"])
	if shown.Elements["a"].Props["text"] != "{K} {K.Dry:0} {Limit}" {
		t.Error(shown.Elements["a"].Props["text"])
	}
	// A name that is not there is kept, and is a finding.
	p = edited(t, p, put(KindScreen, "sc", "/elements/a/bind/visible", "K.Nothing"))
	found := false
	for _, f := range p.Findings() {
		found = found || f.Rule == "formula" && strings.Contains(say.Any("en", f.Args["reason"]), "K.Nothing")
	}
	if !found || p.ShownScreen(p.Screens["sc"]).Elements["a"].Bind["visible"] != "K.Nothing" {
		t.Errorf("%+v", p.Findings())
	}
	// It serves each of them, with real tags.
	b := screen.Bind(p.Screens["sc"], p, screen.View{Args: screen.Args{"p1": "k7"}})
	if b.Controls["b"].Element.MainTag() != "k7.dry" || b.Scene.Elements[1].Tag.Path != "North.Kiln7.Dry" {
		t.Errorf("%+v", b.Controls["b"].Element)
	}
}

func TestARingOfScreensIsAFinding(t *testing.T) {
	p := edited(t, New("Yard"),
		put(KindScreen, "a", "", screen.Screen{Name: "A", Role: screen.Symbol, Width: 50, Height: 50,
			Elements: map[string]*screen.Element{"x": {Kind: "symbol", W: 10, H: 10, Props: map[string]any{"symbol": "b"}}}}),
		put(KindScreen, "b", "", screen.Screen{Name: "B", Role: screen.Symbol, Width: 50, Height: 50,
			Elements: map[string]*screen.Element{"x": {Kind: "repeat", W: 10, H: 10, Props: map[string]any{"symbol": "a", "over": "array"}}}}))
	rings := 0
	for _, f := range p.Findings() {
		if f.Rule == "screen.ring" {
			rings++
		}
	}
	if rings != 2 {
		t.Errorf("%d rings: %+v", rings, p.Findings())
	}
}

func TestWordsFollowTheirTags(t *testing.T) {
	p := kilns(t)
	p = edited(t, p, put(KindWords, "de", "", Words{Words: map[string]string{
		"Dry {North.Kiln1.DryBulb:0}": "Trocken {North.Kiln1.DryBulb:0}", "Start": "Anfahren"}}))
	if got := p.Word("de", "Start"); got != "Anfahren" {
		t.Error(got)
	}
	p = edited(t, p, put(KindType, "chamber", "/members/dry/name", "Dry"))
	if got := p.Word("de", "Dry {{k1.dry|whatever it was}:0}"); got != "Trocken {{k1.dry|North.Kiln1.DryBulb}:0}" {
		t.Error(got)
	}
	if got := p.ShownWords(p.Words["de"]).Words["Dry {North.Kiln1.Dry:0}"]; got != "Trocken {North.Kiln1.Dry:0}" {
		t.Error(got)
	}
}

// Equipment within whose setting does not count up lies on one register: that
// is a finding at the equipment, and each point says who else is there.
func TestEquipmentWithinOnOneRegister(t *testing.T) {
	p := kilns(t)
	dev := `{"id":"d","name":"PLC","protocol":"modbus-tcp","host":"h","port":502,"unit":1,"order":"ABCD","poll":250,"timeout":1000,"maxGap":0,"maxBlock":100}`
	p = edited(t, p, Op{Kind: KindDevice, ID: "d", Value: json.RawMessage(dev)})
	for i := 1; i <= 10; i++ {
		p = edited(t, p, put(KindEquipment, fmt.Sprintf("k%d", i), "/device", "d"))
	}
	count := func(p *Project) (n int) {
		for _, f := range p.Findings() {
			if f.Rule == "equipment.twice" && f.Stop == StopEquipment && f.Kind == KindEquipment {
				n++
			}
		}
		return n
	}
	if n := count(p); n != 0 {
		t.Errorf("%d pieces share registers", n)
	}
	points := p.MemberPoints("fan", "speed")
	if len(points) != 20 || points[1].Path != "North.Kiln1.Fan[2].Speed" || points[1].Address != "holding:120" || points[1].Used != "" {
		t.Errorf("%d points, %+v", len(points), points[1])
	}
	// Of equipment within, all that it has.
	if points = p.MemberPoints("chamber", "fan"); len(points) != 40 {
		t.Errorf("%d points", len(points))
	}
	p = edited(t, p, put(KindType, "chamber", "/members/fan/settings", map[string]string{"base": "base + 10"}))
	if n := count(p); n != 10 {
		t.Errorf("%d findings, want one for each chamber", n)
	}
	if points = p.MemberPoints("fan", "speed"); points[1].Used != "North.Kiln1.Fan[1].Speed" {
		t.Errorf("%+v", points[1])
	}
}
