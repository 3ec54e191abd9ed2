package host

import (
	"cmp"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/exchange"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// Values of a file to a log: as files of ours have them, with a column for each
// tag or a line for each value, and as other programs write them, where their
// columns are named as the tags are.

// LogFilling is what a file would bring to a log, tag by tag.
type LogFilling struct {
	Rows     int           `json:"rows"`
	From     int64         `json:"from" doc:"time of the first row, milliseconds since 1970"`
	To       int64         `json:"to" doc:"of the last"`
	Tags     []FilledTag   `json:"tags"`
	Ignored  []string      `json:"ignored" doc:"columns or tags that are none of the log's"`
	Old      int           `json:"old" doc:"rows that are older than the log keeps values: they are left out"`
	Problems []FillProblem `json:"problems" doc:"the first of what cannot be read; nothing comes in while there is any"`
	Take     int           `json:"take" doc:"values that come in"`
}

// FilledTag is what a file has of one tag.
type FilledTag struct {
	Tag   string `json:"tag"`
	Path  string `json:"path"`
	Take  int    `json:"take" doc:"values that come in"`
	There int    `json:"there" doc:"that are there already"`
	Known int    `json:"known" doc:"that lie in a time of which the log has its own"`
}

// FillProblem is a cell that cannot be read.
type FillProblem struct {
	Line   int    `json:"line" doc:"in the file, from 1"`
	Column string `json:"column"`
	Text   string `json:"text"`
}

// mostFilled bounds the values of one file.
const mostFilled = 2_000_000

// mostFillProblems is how many of what cannot be read are told.
const mostFillProblems = 50

// FillLog says what a file of values would bring to a log; with apply it is
// brought in, all of it or nothing, and stands in the trail.
func (p *Project) FillLog(ctx context.Context, who Actor, id string, data []byte, apply bool) (*LogFilling, error) {
	if err := p.Require(ctx, who, access.Logs, ""); err != nil {
		return nil, err
	}
	log := p.records.Logs.Log(id)
	_, version := p.logged()
	if log == nil || version == nil || version.Logs[id] == nil {
		return nil, errNoLog
	}
	table, err := exchange.ReadTable(data)
	if err != nil {
		return nil, refused("%v", err)
	}
	def := version.Logs[id]
	f := filler{out: &LogFilling{Tags: []FilledTag{}, Ignored: []string{}, Problems: []FillProblem{}}, tags: map[string]*tag.Tag{},
		paths: map[string]string{}, values: map[string][]value.Value{}, now: time.Now()}
	if days := def.Keep.Days; days > 0 {
		f.oldest = f.now.AddDate(0, 0, -days)
	}
	for _, tag := range version.LogTags(def) {
		path, _ := version.Path(tag)
		f.tags[strings.ToLower(path)], f.paths[tag] = version.Tags[tag], path
	}
	if err := f.read(table); err != nil {
		return nil, err
	}
	list, err := f.beside(ctx, log)
	if err != nil || !apply {
		return f.out, err
	}
	switch {
	case len(f.out.Problems) > 0:
		return nil, refused("line %d, %s: %s", f.out.Problems[0].Line, f.out.Problems[0].Column, f.out.Problems[0].Text)
	case len(list) == 0:
		return nil, refused("the file has nothing that the log does not have")
	}
	if err := log.Fill(ctx, list); errors.Is(err, record.ErrNoRoom) {
		return nil, refused("%v", err)
	} else if err != nil {
		return nil, err
	}
	form := "2006-01-02 15:04:05"
	p.runs.Door().Note(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.LogSet, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Path: def.Name, New: fmt.Sprintf("brought in from a file: %d values from %s to %s, SHA-256 %x", f.out.Take,
			time.UnixMilli(f.out.From).Format(form), time.UnixMilli(f.out.To).Format(form), sha256.Sum256(data))})
	return f.out, nil
}

// filler reads a table into values of a log's tags.
type filler struct {
	out    *LogFilling
	tags   map[string]*tag.Tag // by path in small letters
	paths  map[string]string   // by id
	values map[string][]value.Value
	times  []time.Time
	now    time.Time
	oldest time.Time
}

func (f *filler) problem(line int, column, text string) {
	if len(f.out.Problems) < mostFillProblems {
		f.out.Problems = append(f.out.Problems, FillProblem{line, column, text})
	}
}

// Columns of files of ours.
const (
	timeColumn  = "time"
	tagColumn   = "tag"
	valueColumn = "value"
	badColumn   = "bad"
)

func (f *filler) read(table *exchange.Table) error {
	header := table.Cells[0]
	place := func(name string) int {
		return slices.IndexFunc(header, func(c string) bool { return strings.EqualFold(c, name) })
	}
	at, of, is, bad := place(timeColumn), place(tagColumn), place(valueColumn), place(badColumn)
	if at < 0 {
		return refused("the first line names the columns, and one of them is %s; it has %s", timeColumn, few(header))
	}
	ignored := map[string]bool{}
	if cells := len(table.Cells) * len(header); cells > mostFilled {
		return refused("these are up to %d values: bring in at most %d at once, the file in parts", cells, mostFilled)
	}
	var row func(line int, when time.Time, cell func(int) string)
	if of >= 0 && is >= 0 {
		row = f.long(of, is, bad, ignored)
	} else {
		row = f.wide(header, at, ignored)
	}
	for i, cells := range table.Cells[1:] {
		line := table.Lines[i+1]
		cell := func(i int) string {
			if i < 0 || i >= len(cells) {
				return ""
			}
			return cells[i]
		}
		if when, ok := f.when(line, cell(at)); ok {
			row(line, when, cell)
		}
	}
	for name := range ignored {
		f.out.Ignored = append(f.out.Ignored, name)
	}
	slices.Sort(f.out.Ignored)
	return nil
}

