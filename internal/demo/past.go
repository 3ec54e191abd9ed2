package demo

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// pastDays is how much history the demo makes up: a week, with nuisances to
// find. It ends some minutes before the demo begins.
const (
	pastDays = 7
	pastEnds = 10 * time.Minute
	pastStep = 2 * time.Minute
)

// past makes the week up: the course of every signal that has an alarm, and in
// the journal what the alarms' own rules make of it. It is the same each time.
func past(p *project.Project, now time.Time) (record.Past, error) {
	end := now.Add(-pastEnds)
	w := &week{p: p, from: end.AddDate(0, 0, -pastDays), to: end, random: rand.New(rand.NewPCG(11, 23)), course: engine.Course{}}
	w.chambers()
	w.burners()
	w.troubles()
	out, err := w.write()
	if err == nil {
		out.Logs = w.logs()
	}
	return out, err
}

type week struct {
	p        *project.Project
	from, to time.Time
	random   *rand.Rand
	course   engine.Course
}

// at is a time of the week: a day from 0, an hour of it.
func (w *week) at(day int, hour float64) time.Time {
	return w.from.Add(time.Duration(day)*24*time.Hour + time.Duration(hour*float64(time.Hour)))
}

func (w *week) put(path string, at time.Time, v float64) {
	if id, ok := w.p.FindPath(path); ok && at.Before(w.to) {
		w.course[id] = append(w.course[id], history.Sample{At: at.UnixNano(), Value: v, Quality: value.Good})
	}
}

// chambers is the drying as it goes on: temperatures that swing about their
// set points, moisture that falls.
func (w *week) chambers() {
	for k := 1; k <= 3; k++ {
		kiln := fmt.Sprintf("Kiln%d.", k)
		set := []float64{72, 74, 68}[k-1]
		w.put(kiln+"Mode", w.from, 2)
		w.put(kiln+"DryBulbSP", w.from, set)
		for path, v := range map[string]float64{"WetBulbSP": set - 12, "FanSpeedSP": 82, "TargetMoisture": 10, "ReversalMinutes": 120,
			"StepNo": 3, "FansRunning": 4, "SprayOpen": 0, "CanStart": 0} {
			w.put(kiln+path, w.from, v)
		}
		for _, quiet := range []string{"Burner.Lockout", "Fan[1].Fault", "Fan[2].Fault", "Fan[3].Fault", "Fan[4].Fault"} {
			w.put(kiln+quiet, w.from, 0)
		}
		w.put(kiln+"DoorClosed", w.from, 1)
		w.put(kiln+"VentPosition", w.from, 30+float64(5*k))
		for f := 1; f <= 4; f++ {
			fan := fmt.Sprintf("%sFan[%d].", kiln, f)
			w.put(fan+"Speed", w.from, 82)
			w.put(fan+"Running", w.from, 1)
			w.put(fan+"HandMode", w.from, 0)
		}
		for at, n := w.from, 0; at.Before(w.to); at, n = at.Add(pastStep), n+1 {
			t := at.Sub(w.from).Hours()
			dry := set + 1.8*math.Sin(t/5+float64(k)) + 0.5*math.Sin(t*2.3) + w.random.NormFloat64()*0.15
			w.put(kiln+"DryBulb", at, dry)
			depression := 12 + 1.5*math.Sin(t/9)
			w.put(kiln+"WetBulb", at, dry-depression)
			w.put(kiln+"Depression", at, depression)
			if age := w.load(k, at).age(at).Hours(); n%10 == 0 {
				w.put(kiln+"HeatValve", at, 52-0.15*age+6*math.Sin(t/5+float64(k)))
				w.put(kiln+"ElapsedHours", at, age)
				mean := 12 + 33*math.Exp(-age/26) + 2*float64(k)
				w.put(kiln+"MoistureAvg", at, mean)
				for m := 1; m <= 4; m++ {
					w.put(fmt.Sprintf("%sMoisture[%d]", kiln, m), at, mean+1.2*float64(m)-3+w.random.NormFloat64()*0.2)
				}
			}
		}
	}
	w.put("Car.EStop", w.from, 0)
	w.put("Plant.KilnLink", w.from, 1)
}

