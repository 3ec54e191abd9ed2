package host

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// JournalHead and TrailHead are the first lines of the journal and of the audit
// trail as tables.
var (
	JournalHead = []string{"number", "time", "kind", "what", "name", "area", "priority", "state", "text", "value", "limit", "who", "panel",
		"reason", "comments"}
	TrailHead = []string{"number", "time", "what", "who", "panel", "screen", "element", "tag", "old", "new", "outcome", "reason",
		"signed", "captured"}
)

// Stamp is a time in nanoseconds since 1970 as it stands in tables.
func Stamp(nanos int64) string { return time.Unix(0, nanos).UTC().Format(time.RFC3339Nano) }

// JournalLine is an entry as a line of a table; times are RFC 3339, in UTC.
func JournalLine(e *store.Entry) []string {
	priority := ""
	if e.Priority >= 0 && e.Priority < len(alarm.Priorities) {
		priority = string(alarm.Priorities[e.Priority])
	}
	return []string{strconv.FormatInt(e.Seq, 10), Stamp(e.At), e.Kind, e.What, e.Name, e.Area,
		priority, e.State, e.Text, e.Value, e.Bound, e.Person, e.Panel, e.Reason, strconv.Itoa(e.Comments)}
}

// TrailLine is a record of the trail as a line of a table.
func TrailLine(r *audit.Record) []string {
	return []string{strconv.FormatInt(r.Seq, 10), Stamp(r.At), r.What, r.Name, r.Panel, r.Screen, r.Element,
		r.Path, r.Old, r.New, r.Outcome, r.Reason, r.Sign, r.Captured}
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

// trailOf is the audit trail of a time as a table, oldest first.
func (p *Project) trailOf(ctx context.Context, in Period) lines {
	return func(line func([]string) error) error {
		var all []audit.Record
		f := store.TrailFilter{From: in.From.UnixNano(), To: in.To.UnixNano()}
		err := p.EachRecord(ctx, f, func(r audit.Record) error { all = append(all, r); return nil })
		if err != nil {
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

// DeliveryHead is the first line of the deliveries of recipes as a table.
var DeliveryHead = []string{"number", "began", "ended", "recipe", "version", "quantity", "place", "outcome", "reason", "who", "panel",
	"dealt with", "field", "tag", "before", "wanted", "read back", "state"}

// deliveriesOf are the deliveries that began within a time as a table, a line a
// field, oldest first.
func (p *Project) deliveriesOf(ctx context.Context, in Period) lines {
	return func(line func([]string) error) error {
		if err := line(DeliveryHead); err != nil {
			return err
		}
		return p.records.Recipes.Between(ctx, in.From.UnixNano(), in.To.UnixNano(), func(d store.Delivery) error {
			var fields []DeliveredField
			if err := json.Unmarshal([]byte(d.Doc), &fields); err != nil {
				return say.Errorf("the record of delivery %d cannot be read: %w", d.Seq, err)
			}
			for _, f := range fields {
				if err := line(append(deliveryLine(&d), f.Name, f.Path, f.Before, f.Want, f.After, string(f.State))); err != nil {
					return err
				}
			}
			return nil
		})
	}
}

// deliveryLine is what every field of a delivery has in common.
func deliveryLine(d *store.Delivery) []string {
	ended, quantity := "", ""
	if d.Ended > 0 {
		ended = Stamp(d.Ended)
	}
	if d.Quantity > 0 {
		quantity = strconv.FormatFloat(d.Quantity, 'g', -1, 64)
	}
	return []string{strconv.FormatInt(d.Seq, 10), Stamp(d.Began), ended, d.Title, strconv.FormatInt(d.Number, 10), quantity, d.Place,
		d.State, d.Reason, d.Name, d.Panel, d.Settled}
}
