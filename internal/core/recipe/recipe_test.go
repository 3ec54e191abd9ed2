package recipe

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/value"
)

func typ(s string) value.Type {
	t, err := value.ParseType(s)
	if err != nil {
		panic(err)
	}
	return t
}

func one() *int { n := 1; return &n }

// schedule is a small book: a dry bulb, a wet bulb below it, what is between,
// a species and a count.
func schedule(t *testing.T) *Book {
	t.Helper()
	b := &Book{Name: "Schedule", Fields: []Field{
		{
			ID:       "dry",
			Name:     "DryBulb",
			Title:    "Dry bulb",
			Type:     typ("REAL"),
			Unit:     "°C",
			Decimals: one(),
			Low:      "20",
			High:     "MaxDry",
			Step:     0.5,
		},
		{ID: "wet", Name: "WetBulb", Type: typ("REAL"), Unit: "°C", Decimals: one(), Low: "15", High: "DryBulb"},
		{ID: "gap", Name: "Depression", Type: typ("REAL"), Formula: "DryBulb - WetBulb"},
		{ID: "kind", Name: "Species", Type: typ("STRING(12)"), Default: "Larch"},
		{ID: "n", Name: "Boards", Type: typ("INT"), Scales: true, Default: "10"},
		{ID: "half", Name: "Half", Type: typ("REAL"), Formula: "Depression / 2"},
	}, Checks: []Check{{Formula: "Depression >= 2", Says: "the wet bulb lies at least 2 °C below the dry bulb"}},
		Quantity: &Quantity{Name: "volume", Unit: "m³", Base: 20, Low: 5, High: 60}}
	return stored(t, b)
}

// stored turns what is typed in a book into what is stored.
func stored(t *testing.T, b *Book) *Book {
	t.Helper()
	out, place, err := b.Convert(func(_, text string) (string, error) {
		return formula.Store(text, func(path string) (string, bool) {
			if f, ok := b.Named(path); ok {
				return Own + f.ID, true
			}
			return "t-" + strings.ToLower(path), true
		}, nil)
	})
	if err != nil {
		t.Fatalf("%s: %v", place, err)
	}
	if place, err := out.Check(); err != nil {
		t.Fatalf("%s: %v", place, err)
	}
	return out
}

// plant knows one tag, MaxDry.
var plant = formula.Scope{
	Tag:  func(id string) (int32, value.Kind, bool) { return 0, value.REAL, id == "t-maxdry" },
	Path: func(id string) (string, bool) { return "MaxDry", id == "t-maxdry" },
}

func reads(v value.Value) func(string) value.Value { return func(string) value.Value { return v } }

func rulesOf(t *testing.T, b *Book) *Rules {
	t.Helper()
	r, faults := NewRules(b, plant)
	for _, f := range faults {
		t.Fatalf("%s: %v", f.Place, f.Err)
	}
	return r
}

func TestLook(t *testing.T) {
	b := schedule(t)
	r := rulesOf(t, b)
	at85 := value.Real(value.REAL, 85)
	for _, c := range []struct {
		name   string
		values Values
		max    value.Value
		want   string // rules at fields, in order
		half   string
	}{
		{"all well", Values{"dry": "62", "wet": "56"}, at85, "", "3"},
		{"a default is taken", Values{"dry": "62", "wet": "56", "kind": "Oak", "n": "4"}, at85, "", "3"},
		{"below a limit", Values{"dry": "19.5", "wet": "16"}, at85, "low@dry", "1.75"},
		{"above the limit of a tag", Values{"dry": "85.5", "wet": "16"}, at85, "high@dry", "34.75"},
		{"above another field", Values{"dry": "62", "wet": "63"}, at85, "high@wet check@", "-0.5"},
		{"the check over two", Values{"dry": "62", "wet": "60.5"}, at85, "check@", "0.75"},
		{"between steps", Values{"dry": "62.3", "wet": "56"}, at85, "step@dry", "3.15"},
		{"nothing entered", Values{"wet": "56"}, at85, "missing@dry untold@wet untold@gap untold@half untold@", ""},
		{"what cannot be read", Values{"dry": "warm", "wet": "56"}, at85, "unreadable@dry untold@wet untold@gap untold@half untold@", ""},
		{"too long a text", Values{"dry": "62", "wet": "56", "kind": "Sitka spruce, wide"}, at85, "unreadable@kind", "3"},
		{"the tag of the limit is bad", Values{"dry": "62", "wet": "56"}, value.Bad(value.REAL, value.BadNotConnected), "untold@dry", "3"},
		{"more than the type holds", Values{"dry": "62", "wet": "56", "n": "40000"}, at85, "unreadable@n", "3"},
	} {
		cells, problems := r.Look(c.values, reads(c.max))
		got := make([]string, len(problems))
		for i, p := range problems {
			got[i] = p.Rule + "@" + p.Field
		}
		if said := strings.Join(sorted(got), " "); said != strings.Join(sorted(strings.Fields(c.want)), " ") {
			t.Errorf("%s: %s, not %s", c.name, said, c.want)
		}
		if half := cells[5].Value; c.half == "" != half.Quality.IsBad() ||
			c.half != "" && fmt.Sprint(half.Float()) != c.half && !near(half.Float(), c.half) {
			t.Errorf("%s: half is %v, not %s", c.name, half, c.half)
		}
	}
}

