package engine

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
)

var t0 = time.Date(2026, 11, 19, 8, 0, 0, 0, time.UTC)

func at(ms int) time.Time { return t0.Add(time.Duration(ms) * time.Millisecond) }

func edit(t testing.TB, p *project.Project, ops ...[3]string) *project.Project {
	t.Helper()
	var list []project.Op
	for _, o := range ops {
		op := project.Op{Kind: project.KindTag, ID: o[0], Path: o[1]}
		if o[0] == "d1" {
			op.Kind = project.KindDevice
		}
		if o[2] != "" {
			op.Value = json.RawMessage(o[2])
		}
		list = append(list, op)
	}
	next, _, err := p.Edit(list)
	if err != nil {
		t.Fatal(err)
	}
	return next
}

func dev(name, addr, rest string) string {
	return fmt.Sprintf(`{"name":%q,"type":"INT","source":"device","device":"d1","address":%q%s}`, name, addr, rest)
}

func yard(t testing.TB) *project.Project {
	return edit(t, project.New("Larchmoor"),
		[3]string{"d1", "", `{"name":"PLC","protocol":"modbus-tcp","host":"127.0.0.1","port":502,"unit":1,"order":"ABCD","numbering":0,"poll":250,"timeout":500,"maxGap":16,"maxBlock":125}`},
		[3]string{"dry", "", dev("DryBulb", "input:0", `,"scale":{"rawLow":0,"rawHigh":1200,"engLow":0,"engHigh":120}`)},
		[3]string{"wet", "", dev("WetBulb", "input:1", `,"scale":{"rawLow":0,"rawHigh":1200,"engLow":0,"engHigh":120}`)},
		[3]string{"mode", "", dev("Mode", "input:2", "")},
		[3]string{"gap", "", `{"name":"Gap","type":"LREAL","source":"computed","formula":"DryBulb - WetBulb"}`},
		[3]string{"narrow", "", `{"name":"Narrow","type":"BOOL","source":"computed","formula":"Gap < 5"}`},
		[3]string{"note", "", `{"name":"Note","type":"STRING(20)","source":"internal","initial":"hello"}`},
	)
}

func (e *Engine) show(id string) string {
	v, _, ok := e.Read(id)
	switch {
	case !ok:
		return "gone"
	case v.Quality.IsBad():
		return "bad: " + string(v.Quality.Reason())
	}
	return v.Text()
}

func (e *Engine) feed(ms int, kv ...any) {
	var batch []Update
	for i := 0; i < len(kv); i += 2 {
		slot, _ := e.prog.Slot(kv[i].(string))
		batch = append(batch, Update{slot, value.Int(value.INT, int64(kv[i+1].(int))).At(at(ms))})
	}
	e.Update(batch, at(ms))
}

func expect(t *testing.T, e *Engine, when string, want ...string) {
	t.Helper()
	for i := 0; i < len(want); i += 2 {
		if got := e.show(want[i]); got != want[i+1] {
			t.Errorf("%s: %s is %q, want %q", when, want[i], got, want[i+1])
		}
	}
}

func TestScalingAndComputedTagsInOrder(t *testing.T) {
	e := New(Compile(yard(t), nil, Options{}), t0)
	expect(t, e, "at first", "dry", "bad: no value has come yet", "gap", "bad: a value it needs is bad", "note", "hello")
	e.feed(10, "dry", 715, "wet", 690)
	expect(t, e, "with values", "dry", "71.5", "gap", "2.5", "narrow", "true")
	e.feed(20, "wet", 585)
	expect(t, e, "wider", "gap", "13", "narrow", "false")
}

func TestBadQualityFlowsAndHeals(t *testing.T) {
	e := New(Compile(yard(t), nil, Options{}), t0)
	e.feed(10, "dry", 715, "wet", 585)
	slot, _ := e.prog.Slot("wet")
	e.Update([]Update{{slot, value.Bad(value.INT, value.BadNoAnswer)}}, at(20))
	expect(t, e, "silent", "wet", "bad: the device does not answer", "gap", "bad: a value it needs is bad", "dry", "71.5")
	e.feed(30, "wet", 600)
	expect(t, e, "again", "gap", "11.5")
}

func TestStaleAfterThreePolls(t *testing.T) {
	e := New(Compile(yard(t), nil, Options{}), t0)
	e.feed(0, "dry", 715, "wet", 585)
	e.Tick(at(900))
	e.feed(950, "wet", 585)
	expect(t, e, "900 ms", "dry", "71.5")
	e.Tick(at(1200))
	expect(t, e, "1200 ms without a value", "dry", "bad: no fresh value for three polls", "wet", "58.5", "gap", "bad: a value it needs is bad")
	e.feed(1300, "dry", 715)
	expect(t, e, "back", "dry", "71.5", "gap", "13")
}