// burners light every half an hour or so, in the real order: purge, spark, gas,
// flame. Now and then the flame takes its time.
func (w *week) burners() {
	random := rand.New(rand.NewPCG(5, 17))
	for k := 1; k <= 3; k++ {
		burner := fmt.Sprintf("Kiln%d.Burner.", k)
		for _, quiet := range []string{"Call", "PurgeFan", "PurgeDone", "Spark", "GasValve", "Flame"} {
			w.put(burner+quiet, w.from, 0)
		}
		n := 0
		for call := w.from.Add(time.Duration(4*k) * time.Minute); ; n++ {
			end := call.Add(time.Duration(8+random.IntN(7)) * time.Minute)
			if !end.Add(time.Minute).Before(w.to) {
				break
			}
			after := func(seconds float64) time.Time { return call.Add(time.Duration(seconds*1000) * time.Millisecond) }
			purged := 5 + random.Float64()*0.15
			flame := purged + 1.1 + random.Float64()*0.9
			if n%97 == 60 {
				flame += 1.2
			}
			w.put(burner+"Call", call, 1)
			w.pulse(burner+"PurgeFan", after(0.1), end.Add(20*time.Second).Sub(after(0.1)), 1)
			w.pulse(burner+"PurgeDone", after(purged), end.Sub(after(purged)), 1)
			w.pulse(burner+"Spark", after(purged+0.1), time.Duration((flame-purged)*1000)*time.Millisecond, 1)
			w.pulse(burner+"GasValve", after(purged+0.4), end.Sub(after(purged+0.4)), 1)
			w.pulse(burner+"Flame", after(flame), end.Add(300*time.Millisecond).Sub(after(flame)), 1)
			w.put(burner+"Call", end, 0)
			call = end.Add(time.Duration(16+random.IntN(12)) * time.Minute)
		}
	}
}

// pulse is a BOOL that is on for a time.
func (w *week) pulse(path string, at time.Time, lasts time.Duration, on float64) {
	w.put(path, at, on)
	w.put(path, at.Add(lasts), 1-on)
}

// troubles are what goes wrong: now and then a fan, the door at each load, a
// limit that is too near, a loose contact, a broken probe, a dip of the power.
func (w *week) troubles() {
	minutes := func(n float64) time.Duration { return time.Duration(n * float64(time.Minute)) }
	for day := range pastDays {
		w.pulse(fmt.Sprintf("Kiln%d.DoorClosed", day%3+1), w.at(day, 6.2), minutes(4+w.random.Float64()*8), 0)
		w.pulse(fmt.Sprintf("Kiln%d.Fan[%d].Fault", (day+1)%3+1, day%4+1), w.at(day, 9+w.random.Float64()*10), minutes(3+w.random.Float64()*25),
			1)
		if day%2 == 1 {
			w.pulse("Kiln2.Burner.Lockout", w.at(day, 3.4), minutes(22), 1)
		}
	}
	// Two evenings the second chamber swings about its limit.
	for _, day := range []int{2, 5} {
		for s := 0.0; s < 1500; s += 9 {
			w.put("Kiln2.DryBulb", w.at(day, 19).Add(time.Duration(s)*time.Second), 82.3+1.9*math.Sin(s/4.1)+w.random.NormFloat64()*0.3)
		}
	}
	// A loose contact at a fan of the third.
	for i := range 44 {
		at := w.at(4, 10.5).Add(time.Duration(i*17+w.random.IntN(6)) * time.Second)
		w.pulse("Kiln3.Fan[2].Fault", at, time.Duration(1200+w.random.IntN(2500))*time.Millisecond, 1)
	}
	// The power dips.
	dip := w.at(6, 14.3)
	for k := 1; k <= 3; k++ {
		for f := 1; f <= 4; f++ {
			w.pulse(fmt.Sprintf("Kiln%d.Fan[%d].Fault", k, f), dip.Add(time.Duration(w.random.IntN(4000))*time.Millisecond), minutes(6+float64(f)),
				1)
		}
		w.pulse(fmt.Sprintf("Kiln%d.Burner.Lockout", k), dip.Add(time.Duration(4+w.random.IntN(3))*time.Second), minutes(14), 1)
	}
	w.pulse("Car.EStop", dip.Add(40*time.Second), minutes(9), 1)
	w.breaks("Kiln2.Moisture[4]", w.at(1, 10), w.at(3, 13))
}

// breaks makes a signal bad between two times.
func (w *week) breaks(path string, from, to time.Time) {
	id, _ := w.p.FindPath(path)
	list := w.course[id]
	for i := range list {
		if list[i].At > from.UnixNano() && list[i].At < to.UnixNano() {
			list[i] = history.Sample{At: list[i].At, Quality: value.BadRange}
		}
	}
}