func near(f float64, text string) bool {
	var want float64
	_, err := fmt.Sscan(text, &want)
	return err == nil && f-want < 1e-5 && want-f < 1e-5
}

func sorted(list []string) []string { slices.Sort(list); return list }

func TestFaultsOfABook(t *testing.T) {
	real := typ("REAL")
	for name, c := range map[string]struct {
		fields []Field
		checks []Check
		want   string
	}{
		"a ring": {[]Field{{ID: "a", Name: "A", Type: real, Formula: "B + 1"}, {ID: "b", Name: "B", Type: real, Formula: "A + 1"}}, nil,
			"/fields/1/formula"},
		"itself":              {[]Field{{ID: "a", Name: "A", Type: real, Formula: "A + 1"}}, nil, "/fields/0/formula"},
		"a limit of truth":    {[]Field{{ID: "a", Name: "A", Type: real, Low: "true"}}, nil, "/fields/0/low"},
		"a tag that is gone":  {[]Field{{ID: "a", Name: "A", Type: real, High: "Gone"}}, nil, "/fields/0/high"},
		"a number as check":   {[]Field{{ID: "a", Name: "A", Type: real}}, []Check{{"A + 1", "so"}}, "/checks/0/formula"},
		"a text for a number": {[]Field{{ID: "a", Name: "A", Type: real, Formula: `"x"`}}, nil, "/fields/0/formula"},
		"a text beside number": {[]Field{{ID: "a", Name: "A", Type: real, High: "A + S"}, {ID: "s", Name: "S", Type: typ("STRING(4)")}}, nil,
			"/fields/0/high"},
	} {
		b := stored(t, &Book{Name: "B", Fields: c.fields, Checks: c.checks})
		_, faults := NewRules(b, plant)
		if len(faults) != 1 || faults[0].Place != c.want {
			t.Errorf("%s: %v, not one at %s", name, faults, c.want)
		}
	}
}

func TestBooksThatCannotBe(t *testing.T) {
	ok := func() *Book { return schedule(t) }
	for place, alter := range map[string]func(b *Book){
		"/name":                 func(b *Book) { b.Name = " " },
		"/fields/1/name":        func(b *Book) { b.Fields[1].Name = "dryBULB" },
		"/fields/0/name":        func(b *Book) { b.Fields[0].Name = "1st" },
		"/fields/0/id":          func(b *Book) { b.Fields[0].ID = "a|b" },
		"/fields/0/type":        func(b *Book) { b.Fields[0].Type = value.Type{} },
		"/fields/4/default":     func(b *Book) { b.Fields[4].Default = "ten" },
		"/fields/3/scales":      func(b *Book) { b.Fields[3].Scales = true },
		"/fields/3/low":         func(b *Book) { b.Fields[3].Low = "3" },
		"/fields/2/default":     func(b *Book) { b.Fields[2].Default = "3" },
		"/fields/0/turn":        func(b *Book) { b.Fields[0].Turn = "middle" },
		"/fields/0/tag":         func(b *Book) { b.Fields[0].Tag, b.Fields[0].Member = "t", "m" },
		"/fields/0/member":      func(b *Book) { b.Fields[0].Member = "m" },
		"/checks/0/says":        func(b *Book) { b.Checks[0].Says = "" },
		"/quantity/base":        func(b *Book) { b.Quantity.Base = 0 },
		"/quantity/low":         func(b *Book) { b.Quantity.High = 1 },
		"/sending/hand":         func(b *Book) { b.Sending.Hand = &Handshake{Ready: "r"} },
		"/sending/hand/taken":   func(b *Book) { b.Sending.Hand = &Handshake{Ready: "r", Taken: "r"} },
		"/sending/hand/seconds": func(b *Book) { b.Sending.Hand = &Handshake{Ready: "r", Taken: "t", Seconds: 601} },
		"/sending/drive":        func(b *Book) { b.Sending.Drive = &Drive{Role: "r", Execute: "e"} },
		"/sending/drive/role":   func(b *Book) { b.Sending.Drive = &Drive{Execute: "e", Chosen: "c"} },
		"/sending/drive/done": func(b *Book) {
			b.Sending.Drive = &Drive{Role: "r", Execute: "e", Chosen: "c", Busy: "x", Done: "x"}
		},
		"/begin/1/name": func(b *Book) { b.Begin = []Beginning{{Name: "Oak 27"}, {Name: "OAK 27 "}} },
	} {
		b := ok()
		alter(b)
		if got, err := b.Check(); err == nil || got != place {
			t.Errorf("%s: refused at %q: %v", place, got, err)
		}
	}
}

