package engine

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
)

func withAlarm(t testing.TB, p *project.Project, id, doc string) *project.Project {
	t.Helper()
	next, _, err := p.Edit([]project.Op{{Kind: project.KindAlarm, ID: id, Value: json.RawMessage(doc)}})
	if err != nil {
		t.Fatal(err)
	}
	return next
}

const (
	dryHigh = `{"name":"Dry high","tag":"dry","kind":"high","limit":"80","deadband":2,"onDelay":1,"priority":"high","message":"{value:0.0} above {limit:0}, gap {Gap:0.0}"}`
	gapLow  = `{"name":"Gap small","tag":"gap","kind":"low","limit":"5","priority":"medium","message":"gap {value:0.0}","suppress":"Mode == 0"}`
	lost    = `{"name":"Probe","tag":"wet","kind":"quality","priority":"low","message":"lost"}`
)

func (e *Engine) give(t testing.TB, now time.Time, raws ...any) {
	t.Helper()
	var batch []Update
	for i := 0; i < len(raws); i += 2 {
		slot, ok := e.prog.Slot(raws[i].(string))
		if !ok {
			t.Fatalf("no %v", raws[i])
		}
		v := value.Bad(value.INT, value.BadRefused)
		if n, ok := raws[i+1].(int); ok {
			v = value.Int(value.INT, int64(n))
		}
		batch = append(batch, Update{slot, v.At(now)})
	}
	e.Update(batch, now)
}

func (e *Engine) told() string {
	var out []string
	for _, ev := range e.TakeAlarmEvents() {
		line := ev.Alarm + " " + string(ev.On) + "→" + string(ev.To)
		if ev.On == alarm.Raise {
			line += " (" + ev.Now.Text + ")"
		}
		out = append(out, line)
	}
	return strings.Join(out, "; ")
}

func TestAlarmsFollowTheirTags(t *testing.T) {
	p := withAlarm(t, withAlarm(t, withAlarm(t, yard(t), "a-dry", dryHigh), "a-gap", gapLow), "a-wet", lost)
	e := New(Compile(p, nil, Options{}), t0)
	e.give(t, at(0), "dry", 700, "wet", 600, "mode", 1)
	if got := e.told(); got != "" {
		t.Fatalf("at first: %s", got)
	}
	e.give(t, at(100), "dry", 810)
	e.Tick(at(500))
	if got := e.told(); got != "" {
		t.Errorf("before the delay: %s", got)
	}
	e.give(t, at(600), "wet", 620, "dry", 810, "mode", 1)
	e.Tick(at(1150))
	if got := e.told(); got != "a-dry raised→unacknowledged (81.0 above 80, gap 19.0)" {
		t.Errorf("after the delay: %s", got)
	}
	e.give(t, at(1200), "dry", 790)
	if got := e.told(); got != "" {
		t.Errorf("within the deadband: %s", got)
	}
	e.give(t, at(1300), "dry", 650)
	if got := e.told(); got != "a-dry cleared→returned; a-gap raised→unacknowledged (gap 3.0)" {
		t.Errorf("back, and too near: %s", got)
	}
	// Its suppression by design follows another tag.
	e.give(t, at(1400), "mode", 0)
	if got := e.told(); got != "a-gap suppressed→suppressed" {
		t.Errorf("suppressed: %s", got)
	}
	e.give(t, at(1500), "wet", "gone")
	if got := e.told(); got != "a-wet raised→unacknowledged (lost)" {
		t.Errorf("a probe is lost; the alarm on the gap keeps its state: %s", got)
	}
	if !e.ActOnAlarm("a-dry", alarm.Ack, at(1600), time.Time{}, "tom", "") ||
		e.ActOnAlarm("a-dry", alarm.Ack, at(1600), time.Time{}, "tom", "") {
		t.Error("an acknowledgement counts once")
	}
	if got := e.told(); got != "a-dry acknowledged→normal" {
		t.Errorf("acknowledged: %s", got)
	}
}

// A release changes limits and keeps states; a restart does too.
func TestAReleaseAndARestartKeepAlarms(t *testing.T) {
	p := withAlarm(t, yard(t), "a-dry", dryHigh)
	prog := Compile(p, nil, Options{})
	e := New(prog, t0)
	e.give(t, at(0), "dry", 900, "wet", 600)
	e.give(t, at(900), "dry", 900, "wet", 600)
	e.Tick(at(1500))
	e.ActOnAlarm("a-dry", alarm.Shelve, at(2000), at(60_000), "tom", "noise")
	e.told()
	kept := map[string]alarm.Kept{}
	for _, a := range e.Alarms() {
		kept[a.ID] = a.Kept
	}
	p2 := withAlarm(t, p, "a-dry", strings.Replace(dryHigh, `"limit":"80"`, `"limit":"85"`, 1))
	e.Apply(Compile(p2, prog, Options{}), at(3000))
	if a := e.Alarms()[0]; a.Standing != alarm.Shelved || a.Reason != "noise" || a.Limit != "85" || e.told() != "" {
		t.Errorf("after a release: %+v", a)
	}
	again := New(Compile(p2, nil, Options{}), at(5000))
	again.Keep(kept, at(5000))
	if a := again.Alarms()[0]; a.Standing != alarm.Shelved || !a.Until.Equal(at(60_000)) || again.told() != "" {
		t.Errorf("after a restart: %+v", a)
	}
	for ms := 5100; ms < 61_000; ms += 500 {
		again.give(t, at(ms), "dry", 900, "wet", 600)
		again.Tick(at(ms))
	}
	again.Tick(at(61_000))
	if got := again.told(); got != "a-dry unshelved→unacknowledged" {
		t.Errorf("the shelf is over: %s", got)
	}
}

