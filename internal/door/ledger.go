package door

import (
	"context"
	"errors"
	"log/slog"
	"strconv"
	"sync"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// ledger keeps the door's records. What must be done even while the disk fails
// is owed and kept as soon as the disk takes it again.
type ledger struct {
	trail Trail
	log   *slog.Logger

	mu   sync.Mutex
	owed []entry
	lost int // beyond what memory may hold
}

// entry is a record that is owed; ended is the outcome of an intent, which
// takes the number that the intent gets.
type entry struct {
	record audit.Record
	ended  *audit.Record
}

// mostOwed bounds what is owed. Beyond it the newest are counted only.
const mostOwed = 10_000

// keep puts a record on disk.
func (l *ledger) keep(ctx context.Context, r audit.Record) error {
	_, err := l.append(ctx, r)
	return err
}

// append puts a record on disk, after what is owed. What is under way is
// recorded even when its person's browser goes away now.
func (l *ledger) append(ctx context.Context, r audit.Record) (audit.Record, error) {
	ctx = context.WithoutCancel(ctx)
	if l.owing() > 0 {
		l.settle(ctx)
	}
	out, err := l.trail.Append(ctx, r)
	if errors.Is(err, audit.ErrTaken) {
		return out, errTaken
	}
	if err != nil {
		return out, say.Errorf("this cannot be recorded, so it was not done. %w", err)
	}
	return out, nil
}

// appendAll puts several records on disk in one commit, after what is owed.
func (l *ledger) appendAll(ctx context.Context, list []audit.Record) ([]audit.Record, error) {
	ctx = context.WithoutCancel(ctx)
	if l.owing() > 0 {
		l.settle(ctx)
	}
	out, err := l.trail.AppendAll(ctx, list)
	if errors.Is(err, audit.ErrTaken) {
		return out, errTaken
	}
	if err != nil {
		return out, say.Errorf("this cannot be recorded, so it was not done. %w", err)
	}
	return out, nil
}

// owe puts a record on disk, now or as soon as that can be done.
func (l *ledger) owe(ctx context.Context, r audit.Record) {
	if l.keep(ctx, r) != nil {
		l.add(entry{record: r})
	}
}

// Note keeps a record of what was done already, now or as soon as it can be.
func (d *Door) Note(ctx context.Context, r audit.Record) { d.ledger.owe(ctx, r) }

// NoteAll keeps several in one commit, and tells whether they are on disk; if not
// they are kept as soon as they can be.
func (d *Door) NoteAll(ctx context.Context, list []audit.Record) (kept bool) {
	if len(list) == 0 {
		return true
	}
	if _, err := d.ledger.appendAll(ctx, list); err != nil {
		for _, r := range list {
			d.ledger.add(entry{record: r})
		}
		return false
	}
	return true
}

func (l *ledger) add(e entry) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if len(l.owed) >= mostOwed {
		l.lost++
		return
	}
	if len(l.owed) == 0 {
		l.log.Error("the audit trail cannot be written: what is done is recorded as soon as it can", "path", e.record.Path)
	}
	l.owed = append(l.owed, e)
}

func (l *ledger) owing() int {
	l.mu.Lock()
	defer l.mu.Unlock()
	return len(l.owed) + l.lost
}

// settle writes what is owed, oldest first, until the disk refuses; it returns
// how much is left.
func (l *ledger) settle(ctx context.Context) int {
	l.mu.Lock()
	defer l.mu.Unlock()
	for len(l.owed) > 0 {
		e := l.owed[0]
		r, err := l.trail.Append(ctx, e.record)
		if errors.Is(err, audit.ErrTaken) {
			l.owed = l.owed[1:] // it is there already
			continue
		}
		if err != nil {
			return len(l.owed) + l.lost
		}
		if e.ended != nil {
			e.ended.Intent = r.Seq
			l.owed[0] = entry{record: *e.ended}
			continue
		}
		l.owed = l.owed[1:]
	}
	if l.lost > 0 {
		_, err := l.trail.Append(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Event, Name: "Ready Rail",
			New: strconv.Itoa(l.lost) + " records could not be kept while the disk failed"})
		if err != nil {
			return l.lost
		}
		l.lost = 0
	}
	return 0
}

// intent is a record of what is about to be sent.
type intent struct {
	audit.Record
	trial bool
	owed  bool // it is not on disk yet
}

// intend keeps what is about to be sent. Of a command's n-th step the key is
// the command's with its number.
func (d *Door) intend(ctx context.Context, c *Command, t *Target, v, before value.Value, n int) (intent, error) {
	r := c.record(t)
	r.What, r.Old, r.New, r.Key = audit.Intent, shown(t.Tag, before), t.Tag.Show(v, true), stepKey(c.Key, n)
	if t.Trial {
		return intent{Record: r, trial: true}, nil
	}
	kept, err := d.ledger.append(ctx, r)
	if err == errTaken {
		return intent{}, d.refuse(ctx, c, t, err)
	}
	if err != nil && t.Stop {
		return intent{Record: r, owed: true}, nil
	}
	return intent{Record: kept}, err
}

func stepKey(key string, n int) string {
	if n == 0 {
		return key
	}
	return key + "/" + strconv.Itoa(n)
}

// conclude keeps how an intent ended. That it could not be kept is an error;
// it is kept as soon as it can.
func (d *Door) conclude(ctx context.Context, in intent, out Outcome) error {
	if in.trial {
		return nil
	}
	end := audit.Record{At: time.Now().UnixNano(), What: audit.Outcome, Intent: in.Seq, Outcome: out.Outcome, Reason: out.Reason.String()}
	if in.owed {
		d.ledger.add(entry{record: in.Record, ended: &end})
		return nil
	}
	if err := d.ledger.keep(ctx, end); err != nil {
		d.ledger.add(entry{record: end})
		return say.Errorf("keeping the outcome of record %d: %w", in.Seq, err)
	}
	return nil
}

// record is what every record of a command says.
func (c *Command) record(t *Target) audit.Record {
	r := audit.Record{At: time.Now().UnixNano(), Person: c.Who.ID, Name: c.Who.Name, Panel: c.Who.Panel, Old: c.Seen, Reason: c.Reason,
		Sign: c.witness.Sign, Captured: c.witness.Captured}
	if t == nil {
		return r
	}
	r.Screen, r.Element, r.Path = t.Screen, t.Element, t.Path
	if t.Tag != nil {
		r.Tag = t.Tag.ID
	}
	return r
}
