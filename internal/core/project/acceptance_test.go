package project

import (
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/screen"
)

func factsOf(points []Point, element string) string {
	for _, pt := range points {
		if pt.Element == element {
			var out []string
			for _, f := range pt.Facts {
				out = append(out, strings.TrimSpace(f.Name+" "+f.About)+"="+f.Text)
			}
			return strings.Join(out, "; ")
		}
	}
	return "not listed"
}

func TestWhatIsProvedOfAScreen(t *testing.T) {
	p := edited(t, larch(t),
		set(KindTag, "t2", "/unit", `"°C"`), set(KindTag, "t2", "/decimals", `1`), set(KindTag, "t2", "/low", `20`),
		set(KindTag, "t2", "/high", `80`), set(KindTag, "t2", "/step", `0.5`),
		set(KindRole, "r2", "", `{"name":"Guest","rights":["view"]}`), set(KindRole, "r3", "", `{"name":"Auditor","rights":["audit"]}`),
		set(KindScreen, "s1", "/elements/e1/props/high", `70`), set(KindScreen, "s1", "/elements/e1/props/reason", `"required"`),
		set(KindScreen, "s1", "/elements/e1/bind/enabled", `"Kiln1.Gap < 5"`),
		set(KindScreen, "s1", "/elements/e3", `{"kind":"button","x":0,"y":0,"w":10,"h":10,"z":3,"props":{"action":"step","tag":"t2","by":2},"then":[{"do":"open","screen":"s1","when":"Kiln1.Gap > 2"}]}`),
		set(KindScreen, "s1", "/elements/e4", `{"kind":"rect","x":0,"y":0,"w":10,"h":10,"z":4}`),
	)
	points := p.Acceptance(p.Screens["s1"], nil)
	for element, want := range map[string]string{
		"":   "role Auditor=nothing; role Guest=look; role Operator=operate",
		"e1": "shows=Kiln1.DryBulbSP; unit=°C; decimals=1; limits=20.0 °C … 70.0 °C; step=0.5; asks reason=required; while enabled=Kiln1.Gap < 5",
		"e2": "bound visible=Kiln1.Gap > 1; bound text=at {Kiln1.DryBulb:0.0}",
		"e3": "shows=Kiln1.DryBulbSP; unit=°C; decimals=1; limits=20.0 °C … 80.0 °C; step=0.5; does step=Kiln1.DryBulbSP = Kiln1.DryBulbSP + 2; then open=Chamber ⟵ Kiln1.Gap > 2",
		"e4": "not listed",
	} {
		if got := strings.ReplaceAll(factsOf(points, element), "\u00a0", " "); got != want {
			t.Errorf("%s:\n%s\nwant\n%s", element, got, want)
		}
	}
	// Roles that a screen names are the only ones let in.
	p = edited(t, p, set(KindScreen, "s1", "/roles", `["r2"]`))
	if got := factsOf(p.Acceptance(p.Screens["s1"], nil), ""); got != "role Auditor=nothing; role Guest=look; role Operator=nothing" {
		t.Error(got)
	}
}

// A proof holds for what was proved and for nothing else: moving an element is
// no change, another limit is one.
func TestADefinitionIsWhatWasProved(t *testing.T) {
	p := larch(t)
	of := func(p *Project) string {
		for _, pt := range p.Acceptance(p.Screens["s1"], nil) {
			if pt.Element == "e1" {
				return pt.Definition()
			}
		}
		return ""
	}
	first := of(p)
	if moved := of(edited(t, p, set(KindScreen, "s1", "/elements/e1/x", `40`))); moved != first || first == "" {
		t.Error("moving an element opens its proof")
	}
	if other := of(edited(t, p, set(KindTag, "t2", "/high", `70`))); other == first {
		t.Error("another limit of the tag leaves the proof")
	}
}

func TestEachInstanceIsProvedByItself(t *testing.T) {
	p := edited(t, kilns(t), put(KindScreen, "kiln", "",
		screen.Screen{Name: "Kiln", Width: 640, Height: 480,
			Params:   []screen.Param{{ID: "k", Name: "K", Kind: screen.ParamEquipment, Type: "chamber"}},
			Elements: map[string]*screen.Element{"a": {Kind: "readout", W: 9, H: 9, Props: map[string]any{"tag": "$k.dry"}}}}))
	for id, want := range map[string]string{"k3": "shows=North.Kiln3.DryBulb", "k7": "shows=North.Kiln7.DryBulb"} {
		if got := factsOf(p.Acceptance(p.Screens["kiln"], screen.Args{"k": id}), "a"); !strings.HasPrefix(got, want) {
			t.Errorf("%s: %s", id, got)
		}
	}
}

func TestAFunctionKeyPressesOneButton(t *testing.T) {
	button := func(key string) string {
		return fmt.Sprintf(`{"kind":"button","x":0,"y":0,"w":10,"h":10,"z":3,"props":{"action":"close","caption":"B","key":%q}}`, key)
	}
	p := edited(t, larch(t), set(KindScreen, "s1", "/elements/e3", button("F5")), set(KindScreen, "s1", "/elements/e4", button("F6")))
	if got := rules(p); strings.Contains(got, "screen.key") {
		t.Error(got)
	}
	p = edited(t, p, set(KindScreen, "s1", "/elements/e4/props/key", `"F5"`))
	if got := rules(p); !strings.Contains(got, "screen.key s1/elements/e4/props/key") {
		t.Error(got)
	}
}
