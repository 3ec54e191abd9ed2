package host

import (
	"context"
	"errors"
	"slices"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/value"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// seenIn narrows a filter of the journal to the areas that a person may see.
func (p *Project) seenIn(ctx context.Context, who Actor, f store.JournalFilter) (store.JournalFilter, error) {
	if p.May(ctx, who, access.View, false) {
		return f, nil
	}
	may := areaRights{p: p, ctx: ctx, who: who, known: map[string]bool{}}
	areas := []string{}
	for _, a := range p.shown().Site().Areas {
		if may.has(access.View, a.ID) && (len(f.Areas) == 0 || slices.Contains(f.Areas, a.ID)) {
			areas = append(areas, a.ID)
		}
	}
	if len(areas) == 0 {
		return f, p.Require(ctx, who, access.View, "")
	}
	f.Areas = areas
	return f, nil
}

// Journal returns a page of the journal, newest first, and where the next one
// goes on; to a person who may see some areas only, what is of these.
func (p *Project) Journal(ctx context.Context, who Actor, f store.JournalFilter, limit int) (entries []store.Entry, next int64, err error) {
	if f, err = p.seenIn(ctx, who, f); err != nil {
		return nil, 0, err
	}
	return p.records.Journal.List(ctx, f, limit)
}

// Occurrences lists how often alarms came, by a filter of the journal, newest
// first; next is where the next page goes on, 0 at the end.
func (p *Project) Occurrences(ctx context.Context, who Actor, f store.JournalFilter, limit int) (list []record.Occurrence, next int64,
	err error) {
	if f, err = p.seenIn(ctx, who, f); err != nil {
		return nil, 0, err
	}
	return p.records.Journal.Occurrences(ctx, f, limit)
}

// CommentEntry adds a person's comment to an entry of the journal.
func (p *Project) CommentEntry(ctx context.Context, who Actor, entry int64, text string) error {
	if err := p.Somewhere(ctx, who, access.Acknowledge); err != nil {
		return err
	}
	e, err := p.records.Journal.Entry(ctx, entry)
	if err != nil {
		return err
	}
	if err := p.Require(ctx, who, access.Acknowledge, e.Area); err != nil {
		return err
	}
	if text == "" || len(text) > 1000 {
		return refused("a comment has 1 to 1000 characters")
	}
	err = p.records.Journal.Comment(ctx, store.Comment{Entry: entry, At: time.Now().UnixNano(), Person: who.Name, Text: text})
	if err == nil {
		p.alarmNews()
	}
	return err
}

// EntryComments lists the comments of an entry, to a person who may see it.
func (p *Project) EntryComments(ctx context.Context, who Actor, entry int64) ([]store.Comment, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	e, err := p.records.Journal.Entry(ctx, entry)
	if err != nil {
		return nil, err
	}
	if err := p.Require(ctx, who, access.View, e.Area); err != nil {
		return nil, err
	}
	return p.records.Journal.Comments(ctx, entry)
}

// event keeps something beside the alarms.
func (p *Project) event(kind, what, name, text string, who Actor) {
	p.records.Journal.Event(store.Entry{At: time.Now().UnixNano(), Kind: kind, What: what, Name: name, Text: text, Person: who.Name,
		Panel: who.Panel})
}

// WhatIf plays what was recorded through an alarm of the draft, as it is and as
// proposed.
func (p *Project) WhatIf(ctx context.Context, id string, ask record.Proposal) (*record.Played, error) {
	version := p.Draft()
	if version.Alarms[id] == nil {
		return nil, ErrNotFound
	}
	out, err := p.records.Recorder.Play(ctx, version, id, ask)
	if cannot := (*record.CannotBe)(nil); errors.As(err, &cannot) {
		return nil, refused("%v", err)
	}
	return out, err
}

// Course is the recorded course of a signal, to a person who may see it.
func (p *Project) Course(ctx context.Context, who Actor, id string, from, to time.Time) ([]record.CoursePoint, error) {
	version, t := p.recordedTag(id)
	if t == nil {
		return nil, ErrNotFound
	}
	if err := p.Require(ctx, who, access.View, version.AreaOf(t)); err != nil {
		return nil, err
	}
	if !to.After(from) {
		return nil, refused("the time ends before it begins")
	}
	if t.Kind() == value.STRING {
		return []record.CoursePoint{}, nil
	}
	list, err := p.records.Recorder.Course(ctx, t.ID, from.UnixNano(), to.UnixNano())
	if err != nil {
		return nil, err
	}
	return record.Points(list, from.UnixNano(), to.UnixNano()), nil
}

// ScreenError keeps what went wrong in a person's browser, at most once a
// second of a project.
func (p *Project) ScreenError(ctx context.Context, who Actor, screen, text string) error {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return err
	}
	now := time.Now().UnixNano()
	last := p.screenErrors.Load()
	if now-last < int64(time.Second) || !p.screenErrors.CompareAndSwap(last, now) {
		return nil
	}
	name := screen
	if version := p.Released(); version != nil && version.Screens[screen] != nil {
		name = version.Screens[screen].Name
	}
	p.event(store.TroubleEntry, "screen-error", name, text, who)
	return nil
}
