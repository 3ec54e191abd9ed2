package screen

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/equipment"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// fans are two fans of a type, each with a speed and a state.
func fans() yard {
	y := yard{tags: map[string]*tag.Tag{}, screens: map[string]*Screen{}, looks: map[string]*LookSet{}, styles: map[string]*TextStyle{},
		pieces: map[string]string{"f1": "fan", "f2": "fan"}, words: map[string]string{}}
	member := func(name string, k value.Kind) *equipment.Member {
		return &equipment.Member{Name: name, Tag: &tag.Tag{Type: value.Type{Kind: k}, Source: tag.Internal}}
	}
	y.types = map[string]*equipment.Type{"fan": {ID: "fan", Name: "Fan", Faceplate: "plate",
		Members: map[string]*equipment.Member{"run": member("Running", value.BOOL), "speed": member("Speed", value.LREAL)}}}
	for i := 1; i <= 2; i++ {
		for _, m := range []string{"run", "speed"} {
			id := fmt.Sprintf("f%d.%s", i, m)
			t := *y.types["fan"].Members[m].Tag
			t.ID, t.Name = id, y.types["fan"].Members[m].Name
			y.tags[id] = &t
		}
	}
	symbol := &Screen{ID: "sym", Name: "Fan symbol", Role: Symbol, Width: 50, Height: 50,
		Params: []Param{{ID: "f", Name: "F", Kind: ParamEquipment, Type: "fan"}, {ID: "n", Name: "N", Kind: ParamNumber, Default: "10"},
			{ID: "c", Name: "C", Kind: ParamColour, Default: "ink"}},
		Elements: map[string]*Element{
			"a": {Kind: "fan", W: 50, H: 50, Z: 1, Bind: map[string]string{"running": "{$f.run|F.Running}", "speed": "{$f.speed|F.Speed} * {$n|N}"}},
			"b": {Kind: "text", W: 50, H: 10, Z: 2, Props: map[string]any{"text": "{{$f|F}}: {{$f.speed|F.Speed}:0.0}"},
				Bind: map[string]string{"colour": "{$c|C}"}},
			"c": {Kind: "switch", W: 50, H: 10, Z: 3, Props: map[string]any{"tag": "$f.run"}},
		}}
	y.screens["sym"] = symbol
	y.screens["plate"] = &Screen{ID: "plate", Name: "Fan", Role: Faceplate, Width: 200, Height: 200,
		Params: []Param{{ID: "k", Name: "K", Kind: ParamEquipment, Type: "fan"}}}
	y.screens["main"] = &Screen{ID: "main", Name: "Main", Width: 400, Height: 300, Elements: map[string]*Element{
		"one": {Kind: "symbol", Name: "North fan", X: 10, Y: 20, W: 100, H: 100, Z: 1, Props: map[string]any{"symbol": "sym"},
			Args: map[string]string{"f": "f2", "n": "2"}},
		"all": {Kind: "repeat", X: 0, Y: 150, W: 210, H: 100, Z: 2,
			Props: map[string]any{"symbol": "sym", "over": "type", "type": "fan", "columns": 2.0, "gap": 10.0}},
	}}
	return y
}

func (y yard) now() map[string]value.Value {
	return map[string]value.Value{"f1.run": value.Bool(false), "f1.speed": value.Real(value.LREAL, 3.5), "f2.run": value.Bool(true),
		"f2.speed": value.Real(value.LREAL, 7)}
}

