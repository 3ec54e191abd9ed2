package project

import (
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// airBook is a book for chambers: a dry bulb, the speed of the second fan, a note.
func airBook(p *Project) recipe.Book {
	real := value.Type{Kind: value.LREAL}
	return recipe.Book{Name: "Air", Type: "chamber", Fields: []recipe.Field{
		{ID: "f1", Name: "DryBulb", Type: real, Member: "dry", Low: "20", High: "Limit"},
		{ID: "f2", Name: "Speed", Type: real, Member: "fan.2.speed", High: "DryBulb"},
		{ID: "f3", Name: "Note", Type: value.Type{Kind: value.STRING, Len: 20}},
	}, Checks: []recipe.Check{{Formula: "DryBulb > Speed", Says: "The fan is slower than the air is hot"}},
		Sending: recipe.Sending{When: "not Hot", PutBack: true}}
}

// renamed gives the first field of the book another name.
func renamed(p *Project) Op {
	fields := append([]recipe.Field{}, p.ShownBook(p.Books["b"]).Fields...)
	fields[0].Name = "Dry"
	return put(KindBook, "b", "/fields", fields)
}

// TestABookServesEveryEquipmentOfItsType: a field is a member, its condition is
// that of the equipment it is sent to, and formulas follow names.
func TestABookServesEveryEquipmentOfItsType(t *testing.T) {
	p := kilns(t)
	p = edited(t, p, put(KindBook, "b", "", airBook(p)))
	b := p.Books["b"]
	if n := len(p.BookTargets(b)); n != 10 {
		t.Fatalf("%d targets", n)
	}
	if got := p.BookTag(&b.Fields[1], "k3"); got == nil || got.ID != "k3.fan.2.speed" {
		t.Errorf("%v", got)
	}
	if got := p.SendingWhen(b, "k3"); !strings.Contains(got, "{k3.hot|") {
		t.Error(got)
	}
	if got := p.PlaceText(b, "fan.2.speed"); got != "Chamber.Fan[2].Speed" {
		t.Error(got)
	}
	p = edited(t, p, put(KindTag, "limit", "/name", "Most"), renamed(p))
	shown, _ := p.Shown(KindBook, "b")
	for _, want := range []string{`"high":"Most"`, `"high":"Dry"`, `"Dry \u003e Speed"`, `"when":"not Hot"`} {
		if !strings.Contains(string(shown), want) {
			t.Errorf("no %s in %s", want, shown)
		}
	}
	// What is shown is what it was when it is written again.
	again, _ := edited(t, p, Op{Kind: KindBook, ID: "b", Value: shown}).Shown(KindBook, "b")
	if string(again) != string(shown) {
		t.Errorf("%s\n%s", again, shown)
	}
	for _, id := range []string{"limit", "chamber"} {
		if !strings.Contains(fmt.Sprint(p.Uses(id)), "Air") {
			t.Errorf("%s is not used by the book: %v", id, p.Uses(id))
		}
	}
}

// TestWhatToMendInABook has each finding once.
func TestWhatToMendInABook(t *testing.T) {
	for want, change := range map[string]func(b *recipe.Book){
		"":                                    func(*recipe.Book) {},
		"book.empty /fields":                  func(b *recipe.Book) { b.Fields, b.Checks = nil, nil },
		"book.type /type":                     func(b *recipe.Book) { b.Type = "none" },
		"book.tag /fields/1":                  func(b *recipe.Book) { b.Fields[1].Member = "fan.9.speed" },
		"book.twice /fields/1":                func(b *recipe.Book) { b.Fields[1].Member = "dry" },
		"book.readonly /fields/1":             func(b *recipe.Book) { b.Fields[1].Member = "hot" },
		"book.kind /fields/2":                 func(b *recipe.Book) { b.Fields[2].Member, b.Fields[1].Member = "fan.1.speed", "" },
		"book.wide /fields/0/low":             func(b *recipe.Book) { b.Fields[0].Low = "-50" },
		"book.when /sending/when":             func(b *recipe.Book) { b.Sending.When = "DryBulb + 1" },
		"formula /sending/when":               func(b *recipe.Book) { b.Sending.When = "None" },
		"formula /checks/0/formula":           func(b *recipe.Book) { b.Checks[0].Formula = "None > 1" },
		"book.formula /checks/0/formula":      func(b *recipe.Book) { b.Checks[0].Formula = "DryBulb + 1" },
		"book.begin /begin/0":                 func(b *recipe.Book) { b.Begin = []recipe.Beginning{{Name: "Oak", Values: recipe.Values{"f1": "hot"}}} },
		"book.patience /sending/hand/seconds": func(b *recipe.Book) { b.Sending.Hand = &recipe.Handshake{Ready: "go", Taken: "hot"} },
		"book.hand /sending/hand/ready": func(b *recipe.Book) {
			b.Sending.Hand = &recipe.Handshake{Ready: "none", Taken: "hot", Seconds: 5}
		},
		"book.drive /sending/drive/busy": func(b *recipe.Book) {
			b.Sending.Drive = &recipe.Drive{Role: "r", Execute: "hot", Chosen: "wanted", Busy: "none"}
		},
		"book.drive.kind /sending/drive/chosen": func(b *recipe.Book) {
			b.Sending.Drive = &recipe.Drive{Role: "r", Execute: "hot", Chosen: "go"}
		},
		"book.drive.kind /sending/drive/done": func(b *recipe.Book) {
			b.Sending.Drive = &recipe.Drive{Role: "r", Execute: "go", Chosen: "wanted", Done: "hot"}
		},
		"book.drive.role /sending/drive/role": func(b *recipe.Book) {
			b.Sending.Drive = &recipe.Drive{Role: "none", Execute: "go", Chosen: "wanted"}
		},
		"book.hand.kind /sending/hand/ready": func(b *recipe.Book) {
			b.Sending.Hand = &recipe.Handshake{Ready: "dry", Taken: "hot", Seconds: 5}
		},
	} {
		p := edited(t, kilns(t), put(KindType, "chamber", "/members/go", map[string]any{"order": 4, "name": "Go",
			"tag": tag.Tag{
				Type:   value.Type{Kind: value.BOOL},
				Source: tag.Internal,
			}}), put(KindType, "chamber", "/members/dry/tag/low", 0), put(KindType, "chamber", "/members/wanted", map[string]any{"order": 5,
			"name": "Wanted", "tag": tag.Tag{Type: value.Type{Kind: value.STRING, Len: 20}, Source: tag.Internal}}))
		p = edited(t, p, put(KindTag, "left", "", left("deliveries.open", "")), put(KindAlarm, "a", "", over("left", "")))
		p = edited(t, p, put(KindRole, "r", "", map[string]any{"name": "Shift", "rights": []string{"deliver"}}))
		b := airBook(p)
		change(&b)
		p = edited(t, p, put(KindBook, "b", "", b))
		var got []string
		for _, rule := range strings.Split(rulesOf(p, KindBook), "; ") {
			// Without a handshake a note says what that means.
			if rule != "book.whole /sending/hand" && rule != "" {
				got = append(got, rule)
			}
		}
		if strings.Join(got, "; ") != want {
			t.Errorf("%q, not %q", got, want)
		}
	}
}

// left is a system tag of a book.
func left(system, book string) tag.Tag {
	s, _ := tag.SystemValueOf(system)
	return tag.Tag{Name: "Left", Type: s.Type, Source: tag.System, System: system, Book: book}
}

// over is an alarm on a tag, or on a condition.
func over(on, condition string) alarm.Alarm {
	a := alarm.Alarm{Name: "Left", Tag: on, Kind: alarm.HighLimit, Limit: "0", Priority: alarm.Low, Message: "look"}
	if condition != "" {
		a.Kind, a.Limit, a.Condition = alarm.Formula, "", condition
	}
	return a
}

// TestSystemTagsOfABook: what a delivery left is to be an alarm, and what tells of
// a target is to be of one.
func TestSystemTagsOfABook(t *testing.T) {
	loose := recipe.Book{Name: "Loose", Fields: []recipe.Field{{ID: "f1", Name: "Limit", Type: value.Type{Kind: value.LREAL}, Tag: "limit"}}}
	system := func(name, book string) Op { return put(KindTag, "s", "", left(name, book)) }
	alarmed := func(on, condition string) Op { return put(KindAlarm, "a", "", over(on, condition)) }
	for _, c := range []struct {
		want string
		ops  []Op
	}{
		{"book.alarm", nil},
		{"book.alarm", []Op{system("recipe.left", "b")}},
		{"", []Op{system("deliveries.open", ""), alarmed("s", "")}},
		{"", []Op{system("recipe.left", "b"), alarmed("s", "")}},
		{"", []Op{system("recipe.left", "b"), alarmed("limit", "Left > 0")}},
		{"book.alarm", []Op{system("recipe.left", "other"), alarmed("s", "")}},
		{"tag.book; book.alarm", []Op{system("recipe.held", "gone")}},
		{"tag.target; book.alarm", []Op{system("recipe.runs", "air")}},
		{"book.alarm", []Op{system("recipe.held", "air")}},
	} {
		p := kilns(t)
		p = edited(t, p, put(KindBook, "b", "", loose), put(KindBook, "other", "", loose), put(KindBook, "air", "", airBook(p)))
		p = edited(t, p, c.ops...)
		var got []string
		for _, f := range p.Findings() {
			if f.ID == "b" && f.Rule == "book.alarm" || f.ID == "s" {
				got = append(got, f.Rule)
			}
		}
		if strings.Join(got, "; ") != c.want {
			t.Errorf("%q, not %q", got, c.want)
		}
	}
}

// TestFieldsAreMadeOfTags: of those that can be written, each once, as members in a
// book of a type.
func TestFieldsAreMadeOfTags(t *testing.T) {
	p := kilns(t)
	n := 0
	id := func() string { n++; return fmt.Sprint("x", n) }
	b := airBook(p)
	p = edited(t, p, put(KindBook, "b", "", b))
	told := func(list []recipe.Field) string {
		var out []string
		for _, f := range list {
			out = append(out, fmt.Sprintf("%s %s %s %s%s", f.Name, f.Title, f.Group, f.Member, f.Tag))
		}
		return strings.Join(out, "; ")
	}
	matching := p.MatchingTags("North.Kiln2.*")
	if got := told(p.FieldsOf(p.Books["b"], matching, id)); got != "Fan[1].Speed Speed Fan 1 fan.1.speed" {
		t.Error(got)
	}
	loose := &recipe.Book{}
	if got := told(p.FieldsOf(loose, []string{"limit", "k2.dry", "k2.hot", "limit"}, id)); got != "Limit Limit  limit; "+
		"North.Kiln2.DryBulb Dry bulb Kiln2 k2.dry" {
		t.Error(got)
	}
	if ref, ok := p.PointOf(p.Books["b"], "k4.hot"); !ok || ref != "hot" {
		t.Error(ref, ok)
	}
	if _, ok := p.PointOf(p.Books["b"], "limit"); ok {
		t.Error("a tag of no chamber is a point of the book")
	}
	for segment, want := range map[string]string{"DryBulb": "Dry bulb", "Step[2]": "Step 2", "PVmax": "PVmax", "set_point": "set point",
		"HeatPID": "Heat PID"} {
		if got := spacedName(segment); got != want {
			t.Errorf("%s: %q, not %q", segment, got, want)
		}
	}
}