func TestTidyAndScale(t *testing.T) {
	b := schedule(t)
	got, err := b.Tidy(Values{"dry": " 62.50", "n": "7", "gap": "9"})
	if want := (Values{"dry": "62.5", "n": "7"}); err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%v %v, not %v", got, err, want)
	}
	for _, bad := range []Values{{"dry": "62,5"}, {"none": "1"}, {"kind": strings.Repeat("x", 13)}} {
		if _, err := b.Tidy(bad); err == nil {
			t.Errorf("%v is taken", bad)
		}
	}
	for quantity, want := range map[float64]string{20: "7", 40: "14", 5: "2", 30: "11", 4: "", 61: ""} {
		out, err := b.Scale(Values{"dry": "62.5", "n": "7"}, quantity)
		if want == "" != (err != nil) || err == nil && (out["n"] != want || out["dry"] != "62.5") {
			t.Errorf("for %v: %v %v, not %s", quantity, out, err, want)
		}
	}
	b.Quantity.High = 1e9
	if _, err := b.Scale(Values{"n": "7"}, 1e9); err == nil {
		t.Error("what the type cannot hold is taken")
	}
}

func TestCarry(t *testing.T) {
	b := &Book{Name: "B", Fields: []Field{
		{ID: "a", Name: "A", Type: typ("INT")},
		{ID: "b", Name: "B", Type: typ("REAL"), Default: "5"},
		{ID: "c", Name: "C", Type: typ("STRING(3)")},
	}}
	for _, c := range []struct {
		name string
		kept Values
		want Values
		says string
	}{
		{"the same", Values{"a": "1", "b": "2", "c": "x"}, Values{"a": "1", "b": "2", "c": "x"}, ""},
		{"a new one has its default", Values{"a": "1", "c": "x"}, Values{"a": "1", "b": "5", "c": "x"}, "added b"},
		{"a new one without a default", Values{"b": "1", "c": "x"}, Values{"b": "1", "c": "x"}, "added a"},
		{"one is gone", Values{"a": "1", "b": "2", "c": "x", "z": "9"}, Values{"a": "1", "b": "2", "c": "x"}, "aside z"},
		{"a decimal one becomes whole", Values{"a": "3.0", "b": "2", "c": "x"}, Values{"a": "3", "b": "2", "c": "x"}, "converted a"},
		{"a fraction does not", Values{"a": "3.5", "b": "2", "c": "x"}, Values{"a": "3.5", "b": "2", "c": "x"}, "unfit a"},
		{"a text that is too long now", Values{"a": "3", "b": "2", "c": "long"}, Values{"a": "3", "b": "2", "c": "long"}, "unfit c"},
		{"too large", Values{"a": "40000", "b": "2", "c": "x"}, Values{"a": "40000", "b": "2", "c": "x"}, "unfit a"},
		{"a text that was not given", Values{"a": "3", "b": "2"}, Values{"a": "3", "b": "2", "c": ""}, ""},
	} {
		now, changes := b.Carry(c.kept)
		var said []string
		for _, ch := range changes {
			said = append(said, string(ch.What)+" "+ch.Field)
		}
		if !reflect.DeepEqual(now, c.want) || strings.Join(said, ", ") != c.says {
			t.Errorf("%s: %v, %v; not %v, %s", c.name, now, said, c.want, c.says)
		}
		if alters := Alters(changes); alters != (c.says != "" && !strings.HasPrefix(c.says, "aside")) {
			t.Errorf("%s: alters: %v", c.name, alters)
		}
	}
	// What is aside outlives an edit.
	if got := b.Merge(Values{"a": "1", "z": "9"}, Values{"a": "2"}); !reflect.DeepEqual(got, Values{"a": "2", "z": "9"}) {
		t.Errorf("kept: %v", got)
	}
}

func TestOrder(t *testing.T) {
	b := &Book{
		Fields: []Field{
			{ID: "a", Tag: "1"},
			{ID: "b"},
			{ID: "c", Member: "2", Turn: Last},
			{ID: "d", Tag: "3", Turn: First},
			{ID: "e", Tag: "4"},
		},
	}
	fields, ends := b.Order()
	if !slices.Equal(fields, []int{3, 0, 4, 2}) || !slices.Equal(ends, []int{1, 3, 4}) {
		t.Errorf("%v %v", fields, ends)
	}
	var none Book
	if fields, ends := none.Order(); len(fields) != 0 || len(ends) != 0 {
		t.Errorf("%v %v", fields, ends)
	}
}