func TestSymbolsTakeTheirParameters(t *testing.T) {
	y := fans()
	b := Bind(y.screens["main"], y, View{})
	got := render(b, y.now())
	want := `one/a.running=true good
one/a.speed=14 good
one/b.text="F2: 7.0" good
one/b.colour="ink" good
one/c.on=true good
one/c.text="on" good
all/0/a.running=false good
all/0/a.speed=35 good
all/0/b.text="F1: 3.5" good
all/0/b.colour="ink" good
all/0/c.on=false good
all/0/c.text="off" good
all/1/a.running=true good
all/1/a.speed=70 good
all/1/b.text="F2: 7.0" good
all/1/b.colour="ink" good
all/1/c.on=true good
all/1/c.text="on" good`
	if got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
	var where []string
	for _, e := range b.Scene.Elements {
		where = append(where, fmt.Sprintf("%s<%s %v,%v %v×%v", e.ID, e.In, e.X, e.Y, e.W, e.H))
		if (e.ID == "one" || e.Kind == "cell") && (e.Opens == nil || e.Opens.Screen != "plate" || e.Content == nil || e.Content.W != 50) {
			t.Errorf("%s opens %v, content %v", e.ID, e.Opens, e.Content)
		}
	}
	if s := strings.Join(where, "; "); s != "one< 10,20 100×100; one/a<one 0,0 50×50; one/b<one 0,0 50×10; one/c<one 0,0 50×10; all< 0,150 210×100; "+
		"all/0<all 0,0 100×100; all/0/a<all/0 0,0 50×50; all/0/b<all/0 0,0 50×10; all/0/c<all/0 0,0 50×10; all/1<all 110,0 100×100; all/1/a<all/1 0,0 50×50; all/1/b<all/1 0,0 50×10; all/1/c<all/1 0,0 50×10" {
		t.Error(s)
	}
	// What people act on is known with its real tag and with the names around it.
	if c := b.Controls["one/c"]; c.Element.MainTag() != "f2.run" || c.Name != "North fan › Switch" {
		t.Errorf("%+v", c)
	}
	if c := b.Controls["all/0/c"]; c.Element.MainTag() != "f1.run" {
		t.Errorf("%+v", c.Element)
	}
}

func TestAScreenServesAnyEquipment(t *testing.T) {
	y := fans()
	for arg, want := range map[string]string{"f1": `"F1: 3.5"`, "f2": `"F2: 7.0"`} {
		b := Bind(y.screens["sym"], y, View{Args: Args{"f": arg, "n": "3"}})
		if got := render(b, y.now()); !strings.Contains(got, "b.text="+want) {
			t.Errorf("%s: %s", arg, got)
		}
		if b.Scene.Params[0].Choices[1] != (ParamChoice{"f2", "F2"}) || b.Scene.Args["n"] != "3" || b.Scene.Args["c"] != "ink" {
			t.Errorf("%+v %+v", b.Scene.Params, b.Scene.Args)
		}
	}
	// Its title too says what it was opened for.
	y.screens["sym"].Title = "About {{$f|F}} and {{f1.speed|x}}"
	if got := Bind(y.screens["sym"], y, View{Args: Args{"f": "f2"}}).Scene.Title; got != "About F2 and —" {
		t.Error(got)
	}
	// Nothing given: every value says that it is missing, nothing looks live.
	got := render(Bind(y.screens["sym"], y, View{}), nil)
	if strings.Contains(got, "a.running=true") || !strings.Contains(got, "a.running=null bad") || !strings.Contains(got, "c.on=null bad") {
		t.Error(got)
	}
}

func TestASymbolThatContainsItselfEnds(t *testing.T) {
	y := fans()
	y.screens["sym"].Elements["me"] = &Element{Kind: "symbol", Z: 9, W: 10, H: 10, Props: map[string]any{"symbol": "other"}}
	y.screens["other"] = &Screen{ID: "other", Name: "Other", Role: Symbol, Width: 10, Height: 10,
		Elements: map[string]*Element{"back": {Kind: "embed", Props: map[string]any{"screen": "sym"}}}}
	b := Bind(y.screens["main"], y, View{})
	said := 0
	for _, e := range b.Scene.Elements {
		if e.Problem == "Fan symbol contains itself" {
			said++
		}
	}
	if said != 3 {
		t.Errorf("said %d times", said)
	}
	y.screens["deep"] = &Screen{ID: "deep", Name: "Deep", Width: 100, Height: 100, Elements: map[string]*Element{}}
	for i := range 12 {
		id := fmt.Sprintf("d%d", i)
		y.screens[id] = &Screen{ID: id, Name: id, Width: 10, Height: 10, Role: Symbol,
			Elements: map[string]*Element{"in": {Kind: "symbol", Props: map[string]any{"symbol": fmt.Sprintf("d%d", i+1)}}}}
	}
	b = Bind(y.screens["d0"], y, View{})
	if last := b.Scene.Elements[len(b.Scene.Elements)-1]; !strings.Contains(last.Problem, "deep") {
		t.Errorf("%+v", last)
	}
}

func ref[T any](v T) *T { return &v }

