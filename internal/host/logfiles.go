package host

import (
	"context"
	"io"
	"strings"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/exchange"
	"readyrail/internal/outbox"
	"readyrail/internal/record"
)

// logFile is one that a log is written out to.
type logFile struct {
	in   Period
	tags []string
	name string
	span int64 // number of the span that it is of; 0 for none
	upto int64 // as it is written, all up to this time is, in nanoseconds
}

// errNothingNew says that there is nothing to write out.
var errNothingNew = say.New("the log has nothing that was not written out already")

// errNotOver says that what is new is of a day that goes on.
var errNotOver = say.New("no day of what is new is over yet: its file is written tomorrow")

// logFiles are those that what is new of a log goes to.
func (p *Project) logFiles(def *history.Log, log *record.Log, now time.Time) (files []logFile, err error) {
	s := log.Status()
	from := max(s.First, s.Upto+1)
	add := func(from, to time.Time, f history.LogFile) *logFile {
		f.Log, f.From, f.To = def.Name, from, to
		files = append(files, logFile{in: Period{From: from, To: to, Log: def.ID}, tags: log.Tags(), name: def.Out.FileName(f),
			upto: to.UnixNano() - 1})
		return &files[len(files)-1]
	}
	switch def.Out.Per {
	case history.FileADay:
		for _, day := range history.Days(time.Unix(0, from), now) {
			if s.Last >= day[0].UnixNano() {
				add(day[0], day[1], history.LogFile{})
			}
		}
		if len(files) == 0 && from <= s.Last {
			return nil, errNotOver
		}
	case history.FileForSpan:
		spans, err := log.Unwritten(context.Background())
		if err != nil {
			return nil, err
		}
		for i, x := range spans {
			if x.Ended == nil {
				continue
			}
			path := p.pathOf(x.Of)
			f := add(time.Unix(0, x.Began), time.Unix(0, *x.Ended), history.LogFile{Span: x.Name, Of: path})
			f.span, f.tags = x.Seq, p.ownTags(f.tags, path)
			for k, left := range spans { // what began earlier and is not written then
				if k > i || left.Ended == nil {
					f.upto = min(f.upto, left.Began-1)
				}
			}
		}
	default:
		if from <= s.Last {
			add(time.Unix(0, from), time.Unix(0, s.Last+1), history.LogFile{})
		}
	}
	if len(files) == 0 || s.Last == 0 {
		return nil, errNothingNew
	}
	return files, nil
}

// ownTags are those of the tags that lie below a path; all where none does.
func (p *Project) ownTags(tags []string, path string) []string {
	var own []string
	for _, id := range tags {
		if version, t := p.recordedTag(id); t != nil {
			if at, _ := version.Path(id); strings.HasPrefix(at, path+".") {
				own = append(own, id)
			}
		}
	}
	if path == "" || own == nil {
		return tags
	}
	return own
}

// writeLogFile writes one file into a folder and says what it is called there;
// done is told the share of its time that is written.
func (p *Project) writeLogFile(def *history.Log, reader *record.Recorder, folder outbox.Folder, f logFile,
	done func(share float64)) (string, error) {
	table := p.table(reader, f.tags, f.in, 0)
	first, length, rows := f.in.From.UnixMilli(), f.in.To.Sub(f.in.From).Milliseconds(), 0
	table.seen = func(at int64) {
		if rows++; rows%1000 == 0 {
			done(float64(at-first) / float64(max(length, 1)))
		}
	}
	ctx := p.exports.ctx
	if def.Out.Format == "parquet" {
		return folder.Write(f.name, "parquet", func(w io.Writer) error {
			return exchange.WriteParquet(w, table.parquetColumns(), func(row func(int64, []value.Value) error) error {
				return table.ForEach(ctx, row)
			})
		})
	}
	format, long := exchange.Format(def.Out.Format), false
	switch def.Out.Format {
	case "":
		format = exchange.CSV
	case "csv-long":
		format, long = exchange.CSV, true
	}
	return folder.Write(f.name, string(format), func(w io.Writer) error {
		return exchange.WriteValues(w, format, "log", func(line func([]string) error) error {
			return table.Lines(ctx, long, 0, line)
		})
	})
}

// writeBeside writes the journal, the trail and the deliveries of a file's time
// beside it, where the log is to have them there.
func (p *Project) writeBeside(def *history.Log, folder outbox.Folder, f logFile) error {
	for _, x := range []struct {
		wanted bool
		what   string
		of     func(context.Context, Period) lines
	}{{def.Out.Journal, "journal", p.journalOf}, {def.Out.Trail, "trail", p.trailOf},
		{def.Out.Deliveries, "deliveries", p.deliveriesOf}} {
		if !x.wanted {
			continue
		}
		_, err := folder.Write(f.name+" "+x.what, "csv", func(w io.Writer) error {
			return exchange.WriteTable(w, exchange.CSV, x.what, x.of(p.exports.ctx, f.in))
		})
		if err != nil {
			return err
		}
	}
	return nil
}
