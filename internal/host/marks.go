package host

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// Marks are what happened in a recorded time, of what a person may see.
type Marks struct {
	Alarms  []MarkAlarm  `json:"alarms" doc:"those that came in it, newest first, at most 300"`
	More    bool         `json:"more" doc:"further alarms came in it"`
	Stood   []StoodAlarm `json:"stood" doc:"alarms that had come before it and had not gone as it began; only where they are asked for"`
	Unseen  []StoodAlarm `json:"unseen" doc:"those that had gone, and nobody had acknowledged as it began; only with stood"`
	Entries []MarkEntry  `json:"entries" doc:"what people did, newest first, at most 300"`
	Notes   []MarkNote   `json:"notes" doc:"that people made of a moment or a stretch of it, newest first"`
}

// MarkAlarm is one time that an alarm came.
type MarkAlarm struct {
	record.Occurrence
	AlarmNow
}

// AlarmNow is what the program says of an alarm now.
type AlarmNow struct {
	Tag   string `json:"tag" doc:"id of its signal; empty for a formula, or where the alarm is gone"`
	NoAck bool   `json:"noAck" doc:"it needs no acknowledgement"`
}

// StoodAlarm is one that stood as a time began.
type StoodAlarm struct {
	Name     string `json:"name"`
	Priority int    `json:"priority" doc:"0 critical to 3 low"`
	Went     int64  `json:"went" doc:"when it went, milliseconds since 1970; 0 where it stands yet"`
	Acked    int64  `json:"acked" doc:"when it was acknowledged since it came, milliseconds since 1970; 0 for not yet"`
	AlarmNow
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
func (p *Project) Marks(ctx context.Context, who Actor, from, to time.Time, stood bool) (*Marks, error) {
	if err := p.mayAsk(ctx, who, nil, from, to); err != nil {
		return nil, err
	}
	f, err := p.seenIn(ctx, who, store.JournalFilter{From: from.UnixNano(), To: to.UnixNano()})
	if err != nil {
		return nil, err
	}
	out := &Marks{Alarms: []MarkAlarm{}, Stood: []StoodAlarm{}, Unseen: []StoodAlarm{}, Entries: []MarkEntry{}, Notes: []MarkNote{}}
	if stood {
		if err = p.stoodAt(ctx, from, to, f.Areas, out); err != nil {
			return nil, err
		}
	}
	came, more, err := p.records.Journal.Occurrences(ctx, f, mostMarks)
	if err != nil {
		return nil, err
	}
	for _, x := range came {
		out.Alarms = append(out.Alarms, MarkAlarm{x, p.alarmNow(x.Alarm)})
	}
	out.More = more > 0 && len(out.Alarms) == mostMarks
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

// alarmNow tells what the release says of an alarm, or the draft where nothing is
// released.
func (p *Project) alarmNow(id string) AlarmNow {
	version := p.Released()
	if version == nil {
		version = p.Draft()
	}
	if a := version.Alarms[id]; a != nil {
		return AlarmNow{a.Tag, a.NoAck}
	}
	return AlarmNow{}
}

// stoodAt puts into marks the alarms of some areas that had come in the 30 days
// before a time and stood as it began, those that had gone unseen, and what became
// of them before the end; every area where none is named.
func (p *Project) stoodAt(ctx context.Context, from, end time.Time, areas []string, marks *Marks) error {
	type standing struct {
		StoodAlarm
		came bool // before the time, and it was not over as that began
		gone bool // as it began
		over bool // within the time
	}
	all := map[string]*standing{}
	begun := from.UnixNano()
	err := p.records.Journal.AlarmEntries(ctx, from.AddDate(0, 0, -30).UnixNano(), end.UnixNano(), func(e *store.Entry) bool {
		if len(areas) > 0 && !slices.Contains(areas, e.Area) {
			return true
		}
		s := all[e.Alarm]
		if s == nil {
			s = &standing{}
			all[e.Alarm] = s
		}
		before := e.At < begun
		switch alarm.Event(e.What) {
		case alarm.Raise:
			if before {
				*s = standing{StoodAlarm: StoodAlarm{Name: e.Name, Priority: e.Priority, AlarmNow: p.alarmNow(e.Alarm)}, came: true}
			} else {
				s.over = true // what follows is of the next time that it came
			}
		case alarm.Ack:
			if !s.over && s.Acked == 0 {
				s.Acked = e.At / 1e6
			}
			if before && s.gone {
				s.came = false
			}
		case alarm.Clear:
			if !s.over && s.Went == 0 {
				s.Went = e.At / 1e6
			}
			if before {
				s.gone, s.came = true, s.came && s.Acked == 0 && !s.NoAck
			}
		}
		return true
	})
	for _, id := range project.SortedKeys(all) {
		switch s := all[id]; {
		case s.came && s.gone:
			marks.Unseen = append(marks.Unseen, s.StoodAlarm)
		case s.came:
			marks.Stood = append(marks.Stood, s.StoodAlarm)
		}
	}
	return err
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
