package host

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/audit"
	"readyrail/internal/store"
)

// JournalHead and TrailHead are the first lines of the journal and of the audit
// trail as tables.
var (
	JournalHead = []string{"number", "time", "kind", "what", "name", "area", "priority", "state", "text", "value", "limit", "who", "panel",
		"reason", "comments"}
	TrailHead = []string{"number", "time", "what", "who", "panel", "screen", "element", "tag", "old", "new", "outcome", "reason"}
)

// JournalLine is an entry as a line of a table; times are RFC 3339, in UTC.
func JournalLine(e *store.Entry) []string {
	priority := ""
	if e.Priority >= 0 && e.Priority < len(alarm.Priorities) {
		priority = string(alarm.Priorities[e.Priority])
	}
	return []string{strconv.FormatInt(e.Seq, 10), time.Unix(0, e.At).UTC().Format(time.RFC3339Nano), e.Kind, e.What, e.Name, e.Area,
		priority, e.State, e.Text, e.Value, e.Bound, e.Person, e.Panel, e.Reason, strconv.Itoa(e.Comments)}
}

// TrailLine is a record of the trail as a line of a table.
func TrailLine(r *audit.Record) []string {
	return []string{strconv.FormatInt(r.Seq, 10), r.Time().UTC().Format(time.RFC3339Nano), r.What, r.Name, r.Panel, r.Screen, r.Element,
		r.Path, r.Old, r.New, r.Outcome, r.Reason}
}

// lines hands over lines of a table.
type lines = func(line func([]string) error) error

// journalOf is the journal of a time as a table, oldest first, of all areas.
func (p *Project) journalOf(ctx context.Context, in Period) lines {
	return func(line func([]string) error) error {
		var all []store.Entry
		f := store.JournalFilter{From: in.From.UnixNano(), To: in.To.UnixNano()}
		for {
			page, next, err := p.records.Journal.List(ctx, f, 10_000)
			if err != nil {
				return err
			}
			all = append(all, page...)
			if f.Before = next; next == 0 {
				break
			}
		}
		err := line(JournalHead)
		for i := range slices.Backward(all) {
			if err == nil {
				err = line(JournalLine(&all[i]))
			}
		}
		return err
	}
}

var errEarlier = errors.New("the rest is of earlier")

// trailOf is the audit trail of a time as a table, oldest first.
func (p *Project) trailOf(ctx context.Context, in Period) lines {
	return func(line func([]string) error) error {
		var all []audit.Record
		err := p.EachRecord(ctx, func(r audit.Record) error {
			switch at := r.Time(); {
			case at.Before(in.From):
				return errEarlier
			case at.Before(in.To):
				all = append(all, r)
			}
			return nil
		})
		if err != nil && !errors.Is(err, errEarlier) {
			return err
		}
		err = line(TrailHead)
		for i := range slices.Backward(all) {
			if err == nil {
				err = line(TrailLine(&all[i]))
			}
		}
		return err
	}
}
