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

// CloseTrail writes the trail out as a signed file, up to where nothing is under way, and
// begins it anew; the chain goes on, and what is kept of the part is under its seal.
func (p *Project) CloseTrail(ctx context.Context, who Actor, reason string) (store.Archive, error) {
	if err := p.Require(ctx, who, access.Archive, ""); err != nil {
		return store.Archive{}, err
	}
	if reason = strings.TrimSpace(reason); reason == "" {
		return store.Archive{}, refused("say why this part of the trail is closed")
	}
	now := time.Now()
	first := audit.Record{At: now.UnixNano(), What: audit.TrailEnd, Person: who.ID, Name: who.Name, Panel: who.Panel, Reason: reason}
	part, err := p.records.Trail.ClosePart(ctx, now, reason, first, p.writeRecords)
	if err != nil {
		return store.Archive{}, err
	}
	p.signEnd(ctx)
	return archiveOf(part), nil
}

// archiveOf is a part of the trail as archives are listed.
func archiveOf(p audit.Part) store.Archive {
	return store.Archive{ID: p.ID, File: p.File, Hash: p.Digest, Entries: p.Records, First: p.First, Last: p.Last, At: p.At,
		Person: p.Person, Reason: p.Reason}
}

// TrailArchives lists what was written out of the trail, newest first, to who reads it.
func (p *Project) TrailArchives(ctx context.Context, who Actor) ([]store.Archive, error) {
	if err := p.Require(ctx, who, access.Audit, ""); err != nil {
		return nil, err
	}
	parts, err := p.records.Trail.Parts(ctx)
	out := make([]store.Archive, len(parts))
	for i, part := range parts {
		out[len(parts)-1-i] = archiveOf(part)
	}
	return out, err
}

// TrailArchive reads the file of a part of the trail. One that is no longer as it was
// sealed is refused.
func (p *Project) TrailArchive(ctx context.Context, who Actor, id int64) (store.Archive, []byte, error) {
	if err := p.Require(ctx, who, access.Audit, ""); err != nil {
		return store.Archive{}, nil, err
	}
	part, data, whole, err := p.records.Trail.PartFile(ctx, id)
	if err == nil && !whole {
		err = errNotAsSealed(part.File)
	}
	return archiveOf(part), data, err
}

func errNotAsSealed(file string) error {
	return refused("%s is not as it was sealed: its hash differs from the one in the audit trail", file)
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
		err = errNotAsSealed(a.File)
	}
	return a, data, err
}
