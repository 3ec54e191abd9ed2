package project

import (
	"strings"
	"testing"
)

func TestAListOfAlarmsComesAndComesAgain(t *testing.T) {
	p := edited(t, larch(t), set(KindAlarm, "a1", "", high))
	ids := func(string) string { return "fresh" }
	out := [][]string{AlarmHeader(), p.AlarmLine(p.Alarms["a1"])}
	list, ops, err := p.PlanAlarms(out, ids)
	if err != nil || len(ops) != 0 || list[0].From != "same" {
		t.Fatalf("its own list changes %+v %v %v", list, ops, err)
	}
	list, ops, err = p.PlanAlarms([][]string{{"Signal", "name", "limit", "onDelay", "latch", "action", "kind", "priority"},
		{"Kiln1.DryBulbSP", "dry bulb high", "Kiln1.Gap + 70", "2,5", "yes", "Open the vent", "high", "critical"},
		{"Kiln1.Gap", "Gap small", "3", "", "", "", "low", "low"},
		{"Kiln1.Nowhere", "Lost", "3", "", "", "", "low", "low"},
		{"Kiln1.Gap", "gap SMALL", "4", "", "", "", "low", "low"},
		{"Kiln1.Gap", "Odd", "4", "soon", "", "", "low", "low"},
		{"Kiln1.Gap", "Odder", "4", "", "", "", "sideways", "low"}}, ids)
	if err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(list[0].From, "limit 70 + 5 → Kiln1.Gap + 70") || !strings.Contains(list[0].From, "onDelay — → 2.5") ||
		list[1].From != "new" {
		t.Errorf("%+v", list)
	}
	for i, want := range map[int]string{2: "there is no tag", 3: "twice", 4: `onDelay: "soon" is no number`, 5: "is no kind of alarm"} {
		if !strings.Contains(list[i].Problem.String(), want) {
			t.Errorf("line %d: %q", i, list[i].Problem)
		}
	}
	q := edited(t, p, ops...)
	a := q.ShownAlarm(q.Alarms["a1"])
	if a.Limit != "Kiln1.Gap + 70" || a.OnDelay != 2.5 || !a.Latch || a.Guidance.Action != "Open the vent" || a.Message == "" ||
		len(q.Alarms) != 2 {
		t.Errorf("%+v", a)
	}
	if list, ops, _ = q.PlanAlarms([][]string{AlarmHeader(), q.AlarmLine(q.Alarms["a1"]), q.AlarmLine(q.Alarms["fresh"])},
		ids); len(ops) != 0 {
		t.Errorf("it came again as %+v", list)
	}
	for _, header := range [][]string{{"name", "colour"}, {"signal"}, {"name", "limit", "Limit"}} {
		if _, _, err := p.PlanAlarms([][]string{header}, ids); err == nil {
			t.Errorf("%v was taken", header)
		}
	}
}

// A line of an alarm of equipment becomes what the instance has for itself.
func TestAListChangesAlarmsOfEquipment(t *testing.T) {
	p := alarmed(t)
	list, ops, err := p.PlanAlarms([][]string{{"signal", "name", "limit", "priority"}, {"North.Kiln3.DryBulb", "Hot", "66", "high"},
		{"North.Kiln4.DryBulb", "Hot", "66", "low"}}, nil)
	if err != nil || !list[0].Problem.IsZero() || !strings.Contains(list[1].Problem.String(), "comes of the type Chamber") {
		t.Fatalf("%+v %v", list, err)
	}
	if q := edited(t, p, ops...); q.Alarms["k3.warm"].Limit != "66" || len(q.Equipment["k3"].Differs) != 1 {
		t.Errorf("%+v", q.Equipment["k3"].Differs)
	}
}
