package host

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/say"
	"readyrail/internal/outbox"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// ExportState is how writing a log out goes, or went last.
type ExportState struct {
	Busy    bool    `json:"busy"`
	Share   float64 `json:"share" doc:"that is done, 0 to 1"`
	At      int64   `json:"at" doc:"when it began, milliseconds since 1970"`
	File    string  `json:"file" doc:"that was written last; empty while it is not done, or failed"`
	Files   int     `json:"files" doc:"how many were written"`
	Problem string  `json:"problem" doc:"why nothing was written"`
}

// exports are the logs that are being written out, each once at a time.
type exports struct {
	ctx     context.Context
	end     context.CancelFunc
	working sync.WaitGroup

	mu       sync.Mutex
	by       map[string]*ExportState
	problems map[string]string // the last one of each, said already
}

func (x *exports) init() {
	x.ctx, x.end = context.WithCancel(context.Background())
	x.by, x.problems = map[string]*ExportState{}, map[string]string{}
}

// close gives up what is being written; nothing is left of it.
func (x *exports) close() {
	x.mu.Lock()
	x.end()
	x.mu.Unlock()
	x.working.Wait()
}

// state is how it goes with a log; nil where it was not written out since the
// server began.
func (x *exports) state(log string) *ExportState {
	x.mu.Lock()
	defer x.mu.Unlock()
	if s := x.by[log]; s != nil {
		now := *s
		return &now
	}
	return nil
}

// begin notes that a log is being written out; false where it is already.
func (x *exports) begin(log string) bool {
	x.mu.Lock()
	defer x.mu.Unlock()
	if s := x.by[log]; s != nil && s.Busy || x.ctx.Err() != nil {
		return false
	}
	x.by[log] = &ExportState{Busy: true, At: time.Now().UnixMilli()}
	x.working.Add(1)
	return true
}

// failed notes why a log was not written out, and tells whether that is news.
func (x *exports) failed(log, problem string) (news bool) {
	x.mu.Lock()
	defer x.mu.Unlock()
	news = x.problems[log] != problem
	x.problems[log] = problem
	x.by[log] = &ExportState{At: time.Now().UnixMilli(), Problem: problem}
	return news
}

func (x *exports) set(log string, change func(*ExportState)) {
	x.mu.Lock()
	defer x.mu.Unlock()
	change(x.by[log])
	if x.by[log].File != "" {
		delete(x.problems, log)
	}
}

// FolderState is a folder that files may go to, and how it is.
type FolderState struct {
	Name     string `json:"name"`
	There    bool   `json:"there"`
	Free     int64  `json:"free" doc:"bytes that can be written into it"`
	Problem  string `json:"problem" doc:"why it cannot be written to"`
	Finished bool   `json:"finished" doc:"somebody has finished with its medium, which may be taken out"`
}

// Folders tells of the folders that the server allows files to go to.
func (p *Project) Folders(ctx context.Context, who Actor) ([]FolderState, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	out := []FolderState{}
	for _, s := range p.host.media.States() {
		out = append(out, FolderState(s))
	}
	return out, nil
}

// finishMedium finishes with the medium that a log is written out to.
func (p *Project) finishMedium(def *history.Log) (told string, err error) {
	if def == nil || def.Out.Folder == "" {
		return "", errNoFolder
	}
	told, err = p.host.media.Finish(def.Out.Folder)
	return "finished with " + def.Out.Folder + ": " + told, err
}

var errNoFolder = say.New("no folder is chosen for this log")

// exportLog begins to write out what a log has since the last time, to its folder,
// and says to which. It goes on when this has returned.
func (p *Project) exportLog(who Actor, def *history.Log, log *record.Log) (told string, err error) {
	if def == nil || def.Out.Folder == "" {
		return "", errNoFolder
	}
	folder, end, err := p.host.media.Begin(def.Out.Folder, who.ID != "")
	if err != nil {
		return "", err
	}
	files, err := p.logFiles(def, log, time.Now())
	if err == nil && !p.exports.begin(def.ID) {
		err = say.New("the log is being written out already")
	}
	if err != nil {
		end()
		return "", err
	}
	go p.bounded("writing a log out", func() {
		defer p.exports.working.Done()
		once := sync.OnceFunc(end)
		defer once()
		p.finishExport(who, def, log, folder, files, once)
	})
	return "is written out to " + folder.Name, nil
}

// finishExport writes a log out, file by file, and says how that went. Those that
// are written stay so where a later one fails. The medium is free by end before it is
// said that nothing is written any more: who hears that may finish with it.
func (p *Project) finishExport(who Actor, def *history.Log, log *record.Log, folder outbox.Folder, files []logFile, end func()) {
	var written []string
	var err error
	for i, f := range files {
		done := func(share float64) {
			p.exports.set(def.ID, func(s *ExportState) { s.Share = (float64(i) + share) / float64(len(files)) })
		}
		var name string
		if name, err = p.writeLogFile(def, log.Reader(), folder, f, done); err == nil {
			written = append(written, name)
			err = p.writeBeside(def, folder, f)
		}
		if err == nil {
			err = log.Exported(f.upto, f.span)
		}
		if err != nil {
			break
		}
	}
	end()
	var told []string
	if n := len(written); n > 0 {
		text := "written out to " + folder.Name + ": " + written[n-1]
		if n > 1 {
			text += fmt.Sprintf(" and %d more", n-1)
		}
		told = append(told, text)
	}
	if err != nil {
		told = append(told, "not written out: "+err.Error())
		p.exportFailed(def, err)
	} else {
		p.exports.set(def.ID, func(s *ExportState) {
			s.Busy, s.File, s.Files, s.Share = false, written[len(written)-1], len(written), 1
		})
	}
	p.runs.Door().Note(context.Background(), audit.Record{At: time.Now().UnixNano(), What: audit.LogSet, Person: who.ID, Name: who.Name,
		Panel: who.Panel, Path: def.Name, New: strings.Join(told, "; ")})
}

// exportFailed says that a log was not written out, in the journal where that is
// news.
func (p *Project) exportFailed(def *history.Log, err error) {
	if p.exports.failed(def.ID, err.Error()) {
		p.records.Journal.Event(store.Entry{At: time.Now().UnixNano(), Kind: store.TroubleEntry, What: "log-unwritten", Name: def.Name,
			Text: err.Error()})
	}
}

// again is how long after a failure a log that is written out by itself is tried
// again.
const again = 10 * time.Minute

// exportDue writes out the logs whose time of the day has come, and those that
// were missed.
func (p *Project) exportDue(now time.Time) {
	_, version := p.logged()
	if version == nil {
		return
	}
	for _, id := range project.SortedKeys(version.Logs) {
		def, log := version.Logs[id], p.records.Logs.Log(id)
		clock, err := history.TimeOfDay(def.Out.At)
		if log == nil || err != nil {
			continue
		}
		at := time.Date(now.Year(), now.Month(), now.Day(), 0, int(clock.Minutes()), 0, 0, now.Location())
		s := log.Status()
		if now.Before(at) || s.Exported.After(at) || s.Last <= s.Upto {
			continue
		}
		if last := p.exports.state(id); last != nil && (last.Busy || now.Sub(time.UnixMilli(last.At)) < again) {
			continue
		}
		_, err = p.exportLog(Actor{Name: "Ready Rail"}, def, log)
		if err != nil && !errors.Is(err, errNothingNew) && !errors.Is(err, errNotOver) {
			p.exportFailed(def, err)
		}
	}
}
