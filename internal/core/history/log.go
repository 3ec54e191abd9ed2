package history

import (
	"fmt"
	"readyrail/internal/core/say"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"
)

// Log is a named choice of tags whose values are kept beside what the recorder
// keeps: as often, while and as long as the log says.
type Log struct {
	ID    string `json:"-"`
	Name  string `json:"name"`
	Note  string `json:"note,omitempty"`
	Picks []Pick `json:"picks"`

	How   LogHow   `json:"how"`
	While LogWhile `json:"while"`
	Keep  LogKeep  `json:"keep"`
	Spans LogSpans `json:"spans"`
	Out   LogOut   `json:"out,omitzero"`
}

// LogOut says how a log is written out to a folder: what it has since the last
// time.
type LogOut struct {
	Folder string `json:"folder,omitempty"` // name of one that the server allows; empty for none
	Format string `json:"format,omitempty"` // one of LogFormats; csv where it is not given
	// At is a time of the day at which it is written out by itself.
	At string `json:"at,omitempty"`
	// Per divides it: OneFile, FileADay or FileForSpan.
	Per string `json:"per,omitempty"`
	// Name is a pattern for the names of the files, with FileNames in braces; a
	// usual one where it is empty.
	Name string `json:"name,omitempty"`
	// Journal, Trail and Deliveries have the journal, the audit trail and the
	// deliveries of recipes of a file's time lie beside it, as CSV.
	Journal    bool `json:"journal,omitempty"`
	Trail      bool `json:"trail,omitempty"`
	Deliveries bool `json:"deliveries,omitempty"`
}

// LogFormats are the forms of files: a column for each tag, a line for each value,
// a workbook, Apache Parquet.
var LogFormats = []string{"csv", "csv-long", "xlsx", "parquet"}

// Pick names tags of a log in one of three ways.
type Pick struct {
	Tag string `json:"tag,omitempty"` // id
	// Folder is the id of a folder, of whose tags those are meant whose paths
	// below it are like Like; all where it is empty.
	Folder string `json:"folder,omitempty"`
	Like   string `json:"like,omitempty"`
	// Type is the id of a type of equipment, and Member a chain of its members:
	// that of every equipment of the type.
	Type   string `json:"type,omitempty"`
	Member string `json:"member,omitempty"`
}

// Way is how a log takes values.
type Way string

// The ways.
const (
	AtChanges   Way = "changes"
	AtIntervals Way = "intervals"
	AtMoments   Way = "moments"
)

// LogHow says when a log takes values.
type LogHow struct {
	Way Way `json:"way"`
	// Band is the move of a number that is not worth keeping, in its unit; that of
	// the recorder where it is not given.
	Band *float64 `json:"band,omitempty"`
	// Least and Longest are milliseconds between two values of a tag: closer ones
	// are left out, and what stands still is kept again after so long.
	Least   int `json:"least,omitempty"`
	Longest int `json:"longest,omitempty"`
	// Every is the interval in milliseconds; it is counted from midnight, so that
	// values stand on the clock's marks.
	Every int `json:"every,omitempty"`
	// Rises is a formula at whose rising every tag is kept, At are times of the
	// day, and Alarm is the id of an alarm whose coming is such a moment. A button
	// may always be one.
	Rises string   `json:"rises,omitempty"`
	At    []string `json:"at,omitempty"`
	Alarm string   `json:"alarm,omitempty"`
}

// LogWhile says when a log is at work at all.
type LogWhile struct {
	// Starts says that it waits for a start by hand or by a button.
	Starts bool `json:"starts,omitempty"`
	// Holds is a formula that has to be true.
	Holds string `json:"holds,omitempty"`
	// Days are those of the week, 1 is Monday (ISO 8601); every day where none is
	// given. From and Until are times of the day; where From is the later one the
	// time goes over midnight and belongs to the day on which it begins.
	Days  []int  `json:"days,omitempty"`
	From  string `json:"from,omitempty"`
	Until string `json:"until,omitempty"`
}

// LogKeep bounds what a log keeps; a bound of 0 is none, but for the days.
type LogKeep struct {
	Days  int `json:"days"`
	MB    int `json:"mb,omitempty"`
	Count int `json:"count,omitempty"` // of values
	// Stops says that a log that is full ends, instead of letting its oldest go.
	Stops bool `json:"stops,omitempty"`
}

// LogSpans cuts a log into spans that have names: a load, a batch, a fault.
type LogSpans struct {
	// Tag is the id of one during each of whose values a span lasts, and which the
	// span is called by; there is none while it is 0, empty or not known.
	Tag string `json:"tag,omitempty"`
	// Type and Member are that of every equipment of a type, each with spans of its
	// own.
	Type   string `json:"type,omitempty"`
	Member string `json:"member,omitempty"`
	// Holds is a formula; a span lasts while it is true.
	Holds string `json:"holds,omitempty"`
}

