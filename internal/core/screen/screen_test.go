package screen

import (
	"encoding/json"
	"sort"
	"strings"
	"testing"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// yard is what the screens of these tests look things up in.
type yard struct {
	tags    map[string]*tag.Tag
	screens map[string]*Screen
	looks   map[string]*LookSet
	styles  map[string]*TextStyle
	types   map[string]*equipment.Type
	pieces  map[string]string   // equipment to type
	arrays  map[string][]string // by any member
	words   map[string]string
}

func (y yard) Tag(id string) (*tag.Tag, bool) { t, ok := y.tags[id]; return t, ok }
func (y yard) Path(id string) (string, bool) {
	if t, ok := y.tags[id]; ok {
		return "Kiln1." + t.Name, true
	}
	if _, ok := y.pieces[id]; ok {
		return strings.ToUpper(id), true
	}
	return "", false
}
func (y yard) Screen(id string) *Screen       { return y.screens[id] }
func (y yard) LookSet(id string) *LookSet     { return y.looks[id] }
func (y yard) TextStyle(id string) *TextStyle { return y.styles[id] }
func (y yard) Type(id string) *equipment.Type { return y.types[id] }
func (y yard) TypeOf(id string) string        { return y.pieces[id] }
func (y yard) Array(id string, _ Index) []string {
	return y.arrays[id]
}
func (y yard) Beside(first, second, id string) (string, bool) {
	if id == first {
		return second, true
	}
	return id, true
}
func (y yard) Real(id string) string { return id }
func (y yard) Pens(_, equipment string) []history.ViewPen {
	return []history.ViewPen{{Tag: equipment + "t1", Inverted: true}}
}
func (y yard) Word(language, text string) string {
	if w, ok := y.words[language+":"+text]; ok {
		return w
	}
	return text
}
func (y yard) LimitMarks(tag string) []LimitMark {
	if tag == "t1" {
		return []LimitMark{{"high", 82}}
	}
	return nil
}

func (y yard) OfType(typ, below string) []string {
	var out []string
	for id, t := range y.pieces {
		if t == typ {
			out = append(out, id)
		}
	}
	sort.Strings(out)
	return out
}

func ptr[T any](v T) *T { return &v }

var larch = yard{tags: map[string]*tag.Tag{
	"t1": {ID: "t1", Name: "DryBulb", Type: value.Type{Kind: value.INT}, Source: tag.Device, Scale: &tag.Scale{RawHigh: 1200, EngHigh: 120},
		Unit: "°C", Decimals: ptr(1)},
	"t2": {ID: "t2", Name: "Running", Type: value.Type{Kind: value.BOOL}, Source: tag.Device},
	"t3": {ID: "t3", Name: "Start", Type: value.Type{Kind: value.BOOL}, Source: tag.Device, Access: tag.ReadWrite},
	"t4": {ID: "t4", Name: "LoadId", Type: value.Type{Kind: value.STRING, Len: 16}, Source: tag.Device},
}}

func values(b *Bound, by map[string]value.Value) *formula.Frame {
	f := &formula.Frame{}
	for _, id := range b.Inputs {
		f.Slots = append(f.Slots, by[id])
	}
	return f
}

// render evaluates every binding as "element.prop=json quality".
func render(b *Bound, by map[string]value.Value) string {
	var out []string
	f := values(b, by)
	for i, t := range b.Scene.Bindings {
		j, q := b.Append(nil, i, f)
		out = append(out, t.Element+"."+t.Prop+"="+string(j)+" "+q.Level().String())
	}
	return strings.Join(out, "\n")
}

func sample() *Screen {
	return &Screen{ID: "s1", Name: "Chamber", Width: 1280, Height: 676, Elements: map[string]*Element{
		"a": {Kind: "readout", Z: 1, Props: map[string]any{"tag": "t1"}},
		"b": {Kind: "text", Z: 2, Props: map[string]any{"text": `Load {{t4|Kiln1.LoadId}}, {{t1|Kiln1.DryBulb}:0} °C`}},
		"c": {Kind: "rect", Z: 3, Bind: map[string]string{"visible": "{t2|Kiln1.Running}", "fill": `{t1|Kiln1.DryBulb} > 80 ? "high" : "sheet"`}},
		"d": {Kind: "button", Z: 4, Props: map[string]any{"tag": "t3"}, Bind: map[string]string{"enabled": "not {t2|Kiln1.Running}"}},
	}}
}

func TestBindEvaluates(t *testing.T) {
	b := Bind(sample(), larch, View{})
	got := render(b, map[string]value.Value{
		"t1": value.Real(value.LREAL, 84.63), "t2": value.Bool(true), "t3": value.Bool(false), "t4": value.Str(`L"1`)})
	want := `a.text="84.6` + "\u00a0" + `°C" good
b.text="Load L\"1, 85 °C" good
c.fill="high" good
c.visible=true good
d.on=false good
d.enabled=false good`
	if got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
}

func TestBadQualityTakesThePlainValue(t *testing.T) {
	b := Bind(sample(), larch, View{})
	got := render(b, map[string]value.Value{
		"t1": value.Bad(value.LREAL, value.BadNoAnswer), "t2": value.Bad(value.BOOL, value.BadStale),
		"t3": value.Bad(value.BOOL, value.BadStale), "t4": value.Str("L-1")})
	want := `a.text=null bad
b.text="Load L-1, — °C" bad
c.fill=null bad
c.visible=null bad
d.on=null bad
d.enabled=false bad`
	if got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
}

func TestMissingTagAndBrokenFormulaAreBad(t *testing.T) {
	s := &Screen{ID: "s", Name: "S", Width: 100, Height: 100, Elements: map[string]*Element{
		"a": {Kind: "readout", Props: map[string]any{"tag": "gone"}},
		"b": {Kind: "rect", Bind: map[string]string{"visible": "{t1|Kiln1.DryBulb}"}},
		"c": {Kind: "button", Bind: map[string]string{"enabled": "1 +"}},
	}}
	got := render(Bind(s, larch, View{}), nil)
	want := "a.text=null bad\nb.visible=null bad\nc.enabled=false bad"
	if got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
}

func TestCheckNamesThePlace(t *testing.T) {
	for place, mend := range map[string]func(*Screen){
		"":                         func(*Screen) {},
		"/name":                    func(s *Screen) { s.Name = "" },
		"/width":                   func(s *Screen) { s.Width = 9000 },
		"/elements/a/kind":         func(s *Screen) { s.Elements["a"].Kind = "moon" },
		"/elements/a/props/volume": func(s *Screen) { s.Elements["a"].Props["volume"] = 1.0 },
		"/elements/a/props/size":   func(s *Screen) { s.Elements["a"].Props["size"] = "big" },
		"/elements/c/bind/radius":  func(s *Screen) { s.Elements["c"].Bind["radius"] = "1" },
		"/elements/c/props/fill":   func(s *Screen) { s.Elements["c"].Props = map[string]any{"fill": "reddish"} },
		"/elements/d/props/action": func(s *Screen) { s.Elements["d"].Props["action"] = "explode" },
		"/elements/a":              func(s *Screen) { s.Elements["a"].W = -1 },
	} {
		s := sample()
		mend(s)
		if got, err := s.Check(); got != place || (err == nil) != (place == "") {
			t.Errorf("want %q, got %q, %v", place, got, err)
		}
	}
}

func TestReferencesAndConvert(t *testing.T) {
	var got []string
	for _, r := range sample().References() {
		got = append(got, r.Element+" "+r.Place+" "+r.ID)
	}
	want := "a props/tag t1; b props/text t4; b props/text t1; c bind/fill t1; c bind/visible t2; d bind/enabled t2; d props/tag t3"
	if strings.Join(got, "; ") != want {
		t.Errorf("got %v", got)
	}
	shown, _, err := sample().Convert(
		func(f string) (string, error) { return formula.Show(f, larch.Path), nil },
		func(f string) (string, error) { return formula.ShowTemplate(f, larch.Path), nil })
	if err != nil || shown.Elements["c"].Bind["visible"] != "Kiln1.Running" ||
		shown.Elements["b"].Props["text"] != "Load {Kiln1.LoadId}, {Kiln1.DryBulb:0} °C" {
		t.Errorf("%v %v %v", shown.Elements["c"].Bind, shown.Elements["b"].Props, err)
	}
	if sample().Elements["c"].Bind["visible"] == "Kiln1.Running" {
		t.Error("Convert must not touch its source")
	}
}

func TestOffers(t *testing.T) {
	for id, want := range map[string]string{"t1": "readout bar dial sparkline", "t2": "lamp statetext readout",
		"t3": "button switch lamp statetext readout", "t4": "readout"} {
		var got []string
		for _, k := range Offers(larch.tags[id]) {
			got = append(got, k.Name)
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%s: %v, want %s", id, got, want)
		}
	}
}

func TestEveryDefaultPassesItsOwnCheck(t *testing.T) {
	for _, k := range Catalogue() {
		for _, p := range k.Props {
			if err := p.Check(p.Default); err != nil {
				t.Errorf("%s.%s: %v", k.Name, p.Name, err)
			}
		}
		for _, l := range k.Live {
			if p, ok := k.Prop(l.From); !ok || p.Type != TypeTag {
				t.Errorf("%s: %s is driven by %s, which is no tag property", k.Name, l.Prop, l.From)
			}
		}
	}
	if _, err := json.Marshal(Catalogue()); err != nil {
		t.Error(err)
	}
}
