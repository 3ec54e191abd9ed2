package project

import (
	"strings"
	"testing"
)

const high = `{"name":"Dry bulb high","tag":"t2","kind":"high","limit":"70 + 5","priority":"high","message":"At {value:0.0}, limit {limit:0}; gap {Kiln1.Gap:0.0}"}`

func TestAnAlarmKeepsItsNames(t *testing.T) {
	p := edited(t, larch(t), set(KindAlarm, "a1", "", high))
	if got := rules(p); got != "alarm.nobody a1; site.areas site/areas" {
		t.Errorf("findings %s", got)
	}
	p = edited(t, p, set(KindFolder, "f1", "/name", `"Chamber1"`))
	a := p.ShownAlarm(p.Alarms["a1"])
	if a.Message != "At {value:0.0}, limit {limit:0}; gap {Chamber1.Gap:0.0}" ||
		p.AlarmName(p.Alarms["a1"]) != "Chamber1.DryBulbSP · Dry bulb high" {
		t.Errorf("%q %q", a.Message, p.AlarmName(a))
	}
	uses := ""
	for _, u := range p.Uses("t3") {
		uses += u.Kind + u.Place + " "
	}
	if !strings.Contains(uses, "alarm/message") {
		t.Errorf("uses of the gap: %s", uses)
	}
	q, err := Load(p.Entities())
	if err != nil || *q.Alarms["a1"] != *p.Alarms["a1"] {
		t.Errorf("saved and loaded: %+v %v", q.Alarms["a1"], err)
	}
}

func TestFindingsOfAlarms(t *testing.T) {
	for want, ops := range map[string][]Op{
		"alarm.tag a1/tag":           {set(KindAlarm, "a1", "/tag", `"gone"`)},
		"alarm.bool a1/tag":          {set(KindAlarm, "a1", "/kind", `"state"`)},
		"alarm.missing a1/limit":     {set(KindAlarm, "a1", "/limit", "")},
		"alarm.type a1/limit":        {set(KindAlarm, "a1", "/limit", `"Kiln1.Gap > 1"`)},
		"formula a1/limit":           {set(KindAlarm, "a1", "/limit", `"Kiln1.Nothing + 1"`)},
		"alarm.missing a1/target":    {set(KindAlarm, "a1", "/kind", `"deviation"`)},
		"alarm.type a1/suppress":     {set(KindAlarm, "a1", "/suppress", `"Kiln1.Gap"`)},
		"alarm.message a1/message":   {set(KindAlarm, "a1", "/message", `" "`)},
		"formula a1/message":         {set(KindAlarm, "a1", "/message", `"at {Kiln9.X}"`)},
		"alarm.guidance a1/guidance": {set(KindAlarm, "a1", "/priority", `"critical"`)},
		"alarm.range a1/limit":       {set(KindTag, "t2", "/high", `60`), set(KindAlarm, "a1", "/limit", `"75"`)},
		"alarm.screen a1/screen":     {set(KindAlarm, "a1", "/screen", `"gone"`)},
		"alarm.order a1/limit": {set(KindAlarm, "a1", "/limit", `"80"`),
			set(KindAlarm, "a2", "", strings.NewReplacer("high", "high-high", "70 + 5",
				"80").Replace(strings.Replace(high, `"priority":"high"`, `"priority":"low"`, 1)))},
		"alarm.missing a1/condition": {set(KindAlarm, "a1", "/kind", `"formula"`)},
	} {
		p := edited(t, larch(t), append([]Op{set(KindAlarm, "a1", "", high)}, ops...)...)
		got := rules(p)
		rule, place, _ := strings.Cut(want, " ")
		found := false
		for _, f := range strings.Split(got, "; ") {
			found = found || strings.HasPrefix(f, rule) && strings.HasSuffix(f, " "+place)
		}
		if !found {
			t.Errorf("want %s, got %s", want, got)
		}
	}
}