func TestStateLooksTakeTheFirstThatMatches(t *testing.T) {
	cases := []Case{
		{Name: "off", To: ref(10.0), Look: map[string]any{"fill": "none"}},
		{Name: "normal", From: ref(10.0), To: ref(80.0), Look: map[string]any{"fill": "sheet"}},
		{Name: "odd", When: "value > 100 and value < 110", Look: map[string]any{"fill": "low", "blink": true}},
		{Name: "exact", Is: ref("120"), Look: map[string]any{"fill": "#11223380"}},
		{Name: "rest", Look: map[string]any{"fill": "high"}},
	}
	if place, err := (&LookSet{Name: "Heat", Cases: cases}).Check(); err != nil {
		t.Fatal(place, err)
	}
	y := fans()
	y.looks["heat"] = &LookSet{ID: "heat", Name: "Heat", Cases: cases}
	s := &Screen{ID: "s", Name: "S", Width: 100, Height: 100, Elements: map[string]*Element{
		"own":    {Kind: "rect", Z: 1, States: &States{Of: "{f1.speed|}", Cases: cases[:2]}},
		"shared": {Kind: "rect", Z: 2, States: &States{Of: "{f1.speed|}", Set: "heat"}},
		"gone":   {Kind: "rect", Z: 3, States: &States{Of: "{f1.speed|}", Set: "none"}},
		"text": {Kind: "rect", Z: 4, States: &States{Of: `{f1.speed|} > 50 ? "much" : "little"`,
			Cases: []Case{{Is: ref("little")}, {When: `value == "much"`}}}},
	}}
	b := Bind(s, y, View{})
	for speed, want := range map[float64]string{
		-5: "0 0 0", 9.99: "0 0 0", 10: "1 1 0", 79.9: "1 1 1", 80: "-1 4 1", 105: "-1 2 1", 110: "-1 4 1", 120: "-1 3 1",
	} {
		got := render(b, map[string]value.Value{"f1.speed": value.Real(value.LREAL, speed)})
		w := strings.Fields(want)
		if want := fmt.Sprintf("own.look=%s good\nshared.look=%s good\ngone.look=null bad\ntext.look=%s good", w[0], w[1], w[2]); got != want {
			t.Errorf("%v: got\n%s\nwant\n%s", speed, got, want)
		}
	}
	got := render(b, map[string]value.Value{"f1.speed": value.Bad(value.LREAL, value.BadStale)})
	if !strings.Contains(got, "own.look=null bad") {
		t.Error("a bad value takes no look: " + got)
	}
	for _, wrong := range [][]Case{{{Look: map[string]any{"moon": 1.0}}}, {{Look: map[string]any{"fill": "reddish"}}}, {{When: "value +"}},
		{{When: "Other > 1"}}, {{When: "value + 1"}}} {
		if _, err := (&LookSet{Name: "x", Cases: wrong}).Check(); err == nil {
			t.Errorf("%+v was taken", wrong)
		}
	}
}

// Both values of a BOOL can be chosen, in the view's language, whether or not
// they have names of their own.
func TestABOOLIsChosenByName(t *testing.T) {
	y := fans()
	y.tags["n"] = &tag.Tag{ID: "n", Name: "N", Type: value.Type{Kind: value.BOOL}, Source: tag.Internal}
	y.tags["m"] = &tag.Tag{ID: "m", Name: "M", Type: value.Type{Kind: value.BOOL}, Source: tag.Internal,
		States: []tag.State{{Value: 0, Text: "shut"}, {Value: 1, Text: "open"}}}
	for _, c := range []struct{ tag, language, want string }{{"n", "", "off on"}, {"n", "en", "off on"}, {"n", "de", "aus ein"},
		{"m", "de", "shut open"}} {
		s := &Screen{ID: "s", Name: "S", Width: 100, Height: 100,
			Elements: map[string]*Element{"a": {Kind: "selector", Props: map[string]any{"tag": c.tag}}}}
		var got []string
		for _, st := range Bind(s, y, View{Zone: time.UTC, Language: c.language}).Scene.Elements[0].Tag.States {
			got = append(got, st.Text)
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%s in %q: %q", c.tag, c.language, got)
		}
	}
}

