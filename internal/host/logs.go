package host

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/outbox"
	"readyrail/internal/record"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// LogShown is a log and how it stands.
type LogShown struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Note  string `json:"note"`
	State string `json:"state" enum:"on,waiting,off,full,failing,draft,gone" doc:"draft: kept from the next release on; gone: what it kept is left"`
	Why   string `json:"why" enum:",hours,holds,unknown" doc:"what it waits for"`

	Person   string   `json:"person" doc:"who started or stopped it last"`
	Since    int64    `json:"since" doc:"when, milliseconds since 1970"`
	Tags     []LogTag `json:"tags" doc:"those that it keeps"`
	Bytes    int64    `json:"bytes"`
	Count    int64    `json:"count" doc:"values"`
	First    int64    `json:"first" doc:"time of the oldest value, milliseconds since 1970; 0 for none"`
	Last     int64    `json:"last"`
	Free     float64  `json:"free" doc:"share of its size or number that is free; 1 where it has no such bound"`
	Daily    float64  `json:"daily" doc:"bytes that a day adds as it goes now; 0 where that cannot be told yet"`
	Exported int64    `json:"exported" doc:"when it was last written out and verified, milliseconds since 1970; 0 for never"`
	Upto     int64    `json:"upto" doc:"and up to which of its times"`
	Cut      bool     `json:"cut" doc:"it has spans"`
	Folder   string   `json:"folder" doc:"that it is written out to; empty for none"`
	Finished bool     `json:"finished" doc:"somebody has finished with that folder's medium, which may be taken out"`
	May      bool     `json:"may" doc:"whoever asks may start, stop, mark and clear it"`

	Def    *history.Log      `json:"def,omitempty" doc:"as it is edited; of the draft only"`
	Lines  []project.LogLine `json:"lines,omitempty" doc:"of its tags; of the draft only"`
	Export *ExportState      `json:"export,omitempty" doc:"how writing it out goes, or went last since the server began"`

	Alarm string `json:"alarm,omitempty" doc:"name of the alarm whose coming is its moment; of the draft only"`

	By *project.LogLine `json:"by,omitempty" doc:"the tag whose values its spans last by; of the draft only"`
}

// LogTag is one that a log keeps.
type LogTag struct {
	ID   string `json:"id"`
	Path string `json:"path"`
}

// Logs lists the logs of the draft or of the release; then those that are at work
// though the draft has them no more, and those that have left something behind.
func (p *Project) Logs(ctx context.Context, who Actor, released bool) ([]LogShown, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	out, listed := []LogShown{}, map[string]bool{}
	version := p.version(released)
	_, working := p.logged()
	may := p.May(ctx, who, access.Logs, true)
	for _, v := range []*project.Project{version, working} {
		if v == nil {
			continue
		}
		for _, id := range project.SortedKeys(v.Logs) {
			if listed[id] {
				continue
			}
			listed[id] = true
			l := p.logShown(v, v.Logs[id])
			l.May = may
			if v == version && !released {
				l.define(v, v.Logs[id])
			}
			out = append(out, l)
		}
	}
	left, err := p.records.Logs.Left(ctx)
	for _, s := range left {
		if !listed[s.ID] {
			out = append(out, LogShown{ID: s.ID, Name: s.Name, State: "gone", Person: s.Person, Since: s.At / 1e6, Tags: []LogTag{}, Free: 1,
				Exported: s.Exported / 1e6, Upto: s.Upto / 1e6})
		}
	}
	return out, err
}

// define adds how the log is edited.
func (l *LogShown) define(draft *project.Project, def *history.Log) {
	l.Def, l.Lines, l.By = draft.ShownLog(def), draft.LogLines(def), draft.LogCut(def)
	if a := draft.Alarms[def.How.Alarm]; a != nil {
		l.Alarm = draft.AlarmName(a)
	}
}

func (p *Project) logShown(version *project.Project, l *history.Log) LogShown {
	out := LogShown{ID: l.ID, Name: l.Name, Note: l.Note, State: "draft", Free: 1, Tags: []LogTag{}, Cut: l.Spans != history.LogSpans{},
		Folder: l.Out.Folder, Finished: p.host.media.State(l.Out.Folder).Finished}
	for _, id := range version.LogTags(l) {
		path, _ := version.Path(id)
		out.Tags = append(out.Tags, LogTag{id, path})
	}
	log := p.records.Logs.Log(l.ID)
	if log == nil {
		return out
	}
	s := log.Status()
	out.Export = p.exports.state(l.ID)
	out.State, out.Why, out.Person, out.Since = string(s.State), string(s.Why), s.Person, s.Since.UnixMilli()
	out.Bytes, out.Count, out.First, out.Last, out.Free = s.Bytes, s.Count, s.First/1e6, s.Last/1e6, s.Free
	out.Upto = s.Upto / 1e6
	if !s.Exported.IsZero() {
		out.Exported = s.Exported.UnixMilli()
	}
	if long := time.Duration(s.Last - s.First); s.First > 0 && long > time.Hour {
		out.Daily = float64(s.Bytes) / long.Hours() * 24
	}
	return out
}

