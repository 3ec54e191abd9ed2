package record

import (
	"cmp"
	"context"
	"encoding/json"
	"log/slog"
	"strconv"
	"sync"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// Journal is what happened. It is written behind the engine: what happened is queued in its
// order and kept in batches, so that a flood holds nothing up.
type Journal struct {
	store *store.Journal
	log   *slog.Logger

	// writing is held for a whole batch: one that is taken later is written later.
	writing sync.Mutex
	said    bool // that it fails; under writing
	unsure  bool // a power cut could still take the last of it; under writing

	mu       sync.Mutex
	queue    []store.Entry
	lost     int                        // entries beyond what memory may hold
	waits    bool                       // the disk did not take the last of them
	out      int                        // entries that are being written just now
	standing map[string]json.RawMessage // of alarms that changed, by id
	wake     chan struct{}
	quit     chan struct{}
	done     chan struct{}
	sweeping chan struct{}
	changed  func() // entries were written
	rules    func() map[string]project.JournalRule
}

const (
	batchEvery  = 100 * time.Millisecond
	keptDays    = 400
	mostEntries = 10_000_000
	prunesEvery = 6 * time.Hour
	// mostQueued is how many entries wait at most while the disk does not take
	// them. Beyond it the oldest of them are lost, which the journal says.
	mostQueued = 100_000
)

func newJournal(s *store.Journal, o Options) *Journal {
	j := &Journal{store: s, log: o.Log, rules: o.Rules, standing: map[string]json.RawMessage{}, wake: make(chan struct{}, 1),
		quit: make(chan struct{}), done: make(chan struct{}), sweeping: make(chan struct{}, 1), changed: o.Changed}
	go o.Bounded("the journal", j.loop)
	return j
}

// Add queues entries, with the states of the alarms after them; it never
// blocks.
func (j *Journal) Add(entries []store.Entry, standing map[string]json.RawMessage) {
	j.mu.Lock()
	j.queue = append(j.queue, entries...)
	j.bound()
	for id, doc := range standing {
		j.standing[id] = doc
	}
	j.mu.Unlock()
	select {
	case j.wake <- struct{}{}:
	default:
	}
}

// bound keeps the queue within what memory may hold; it is called under the
// lock.
func (j *Journal) bound() {
	if over := len(j.queue) - mostQueued; over > 0 {
		j.queue = append([]store.Entry(nil), j.queue[over:]...)
		j.lost += over
	}
}

// Failing is how many entries wait for a disk that does not take them.
func (j *Journal) Failing() int {
	j.mu.Lock()
	defer j.mu.Unlock()
	if !j.waits {
		return 0
	}
	return len(j.queue) + j.lost + j.out
}

// Sweep has what was written out taken away.
func (j *Journal) Sweep() {
	select {
	case j.sweeping <- struct{}{}:
	default:
	}
}

func (j *Journal) close() {
	close(j.quit)
	<-j.done
	j.store.Close()
}

func (j *Journal) loop() {
	defer close(j.done)
	prune := time.NewTicker(prunesEvery)
	defer prune.Stop()
	j.Sweep()
	for {
		select {
		case <-j.quit:
			j.Flush(false)
			return
		case <-prune.C:
			j.prune()
		case <-j.sweeping:
			j.prune()
		case <-j.wake:
			// What comes close together is one batch.
			time.Sleep(batchEvery)
			if j.Flush(false) != nil {
				// The disk does not take it: again in a while, and not at once.
				time.AfterFunc(retryAfter, func() {
					select {
					case j.wake <- struct{}{}:
					default:
					}
				})
			}
		}
	}
}

const retryAfter = time.Second

func (j *Journal) prune() {
	if err := j.store.Prune(context.Background(), time.Now().AddDate(0, 0, -keptDays).UnixNano(), mostEntries); err != nil {
		j.log.Error("pruning the journal", "error", err)
	}
}

// Flush writes what is queued, surely for a power cut too where that is asked
// for; what could not be written stays and is tried again.
func (j *Journal) Flush(surely bool) error {
	j.writing.Lock()
	defer j.writing.Unlock()
	j.mu.Lock()
	entries, standing, lost := j.queue, j.standing, j.lost
	j.queue, j.standing, j.lost = nil, map[string]json.RawMessage{}, 0
	j.out = len(entries) + lost
	j.mu.Unlock()
	if len(entries) == 0 && len(standing) == 0 {
		if surely && j.unsure {
			j.unsure = false
			return j.store.Sync(context.Background())
		}
		return nil
	}
	write := entries
	if lost > 0 {
		write = append([]store.Entry{{At: time.Now().UnixNano(), Kind: store.TroubleEntry, What: "journal-lost", Priority: -1,
			Text: strconv.Itoa(lost) + " entries could not be kept while the disk failed"}}, entries...)
	}
	keep := j.store.Append
	if surely {
		keep = j.store.AppendSurely
	}
	err := keep(context.Background(), write, standing)
	if err == nil {
		j.said, j.unsure = false, !surely
		j.mu.Lock()
		j.waits, j.out = false, 0
		j.mu.Unlock()
		j.changed()
		return nil
	}
	if !j.said {
		j.said = true
		j.log.Error("the journal cannot be written: what happens waits in memory", "error", err)
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	j.queue, j.lost, j.waits, j.out = append(entries, j.queue...), j.lost+lost, true, 0
	j.bound()
	for id, doc := range standing {
		if _, newer := j.standing[id]; !newer {
			j.standing[id] = doc
		}
	}
	return err
}

// Event keeps something beside the alarms, as the site's rules say.
func (j *Journal) Event(e store.Entry) {
	e.Priority = -1
	rule := project.JournalRuleOf(j.rules(), e.Kind, e.What)
	if rule.Out {
		return
	}
	if rule.Priority != "" {
		e.Priority = rule.Priority.Rank()
	}
	j.Add([]store.Entry{e}, nil)
}

// Alarms keeps what happened to the alarms of a version, which may be nil.
func (j *Journal) Alarms(version *project.Project, events []engine.AlarmEvent) {
	entries := make([]store.Entry, 0, len(events))
	standing := map[string]json.RawMessage{}
	for _, e := range events {
		entry := store.Entry{At: e.At.UnixNano(), Kind: store.AlarmEntry, What: string(e.On), Alarm: e.Alarm, Name: e.Now.Alarm.Name,
			Class: e.Now.Class, Priority: e.Now.Priority.Rank(),
			State: string(e.To), Text: e.Text, Person: e.Now.By, Reason: cmp.Or(e.Comment, e.Now.Reason)}
		if e.On == alarm.Raise || e.On == alarm.Clear {
			entry.Value, entry.Bound = e.Value, e.Bound
		}
		if version != nil {
			entry.Name, entry.Area = version.AlarmName(e.Now.Alarm), version.AlarmArea(e.Now.Alarm)
		}
		entries = append(entries, entry)
		standing[e.Alarm], _ = json.Marshal(e.Now.Kept)
	}
	j.Add(entries, standing)
}

// Standing reads how the alarms stood when the server ended. Without them every
// alarm begins normal, and comes again where its condition holds.
func (j *Journal) Standing(ctx context.Context) map[string]alarm.Kept {
	docs, err := j.store.Standing(ctx)
	if err != nil {
		j.log.Error("reading how the alarms stood", "error", err)
		return nil
	}
	out := make(map[string]alarm.Kept, len(docs))
	for id, doc := range docs {
		var k alarm.Kept
		if json.Unmarshal(doc, &k) == nil {
			out[id] = k
		}
	}
	return out
}

// List returns a page, newest first, with everything that has happened by now,
// and where the next page goes on.
func (j *Journal) List(ctx context.Context, f store.JournalFilter, limit int) (entries []store.Entry, next int64, err error) {
	_ = j.Flush(false) // What waits for the disk is said by Failing.
	return j.store.List(ctx, f, limit)
}

// Entry reads one entry.
func (j *Journal) Entry(ctx context.Context, seq int64) (store.Entry, error) {
	return j.store.Entry(ctx, seq)
}

// Comment adds a comment to an entry.
func (j *Journal) Comment(ctx context.Context, c store.Comment) error { return j.store.Comment(ctx, c) }

// Comments lists the comments of an entry.
func (j *Journal) Comments(ctx context.Context, seq int64) ([]store.Comment, error) {
	return j.store.Comments(ctx, seq)
}

// End writes everything out, seals the file with its hash and begins anew with
// first.
func (j *Journal) End(ctx context.Context, at time.Time, person, reason string, first store.Entry) (store.Archive, error) {
	_ = j.Flush(true)
	a, err := j.store.Archive(ctx, at, person, reason, first)
	if err == nil {
		j.Sweep()
	}
	return a, err
}

// Archives lists what was written out, newest first.
func (j *Journal) Archives(ctx context.Context) ([]store.Archive, error) {
	return j.store.Archives(ctx)
}

// Archive reads a file that was written out; whole tells whether it is as it was
// sealed.
func (j *Journal) Archive(ctx context.Context, id int64) (a store.Archive, data []byte, whole bool, err error) {
	return j.store.OpenArchive(ctx, id)
}

// AlarmEntries hands over what happened to alarms between two times, in
// nanoseconds since 1970, in its order, until do has enough.
func (j *Journal) AlarmEntries(ctx context.Context, from, to int64, do func(*store.Entry) bool) error {
	_ = j.Flush(false)
	return j.store.AlarmEntries(ctx, from, to, do)
}