// write plays the courses through the alarms and writes what comes of it.
func (w *week) write() (record.Past, error) {
	var out record.Past
	recorded := w.p.Recorded()
	for _, id := range project.SortedKeys(w.course) {
		list := w.course[id]
		slices.SortStableFunc(list, func(a, b history.Sample) int { return int(max(-1, min(1, a.At-b.At))) })
		if _, kept := recorded[id]; !kept {
			continue
		}
		t, _ := w.p.Tag(id)
		for i, s := range list {
			end := w.to.UnixNano()
			if i+1 < len(list) {
				end = list[i+1].At
			}
			// What stands still is kept now and then, as the recorder does.
			for at := s.At; at < end; at += int64(record.Longest) {
				out.Samples = append(out.Samples, store.TagValue{Tag: id, Value: s.Back(t.Kind()).AtNanos(at)})
			}
		}
	}
	for k := 1; k <= 3; k++ {
		out.Samples = append(out.Samples, w.texts(k, record.Longest)...)
	}
	for _, id := range w.p.SortedAlarms() {
		a := w.p.Alarms[id]
		played, err := engine.Replay(w.p, a, w.course, w.from, w.to)
		if err != nil {
			return out, fmt.Errorf("the alarm %s: %w", w.p.AlarmName(a), err)
		}
		for i, s := range played.Spells {
			out.Entries = append(out.Entries, w.spell(a, s, played.Texts[i])...)
		}
	}
	for day := range pastDays {
		for i, shift := range []struct {
			hour float64
			who  string
		}{{6, "Tom Alder"}, {14, "Iris Rowan"}} {
			at := w.at(day, shift.hour+float64(i)/30)
			out.Entries = append(out.Entries, store.Entry{At: at.UnixNano(), Kind: store.PersonEntry, What: "sign-in", Priority: -1,
				Person: shift.who, Panel: "Kiln house"},
				store.Entry{At: at.Add(7*time.Hour + 50*time.Minute).UnixNano(), Kind: store.PersonEntry, What: "sign-out", Priority: -1,
					Person: shift.who, Panel: "Kiln house"})
		}
	}
	slices.SortStableFunc(out.Entries, func(a, b store.Entry) int { return int(max(-1, min(1, a.At-b.At))) })
	return out, nil
}

// spell is what the journal has of one time that an alarm stood: it came, was
// acknowledged, went; one that latches was reset.
func (w *week) spell(a *alarm.Alarm, s alarm.Spell, text string) []store.Entry {
	if s.To.IsZero() {
		s.To = w.to
	}
	base := store.Entry{Kind: store.AlarmEntry, Alarm: a.ID, Name: w.p.AlarmName(a), Area: w.p.AlarmArea(a), Class: a.Class,
		Priority: a.Priority.Rank()}
	entry := func(at time.Time, on alarm.Event, to alarm.Standing) store.Entry {
		e := base
		e.At, e.What, e.State = at.UnixNano(), string(on), string(to)
		if on == alarm.Raise || on == alarm.Clear {
			e.Text, e.Value, e.Bound = text, w.value(a.Tag, at), a.Limit
		}
		return e
	}
	who := "Iris Rowan"
	if h := s.From.Sub(w.from).Hours(); math.Mod(h, 24) < 14 {
		who = "Tom Alder"
	}
	acked := s.From.Add(time.Duration((12 + w.random.ExpFloat64()*70*float64(a.Priority.Rank()+1)) * float64(time.Second)))
	ack := entry(acked, alarm.Ack, alarm.Acknowledged)
	ack.Person, ack.Panel = who, "Kiln house"
	out := []store.Entry{entry(s.From, alarm.Raise, alarm.Unacknowledged)}
	gone, after := alarm.Returned, alarm.Normal
	if a.Latch {
		gone, after = alarm.LatchedUnack, alarm.LatchedAck
	}
	if acked.Before(s.To) {
		out = append(out, ack, entry(s.To, alarm.Clear, after))
	} else {
		ack.State = string(after)
		out = append(out, entry(s.To, alarm.Clear, gone), ack)
	}
	if a.Latch {
		reset := entry(time.Unix(0, out[2].At).Add(45*time.Second), alarm.Reset, alarm.Normal)
		reset.Person, reset.Panel = who, "Kiln house"
		out = append(out, reset)
	}
	return out
}

func (w *week) sample(id string, at time.Time) (history.Sample, bool) {
	list := w.course[id]
	i, found := slices.BinarySearchFunc(list, at.UnixNano(), func(s history.Sample, t int64) int { return int(max(-1, min(1, s.At-t))) })
	if !found {
		i--
	}
	if i < 0 {
		return history.Sample{}, false
	}
	return list[i], true
}

func (w *week) value(id string, at time.Time) string {
	t := w.p.Tags[id]
	s, ok := w.sample(id, at)
	if !ok || t == nil || s.Quality.IsBad() {
		return ""
	}
	return string(t.AppendShow(nil, s.Back(t.Kind()), true))
}