// A flood: every change of state is told, in order.
func TestNothingIsLostInAFlood(t *testing.T) {
	p := yard(t)
	var ops []project.Op
	for i := range 500 {
		ops = append(ops, project.Op{Kind: project.KindTag, ID: fmt.Sprintf("x%d", i),
			Value: json.RawMessage(dev(fmt.Sprintf("X%d", i), fmt.Sprintf("holding:%d", i), ""))},
			project.Op{Kind: project.KindAlarm, ID: fmt.Sprintf("a%d", i),
				Value: json.RawMessage(fmt.Sprintf(`{"name":"X","tag":"x%d","kind":"high","limit":"10","priority":"low","message":"{value}"}`, i))})
	}
	p, _, err := p.Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	e := New(Compile(p, nil, Options{}), t0)
	total, last := 0, map[string]alarm.Standing{}
	for round := range 20 {
		v := 0
		if round%2 == 0 {
			v = 20
		}
		var batch []Update
		for i := range 500 {
			slot, _ := e.prog.Slot(fmt.Sprintf("x%d", i))
			batch = append(batch, Update{slot, value.Int(value.INT, int64(v)).At(at(round))})
		}
		e.Update(batch, at(round))
		for _, ev := range e.TakeAlarmEvents() {
			total++
			if was, ok := last[ev.Alarm]; ok && was != ev.From {
				t.Fatalf("%s goes from %s after %s", ev.Alarm, ev.From, was)
			}
			last[ev.Alarm] = ev.To
		}
	}
	if total != 10_000 {
		t.Errorf("%d changes of state told, not 10000", total)
	}
}

// A message comes in every language of the project that has a wording for it,
// with the values of the moment; another wording counts from the next time.
func TestMessagesInTheProjectsLanguages(t *testing.T) {
	p := alarmProject(t, `{"name":"High","tag":"t-in","kind":"high","limit":"80","priority":"low","message":"At {value:0.0}, limit {limit:0}"}`)
	words := func(p *project.Project, text string) *project.Project {
		q, _, err := p.Edit([]project.Op{{Kind: project.KindSite, ID: project.SiteID, Path: "/languages", Value: []byte(`["en","de","fr"]`)},
			{Kind: project.KindWords, ID: "de", Value: []byte(`{"words":{"At {value:0.0}, limit {limit:0}":"` + text + `"}}`)}})
		if err != nil {
			t.Fatal(err)
		}
		return q
	}
	p = words(p, "Bei {value:0.0}, Grenze {limit:0}")
	if doc, _ := p.Shown(project.KindWords, "de"); !strings.Contains(string(doc), "At {value:0.0}, limit {limit:0}") {
		t.Errorf("shown as %s", doc)
	}
	e := New(Compile(p, nil, Options{}), midnight)
	raise := func() alarm.Kept {
		e.SetInternal("t-in", value.Real(value.LREAL, 0), midnight)
		e.SetInternal("t-in", value.Real(value.LREAL, 85), midnight)
		return e.Alarms()[0].Kept
	}
	k := raise()
	if k.Text != "At 85.0, limit 80" || len(k.Texts) != 1 || k.Texts["de"] != "Bei 85.0, Grenze 80" {
		t.Errorf("%q %v", k.Text, k.Texts)
	}
	e.Apply(Compile(words(p, "Nun {value:0}"), e.Program(), Options{}), midnight)
	if k = raise(); k.Texts["de"] != "Nun 85" {
		t.Errorf("after another wording: %v", k.Texts)
	}
}

