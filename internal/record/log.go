package record

import (
	"context"
	"errors"
	"slices"
	"sync"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// Log is one log at work. What stands below done is its goroutine's alone, but for
// what is told.
type Log struct {
	logs    *Logs
	samples *store.Samples
	do      chan func()
	quit    chan struct{}
	settled chan struct{}
	done    chan struct{}

	clock   history.Clock
	plan    *logPlan
	runner  *engine.Runner
	sub     *engine.Sub
	ids     []string
	slots   map[string]int32 // of all ids in values
	values  []value.Value
	fresh   []int32
	room    []value.Value
	filters []history.Filter // of the plan's tags, where it keeps changes
	late    map[int32]bool   // tags whose value came too early to be kept
	next    time.Time        // the next moment by the clock
	rose    bool             // the condition whose rising is a moment is true
	working bool             // it is on and nothing keeps it from being at work
	why     LogWhy           // what it waits for
	spans   map[string]store.LogSpan
	batch   []store.TagValue
	failing bool
	state   store.LogState
	extent  store.Extent // as it was measured last

	told struct {
		sync.Mutex
		status LogStatus
	}
}

// LogStatus is how a log stands.
type LogStatus struct {
	State  LogStateName
	Why    LogWhy
	Person string    // who started or stopped it last
	Since  time.Time // when
	Tags   int
	store.Extent
	Last     int64     // time of the newest value, nanoseconds since 1970; 0 for none
	Free     float64   // share of the tightest bound of size or number that is free; 1 where there is none
	Exported time.Time // when it was last written out whole
	Upto     int64     // and up to which of its times, nanoseconds since 1970
}

// LogStateName is how a log stands, in a word.
type LogStateName string

// How logs stand.
const (
	LogWorks   LogStateName = "on"
	LogWaits   LogStateName = "waiting" // for its hours or its condition
	LogStopped LogStateName = "off"
	LogIsFull  LogStateName = "full"
	LogFails   LogStateName = "failing" // the disk does not take what it has
)

// LogWhy is what a log waits for.
type LogWhy string

// What logs wait for.
const (
	WaitsHours   LogWhy = "hours"
	WaitsHolds   LogWhy = "holds"
	WaitsUnknown LogWhy = "unknown" // its condition cannot be told
)

// ErrEnded is that of a log that has ended meanwhile.
var ErrEnded = say.New("the log is no longer at work")

// recover reads the spans that last yet.
func (x *Log) recover(ctx context.Context) error {
	open, err := x.logs.store.OpenSpans(ctx, x.state.ID)
	x.spans = map[string]store.LogSpan{}
	for _, s := range open {
		x.spans[s.Of] = s
	}
	return err
}

// close writes out what waits and ends the log. Its spans last on: whether they
// do is seen when it opens again.
func (x *Log) close() {
	close(x.quit)
	<-x.done
	<-x.settled
	x.samples.Close()
}

// end is close for a log that does not come back soon: its spans end with it.
func (x *Log) end() {
	x.turn(func() {
		now := x.clock.Now()
		x.endSpans(now)
		x.rest(now)
	})
	x.close()
}

// turn runs a part in the log's own goroutine and waits for it.
func (x *Log) turn(f func()) error {
	done := make(chan struct{})
	select {
	case x.do <- func() { f(); close(done) }:
	case <-x.done:
		return ErrEnded
	}
	select {
	case <-done:
		return nil
	case <-x.done: // it failed in the middle
		return ErrEnded
	}
}

// renew gives the log another plan, or another engine.
func (x *Log) renew(runner *engine.Runner, p *logPlan) {
	x.turn(func() {
		if runner == x.runner && p.same(x.plan) {
			x.plan = p
			return
		}
		x.attach(runner, p)
	})
}

func (x *Log) loop() {
	defer close(x.done)
	tick := time.NewTicker(every)
	defer tick.Stop()
	clock := time.NewTimer(time.Hour)
	defer clock.Stop()
	for {
		if x.next.IsZero() {
			clock.Reset(time.Hour)
		} else {
			clock.Reset(time.Until(x.next))
		}
		select {
		case <-x.quit:
			x.write(x.clock.Now())
			x.runner.Do(func(e *engine.Engine) { e.Unsubscribe(x.sub) })
			return
		case f := <-x.do:
			f()
		case <-x.sub.Changed():
			x.take(x.clock.Now())
		case now := <-clock.C:
			if !x.next.IsZero() && !now.Before(x.next) {
				x.moment(x.next)
				x.next = x.plan.log.How.Next(time.Now())
			}
		case <-tick.C:
			x.second(x.clock.Now())
		}
	}
}

// attach follows what a plan names. It needs its tags: they are read for its sake.
func (x *Log) attach(runner *engine.Runner, p *logPlan) {
	if x.sub != nil {
		x.runner.Do(func(e *engine.Engine) { e.Unsubscribe(x.sub) })
	}
	kept := map[string]history.Filter{}
	if x.plan != nil {
		for i, t := range x.plan.tags {
			kept[t.id] = x.filters[i]
		}
	}
	x.plan, x.runner, x.ids, x.slots, x.late = p, runner, nil, map[string]int32{}, map[int32]bool{}
	for _, t := range p.tags {
		x.slot(t.id)
	}
	for _, c := range []*Condition{p.holds, p.rises, p.spans} {
		if c != nil {
			for _, id := range c.Tags {
				x.slot(id)
			}
		}
	}
	for _, c := range p.cuts {
		x.slot(c.tag)
	}
	x.filters = make([]history.Filter, len(p.tags))
	for i, t := range p.tags {
		x.filters[i] = kept[t.id]
		delete(kept, t.id)
		x.filters[i].Band, x.filters[i].Every = t.band, Longest
		if ms := p.log.How.Longest; ms > 0 {
			x.filters[i].Every = time.Duration(ms) * time.Millisecond
		}
	}
	// Of those that it keeps no longer, nothing is known from now on.
	for id := range kept {
		x.unknown(id, value.LREAL, x.clock.Now())
	}
	x.values = make([]value.Value, len(x.ids))
	for i := range x.values {
		x.values[i] = value.Bad(value.BOOL, value.BadWaiting)
	}
	x.rose = true // what is true already does not rise
	x.next = p.log.How.Next(time.Now())
	runner.Do(func(e *engine.Engine) { x.sub = e.Subscribe(x.ids) })
	x.look(x.clock.Now())
}

// slot is where the value of a tag lies.
func (x *Log) slot(id string) int32 {
	n, known := x.slots[id]
	if !known {
		n = int32(len(x.ids))
		x.slots[id] = n
		x.ids = append(x.ids, id)
	}
	return n
}

// holds tells whether a condition is true, and whether that can be told.
func (x *Log) holds(c *Condition) (on, known bool) {
	frame := formula.Frame{Slots: make([]value.Value, len(c.Tags))}
	for i, id := range c.Tags {
		frame.Slots[i] = x.values[x.slots[id]]
		if frame.Slots[i].Kind != c.Kinds[i] {
			frame.Slots[i] = value.Bad(c.Kinds[i], value.BadWaiting)
		}
	}
	var v value.Value
	c.Program.EvalTo(&v, &frame)
	known = v.Kind == value.BOOL && !v.Quality.IsBad()
	return known && v.Bool(), known
}

// take looks at what changed.
func (x *Log) take(now time.Time) {
	x.fresh = x.sub.Take(x.values, nil, x.fresh[:0])
	x.look(now)
	if c := x.plan.rises; c != nil {
		on, known := x.holds(c)
		if known {
			if on && !x.rose {
				x.moment(now)
			}
			x.rose = on
		}
	}
	if x.working && x.plan.log.How.Way == history.AtChanges {
		for _, i := range x.fresh {
			if int(i) < len(x.plan.tags) {
				x.changed(i, now)
			}
		}
	}
}

// changed keeps a tag's value where it moved, unless the last one is too near.
func (x *Log) changed(i int32, now time.Time) {
	v := x.values[i]
	if v.Kind == value.None || v.Quality == value.BadWaiting {
		return
	}
	f := &x.filters[i]
	if past, least := now.UnixNano()-f.Last(), int64(x.plan.log.How.Least)*1e6; past >= 0 && past < least {
		x.late[i] = true
		return
	}
	delete(x.late, i)
	x.room = f.Take(v.At(now), x.room[:0])
	for _, v := range x.room {
		x.batch = append(x.batch, store.TagValue{Tag: x.ids[i], Value: v})
	}
}

// read takes the values as they stand: what subscribers are told may be a tick old,
// and who presses a button means what is seen then.
func (x *Log) read() {
	x.runner.Do(func(e *engine.Engine) {
		for i := range x.plan.tags {
			if v, _, known := e.Read(x.plan.tags[i].id); known {
				x.values[i] = v
			}
		}
	})
}

// moment keeps every tag as it is now.
func (x *Log) moment(at time.Time) {
	if !x.working {
		return
	}
	for i := range x.plan.tags {
		if v := x.values[i]; v.Kind != value.None && v.Quality != value.BadWaiting {
			x.batch = append(x.batch, store.TagValue{Tag: x.ids[i], Value: v.At(at)})
		}
	}
}

// second is what is done once a second: what is late or stood for long is kept,
// and everything goes to the disk.
func (x *Log) second(now time.Time) {
	x.look(now)
	if x.working && x.plan.log.How.Way == history.AtChanges {
		for i := range x.late {
			x.changed(i, now)
		}
		for i := range x.filters {
			x.room = x.filters[i].Due(now.UnixNano(), x.room[:0])
			for _, v := range x.room {
				x.batch = append(x.batch, store.TagValue{Tag: x.ids[i], Value: v})
			}
		}
	}
	x.write(now)
	x.publish(now)
}

// look sees whether the log is to be at work, and where its spans begin and end.
func (x *Log) look(now time.Time) {
	works := x.state.State == store.LogOn
	x.why = ""
	if works {
		x.cut(now)
		x.why = x.waits(now)
		works = x.why == ""
	}
	if works == x.working {
		return
	}
	x.working = works
	if !works {
		x.rest(now)
		return
	}
	for i := range x.filters {
		x.filters[i] = history.Filter{Band: x.filters[i].Band, Every: x.filters[i].Every}
		if x.plan.log.How.Way == history.AtChanges {
			x.changed(int32(i), now)
		}
	}
}

// waits is what keeps a log that is on from being at work; empty for nothing.
func (x *Log) waits(now time.Time) LogWhy {
	switch {
	case !x.plan.log.While.Open(now):
		return WaitsHours
	case x.plan.broken:
		return WaitsUnknown
	case x.plan.holds == nil:
		return ""
	}
	switch on, known := x.holds(x.plan.holds); {
	case !known:
		return WaitsUnknown
	case !on:
		return WaitsHolds
	}
	return ""
}

// rest says of every tag that nothing is known of it until the log goes on.
func (x *Log) rest(now time.Time) {
	if x.plan.log.How.Way == history.AtMoments {
		return // between two moments nothing is known anyway
	}
	for _, t := range x.plan.tags {
		x.unknown(t.id, t.kind, now)
	}
	clear(x.late)
}

func (x *Log) unknown(id string, k value.Kind, now time.Time) {
	x.batch = append(x.batch, store.TagValue{Tag: id, Value: value.Bad(k, value.BadUnrecorded).At(now)})
}

// write puts what waits onto the disk.
func (x *Log) write(now time.Time) {
	if most := x.plan.log.Keep.Count; most > 0 && x.plan.log.Keep.Stops {
		if room := int64(most) - x.samples.Count(); int64(len(x.batch)) >= room {
			x.batch = x.batch[:max(0, room)]
			defer x.fill(now)
		}
	}
	if len(x.batch) == 0 {
		return
	}
	if err := x.samples.Keep(context.Background(), x.batch); err != nil {
		if !x.failing {
			x.logs.log.Error("a log cannot be written: its values wait in memory", "log", x.plan.log.Name, "error", err)
		}
		x.failing = true
		if over := len(x.batch) - mostWaiting; over > 0 {
			x.batch = slices.Delete(x.batch, 0, over)
		}
		return
	}
	x.failing = false
	x.batch = x.batch[:0]
}

// fill ends a log that has no room left.
func (x *Log) fill(now time.Time) {
	if x.state.State != store.LogOn {
		return
	}
	if err := x.put(store.LogFull, "", now); err != nil {
		x.logs.log.Error("that a log is full is not kept", "log", x.plan.log.Name, "error", err)
		return
	}
	x.logs.journal.Event(store.Entry{At: now.UnixNano(), Kind: store.TroubleEntry, What: "log-full", Name: x.plan.log.Name})
}

// put keeps how the log stands, and acts on it.
func (x *Log) put(state, person string, now time.Time) error {
	next := x.state
	next.State, next.Person, next.At, next.Name = state, person, now.UnixNano(), x.plan.log.Name
	if err := x.logs.store.Put(context.Background(), next); err != nil {
		return err
	}
	x.state = next
	x.look(now)
	if state == store.LogOff {
		x.endSpans(now)
	}
	x.publish(now)
	return nil
}

// publish tells how the log stands.
func (x *Log) publish(now time.Time) {
	s := LogStatus{Why: x.why, Person: x.state.Person, Since: time.Unix(0, x.state.At), Tags: len(x.plan.tags),
		Last: x.samples.Alive(), Free: 1, Upto: x.state.Upto}
	if x.state.Exported > 0 {
		s.Exported = time.Unix(0, x.state.Exported)
	}
	switch {
	case x.failing:
		s.State = LogFails
	case x.state.State == store.LogOff:
		s.State = LogStopped
	case x.state.State == store.LogFull:
		s.State = LogIsFull
	case !x.working:
		s.State = LogWaits
	default:
		s.State = LogWorks
	}
	if x.extent.First == 0 && x.samples.Count() > 0 {
		x.extent, _ = x.samples.Extent(context.Background()) // its first values came
	}
	s.Extent = x.extent
	s.Count = x.samples.Count()
	for _, b := range x.bounds(s.Extent) {
		s.Free = min(s.Free, max(0, 1-b))
	}
	x.told.Lock()
	x.told.status = s
	x.told.Unlock()
}

// bounds are the shares of the log's bounds of size and number that are taken.
func (x *Log) bounds(e store.Extent) (out []float64) {
	k := x.plan.log.Keep
	if k.Count > 0 {
		out = append(out, float64(e.Count)/float64(k.Count))
	}
	if k.MB > 0 {
		out = append(out, float64(e.Bytes)/(float64(k.MB)*1e6))
	}
	return out
}

// Status is how the log stood within the last second.
func (x *Log) Status() LogStatus {
	x.told.Lock()
	defer x.told.Unlock()
	return x.told.status
}

// Reader reads what the log has.
func (x *Log) Reader() *Recorder { return Reading(x.samples) }

// Start sets a log to work that was stopped, or was full and has room again.
func (x *Log) Start(person string) (err error) {
	return errors.Join(x.turn(func() {
		switch {
		case x.state.State == store.LogOn:
			err = say.Errorf("the log is at work already")
		case x.state.State == store.LogFull && slices.ContainsFunc(x.bounds(x.Status().Extent), func(b float64) bool { return b >= 1 }):
			err = say.Errorf("the log is full: write it out and clear it first")
		default:
			err = x.put(store.LogOn, person, x.clock.Now())
		}
	}), err)
}

// Stop ends a log until it is started again.
func (x *Log) Stop(person string) (err error) {
	return errors.Join(x.turn(func() {
		if x.state.State == store.LogOff {
			err = say.Errorf("the log is stopped already")
			return
		}
		now := x.clock.Now()
		err = x.put(store.LogOff, person, now)
		x.write(now)
	}), err)
}

// Take keeps every tag as it is now, for a log that is at work.
func (x *Log) Take() (err error) {
	return errors.Join(x.turn(func() {
		if !x.working {
			err = say.Errorf("the log is not at work now")
			return
		}
		now := x.clock.Now()
		x.read()
		x.moment(now)
		x.write(now)
		if x.failing {
			err = say.Errorf("the disk does not take it: it waits in memory")
		}
		x.publish(now)
	}), err)
}

// raised is told of an alarm that came.
func (x *Log) raised(alarm string, at time.Time) {
	go x.turn(func() {
		if x.plan.log.How.Alarm == alarm && x.plan.log.How.Way == history.AtMoments {
			x.read()
			x.moment(at)
		}
	})
}
