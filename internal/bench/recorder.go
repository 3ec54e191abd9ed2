package bench

import (
	"fmt"
	"log/slog"
	"os"
	"runtime"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/machine"
	"readyrail/internal/record"
)

const (
	recordedRate = 20_000           // changes a second
	recordedFor  = 30 * time.Second // so that blocks are made meanwhile
)

// recorders measures what the recorder adds to an engine of many tags that change
// at a rate: processor time, memory, and how late its newest sample is; and how long
// a log's pattern takes over as many paths.
func recorders() ([]Figure, error) {
	p, err := large(largeTags, true)
	if err != nil {
		return nil, err
	}
	alone, _, _, err := recorded(p, false)
	if err != nil {
		return nil, err
	}
	both, memory, late, err := recorded(p, true)
	if err != nil {
		return nil, err
	}
	log := &history.Log{Name: "L", How: history.LogHow{Way: history.AtChanges}, Keep: history.LogKeep{Days: 1},
		Picks: []history.Pick{{Like: "Unit1*.T*5"}}}
	asked := 0
	pattern, err := median(func() error {
		asked++
		log.ID = fmt.Sprint(asked) // what a log names is looked for once
		if n := len(p.LogTags(log)); n == 0 {
			return fmt.Errorf("the pattern of the benchmark names no tag")
		}
		return nil
	})
	return []Figure{
		below("recorder: 50,000 tags, 20,000 changes a second", "% of a core", 100*(both-alone), 5),
		below("recorder: its memory", "MB", memory, 300),
		below("recorder: its newest sample at most late", "ms", late, 1100), // it writes once a second
		below("log: a pattern over 50,000 paths", "ms", pattern, 100),
	}, err
}

// recorded changes the tags of a project at the rate for a time, with a recorder or
// without one, and measures the share of a processor, the memory that it took and
// the most that the newest sample on disk was late.
func recorded(p *project.Project, with bool) (share, memory, late float64, err error) {
	runner := engine.Run(engine.Compile(p, nil, engine.Options{}), nil, nil, nil)
	defer runner.Close()
	var slots []int32
	for i := range largeTags {
		if i%10 != 9 {
			var slot int32
			runner.Do(func(e *engine.Engine) { slot, _ = e.Program().Slot(fmt.Sprintf("t%d", i)) })
			slots = append(slots, slot)
		}
	}
	before := heap()
	var records *record.Records
	if with {
		dir, err := os.MkdirTemp("", "readyrail-bench")
		if err != nil {
			return 0, 0, 0, err
		}
		defer os.RemoveAll(dir)
		source := record.Source{Runner: runner, Bands: p.Recorded()}
		records, err = record.Open(dir, record.Past{}, record.Options{Log: slog.New(slog.DiscardHandler), AuditKeys: audit.Ring{make([]byte, 32)},
			Source: func() record.Source { return source }, Changed: func() {}, Rules: func() map[string]project.JournalRule { return nil },
			Bounded: func(_ string, f func()) { f() }})
		if err != nil {
			return 0, 0, 0, err
		}
		defer records.Close()
		time.Sleep(time.Second) // what all tags are is taken first
	}
	const batches = 100 // a second
	size := recordedRate / batches
	tick := time.NewTicker(time.Second / batches)
	defer tick.Stop()
	began, worked, next := time.Now(), machine.Processor(), 0
	for n := 0; time.Since(began) < recordedFor; n++ {
		<-tick.C
		batch := make([]engine.Update, size)
		for i := range batch {
			batch[i] = engine.Update{Slot: slots[next%len(slots)], Value: value.Int(value.INT, int64(next*7%1000+n))}
			next++
		}
		runner.Push(batch)
		if records != nil && n > 2*batches {
			late = max(late, float64(time.Now().UnixNano()-records.Recorder.Alive())/1e6)
		}
	}
	share = (machine.Processor() - worked).Seconds() / time.Since(began).Seconds()
	return share, (heap() - before) / 1e6, late, nil
}

// heap is what is in use after a collection, in bytes.
func heap() float64 {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return float64(m.HeapInuse)
}
