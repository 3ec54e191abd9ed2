package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

const (
	largeAlarms = 5000
	alarmLimit  = 99.5
	// The flood: changes of state in a second, and how far behind the engine
	// may be.
	flood       = 10_000
	floodBehind = 250
	journalRows = 5_000_000
	journalPage = 100
	restartMost = 1000
)

// withAlarms puts a high alarm on every tenth tag.
func withAlarms(p *project.Project, n int) (*project.Project, error) {
	ops := make([]project.Op, n)
	for i := range ops {
		ops[i] = project.Op{Kind: project.KindAlarm, ID: fmt.Sprintf("a%d", i),
			Value: json.RawMessage(fmt.Sprintf(`{"name":"High","tag":"t%d","kind":"high","limit":"%v","priority":"low","message":"at {value:0.0}"}`, i*10, alarmLimit))}
	}
	next, _, err := p.Edit(ops)
	return next, err
}

// alarms measures a flood through engine and journal, and queries of a long
// journal.
func alarms() ([]Figure, error) {
	p, err := large(largeTags, true)
	if err != nil {
		return nil, err
	}
	if p, err = withAlarms(p, largeAlarms); err != nil {
		return nil, err
	}
	now := time.Unix(1_800_000_000, 0)
	e := engine.New(engine.Compile(p, nil, engine.Options{}), now)
	batch := func(raw int64) []engine.Update {
		out := make([]engine.Update, largeAlarms)
		for i := range out {
			slot, _ := e.Program().Slot(fmt.Sprintf("t%d", i*10))
			out[i] = engine.Update{Slot: slot, Value: value.Int(value.INT, raw)}
		}
		return out
	}
	low, high := batch(0), batch(1000)
	e.Update(low, now)
	e.TakeAlarmEvents()
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	journal, err := store.OpenJournal(dir, nil)
	if err != nil {
		return nil, err
	}
	defer journal.Close()
	start := time.Now()
	e.Update(high, now)
	e.Update(low, now)
	behind := time.Since(start)
	events := e.TakeAlarmEvents()
	if len(events) != flood {
		return nil, fmt.Errorf("%d changes of state, not %d", len(events), flood)
	}
	entries := make([]store.Entry, len(events))
	standing := map[string]json.RawMessage{}
	for i, ev := range events {
		entries[i] = store.Entry{At: ev.At.UnixNano() + int64(i), Kind: store.AlarmEntry, What: string(ev.On), Alarm: ev.Alarm, Name: "High",
			Priority: 3, State: string(ev.To), Text: ev.Now.Text, Value: ev.Now.Value}
		standing[ev.Alarm], _ = json.Marshal(ev.Now.Kept)
	}
	ctx := context.Background()
	start = time.Now()
	if err := journal.Append(ctx, entries, standing); err != nil {
		return nil, err
	}
	written := time.Since(start)
	kept, _, err := journal.List(ctx, store.JournalFilter{}, 2*flood)
	if err != nil || len(kept) != flood || kept[0].At-kept[flood-1].At != flood-1 {
		return nil, fmt.Errorf("the journal holds %d entries of the flood: %w", len(kept), err)
	}
	out := []Figure{below("alarms/flood of 10,000, engine behind", "ms", ms(behind), floodBehind),
		below("alarms/flood of 10,000, written", "ms", ms(written), 1000)}
	e.Update(high, now)
	again, err := restart(ctx, journal, e, now)
	if err != nil {
		return nil, err
	}
	out = append(out, again)
	queries, err := journalQueries(ctx, journal, entries)
	return append(out, queries...), err
}

// restart measures how long alarms that stand take to stand again: their states
// read, and an engine made that has them.
func restart(ctx context.Context, journal *store.Journal, e *engine.Engine, now time.Time) (Figure, error) {
	standing := map[string]json.RawMessage{}
	for _, ev := range e.TakeAlarmEvents() {
		standing[ev.Alarm], _ = json.Marshal(ev.Now.Kept)
	}
	if err := journal.Append(ctx, nil, standing); err != nil {
		return Figure{}, err
	}
	start := time.Now()
	docs, err := journal.Standing(ctx)
	if err != nil {
		return Figure{}, err
	}
	kept := map[string]alarm.Kept{}
	for id, doc := range docs {
		var k alarm.Kept
		if err := json.Unmarshal(doc, &k); err != nil {
			return Figure{}, err
		}
		kept[id] = k
	}
	next := engine.New(e.Program(), now)
	next.Keep(kept, now)
	took := time.Since(start)
	stand := 0
	for _, a := range next.Alarms() {
		if a.Standing == alarm.Unacknowledged && a.Active {
			stand++
		}
	}
	if stand != largeAlarms {
		return Figure{}, fmt.Errorf("%d of %d alarms stand after a restart", stand, largeAlarms)
	}
	return below("alarms/restart with 5,000 standing", "ms", ms(took), restartMost), nil
}

// journalQueries fills the journal and asks for pages as its list does.
func journalQueries(ctx context.Context, journal *store.Journal, like []store.Entry) ([]Figure, error) {
	for n := len(like); n < journalRows; n += len(like) {
		for i := range like {
			like[i].At += int64(time.Second)
			like[i].Priority = (n/len(like) + i) % 4
		}
		if err := journal.Append(ctx, like, nil); err != nil {
			return nil, err
		}
	}
	worst := time.Duration(0)
	for _, f := range []store.JournalFilter{{}, {Before: journalRows / 2}, {Priority: []int{0}}, {Alarm: "a17"},
		{Kinds: []string{store.AlarmEntry}, Priority: []int{1, 2}, Before: journalRows / 3}, {Text: "99.9"},
		{From: like[0].At - int64(time.Minute), Text: "High"}} {
		start := time.Now()
		if _, _, err := journal.List(ctx, f, 200); err != nil {
			return nil, err
		}
		worst = max(worst, time.Since(start))
	}
	return []Figure{below("alarms/page of 5,000,000 entries, worst", "ms", ms(worst), journalPage)}, nil
}