func TestFormatsOfPlaceholders(t *testing.T) {
	y := fans()
	y.tags["n"] = &tag.Tag{ID: "n", Name: "N", Type: value.Type{Kind: value.INT}, Source: tag.Internal,
		States: []tag.State{{Value: 2, Text: "drying", Texts: map[string]string{"de": "Trocknen"}}}}
	for text, want := range map[string]string{
		"{{f1.speed|}:0.00}": "3.25", "{{f1.speed|} * 10000:0}": "32\u2009500", "{{f1.speed|} * 10000:plain}": "32500", "{{n|}:hex}": "2",
		"{{n|}:hex4}": "0002", "{{n|}:bin8}": "00000010",
		"{{n|} * 45000:duration}": "1 d 1:00:00", "{0 - 61:duration}": "−0:01:01", "{{n|}:date}": "1970-01-01", "{86399:time}": "23:59:59",
		"{{n|}:moment}": "1970-01-01 00:00:02", "{{n|}:state}": "drying", "{{n|}}": "drying",
		"a\nb mm/s²": "a\nb mm/s²",
	} {
		s := &Screen{ID: "s", Name: "S", Width: 100, Height: 100,
			Elements: map[string]*Element{"a": {Kind: "text", Props: map[string]any{"text": text}}}}
		b := Bind(s, y, View{Zone: time.UTC})
		got, _ := b.Scene.Elements[0].Props["text"].(string)
		if b.Len() > 0 {
			j, _ := b.Append(nil, 0, values(b, map[string]value.Value{"f1.speed": value.Real(value.LREAL, 3.25), "n": value.Int(value.INT, 2)}))
			got = strings.Trim(string(j), `"`)
		}
		if got != want {
			t.Errorf("%s: %q, want %q", text, got, want)
		}
	}
	if _, err := formula.StoreTemplate("{1:00.0}", nil, nil); err == nil {
		t.Error("a format of nobody was taken")
	}
}

func TestLanguages(t *testing.T) {
	y := fans()
	y.tags["n"] = &tag.Tag{ID: "n", Name: "N", Type: value.Type{Kind: value.INT}, Source: tag.Internal,
		States: []tag.State{{Value: 2, Text: "drying", Texts: map[string]string{"de": "Trocknen"}}}}
	y.words["de:Mode {{n|}}"] = "Betriebsart {{n|}}"
	y.words["de:Start"] = "Anfahren"
	s := &Screen{ID: "s", Name: "S", Width: 100, Height: 100, Elements: map[string]*Element{
		"a": {Kind: "text", Z: 1, Props: map[string]any{"text": "Mode {{n|}}"}},
		"b": {Kind: "button", Z: 2, Props: map[string]any{"caption": "Start"}},
		"c": {Kind: "statetext", Z: 3, Props: map[string]any{"tag": "n"}}}}
	for language, want := range map[string][3]string{"": {`"Mode drying"`, "Start", `"drying"`},
		"de": {`"Betriebsart Trocknen"`, "Anfahren", `"Trocknen"`}, "fr": {`"Mode drying"`, "Start", `"drying"`}} {
		b := Bind(s, y, View{Language: language})
		f := values(b, map[string]value.Value{"n": value.Int(value.INT, 2)})
		a, _ := b.Append(nil, 0, f)
		c, _ := b.Append(nil, 1, f)
		if string(a) != want[0] || b.Scene.Elements[1].Props["caption"] != want[1] || string(c) != want[2] {
			t.Errorf("%q: %s %v %s", language, a, b.Scene.Elements[1].Props["caption"], c)
		}
	}
}

func TestEntriesTakeWhatTheySet(t *testing.T) {
	own := &tag.Tag{ID: "x", Type: value.Type{Kind: value.LREAL}, Source: tag.Internal, Low: ref(0.0), High: ref(100.0), Step: 5, Unit: "%"}
	e := &Element{Kind: "entry", Props: map[string]any{"high": 50.0, "step": 1.0, "unit": "Hz", "decimals": 2.0}}
	got := e.Effective(own)
	if *got.Low != 0 || *got.High != 50 || got.Step != 1 || got.Unit != "Hz" || *got.Decimals != 2 || *own.High != 100 || own.Unit != "%" {
		t.Errorf("%+v of %+v", got, own)
	}
	if e := (&Element{Kind: "entry", Props: map[string]any{}}); e.Effective(own) != own {
		t.Error("an entry that sets nothing takes the tag as it is")
	}
	// The ends of a bar are what it draws, not limits.
	if e := (&Element{Kind: "bar", Props: map[string]any{"low": 20.0}}); *e.Effective(own).Low != 0 {
		t.Error("a bar's low end became a limit")
	}
}

