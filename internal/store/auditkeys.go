package store

import (
	"context"
	"slices"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
)

// sealedBy finds the key that sealed an end, and takes it as the one that seals.
func (a *Audit) sealedBy(head auditHead, hash []byte) bool {
	i := slices.IndexFunc(a.keys, func(key []byte) bool { return audit.Seals(key, head.Seq, head.Closed, hash, head.Seal) })
	if i >= 0 {
		a.key = a.keys[i]
	}
	return i >= 0
}

// keyAfter finds the key that seals at the end of the chain: each record of a change
// after a number goes over to the next one. The first of a trail that was never sealed
// is the oldest.
func (a *Audit) keyAfter(ctx context.Context, seq int64, first bool) error {
	var changes []string
	err := a.db.SelectContext(ctx, &changes, "SELECT new FROM record WHERE seq > ? AND what = ? ORDER BY seq", seq, audit.KeyChanged)
	if err != nil {
		return err
	}
	if first && a.seq > 0 {
		a.key = a.keys[0]
	}
	for _, mark := range changes {
		i := slices.IndexFunc(a.keys, func(key []byte) bool { return audit.Mark(key) == mark })
		if i < 0 {
			return say.Errorf("the key %s of the audit trail is missing in audit.key", mark)
		}
		a.key = a.keys[i]
	}
	return nil
}

// goOver goes over from the key that sealed so far to the newest, one after the other.
func (a *Audit) goOver(ctx context.Context) error {
	for i := slices.IndexFunc(a.keys, func(key []byte) bool { return string(key) == string(a.key) }); i < len(a.keys)-1; i++ {
		change := audit.Record{At: time.Now().UnixNano(), What: audit.KeyChanged, Name: "Ready Rail", Old: audit.Mark(a.keys[i]),
			New: audit.Mark(a.keys[i+1])}
		if _, err := a.Append(ctx, change); err != nil {
			return err
		}
		a.key = a.keys[i+1]
		if err := a.SealEnd(ctx); err != nil {
			return err
		}
	}
	return nil
}
