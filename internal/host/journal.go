package host

import (
	"cmp"
	"context"
	"encoding/json"
	"log/slog"
	"slices"
	"strconv"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/audit"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// The journal is written behind the engine: what happened is queued in its
// order and kept in batches, so that a flood holds nothing up.
type journal struct {
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
	standing map[string]json.RawMessage // of alarms that changed, by id
	wake     chan struct{}
	quit     chan struct{}
	done     chan struct{}
	sweeping chan struct{}
	changed  func() // entries were written
}

const (
	journalEvery  = 100 * time.Millisecond
	journalDays   = 400
	journalMost   = 10_000_000
	journalPrunes = 6 * time.Hour
	// journalWaits is how many entries wait at most while the disk does not take
	// them. Beyond it the oldest of them are lost, which the journal says.
	journalWaits = 100_000
)

func newJournal(s *store.Journal, log *slog.Logger, changed func()) *journal {
	j := &journal{store: s, log: log, standing: map[string]json.RawMessage{}, wake: make(chan struct{}, 1),
		quit: make(chan struct{}), done: make(chan struct{}), sweeping: make(chan struct{}, 1), changed: changed}
	go j.loop()
	return j
}

// add queues entries, with the states of the alarms after them; it never
// blocks.
func (j *journal) add(entries []store.Entry, standing map[string]json.RawMessage) {
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
func (j *journal) bound() {
	if over := len(j.queue) - journalWaits; over > 0 {
		j.queue = append([]store.Entry(nil), j.queue[over:]...)
		j.lost += over
	}
}

// failing is how many entries wait for a disk that does not take them.
func (j *journal) failing() int {
	j.mu.Lock()
	defer j.mu.Unlock()
	if !j.waits {
		return 0
	}
	return len(j.queue) + j.lost
}

// sweep has what was written out taken away.
func (j *journal) sweep() {
	select {
	case j.sweeping <- struct{}{}:
	default:
	}
}

func (j *journal) close() {
	close(j.quit)
	<-j.done
	j.store.Close()
}

func (j *journal) loop() {
	defer close(j.done)
	prune := time.NewTicker(journalPrunes)
	defer prune.Stop()
	j.sweep()
	for {
		select {
		case <-j.quit:
			j.flush(false)
			return
		case <-prune.C:
			j.prune()
		case <-j.sweeping:
			j.prune()
		case <-j.wake:
			// What comes close together is one batch.
			time.Sleep(journalEvery)
			if j.flush(false) != nil {
				// The disk does not take it: again in a while, and not at once.
				time.AfterFunc(journalRetry, func() {
					select {
					case j.wake <- struct{}{}:
					default:
					}
				})
			}
		}
	}
}

const journalRetry = time.Second

func (j *journal) prune() {
	if err := j.store.Prune(context.Background(), time.Now().AddDate(0, 0, -journalDays).UnixNano(), journalMost); err != nil {
		j.log.Error("pruning the journal", "error", err)
	}
}

// flush writes what is queued, surely for a power cut too where that is asked
// for; what could not be written stays and is tried again.
func (j *journal) flush(surely bool) error {
	j.writing.Lock()
	defer j.writing.Unlock()
	j.mu.Lock()
	entries, standing, lost := j.queue, j.standing, j.lost
	j.queue, j.standing, j.lost = nil, map[string]json.RawMessage{}, 0
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
		j.waits = false
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
	j.queue, j.lost, j.waits = append(entries, j.queue...), j.lost+lost, true
	j.bound()
	for id, doc := range standing {
		if _, newer := j.standing[id]; !newer {
			j.standing[id] = doc
		}
	}
	return err
}

// Journal returns a page of the journal, newest first, and where the next one
// goes on; to a person who may see some areas only, what is of these.
func (p *Project) Journal(ctx context.Context, who Actor, f store.JournalFilter, limit int) (entries []store.Entry, next int64, err error) {
	version := p.Released()
	if version == nil {
		version = p.Draft()
	}
	if !p.May(ctx, who, access.View, false) {
		may := areaRights{p: p, ctx: ctx, who: who, known: map[string]bool{}}
		areas := []string{}
		for _, a := range version.Site().Areas {
			if may.has(access.View, a.ID) && (len(f.Areas) == 0 || slices.Contains(f.Areas, a.ID)) {
				areas = append(areas, a.ID)
			}
		}
		if len(areas) == 0 {
			return nil, 0, p.Require(ctx, who, access.View, "")
		}
		f.Areas = areas
	}
	p.journal.flush(false)
	return p.journal.store.List(ctx, f, limit)
}

// CommentEntry adds a person's comment to an entry of the journal.
func (p *Project) CommentEntry(ctx context.Context, who Actor, entry int64, text string) error {
	if !p.May(ctx, who, access.Acknowledge, true) {
		return p.Require(ctx, who, access.Acknowledge, "")
	}
	e, err := p.journal.store.Entry(ctx, entry)
	if err != nil {
		return err
	}
	if err := p.Require(ctx, who, access.Acknowledge, e.Area); err != nil {
		return err
	}
	if text == "" || len(text) > 1000 {
		return refused("a comment has 1 to 1000 characters")
	}
	err = p.journal.store.Comment(ctx, store.Comment{Entry: entry, At: time.Now().UnixNano(), Person: who.Name, Text: text})
	if err == nil {
		p.alarmNews()
	}
	return err
}

// EntryComments lists the comments of an entry, to a person who may see it.
func (p *Project) EntryComments(ctx context.Context, who Actor, entry int64) ([]store.Comment, error) {
	e, err := p.journal.store.Entry(ctx, entry)
	if err != nil {
		return nil, err
	}
	if err := p.Require(ctx, who, access.View, e.Area); err != nil {
		return nil, err
	}
	return p.journal.store.Comments(ctx, entry)
}

// alarmsHappened keeps what happened to the alarms of the release.
func (p *Project) alarmsHappened(events []engine.AlarmEvent) {
	version := p.release.project.Load()
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
	p.journal.add(entries, standing)
	p.release.board.Add(1)
	p.alarmNews()
}

// keptAlarms reads how the alarms stood when the server ended. Without them
// every alarm begins normal, and comes again where its condition holds.
func (p *Project) keptAlarms() map[string]alarm.Kept {
	docs, err := p.journal.store.Standing(context.Background())
	if err != nil {
		p.journal.log.Error("reading how the alarms stood", "error", err)
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

// event keeps something beside the alarms.
func (p *Project) event(kind, what, name, text string, who Actor) {
	p.keepEvent(store.Entry{At: time.Now().UnixNano(), Kind: kind, What: what, Name: name, Text: text, Person: who.Name, Panel: who.Panel})
}

// keepEvent keeps an event as the site's rules say.
func (p *Project) keepEvent(e store.Entry) {
	version := p.Released()
	if version == nil {
		version = p.Draft()
	}
	e.Priority = -1
	if version != nil {
		rule := version.Site().Journal[e.Kind]
		if rule.Out {
			return
		}
		if rule.Priority != "" {
			e.Priority = rule.Priority.Rank()
		}
	}
	p.journal.add([]store.Entry{e}, nil)
}

// trail is the audit trail; what people did stands in the journal too.
type trail struct {
	*store.Audit
	told func(audit.Record)
}

// Append keeps a record and tells of it.
func (t *trail) Append(ctx context.Context, r audit.Record) (audit.Record, error) {
	out, err := t.Audit.Append(ctx, r)
	if err == nil {
		t.told(r)
	}
	return out, err
}

// journalled is how a kind of the trail stands in the journal; the others,
// such as proofs, are work and not the plant's life.
var journalled = map[string]string{
	audit.Intent: store.ActionEntry, audit.Refused: store.ActionEntry, audit.Held: store.ActionEntry, audit.Given: store.ActionEntry,
	audit.Event:  store.EventEntry,
	audit.SignIn: store.PersonEntry, audit.SignOut: store.PersonEntry, audit.Failed: store.PersonEntry, audit.Release: store.SystemEntry,
	audit.LimitSet: store.ActionEntry, audit.Turn: store.SystemEntry,
}

func (p *Project) journalRecord(r audit.Record) {
	kind, ok := journalled[r.What]
	if !ok {
		return
	}
	text := r.New
	if r.Old != "" {
		text = r.Old + " → " + r.New
	}
	name := r.Path
	if name == "" {
		name = r.Element
	}
	p.keepEvent(store.Entry{At: r.At, Kind: kind, What: r.What, Name: name, Text: text, Person: r.Name, Panel: r.Panel, Reason: r.Reason})
}
