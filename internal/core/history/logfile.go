package history

import (
	"readyrail/internal/core/say"
	"slices"
	"strings"
	"time"
)

// Ways to divide what a log is written out to.
const (
	OneFile     = ""     // all that is new in one
	FileADay    = "day"  // one for each day that is over
	FileForSpan = "span" // one for each span that has ended
)

// FileNames are the words that a pattern for names of files may have in braces.
var FileNames = []string{"log", "from", "to", "day", "span", "of"}

// LogFile is what the name of one file is made of.
type LogFile struct {
	Log      string
	From, To time.Time
	Span     string // name of the span, where it has one
	Of       string // path of the equipment whose span it is
}

// usualName is the pattern where none is given, by how the files are divided.
var usualName = map[string]string{OneFile: "{log} {from} to {to}", FileADay: "{log} {day}", FileForSpan: "{log} {of} {span} {from}"}

// FileName is the name of a file, without its ending.
func (o *LogOut) FileName(f LogFile) string {
	pattern := o.Name
	if pattern == "" {
		pattern = usualName[o.Per]
	}
	form := "2006-01-02 1504"
	name := strings.NewReplacer("{log}", f.Log, "{from}", f.From.Format(form), "{to}", f.To.Format(form),
		"{day}", f.From.Format("2006-01-02"), "{span}", f.Span, "{of}", f.Of).Replace(pattern)
	return strings.Join(strings.Fields(name), " ")
}

// checkName refuses a pattern that has words in braces that there are not.
func (o *LogOut) checkName() error {
	if len(o.Name) > 120 {
		return say.Errorf("a name has at most 120 characters")
	}
	rest := o.Name
	for {
		_, after, found := strings.Cut(rest, "{")
		if !found {
			break
		}
		word, next, closed := strings.Cut(after, "}")
		if !closed || !slices.Contains(FileNames, word) {
			return say.Errorf("there is no {%s}: use {%s}", word, strings.Join(FileNames, "}, {"))
		}
		rest = next
	}
	return nil
}

// Days are the parts of [from, to) that whole days are in, in the zone of from:
// none that a day is not over in by then.
func Days(from, to time.Time) (out [][2]time.Time) {
	for from.Before(to) {
		next := time.Date(from.Year(), from.Month(), from.Day()+1, 0, 0, 0, 0, from.Location())
		if next.After(to) {
			break
		}
		out = append(out, [2]time.Time{from, next})
		from = next
	}
	return out
}
