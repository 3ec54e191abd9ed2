package project

import (
	"strings"
	"testing"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/equipment"
)

// alarmed is kilns with an alarm on each chamber and one on each fan.
func alarmed(t *testing.T) *Project {
	hot := equipment.TypeAlarm{Differs: equipment.AlarmUsual,
		Alarm: alarm.Alarm{Name: "Hot", Tag: ".dry", Kind: alarm.HighLimit, Limit: "80 + base / 100", Priority: alarm.High,
			Message: "{name} at {value:0.0}, limit {limit:0}, fan {Fan[2].Speed:0}", Guidance: alarm.Guidance{Action: "Look into {name}"}}}
	fast := equipment.TypeAlarm{Alarm: alarm.Alarm{Name: "Fan {i} fast", Tag: ".speed", Kind: alarm.HighLimit, Limit: "90",
		Priority: alarm.Low, Suppress: "Speed == 0", Message: "{value} of {name}"}}
	return edited(t, kilns(t), put(KindType, "chamber", "/alarms", map[string]any{"warm": hot}),
		put(KindType, "fan", "/alarms", map[string]any{"fast": fast}))
}

func TestEquipmentHasTheAlarmsOfItsType(t *testing.T) {
	p := alarmed(t)
	if len(p.Alarms) != 10+20 {
		t.Fatalf("%d alarms", len(p.Alarms))
	}
	a := p.ShownAlarm(p.Alarms["k3.warm"])
	if a.Tag != "k3.dry" || a.Limit != "80 + 300 / 100" || a.Group != "Kiln3" || a.Guidance.Action != "Look into Kiln3" ||
		a.Message != `Kiln3 at {value:0.0}, limit {limit:0}, fan {North.Kiln3.Fan[2].Speed:0}` {
		t.Errorf("%+v", a)
	}
	f := p.ShownAlarm(p.Alarms["k3.fan.2.fast"])
	if f.Name != "Fan 2 fast" || f.Tag != "k3.fan.2.speed" || f.Suppress != "North.Kiln3.Fan[2].Speed == 0" || f.Group != "Kiln3" {
		t.Errorf("%+v", f)
	}
	for _, f := range p.Findings() {
		if f.Kind == KindAlarm && f.Severity == Error {
			t.Errorf("%s at %s%s", f.Rule, f.ID, f.Place)
		}
	}
	doc, _ := p.Shown(KindType, "chamber")
	if !strings.Contains(string(doc), `"limit":"80 + base / 100"`) || !strings.Contains(string(doc), `fan {Fan[2].Speed:0}`) {
		t.Errorf("%s", doc)
	}
	q, err := Load(p.Entities())
	if err != nil || len(q.Alarms) != 30 || *q.Alarms["k3.warm"] != *p.Alarms["k3.warm"] {
		t.Errorf("saved and loaded: %v", err)
	}
}

func TestAnAlarmOfOneInstanceDiffers(t *testing.T) {
	p := alarmed(t)
	q, changes, err := p.Edit([]Op{put(KindAlarm, "k3.warm", "/limit", "North.Kiln4.DryBulb + 1")})
	if err != nil {
		t.Fatal(err)
	}
	if got := q.ShownAlarm(q.Alarms["k3.warm"]).Limit; got != "North.Kiln4.DryBulb + 1" {
		t.Errorf("limit %s", got)
	}
	g, _ := q.GearAlarm("k3.warm")
	if len(g.Own) != 1 || g.Own[0] != "limit" || q.Alarms["k4.warm"] != p.Alarms["k4.warm"] {
		t.Errorf("%+v; another chamber's alarm is a new one: %t", g, q.Alarms["k4.warm"] != p.Alarms["k4.warm"])
	}
	if !strings.Contains(string(mustJSON(q.Equipment["k3"])), "{k4.dry|") {
		t.Error("what the instance has for itself is not kept by ids")
	}
	// A new limit at the type leaves it; the old one set again takes it away.
	r := edited(t, q, put(KindType, "chamber", "/alarms/warm/limit", "70"))
	if r.Alarms["k3.warm"].Limit == "70" || r.Alarms["k4.warm"].Limit != "70" {
		t.Errorf("%s %s", r.Alarms["k3.warm"].Limit, r.Alarms["k4.warm"].Limit)
	}
	r = edited(t, r, put(KindAlarm, "k3.warm", "/limit", "70"))
	if len(r.Equipment["k3"].Differs) != 0 {
		t.Errorf("%v", r.Equipment["k3"].Differs)
	}
	if back, _, err := q.Revert(changes); err != nil || *back.Alarms["k3.warm"] != *p.Alarms["k3.warm"] {
		t.Errorf("undone: %v", err)
	}
	for path, v := range map[string]any{"/priority": "low", "": nil} {
		if _, _, err := p.Edit([]Op{put(KindAlarm, "k3.warm", path, v)}); err == nil ||
			!strings.Contains(err.Error(), "comes of the type Chamber") {
			t.Errorf("%s: %v", path, err)
		}
	}
}

func TestAlarmsGoWithTheirEquipment(t *testing.T) {
	p := alarmed(t)
	e, err := p.EffectOf([]Op{put(KindType, "fan", "/alarms/fast/limit", "95")})
	if err != nil || e.Changed != 20 || !strings.Contains(strings.Join(e.Lines, "\n"), "Fan 2 fast: limit 90 → 95") {
		t.Errorf("%+v %v", e, err)
	}
	ops, err := p.Detach("k3")
	if err != nil {
		t.Fatal(err)
	}
	q := edited(t, p, ops...)
	if len(q.Alarms) != 30 || *q.ShownAlarm(q.Alarms["k3.warm"]) != *p.ShownAlarm(p.Alarms["k3.warm"]) {
		t.Errorf("detached: %d alarms", len(q.Alarms))
	}
	if _, of := q.GearAlarm("k3.warm"); of {
		t.Error("a detached alarm is still of equipment")
	}
	r := edited(t, p, put(KindEquipment, "k3", "", nil))
	if len(r.Alarms) != 27 {
		t.Errorf("%d alarms after an instance went", len(r.Alarms))
	}
	for place, a := range map[string]equipment.TypeAlarm{"/alarms/x/tag": {Alarm: alarm.Alarm{Name: "x", Tag: "limit", Kind: alarm.State,
		Priority: alarm.Low}},
		"/alarms/x/differs": {Alarm: alarm.Alarm{Name: "x", Tag: ".dry", Kind: alarm.State, Priority: alarm.Low}, Differs: []string{"kind"}}} {
		_, _, err := p.Edit([]Op{put(KindType, "chamber", "/alarms/x", a)})
		if r, ok := err.(*Refusal); !ok || r.Path != place {
			t.Errorf("%s: %v", place, err)
		}
	}
}