// ActOnLog starts, stops, marks or clears a log, or has it take values now. Text
// is the name of a mark, and the reason of a clearing. It stands in the trail.
func (p *Project) ActOnLog(ctx context.Context, who Actor, id, act, text string) error {
	if err := p.Require(ctx, who, access.Logs, ""); err != nil {
		return err
	}
	name, told, err := p.onLog(ctx, who, id, act, text)
	if err != nil {
		return err
	}
	r := audit.Record{At: time.Now().UnixNano(), What: audit.LogSet, Person: who.ID, Name: who.Name, Panel: who.Panel, Path: name, New: told}
	if act == screen.LogClear {
		r.Reason = text
	}
	p.runs.Door().Note(ctx, r)
	return nil
}

// logStep is what a button does to a log, and the text for the record.
func (p *Project) logStep(ctx context.Context, who Actor, c Command, t *target) (string, error) {
	text := c.Reason
	if t.element.Text("logDoes") == screen.LogMark {
		text = p.reads(t, t.element.Text("mark"))
	}
	if t.program == run.Try {
		return t.element.Text("logDoes"), nil
	}
	name, told, err := p.onLog(ctx, who, t.element.Text("log"), t.element.Text("logDoes"), text)
	return name + ": " + told, err
}

// onLog does something to a log and says to which, and what was done.
func (p *Project) onLog(ctx context.Context, who Actor, id, act, text string) (name, told string, err error) {
	log := p.records.Logs.Log(id)
	if log == nil {
		return "", "", errNoLog
	}
	name = id
	var def *history.Log
	if _, version := p.logged(); version != nil && version.Logs[id] != nil {
		def = version.Logs[id]
		name = def.Name
	}
	if text = strings.TrimSpace(text); utf8.RuneCountInString(text) > 200 {
		return name, "", refused("at most 200 characters")
	}
	switch act {
	case screen.LogStart:
		told, err = "started", log.Start(who.Name)
	case screen.LogStop:
		told, err = "stopped", log.Stop(who.Name)
	case screen.LogTake:
		told, err = "values taken", log.Take()
	case screen.LogMark:
		if text == "" {
			text = time.Now().Format("15:04:05")
		}
		told, err = "marked "+text, log.Mark(text, who.Name)
	case screen.LogExport:
		told, err = p.exportLog(who, def, log)
	case screen.LogFinish:
		told, err = p.finishMedium(def)
	case screen.LogClear:
		told, err = clearLog(ctx, log, text)
	default:
		err = say.Errorf("a log is started, stopped, marked, written out, finished with, cleared, or takes values; not %q", act)
	}
	if err != nil {
		err = refused("%v", err)
	}
	return name, told, err
}

func clearLog(ctx context.Context, log *record.Log, why string) (string, error) {
	if why == "" {
		return "", say.New("say why the log is cleared")
	}
	c, err := log.Clear(ctx)
	form := "2006-01-02 15:04:05"
	return fmt.Sprintf("cleared: %d values from %s to %s", c.Count, time.Unix(0, c.From).Format(form), time.Unix(0, c.To).Format(form)), err
}

// logStates are the numbers by which a system tag tells how a log stands.
var logStates = map[record.LogStateName]int64{record.LogStopped: 0, record.LogWorks: 1, record.LogWaits: 2, record.LogIsFull: 3,
	record.LogFails: 4}

