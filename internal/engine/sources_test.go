package engine

import (
	"testing"

	"readyrail/internal/core/value"
)

func (e *Engine) quality(id string) value.Quality {
	v, _, _ := e.Read(id)
	return v.Quality
}

func TestAHeldTagKeepsItsValueUntilGivenBack(t *testing.T) {
	p := edit(t, yard(t), [3]string{"count", "", `{"name":"Count","type":"INT","source":"internal","initial":"3"}`})
	e := New(Compile(p, nil, Options{}), t0)
	e.feed(0, "dry", 715, "wet", 585)
	e.Hold("dry", value.Real(value.LREAL, 60), at(1))
	e.Hold("narrow", value.Bool(false), at(1))
	e.Hold("count", value.Int(value.INT, 9), at(1))
	expect(t, e, "held", "dry", "60", "gap", "1.5", "narrow", "false", "count", "9")
	if q := e.quality("dry"); q != value.Held || e.quality("gap") != value.Good {
		t.Errorf("qualities %v, %v", q, e.quality("gap"))
	}
	e.feed(2, "dry", 800)
	e.SetInternal("count", value.Int(value.INT, 4), at(2))
	e.Tick(at(5000))
	expect(t, e, "the source goes on below", "dry", "60", "count", "9")
	e.feed(5001, "dry", 800, "wet", 585)
	e.Apply(Compile(edit(t, p, [3]string{"mode", "/unit", `"x"`}), e.prog, Options{}), at(5002))
	expect(t, e, "after an edit", "dry", "60", "narrow", "false", "count", "9")
	for _, id := range []string{"dry", "narrow", "count"} {
		e.GiveBack(id, at(5003))
	}
	expect(t, e, "given back", "dry", "80", "gap", "21.5", "narrow", "false", "count", "4")
	e.feed(5004, "dry", 600)
	expect(t, e, "and alive", "dry", "60", "narrow", "true")
}

func TestSystemTagsAndRetained(t *testing.T) {
	p := edit(t, yard(t),
		[3]string{"h", "", `{"name":"Hour","type":"INT","source":"system","system":"clock.hour"}`},
		[3]string{"wd", "", `{"name":"Weekday","type":"INT","source":"system","system":"clock.weekday"}`},
		[3]string{"up", "", `{"name":"Up","type":"BOOL","source":"system","system":"link.up","device":"d1"}`},
		[3]string{"late", "", `{"name":"Late","type":"BOOL","source":"computed","formula":"Hour >= 8"}`},
		[3]string{"kept", "", `{"name":"Kept","type":"INT","source":"internal","retain":true}`})
	e := New(Compile(p, nil, Options{}), t0)
	expect(t, e, "08:00 on a Thursday", "h", "8", "wd", "4", "late", "true", "up", "bad: no value has come yet")
	for _, s := range e.Program().Systems() {
		if s.Name == "link.up" && s.Device == "d1" {
			e.SetSystem(s.Slot, value.Bool(true), at(1))
		}
	}
	expect(t, e, "told", "up", "true")
	if e.SetInternal("h", value.Int(value.INT, 3), at(2)) {
		t.Error("a system tag was written")
	}
	e.SetInternal("kept", value.Int(value.INT, 7), at(3))
	if r := e.Retained(); len(r) != 1 || r["kept"].Int() != 7 {
		t.Errorf("retained %v", r)
	}
}

func TestTagsRestWhileNobodyNeedsThem(t *testing.T) {
	p := edit(t, yard(t), [3]string{"d1", "/groups", `[{"id":"g","name":"slow","every":1000,"needed":true}]`},
		[3]string{"mode", "/group", `"g"`}, [3]string{"wet", "/group", `"g"`})
	e := New(Compile(p, nil, Options{}), t0)
	expect(t, e, "wet is used in a formula", "mode", "bad: it is read only while it is needed", "wet", "bad: no value has come yet")
	s := e.Subscribe([]string{"mode"})
	rest, changed := e.Demand(at(10))
	if len(rest) != 0 || !changed {
		t.Errorf("watched: %v, %v", rest, changed)
	}
	expect(t, e, "watched", "mode", "bad: no value has come yet")
	e.feed(20, "mode", 2)
	expect(t, e, "read", "mode", "2")
	e.Unsubscribe(s)
	if rest, changed = e.Demand(at(30)); len(rest) != 1 || !changed {
		t.Errorf("no longer watched: %v, %v", rest, changed)
	}
	expect(t, e, "at rest", "mode", "bad: it is read only while it is needed")
	if _, changed = e.Demand(at(40)); changed {
		t.Error("nothing changed")
	}
}

func TestStandIns(t *testing.T) {
	p := edit(t, yard(t),
		[3]string{"sp", "", dev("DryBulbSP", "holding:0",
			`,"access":"readwrite","scale":{"rawLow":0,"rawHigh":1200,"engLow":0,"engHigh":120},"behaviour":{"kind":"hold","low":40}`)},
		[3]string{"dry", "/behaviour", `{"kind":"follow","tag":"sp","lag":1}`},
		[3]string{"mode", "/behaviour", `{"kind":"formula","formula":"DryBulbSP > 50 ? 2 : 0"}`},
		[3]string{"wet", "/behaviour", `{"kind":"square","low":10,"high":20,"period":2}`})
	e := New(Compile(p, nil, Options{StandIn: func(string) bool { return true }}), t0)
	run := func(from, to int) {
		for ms := from; ms <= to; ms += 50 {
			e.Tick(at(ms))
		}
	}
	run(0, 100)
	expect(t, e, "begin", "sp", "40", "dry", "40", "mode", "0", "wet", "10")
	if !e.SetStandIn("sp", value.Real(value.LREAL, 60), at(100)) {
		t.Fatal("a stand-in was not written")
	}
	run(150, 1100)
	v, raw, _ := e.Read("dry")
	if f := v.Float(); f < 52 || f > 53.5 || raw.Int() != int64(f*10+0.5) {
		t.Errorf("63 %% of the way after one lag: %v, raw %d", f, raw.Int())
	}
	expect(t, e, "the others", "sp", "60", "mode", "2", "wet", "20")
	e.Apply(Compile(edit(t, p, [3]string{"wet", "/unit", `"K"`}), e.prog, e.prog.options), at(1150))
	expect(t, e, "an edit leaves them running", "sp", "60")
	if e.SetStandIn("gap", value.Real(value.LREAL, 1), at(1200)) {
		t.Error("a computed tag is on no stand-in")
	}
	plain := New(Compile(p, nil, Options{}), t0)
	plain.Tick(at(200))
	expect(t, plain, "without stand-ins", "sp", "bad: no value has come yet")
}