// A device with 1,000 points goes: one alarm comes, that of its link; what
// stood stands still, and what is back is as before.
func TestADeviceOfAThousandPointsIsLost(t *testing.T) {
	ops := []project.Op{{Kind: project.KindDevice, ID: "d",
		Value: []byte(`{"name":"PLC","protocol":"modbus-tcp","host":"127.0.0.1","port":502,"unit":1,"order":"ABCD","numbering":0,"poll":1000,"timeout":500,"maxGap":8,"maxBlock":125}`)},
		{Kind: project.KindTag, ID: "up", Value: []byte(`{"name":"Up","type":"BOOL","source":"system","system":"link.up","device":"d"}`)},
		{Kind: project.KindAlarm, ID: "link", Value: []byte(`{"name":"Link lost","tag":"up","kind":"state","inverted":true,"priority":"high","message":"lost"}`)}}
	const points = 1000
	for i := range points {
		kind := []string{`"high","limit":"80"`, `"quality"`, `"rate","limit":"5","window":10`}[i%3]
		ops = append(ops, project.Op{Kind: project.KindTag, ID: fmt.Sprintf("t%d", i),
			Value: fmt.Appendf(nil, `{"name":"T%d","type":"INT","source":"device","device":"d","access":"read","address":"holding:%d"}`, i, i)},
			project.Op{Kind: project.KindAlarm, ID: fmt.Sprintf("a%d", i),
				Value: fmt.Appendf(nil, `{"name":"A","tag":"t%d","kind":%s,"priority":"low","message":"x"}`, i, kind)})
	}
	p, _, err := project.New("Yard").Edit(ops)
	if err != nil {
		t.Fatal(err)
	}
	e := New(Compile(p, nil, Options{}), midnight)
	all := func(v value.Value, now time.Time) {
		batch := make([]Update, points)
		for i := range batch {
			slot, _ := e.Program().Slot(fmt.Sprintf("t%d", i))
			batch[i] = Update{slot, v.At(now)}
		}
		e.Update(batch, now)
	}
	link := func(on bool, now time.Time) {
		slot, _ := e.Program().Slot("up")
		e.SetSystem(slot, value.Bool(on), now)
	}
	link(true, midnight)
	all(value.Int(value.INT, 50), midnight)
	slot, _ := e.Program().Slot("t0")
	e.Update([]Update{{slot, value.Int(value.INT, 90).At(midnight)}}, midnight)
	if got := e.told(); got != "a0 raised→unacknowledged (x)" {
		t.Fatalf("before: %s", got)
	}
	link(false, midnight.Add(time.Second))
	all(value.Bad(value.INT, value.BadNoAnswer), midnight.Add(time.Second))
	e.Tick(midnight.Add(20 * time.Second)) // by then every value is stale as well
	if got := e.told(); got != "link raised→unacknowledged (lost)" {
		t.Errorf("lost: %s", got)
	}
	unknown := 0
	for _, a := range e.Alarms() {
		if a.Bad {
			unknown++
		}
	}
	if unknown != points {
		t.Errorf("%d alarms are not known", unknown)
	}
	all(value.Int(value.INT, 50), midnight.Add(30*time.Second))
	link(true, midnight.Add(30*time.Second))
	if got := e.told(); got != "a0 cleared→returned; link cleared→returned" {
		t.Errorf("back: %s", got)
	}
}

// An alarm that a release takes out and a later one brings back goes on from
// where it was.
func TestAnAlarmThatComesBackWithALaterRelease(t *testing.T) {
	p := alarmProject(t, `{"name":"High","tag":"t-in","kind":"high","limit":"80","priority":"low"}`)
	without, _, err := p.Edit([]project.Op{{Kind: project.KindAlarm, ID: "a"}})
	if err != nil {
		t.Fatal(err)
	}
	e := New(Compile(p, nil, Options{}), midnight)
	e.SetInternal("t-in", value.Real(value.LREAL, 85), midnight)
	e.ActOnAlarm("a", alarm.Ack, midnight, time.Time{}, "tom", "")
	e.TakeAlarmEvents()
	e.Apply(Compile(without, e.Program(), Options{}), midnight)
	e.Apply(Compile(p, e.Program(), Options{}), midnight)
	if a := e.Alarms()[0]; a.Standing != alarm.Acknowledged || e.told() != "" {
		t.Errorf("%+v", a)
	}
}

// A text for going is filled when the alarm goes, and is said of that alone:
// what stands keeps what was said when it came.
func TestATextForGoing(t *testing.T) {
	p := alarmProject(t, `{"name":"High","tag":"t-in","kind":"high","limit":"80","priority":"low","message":"At {value:0.0}","gone":"Back at {value:0.0}, below {limit:0}"}`)
	e := New(Compile(p, nil, Options{}), midnight)
	e.SetInternal("t-in", value.Real(value.LREAL, 85), midnight)
	e.SetInternal("t-in", value.Real(value.LREAL, 71.5), midnight)
	var said []string
	for _, h := range e.TakeAlarmEvents() {
		said = append(said, string(h.On)+": "+h.Text+" "+h.Value)
	}
	if got := strings.Join(said, "; "); got != "raised: At 85.0 85; cleared: Back at 71.5, below 80 71.5" {
		t.Error(got)
	}
	if k := e.Alarms()[0].Kept; k.Text != "At 85.0" || k.Value != "85" {
		t.Errorf("%+v", k)
	}
}
