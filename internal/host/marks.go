package host

import (
	"context"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"readyrail/internal/core/access"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// Marks are what happened in a recorded time, of what a person may see.
type Marks struct {
	Alarms  []record.Occurrence `json:"alarms" doc:"those that came in it, newest first, at most 300"`
	Entries []MarkEntry         `json:"entries" doc:"what people did, newest first, at most 300"`
	Notes   []MarkNote          `json:"notes" doc:"that people made of a moment or a stretch of it, newest first"`
}

// MarkEntry is what somebody did.
type MarkEntry struct {
	Seq    int64  `json:"seq" doc:"of the journal"`
	At     int64  `json:"at" doc:"milliseconds since 1970"`
	What   string `json:"what"`
	Name   string `json:"name" doc:"of the tag or thing"`
	Text   string `json:"text"`
	Person string `json:"person"`
}

// MarkNote is what somebody noted of a time.
type MarkNote struct {
	Seq    int64  `json:"seq" doc:"of the journal"`
	From   int64  `json:"from" doc:"milliseconds since 1970"`
	To     int64  `json:"to" doc:"the same for a moment"`
	Text   string `json:"text"`
	Person string `json:"person"`
	Made   int64  `json:"made" doc:"when, milliseconds since 1970"`
}

const (
	mostMarks = 300
	mostNotes = 1000 // that are looked through
)

// Marks lists what happened in a time.
func (p *Project) Marks(ctx context.Context, who Actor, from, to time.Time) (*Marks, error) {
	if err := p.mayAsk(ctx, who, nil, from, to); err != nil {
		return nil, err
	}
	f, err := p.seenIn(ctx, who, store.JournalFilter{From: from.UnixNano(), To: to.UnixNano()})
	if err != nil {
		return nil, err
	}
	out := &Marks{Entries: []MarkEntry{}, Notes: []MarkNote{}}
	if out.Alarms, _, err = p.records.Journal.Occurrences(ctx, f, mostMarks); err != nil {
		return nil, err
	}
	f.Kinds = []string{store.ActionEntry, store.EventEntry}
	entries, _, err := p.records.Journal.List(ctx, f, mostMarks)
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		out.Entries = append(out.Entries, MarkEntry{e.Seq, e.At / 1e6, e.What, e.Name, e.Text, e.Person})
	}
	// A note of last week may have been made today.
	f = store.JournalFilter{Areas: f.Areas, Kinds: []string{store.NoteEntry}, From: from.UnixNano()}
	notes, _, err := p.records.Journal.List(ctx, f, mostNotes)
	if err != nil {
		return nil, err
	}
	for _, e := range notes {
		n := MarkNote{Seq: e.Seq, Text: e.Text, Person: e.Person, Made: e.At / 1e6}
		n.From, _ = strconv.ParseInt(e.Value, 10, 64)
		n.To, _ = strconv.ParseInt(e.Bound, 10, 64)
		if n.From < to.UnixMilli() && n.To >= from.UnixMilli() {
			out.Notes = append(out.Notes, n)
		}
	}
	return out, nil
}

// NoteTime keeps a note on a moment or a stretch of the recorded time, signed
// with who and when: an entry of the journal, on disk when this returns. It is of
// the area of a tag, of the whole plant where none is given.
func (p *Project) NoteTime(ctx context.Context, who Actor, tag string, from, to time.Time, text string) error {
	area := ""
	if version, t := p.recordedTag(tag); t != nil {
		area = version.AreaOf(t)
	}
	if err := p.Require(ctx, who, access.Acknowledge, area); err != nil {
		return err
	}
	now := time.Now()
	switch text = strings.TrimSpace(text); {
	case text == "" || utf8.RuneCountInString(text) > 1000:
		return refused("a note has 1 to 1000 characters")
	case to.Before(from):
		return refused("the time ends before it begins")
	case from.After(now) || now.Sub(from) > longestSpan:
		return refused("a note is on a time of the last %d days", int(longestSpan.Hours()/24))
	}
	p.records.Journal.Add([]store.Entry{{At: now.UnixNano(), Kind: store.NoteEntry, What: "noted", Priority: -1,
		Name: from.Format("2006-01-02 15:04:05"), Area: area, Text: text, Person: who.Name, Panel: who.Panel,
		Value: strconv.FormatInt(from.UnixMilli(), 10), Bound: strconv.FormatInt(to.UnixMilli(), 10)}}, nil)
	return p.records.Journal.Flush(true)
}
