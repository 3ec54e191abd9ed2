package engine

import (
	"math"
	"testing"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
)

var midnight = time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)

func samples(at ...float64) (out []history.Sample) {
	for i := 0; i+1 < len(at); i += 2 {
		out = append(out, history.Sample{At: midnight.Add(time.Duration(at[i] * float64(time.Second))).UnixNano(), Value: at[i+1],
			Quality: value.Good})
	}
	return out
}

func spells(r Replayed) (out []float64) {
	for _, s := range r.Spells {
		out = append(out, s.From.Sub(midnight).Seconds())
		if !s.To.IsZero() {
			out = append(out, s.To.Sub(midnight).Seconds())
		}
	}
	return out
}

func TestReplayByHand(t *testing.T) {
	p := alarmProject(t, `{"name":"High","tag":"t-in","kind":"high","limit":"80","priority":"low","suppress":"Off","message":"At {value:0.0}"}`)
	base := *p.Alarms["a"]
	course := Course{"t-in": samples(0, 70, 10, 85, 20, 79, 25, 85, 60, 70, 100, 90), "t-off": samples(0, 0)}
	for _, c := range []struct {
		name   string
		change func(*alarm.Alarm)
		course Course
		want   []float64
	}{
		{"as it is", func(*alarm.Alarm) {}, course, []float64{10, 20, 25, 60, 100}},
		{"a deadband bridges the dip", func(a *alarm.Alarm) { a.Deadband = 2 }, course, []float64{10, 60, 100}},
		{"so does an off-delay", func(a *alarm.Alarm) { a.OffDelay = 6 }, course, []float64{10, 66, 100}},
		{"an on-delay shortens it", func(a *alarm.Alarm) { a.OnDelay = 15 }, course, []float64{40, 60, 115}},
		{"a latched one is told by its condition", func(a *alarm.Alarm) { a.Latch = true }, course, []float64{10, 20, 25, 60, 100}},
		{"suppressed from 30 s on", func(*alarm.Alarm) {}, Course{"t-in": course["t-in"], "t-off": samples(0, 0, 30, 1)},
			[]float64{10, 20, 25, 30}},
		{"another limit", func(a *alarm.Alarm) { a.Limit = "88" }, course, []float64{100}},
	} {
		a := base
		c.change(&a)
		got, err := Replay(p, &a, c.course, midnight, midnight.Add(2*time.Minute))
		if err != nil {
			t.Fatal(err)
		}
		list := spells(got)
		if text := got.Texts[0]; text != "At 85.0" && text != "At 90.0" {
			t.Errorf("%s: %q", c.name, text)
		}
		same := len(list) == len(c.want)
		for i := range list {
			same = same && list[i] == c.want[i]
		}
		if !same {
			t.Errorf("%s: %v, not %v", c.name, list, c.want)
		}
	}
}

func TestCuresAreTheSmallestThatHelp(t *testing.T) {
	p := alarmProject(t, `{"name":"High","tag":"t-in","kind":"high","limit":"80","priority":"low"}`)
	a := p.Alarms["a"]
	// Noise of 0.6 about the limit for a minute, every five seconds, then a
	// real excursion.
	var at []float64
	for i := range 12 {
		at = append(at, float64(i)*5, 80.3, float64(i)*5+3, 79.7)
	}
	at = append(at, 70, 60, 300, 95, 400, 60)
	course := Course{"t-in": samples(at...)}
	cures, err := Cures(p, a, course, midnight, midnight.Add(10*time.Minute))
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]Cure{}
	for _, c := range cures {
		got[c.Setting] = c
	}
	if c := got["deadband"]; c.Value != 0.5 || c.Count != 2 {
		t.Errorf("deadband %+v", c)
	}
	if c := got["offDelay"]; c.Value != 2 || c.Count != 2 {
		t.Errorf("off-delay %+v", c)
	}
	if c := got["onDelay"]; c.Value != 5 || c.Count != 1 {
		t.Errorf("on-delay %+v", c)
	}
	quiet := Course{"t-in": samples(0, 70, 60, 90, 200, 70)}
	if list, err := Cures(p, a, quiet, midnight, midnight.Add(10*time.Minute)); err != nil || list != nil {
		t.Errorf("a quiet alarm is cured by %v %v", list, err)
	}
	broken := *a
	broken.Limit = ""
	if _, err := Replay(p, &broken, course, midnight, midnight.Add(time.Minute)); err == nil {
		t.Error("an alarm without limit was played")
	}
}

// A played life of an alarm is the life that it had in the engine.
func TestReplayIsWhatTheEngineDid(t *testing.T) {
	p := alarmProject(t, `{"name":"High","tag":"t-in","kind":"high","limit":"80","priority":"low","deadband":1,"onDelay":3,"offDelay":2,"noAck":true}`)
	e := New(Compile(p, nil, Options{}), midnight)
	filter := history.Filter{Band: 0}
	var kept []history.Sample
	var room []value.Value
	var told []float64
	for i := range 2000 {
		now := midnight.Add(time.Duration(i) * time.Second / 4)
		v := 80 + 4*math.Sin(float64(i)/40) + float64((i*7919)%13-6)*0.1
		e.SetInternal("t-in", value.Real(value.LREAL, v), now)
		e.Tick(now)
		room = filter.Take(value.Real(value.LREAL, v).At(now), room[:0])
		for _, x := range room {
			kept = append(kept, history.Sample{At: x.Nanos(), Value: x.Float(), Quality: x.Quality})
		}
		for _, x := range e.TakeAlarmEvents() {
			if x.On == alarm.Raise || x.On == alarm.Clear {
				told = append(told, x.At.Sub(midnight).Seconds())
			}
		}
	}
	r, err := Replay(p, p.Alarms["a"], Course{"t-in": kept}, midnight, midnight.Add(500*time.Second))
	if err != nil {
		t.Fatal(err)
	}
	played := spells(r)
	if len(told) < 6 || len(told) != len(played) {
		t.Fatalf("the engine told %v, played %v", told, played)
	}
	for i := range told {
		if told[i] != played[i] {
			t.Errorf("the engine told %v, played %v", told, played)
			break
		}
	}
}

func alarmProject(t *testing.T, alarmDoc string) *project.Project {
	t.Helper()
	p, _, err := project.New("Yard").Edit([]project.Op{
		{Kind: project.KindTag, ID: "t-in", Value: []byte(`{"name":"Signal","type":"LREAL","source":"internal"}`)},
		{Kind: project.KindTag, ID: "t-off", Value: []byte(`{"name":"Off","type":"BOOL","source":"internal"}`)},
		{Kind: project.KindAlarm, ID: "a", Value: []byte(alarmDoc)},
	})
	if err != nil {
		t.Fatal(err)
	}
	return p
}