// timeForms are those that times are read in; without a zone they are the
// server's.
var timeForms = []string{time.RFC3339Nano, "2006-01-02T15:04:05", "2006-01-02 15:04:05", "2006-01-02 15:04"}

func (f *filler) when(line int, text string) (time.Time, bool) {
	for _, form := range timeForms {
		at, err := time.ParseInLocation(form, text, time.Local)
		if err != nil {
			continue
		}
		switch {
		case at.After(f.now):
			f.problem(line, timeColumn, text+" is not over yet")
			return at, false
		case at.Before(f.oldest):
			f.out.Old++
			return at, false
		}
		f.out.Rows++
		f.times = append(f.times, at)
		return at, true
	}
	f.problem(line, timeColumn, fmt.Sprintf("%q is no time such as 2026-11-28T14:05:09.250+01:00", text))
	return time.Time{}, false
}

// wide reads rows with a column for each tag; a cell that is empty says that
// nothing is known.
func (f *filler) wide(header []string, at int, ignored map[string]bool) func(int, time.Time, func(int) string) {
	columns := make([]*tag.Tag, len(header))
	for i, title := range header {
		path, _, _ := strings.Cut(title, " [")
		if columns[i] = f.tags[strings.ToLower(path)]; columns[i] == nil && i != at && title != "" {
			ignored[title] = true
		} else if t := columns[i]; t != nil && title != path && !strings.EqualFold(title, TableColumn{Path: path, Unit: t.Unit}.title()) {
			f.problem(1, title, fmt.Sprintf("the tag is in %q", t.Unit))
		}
	}
	return func(line int, when time.Time, cell func(int) string) {
		for i, t := range columns {
			if t != nil {
				text, bad := cell(i), ""
				if text == "" {
					bad = string(value.BadUnrecorded.Reason())
				}
				f.add(line, header[i], t, when, text, bad)
			}
		}
	}
}

// long reads rows with a value each.
func (f *filler) long(of, is, bad int, ignored map[string]bool) func(int, time.Time, func(int) string) {
	return func(line int, when time.Time, cell func(int) string) {
		if t := f.tags[strings.ToLower(cell(of))]; t != nil {
			f.add(line, valueColumn, t, when, cell(is), cell(bad))
		} else if len(ignored) < mostFillProblems {
			ignored[cell(of)] = true
		}
	}
}

// add notes a value; one that was bad for a reason keeps it.
func (f *filler) add(line int, column string, t *tag.Tag, when time.Time, text, bad string) {
	kind := t.Kind()
	v := value.Bad(kind, value.BadUnrecorded)
	switch {
	case bad != "":
		v = value.Bad(kind, value.BadFor(bad))
	case text != "" || kind == value.STRING:
		var err error
		if v, err = t.ParseEntry(text); err != nil {
			f.problem(line, column, err.Error())
			return
		}
	}
	f.values[t.ID] = append(f.values[t.ID], v.At(when))
}

// longestStep is how long the last row of a file holds at most.
const longestStep = 10 * time.Minute

// beside puts what was read beside what the log has.
func (f *filler) beside(ctx context.Context, log *record.Log) (list []store.TagValue, err error) {
	slices.SortFunc(f.times, time.Time.Compare)
	f.times = slices.CompactFunc(f.times, time.Time.Equal)
	step := longestStep
	if n := len(f.times); n > 0 {
		f.out.From, f.out.To = f.times[0].UnixMilli(), f.times[n-1].UnixMilli()
		if n > 1 {
			step = min(step, f.times[n-1].Sub(f.times[n-2]))
		}
	}
	for id, values := range f.values {
		filling, err := log.Beside(ctx, id, values, step)
		if err != nil {
			return nil, err
		}
		filled := FilledTag{id, f.paths[id], 0, filling.There, filling.Known}
		for _, v := range filling.Take {
			if list = append(list, store.TagValue{Tag: id, Value: v}); v.Quality != value.BadUnrecorded {
				filled.Take++
			}
		}
		f.out.Tags, f.out.Take = append(f.out.Tags, filled), f.out.Take+filled.Take
	}
	slices.SortFunc(f.out.Tags, func(a, b FilledTag) int { return cmp.Compare(a.Path, b.Path) })
	slices.SortStableFunc(list, func(a, b store.TagValue) int { return cmp.Compare(a.Nanos(), b.Nanos()) })
	if n := len(list); n > 0 && list[n-1].Nanos() > f.now.UnixNano() { // the end of what is now
		for n > 0 && list[n-1].Nanos() > f.now.UnixNano() {
			n--
		}
		list = list[:n]
	}
	return list, nil
}