// Bounds of a log.
const (
	MostLogTags = 2000
	LeastEvery  = 100              // milliseconds
	MostEvery   = 31 * 24 * 3600e3 // milliseconds
	MostLogDays = 3660
	MostLogMB   = 1_000_000
)

// Check refuses a log that cannot be; place is where, as a JSON pointer.
func (l *Log) Check() (place string, err error) {
	switch n := utf8.RuneCountInString(strings.TrimSpace(l.Name)); {
	case n == 0:
		return "/name", say.Errorf("a log has a name")
	case n > 80:
		return "/name", say.Errorf("a name has at most 80 characters")
	case utf8.RuneCountInString(l.Note) > 500:
		return "/note", say.Errorf("a note has at most 500 characters")
	case len(l.Picks) > 500:
		return "/picks", say.Errorf("a log names its tags in at most 500 lines: take folders or types")
	}
	for i, p := range l.Picks {
		if err := p.check(); err != nil {
			return fmt.Sprintf("/picks/%d", i), err
		}
	}
	for _, part := range []struct {
		at    string
		check func() (string, error)
	}{{"/how", l.How.check}, {"/while", l.While.check}, {"/keep", l.Keep.check}, {"/out", l.Out.check}} {
		if place, err := part.check(); err != nil {
			return part.at + place, err
		}
	}
	if err := l.Spans.check(); err != nil {
		return "/spans", err
	}
	if l.Out.Per == FileForSpan && l.Spans == (LogSpans{}) {
		return "/out/per", say.Errorf("nothing cuts this log into spans: write one file, or one a day")
	}
	return "", nil
}

func (s LogSpans) check() error {
	ways := 0
	for _, way := range []string{s.Tag, s.Type, s.Holds} {
		if way != "" {
			ways++
		}
	}
	switch {
	case ways > 1:
		return say.Errorf("a span lasts by a tag, by the member of a type or by a condition: one of them")
	case (s.Type == "") != (s.Member == ""):
		return say.Errorf("a type goes with one of its members")
	}
	return nil
}

func (p Pick) check() error {
	ways := 0
	for _, named := range []bool{p.Tag != "", p.Folder != "" || p.Like != "", p.Type != ""} {
		if named {
			ways++
		}
	}
	switch {
	case ways != 1:
		return say.Errorf("a line names a tag, a folder, or the member of a type")
	case (p.Type == "") != (p.Member == ""):
		return say.Errorf("a type goes with one of its members")
	case len(p.Like) > 200:
		return say.Errorf("a pattern has at most 200 characters")
	}
	return nil
}

func (h *LogHow) check() (string, error) {
	switch {
	case h.Way != AtChanges && h.Way != AtIntervals && h.Way != AtMoments:
		return "/way", say.Errorf("a log takes values at changes, intervals or moments")
	case h.Way == AtIntervals && (h.Every < LeastEvery || h.Every > MostEvery):
		return "/every", say.Errorf("an interval is 100 ms to 31 days")
	case h.Band != nil && *h.Band < 0:
		return "/band", say.Errorf("a band is not negative")
	case h.Least < 0 || h.Least > 24*3600e3:
		return "/least", say.Errorf("at most 24 hours")
	case h.Longest < 0 || h.Longest > 24*3600e3:
		return "/longest", say.Errorf("at most 24 hours")
	case h.Longest > 0 && h.Longest < h.Least:
		return "/longest", say.Errorf("the longest time is not below the least")
	case len(h.At) > 48:
		return "/at", say.Errorf("at most 48 times of the day")
	}
	for i, text := range h.At {
		if _, err := TimeOfDay(text); err != nil {
			return fmt.Sprintf("/at/%d", i), err
		}
	}
	return "", nil
}

func (w *LogWhile) check() (string, error) {
	for i, d := range w.Days {
		if d < 1 || d > 7 || slices.Contains(w.Days[:i], d) {
			return fmt.Sprintf("/days/%d", i), say.Errorf("days are 1 for Monday to 7 for Sunday, each once")
		}
	}
	if (w.From == "") != (w.Until == "") {
		return "/until", say.Errorf("a time of the day has a begin and an end")
	}
	for place, text := range map[string]string{"/from": w.From, "/until": w.Until} {
		if _, err := TimeOfDay(text); text != "" && err != nil {
			return place, err
		}
	}
	if w.From != "" && w.From == w.Until {
		return "/until", say.Errorf("it ends as it begins: leave both out for the whole day")
	}
	return "", nil
}

