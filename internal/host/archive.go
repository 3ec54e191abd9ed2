package host

import (
	"context"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/store"
)

// CloseJournal writes the journal out, seals the file with its hash and begins
// it anew; the trail holds the hash too. How the alarms stand is not touched.
func (p *Project) CloseJournal(ctx context.Context, who Actor, reason string) (store.Archive, error) {
	if err := p.Require(ctx, who, access.Archive, ""); err != nil {
		return store.Archive{}, err
	}
	if reason = strings.TrimSpace(reason); reason == "" {
		return store.Archive{}, refused("say why the journal is closed")
	}
	now := time.Now()
	first := store.Entry{At: now.UnixNano(), Kind: store.SystemEntry, What: audit.JournalEnd, Priority: -1, Person: who.Name,
		Panel: who.Panel, Reason: reason}
	a, err := p.records.Journal.End(ctx, now, who.Name, reason, first)
	if err != nil {
		return a, err
	}
	_, err = p.records.Trail.Append(ctx, audit.Record{At: now.UnixNano(), What: audit.JournalEnd, Person: who.ID, Name: who.Name,
		Panel: who.Panel, New: a.File + " " + a.Hash, Reason: reason})
	p.alarmNews()
	return a, err
}

// JournalArchives lists what was written out, newest first.
func (p *Project) JournalArchives(ctx context.Context, who Actor) ([]store.Archive, error) {
	if err := p.Require(ctx, who, access.Archive, ""); err != nil {
		return nil, err
	}
	return p.records.Journal.Archives(ctx)
}

// JournalArchive reads an archive's file. One that is no longer as it was
// sealed is refused.
func (p *Project) JournalArchive(ctx context.Context, who Actor, id int64) (store.Archive, []byte, error) {
	if err := p.Require(ctx, who, access.Archive, ""); err != nil {
		return store.Archive{}, nil, err
	}
	a, data, whole, err := p.records.Journal.Archive(ctx, id)
	if err == nil && !whole {
		err = refused("%s is not as it was sealed: its hash differs from the one in the audit trail", a.File)
	}
	return a, data, err
}