// logValue is a system tag of a log; of one that is not at work nothing is known.
func (p *Project) logValue(s engine.SystemTag, now time.Time) (value.Value, bool) {
	log := p.records.Logs.Log(s.Log)
	if log == nil {
		kind := value.LREAL
		if v, ok := tag.SystemValueOf(s.Name); ok {
			kind = v.Type.Kind
		}
		return value.Bad(kind, value.BadConfig), true
	}
	x := log.Status()
	folder := outbox.State{}
	if _, version := p.logged(); version != nil && version.Logs[s.Log] != nil {
		folder = p.host.media.State(version.Logs[s.Log].Out.Folder)
	}
	out := p.exports.state(s.Log)
	if out == nil {
		out = &ExportState{}
	}
	switch s.Name {
	case "log.busy":
		return value.Bool(out.Busy), true
	case "log.share":
		return value.Real(value.LREAL, 100*out.Share), true
	case "log.failed":
		return value.Bool(out.Problem != ""), true
	case "log.folder":
		return value.Bool(folder.There), true
	case "log.room":
		return value.Real(value.LREAL, float64(folder.Free)/1e6), true
	case "log.out":
		return value.Bool(folder.Finished), true
	case "log.state":
		return value.Int(value.INT, logStates[x.State]), true
	case "log.count":
		return value.Int(value.LINT, x.Count), true
	case "log.size":
		return value.Real(value.LREAL, float64(x.Bytes)/1e6), true
	case "log.free":
		return value.Real(value.LREAL, 100*x.Free), true
	case "log.exported":
		hours := -1.0
		if !x.Exported.IsZero() {
			hours = now.Sub(x.Exported).Hours()
		}
		return value.Real(value.LREAL, hours), true
	}
	return value.Value{}, false
}

// DropLog forgets what a log kept that the release has no more.
func (p *Project) DropLog(ctx context.Context, who Actor, id, reason string) error {
	if err := p.Require(ctx, who, access.Logs, ""); err != nil {
		return err
	}
	reason, err := tidyReason(reason)
	if err == nil && reason == "" {
		err = refused("say why what the log kept is deleted")
	}
	if err != nil {
		return err
	}
	if err := p.records.Logs.Drop(ctx, id); err != nil {
		return refused("%v", err)
	}
	p.runs.Door().Note(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.LogSet, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Path: id, New: "deleted with what it kept", Reason: reason})
	return nil
}

// LogSpan is a part of a log that has a name, or a mark in it.
type LogSpan struct {
	Seq    int64  `json:"seq"`
	Of     string `json:"of" doc:"id of the equipment; empty for none"`
	OfPath string `json:"ofPath"`
	Name   string `json:"name"`
	From   int64  `json:"from" doc:"milliseconds since 1970"`
	To     int64  `json:"to" doc:"0 while it lasts"`
	Mark   bool   `json:"mark"`
	Person string `json:"person" doc:"who made the mark"`
	Note   string `json:"note"`
	Recipe string `json:"recipe" doc:"name of the one that its equipment had by the end of it; empty for none"`
	// RecipeVersion is the number of its version.
	RecipeVersion int64 `json:"recipeVersion"`
}

// mostSpans is how many spans one page has.
const mostSpans = 200

// LogSpans lists a log's spans and marks whose names or notes have a text, newest
// first, from before a number; those of one equipment where its id is given.
func (p *Project) LogSpans(ctx context.Context, who Actor, id, of, text string, before int64) ([]LogSpan, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	list, err := p.records.Logs.Spans(ctx, id, of, text, before, mostSpans)
	out := make([]LogSpan, len(list))
	for i, s := range list {
		out[i] = LogSpan{Seq: s.Seq, Of: s.Of, OfPath: p.pathOf(s.Of), Name: s.Name, From: s.Began / 1e6, Mark: s.Mark, Person: s.Person,
			Note: s.Note}
		upto := time.Now().UnixNano()
		if s.Ended != nil {
			out[i].To, upto = *s.Ended/1e6, *s.Ended
		}
		if s.Of == "" || s.Mark {
			continue
		}
		d, err := p.records.Recipes.Delivered(ctx, s.Of, upto)
		if err == nil {
			out[i].Recipe, out[i].RecipeVersion = d.Title, d.Number
		} else if !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
	}
	return out, err
}

func (p *Project) pathOf(id string) string {
	for _, version := range []*project.Project{p.Released(), p.Draft()} {
		if version != nil {
			if path, ok := version.Path(id); ok {
				return path
			}
		}
	}
	return id
}

// NoteLogSpan gives a span its note.
func (p *Project) NoteLogSpan(ctx context.Context, who Actor, id string, seq int64, note string) error {
	if err := p.Require(ctx, who, access.Acknowledge, ""); err != nil {
		return err
	}
	if note = strings.TrimSpace(note); utf8.RuneCountInString(note) > 1000 {
		return refused("a note has at most 1000 characters")
	}
	if err := p.records.Logs.NoteSpan(ctx, id, seq, note); errors.Is(err, store.ErrNotFound) {
		return ErrNotFound
	} else if err != nil {
		return err
	}
	p.Note(ctx, who, audit.LogSet, "note of a span: "+note)
	return nil
}

var errNoLog = refused("there is no such log at work: it is kept from its release on")