func TestApplyCarriesState(t *testing.T) {
	p := yard(t)
	e := New(Compile(p, nil, Options{}), t0)
	e.feed(0, "dry", 715, "wet", 585, "mode", 2)
	e.SetInternal("note", value.Str("kept"), at(5))
	p2 := edit(t, p,
		[3]string{"dry", "/scale", `{"rawLow":0,"rawHigh":1200,"engLow":0,"engHigh":240}`},
		[3]string{"mode", "/address", `"input:9"`},
		[3]string{"new", "", dev("New", "input:5", "")},
		[3]string{"narrow", "", ""})
	before, _ := e.prog.Slot("wet")
	e.Apply(Compile(p2, e.prog, Options{}), at(10))
	after, _ := e.prog.Slot("wet")
	if before != after {
		t.Error("a slot moved")
	}
	expect(t, e, "after the edit", "dry", "143", "wet", "58.5", "gap", "84.5", "note", "kept", "mode", "bad: no value has come yet",
		"narrow", "gone", "new", "bad: no value has come yet")
	p3 := edit(t, p2, [3]string{"narrow", "", `{"name":"Narrow","type":"BOOL","source":"computed","formula":"Gap < 5"}`})
	e.Apply(Compile(p3, e.prog, Options{}), at(20))
	expect(t, e, "brought back", "narrow", "false")
	e.feed(25, "dry", 300)
	expect(t, e, "computed after two edits", "gap", "1.5", "narrow", "true")
}

func TestAFormulaSeesAChangedKind(t *testing.T) {
	p := edit(t, yard(t), [3]string{"twice", "", `{"name":"Twice","type":"LREAL","source":"computed","formula":"Mode * 2"}`})
	e := New(Compile(p, nil, Options{}), t0)
	e.feed(0, "mode", 3)
	expect(t, e, "plain", "twice", "6")
	p = edit(t, p, [3]string{"mode", "/scale", `{"rawLow":0,"rawHigh":10,"engLow":0,"engHigh":1}`})
	e.Apply(Compile(p, e.prog, Options{}), at(5))
	expect(t, e, "the mode is now an LREAL", "mode", "0.3", "twice", "0.6")
}

func TestARingIsBrokenAndNothingElse(t *testing.T) {
	p := edit(t, yard(t), [3]string{"a", "", `{"name":"A","type":"LREAL","source":"computed","formula":"DryBulb"}`},
		[3]string{"b", "", `{"name":"B","type":"LREAL","source":"computed","formula":"A + 1"}`}, [3]string{"a", "/formula", `"B + 1"`})
	e := New(Compile(p, nil, Options{}), t0)
	e.feed(0, "dry", 715, "wet", 585)
	expect(t, e, "ring", "a", "bad: its definition has a mistake", "b", "bad: its definition has a mistake", "gap", "13")
}

func TestSubscriptionsGetTheNewestOnly(t *testing.T) {
	p := yard(t)
	e := New(Compile(p, nil, Options{}), t0)
	s := e.Subscribe([]string{"gap", "dry", "later"})
	vals := make([]value.Value, 3)
	if fresh := s.Take(vals, nil, nil); len(fresh) != 3 {
		t.Errorf("first take: %v", fresh)
	}
	e.feed(0, "dry", 715, "wet", 585)
	e.feed(1, "dry", 720)
	if fresh := s.Take(vals, nil, nil); len(fresh) != 0 {
		t.Error("nothing goes out before a tick")
	}
	e.Tick(at(50))
	<-s.Changed()
	if fresh := s.Take(vals, nil, nil); len(fresh) != 2 || vals[1].Text() != "72" || vals[0].Text() != "13.5" {
		t.Errorf("fresh %v, %q, %q", fresh, vals[1].Text(), vals[0].Text())
	}
	e.Apply(Compile(edit(t, p, [3]string{"later", "", dev("Later", "input:7", "")}), e.prog, Options{}), at(60))
	e.feed(70, "later", 5)
	e.Tick(at(100))
	s.Take(vals, nil, nil)
	if vals[2].Text() != "5" {
		t.Errorf("a tag that came later: %q, %v", vals[2].Text(), vals[2].Quality.Reason())
	}
	e.Unsubscribe(s)
	e.feed(110, "dry", 1)
	e.Tick(at(150))
	if fresh := s.Take(vals, nil, nil); len(fresh) != 0 {
		t.Error("an ended subscription still gets values")
	}
}

func TestUpdateDoesNotAllocate(t *testing.T) {
	e := New(Compile(yard(t), nil, Options{}), t0)
	slot, _ := e.prog.Slot("dry")
	batch := []Update{{slot, value.Int(value.INT, 700)}}
	i := int64(0)
	if n := testing.AllocsPerRun(200, func() {
		i++
		batch[0].Value = value.Int(value.INT, i%1000)
		e.Update(batch, at(int(i)))
	}); n != 0 {
		t.Errorf("%v allocations an update", n)
	}
}

func TestRunner(t *testing.T) {
	r := Run(Compile(yard(t), nil, Options{}), nil, nil, nil)
	defer r.Close()
	var sub *Sub
	var slot int32
	r.Do(func(e *Engine) { sub = e.Subscribe([]string{"dry"}); slot, _ = e.prog.Slot("dry") })
	<-sub.Changed()
	vals := make([]value.Value, 1)
	sub.Take(vals, nil, nil)
	r.Push([]Update{{slot, value.Int(value.INT, 715)}})
	select {
	case <-sub.Changed():
	case <-time.After(5 * time.Second):
		t.Fatal("no change came")
	}
	if sub.Take(vals, nil, nil); vals[0].Text() != "71.5" {
		t.Errorf("%q", vals[0].Text())
	}
	if age := time.Since(r.Beat()); age > 2*time.Second {
		t.Errorf("the last beat is %v old", age)
	}
}