func (k *LogKeep) check() (string, error) {
	switch {
	case k.Days < 1 || k.Days > MostLogDays:
		return "/days", say.Errorf("a log keeps 1 to %d days", MostLogDays)
	case k.MB < 0 || k.MB > MostLogMB:
		return "/mb", say.Errorf("0 for no bound, or up to %d MB", MostLogMB)
	case k.Count < 0:
		return "/count", say.Errorf("0 for no bound, or a number of values")
	case k.Stops && k.MB == 0 && k.Count == 0:
		return "/stops", say.Errorf("a log that ends when it is full has a size or a number of values")
	}
	return "", nil
}

func (o *LogOut) check() (string, error) {
	if _, err := TimeOfDay(o.At); o.At != "" && err != nil {
		return "/at", err
	}
	switch {
	case len(o.Folder) > 60:
		return "/folder", say.Errorf("a folder has at most 60 characters")
	case o.Format != "" && !slices.Contains(LogFormats, o.Format):
		return "/format", say.Errorf("a log is written out as %s", strings.Join(LogFormats, ", "))
	case o.Per != OneFile && o.Per != FileADay && o.Per != FileForSpan:
		return "/per", say.Errorf("a log is written to one file, to one a day or to one a span")
	case o.At != "" && o.Folder == "":
		return "/at", say.Errorf("choose the folder that it is written to first")
	}
	if err := o.checkName(); err != nil {
		return "/name", err
	}
	return "", nil
}

// Formulas are those of the log, in stored form, by the place where each stands.
func (l *Log) Formulas() map[string]*string {
	out := map[string]*string{}
	for place, text := range map[string]*string{"/how/rises": &l.How.Rises, "/while/holds": &l.While.Holds, "/spans/holds": &l.Spans.Holds} {
		if *text != "" {
			out[place] = text
		}
	}
	return out
}

// Convert returns the log with its formulas in another form; place is where one
// could not be.
func (l *Log) Convert(formula func(string) (string, error)) (out *Log, place string, err error) {
	c := *l
	for place, text := range c.Formulas() {
		if *text, err = formula(*text); err != nil {
			return nil, place, err
		}
	}
	return &c, "", nil
}

var timeOfDay = regexp.MustCompile(`^([01][0-9]|2[0-3]):[0-5][0-9]$`)

// TimeOfDay reads a time such as 06:00 as what has passed since midnight.
func TimeOfDay(text string) (time.Duration, error) {
	if !timeOfDay.MatchString(text) {
		return 0, say.Errorf("a time of the day is 00:00 to 23:59, not %q", text)
	}
	at, err := time.Parse("15:04", text)
	return at.Sub(at.Truncate(24 * time.Hour)), err
}

// Open tells whether days and times of the day let the log be at work.
func (w *LogWhile) Open(now time.Time) bool {
	midnight := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, now.Location())
	day := midnight
	if w.From != "" {
		from, _ := TimeOfDay(w.From)
		until, _ := TimeOfDay(w.Until)
		clock := time.Duration(now.Hour())*time.Hour + time.Duration(now.Minute())*time.Minute
		switch over := from > until; {
		case !over && (clock < from || clock >= until):
			return false
		case over && clock < from && clock >= until:
			return false
		case over && clock < until:
			day = midnight.AddDate(0, 0, -1) // it began yesterday
		}
	}
	return len(w.Days) == 0 || slices.Contains(w.Days, int(day.Weekday()+6)%7+1)
}

// Next is the first moment after a time at which the log takes values by the
// clock; the zero time where it never does.
func (h *LogHow) Next(after time.Time) time.Time {
	midnight := time.Date(after.Year(), after.Month(), after.Day(), 0, 0, 0, 0, after.Location())
	switch {
	case h.Way == AtIntervals:
		every := time.Duration(h.Every) * time.Millisecond
		if every >= 24*time.Hour {
			// Whole days are counted from 1970, so that a restart moves none.
			days := int(every / (24 * time.Hour))
			since := int(time.Date(after.Year(), after.Month(), after.Day(), 0, 0, 0, 0, time.UTC).Unix() / 86400)
			return midnight.AddDate(0, 0, days-since%days)
		}
		next := midnight.Add((after.Sub(midnight)/every + 1) * every)
		if tomorrow := midnight.AddDate(0, 0, 1); next.After(tomorrow) {
			return tomorrow
		}
		return next
	case h.Way == AtMoments:
		var next time.Time
		for _, text := range h.At {
			clock, _ := TimeOfDay(text)
			for _, day := range []int{0, 1} {
				at := time.Date(after.Year(), after.Month(), after.Day()+day, 0, int(clock.Minutes()), 0, 0, after.Location())
				if at.After(after) && (next.IsZero() || at.Before(next)) {
					next = at
				}
			}
		}
		return next
	}
	return time.Time{}
}