func TestReplaceReachesEverything(t *testing.T) {
	e := &Element{Kind: "button", Props: map[string]any{"tag": "a1", "caption": "{{a2|}}", "screen": "s1"},
		Bind: map[string]string{"x": "{a3|} + 1"}, Args: map[string]string{"k": "a4"},
		Tags: []string{"a5"}, Tabs: []Tab{{Title: "{{a6|}}", Screen: "s2", Args: map[string]string{"k": "a7"}}}, States: &States{Of: "{a8|}"},
		Then: []Action{{Do: "set", When: "{a9|}", Tag: "a10", Text: "{{a11|}}"}}}
	seen := map[string]bool{}
	out := e.Replace(func(id, path string) (string, string) { seen[id] = true; return "n" + id, path })
	for _, id := range strings.Fields("a1 a2 a3 a4 a5 a6 a7 a8 a9 a10 a11 s1 s2") {
		if !seen[id] {
			t.Errorf("%s was not reached", id)
		}
	}
	if out.Bind["x"] != "{na3|} + 1" || out.Then[0].Text != "{{na11|}}" || out.States.Of != "{na8|}" || e.Bind["x"] != "{a3|} + 1" {
		t.Errorf("%+v", out)
	}
}

func TestGroupsAndTabs(t *testing.T) {
	y := fans()
	s := &Screen{ID: "s", Name: "S", Width: 100, Height: 100, Elements: map[string]*Element{
		"g": {Kind: "group", Z: 1}, "a": {Kind: "rect", Z: 2, Group: "g"},
		"t": {Kind: "tabs", Z: 3, W: 300, H: 200, Tabs: []Tab{{Title: "North {{f1.speed|}:0}", Screen: "sym",
			Args: map[string]string{"f": "f1"}}, {Title: "South"}}}}}
	if place, err := s.Check(); err != nil {
		t.Fatal(place, err)
	}
	b := Bind(s, y, View{})
	in := map[string]string{}
	for _, e := range b.Scene.Elements {
		in[e.ID] = e.In
	}
	if in["a"] != "g" || in["t/tab0"] != "t" || in["t/tab0/a"] != "t/tab0" || in["t/tab1"] != "t" {
		t.Errorf("%v", in)
	}
	if got := render(b, y.now()); !strings.Contains(got, `t.tab0="North 4" good`) {
		t.Error(got)
	}
	s.Elements["g"].Group = "g"
	if place, err := s.Check(); !strings.HasSuffix(place, "/group") || err == nil {
		t.Error("a group in itself was taken")
	}
}

// Who may operate an element is narrowed by everything that it lies in: the screen, a
// group, a symbol's place and the symbol, and the element itself.
func TestOperators(t *testing.T) {
	y := fans()
	main := y.screens["main"]
	main.Operators = []string{"lead", "maint"}
	main.Elements["one"].Operators = []string{"maint"}
	main.Elements["g"] = &Element{Kind: "group", W: 50, H: 50, Z: 3, Operators: []string{"quality"}}
	main.Elements["in"] = &Element{Kind: "switch", W: 50, H: 10, Z: 4, Group: "g"}
	main.Elements["free"] = &Element{Kind: "switch", W: 50, H: 10, Z: 5}
	y.screens["sym"].Elements["c"].Operators = []string{"lead"}
	controls := Bind(main, y, View{}).Controls
	for id, want := range map[string]string{
		"free": "[[lead maint]]", "in": "[[lead maint] [quality]]", "one": "[[lead maint] [maint]]",
		"one/c": "[[lead maint] [maint] [lead]]", "one/a": "[[lead maint] [maint]]", "all/0/c": "[[lead maint] [lead]]",
		"all/1/a": "[[lead maint]]",
	} {
		if got := fmt.Sprint(controls[id].Operators); got != want {
			t.Errorf("%s: %s, want %s", id, got, want)
		}
	}
	if found := len(main.References()); found == 0 {
		t.Fatal("no references")
	}
	for _, ref := range main.References() {
		if ref.Type == TypeRole && ref.ID == "maint" && ref.Element == "one" && ref.Place == "operators" {
			return
		}
	}
	t.Error("deleting a role does not find the element that names it")
}
