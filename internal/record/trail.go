package record

import (
	"cmp"
	"context"
	"readyrail/internal/core/audit"
	"readyrail/internal/store"
)

// Trail is the audit trail; what people did stands in the journal too. What is
// kept together, by AppendAll, is one act there, by a record of its own.
type Trail struct {
	*store.Audit
	told func(audit.Record)
}

// Append keeps a record and tells of it.
func (t *Trail) Append(ctx context.Context, r audit.Record) (audit.Record, error) {
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
	audit.Delivery: store.ActionEntry, audit.RecipeSet: store.ActionEntry, audit.Brought: store.SystemEntry,
	audit.Handover: store.PersonEntry, audit.Control: store.PersonEntry,
	audit.LimitSet: store.ActionEntry, audit.LogSet: store.ActionEntry, audit.Turn: store.SystemEntry,
}

// inJournal is how a record stands in the journal; ok is false where it does not.
func inJournal(r audit.Record) (e store.Entry, ok bool) {
	kind, ok := journalled[r.What]
	if !ok {
		return e, false
	}
	text := r.New
	if r.Old != "" {
		text = r.Old + " → " + r.New
	}
	return store.Entry{At: r.At, Kind: kind, What: r.What, Name: cmp.Or(r.Path, r.Element), Text: text, Person: r.Name, Panel: r.Panel,
		Reason: r.Reason}, true
}
