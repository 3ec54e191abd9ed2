package edit

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/project"
	"readyrail/internal/exchange"
	"readyrail/internal/store"
)

// An import is looked at before it is done: the list stays here, as long as
// its person looks at it, and the preview is made anew against the draft of
// the moment when it is applied.
type importing struct {
	mu     sync.Mutex // one request at a time
	person string
	name   string
	format exchange.Format
	data   []byte
	rows   []exchange.Row
	table  *exchange.Table
	match  *exchange.Matching
	needs  bool
	option exchange.Options
	lines  []exchange.Line
	used   time.Time
}

// Limits of the imports that are open.
const (
	importTime = 30 * time.Minute
	maxImports = 6
)

type imports struct {
	mu   sync.Mutex
	open map[string]*importing
}

// ImportInfo is an import at a glance.
type ImportInfo struct {
	ID      string                  `json:"id"`
	Name    string                  `json:"name"`
	Format  exchange.Format         `json:"format" enum:"csv,xlsx,plcopen,nodeset,other"`
	Needs   bool                    `json:"needs" doc:"its columns have to be matched first"`
	Match   *exchange.Matching      `json:"match,omitempty" doc:"the matching in use, or one that is proposed"`
	Sample  [][]string              `json:"sample" doc:"the first rows of a table"`
	Known   []string                `json:"known" doc:"sources whose matching is kept"`
	Counts  map[exchange.Status]int `json:"counts"`
	Ignored []string                `json:"ignored" doc:"columns of the list that are not ours, and were left out"`
	Folder  []string                `json:"folders" doc:"folders of the list, to be left out with one tick"`
	Option  exchange.Options        `json:"options"`
	Types   []string                `json:"types" doc:"derived types of the list, which can become types of equipment"`
}

// BeginImport reads a list and previews it. name is the file's, for the eye.
func (e *Edits) BeginImport(ctx context.Context, who access.Actor, name string, format exchange.Format, data []byte) (*ImportInfo, error) {
	im := &importing{person: who.ID, name: name, format: format, data: data}
	if err := im.read(nil); err != nil {
		return nil, err
	}
	if im.needs {
		if kept, err := e.keptMatching(ctx, im.table); err == nil && kept != nil {
			if err := im.read(kept); err != nil {
				im.needs = true // the kept one does not fit; it is offered to be mended
			}
			im.match = kept
			if e.Draft().Devices[kept.Device] != nil {
				im.option.Device = kept.Device
			}
		}
	}
	im.mu.Lock()
	defer im.mu.Unlock()
	id := e.imports.put(im)
	return e.renewImport(ctx, id, im)
}

// read parses the list, by a matching where there is one.
func (im *importing) read(m *exchange.Matching) error {
	rows, table, err := exchange.Read(im.data, im.format, m)
	if errors.Is(err, exchange.ErrNeedsMatching) {
		im.needs, im.table, im.format = true, table, exchange.Other
		guess := exchange.Guess(table)
		im.match = &guess
		return nil
	}
	if err != nil {
		return refused("%v", err)
	}
	if im.format == "" {
		im.format = exchange.Sense(im.data)
	}
	im.rows, im.table, im.match, im.needs = rows, table, m, false
	return nil
}

// keptMatching finds the kept matching whose columns the table has.
func (e *Edits) keptMatching(ctx context.Context, t *exchange.Table) (*exchange.Matching, error) {
	list, err := e.store.Matchings(ctx)
	if err != nil || len(t.Cells) == 0 {
		return nil, err
	}
	for _, k := range list {
		var m exchange.Matching
		if json.Unmarshal(k.Doc, &m) != nil || !m.Header {
			continue
		}
		fits := true
		for _, theirs := range m.Columns {
			fits = fits && (theirs == "" || slices.ContainsFunc(t.Cells[0], func(h string) bool { return strings.EqualFold(h, theirs) }))
		}
		if fits {
			return &m, nil
		}
	}
	return nil, nil
}

func (s *imports) put(im *importing) string {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.open == nil {
		s.open = map[string]*importing{}
	}
	oldest := ""
	for id, o := range s.open {
		if time.Since(o.used) > importTime {
			delete(s.open, id)
		} else if oldest == "" || o.used.Before(s.open[oldest].used) {
			oldest = id
		}
	}
	if len(s.open) >= maxImports {
		delete(s.open, oldest)
	}
	im.used = time.Now()
	id := store.NewID("import")
	s.open[id] = im
	return id
}

func (s *imports) find(who access.Actor, id string) (*importing, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	im := s.open[id]
	if im == nil || im.person != who.ID {
		return nil, refused("this list is no longer open: choose it again")
	}
	im.used = time.Now()
	return im, nil
}

// renewImport makes the preview anew and says what is in it.
func (e *Edits) renewImport(ctx context.Context, id string, im *importing) (*ImportInfo, error) {
	out := &ImportInfo{ID: id, Name: im.name, Format: im.format, Needs: im.needs, Match: im.match, Sample: [][]string{}, Known: []string{},
		Ignored: []string{}, Folder: []string{}, Option: im.option, Types: []string{}}
	if im.table != nil {
		out.Sample = im.table.Cells[:min(len(im.table.Cells), 8)]
		out.Ignored = append(out.Ignored, im.table.Ignored...)
	}
	list, err := e.store.Matchings(ctx)
	if err != nil {
		return nil, err
	}
	for _, m := range list {
		out.Known = append(out.Known, m.Source)
	}
	if !im.needs {
		im.lines = exchange.Preview(im.rows, e.Draft(), im.option)
		out.Folder = topFolders(im.rows)
		list, _ := structuresOf(im.rows)
		for _, s := range list {
			out.Types = append(out.Types, s.Type)
		}
	}
	out.Counts = exchange.Count(im.lines)
	return out, nil
}

// topFolders lists the folders of a list down to the second level.
func topFolders(rows []exchange.Row) []string {
	seen := map[string]bool{}
	out := []string{}
	for _, r := range rows {
		path := r.Fields["path"]
		for depth, at := 0, 0; depth < 2; depth++ {
			i := strings.IndexByte(path[at:], '.')
			if i < 0 {
				break
			}
			at += i
			if folder := path[:at]; !seen[folder] && len(out) < 500 {
				seen[folder] = true
				out = append(out, folder)
			}
			at++
		}
	}
	slices.Sort(out)
	return out
}

// TuneImport changes how an open list is read and compared. A matching with a
// source is kept under it.
func (e *Edits) TuneImport(ctx context.Context, who access.Actor, id string, m *exchange.Matching, o exchange.Options) (*ImportInfo,
	error) {
	im, err := e.imports.find(who, id)
	if err != nil {
		return nil, err
	}
	im.mu.Lock()
	defer im.mu.Unlock()
	if m != nil {
		if m.Device != "" && e.Draft().Devices[m.Device] == nil {
			return nil, refused("the device that is chosen no longer exists")
		}
		if err := im.read(m); err != nil {
			return nil, err
		}
		o.Device = m.Device
		if m.Source != "" {
			doc, err := json.Marshal(m)
			if err != nil {
				return nil, err
			}
			if err := e.store.PutMatching(ctx, store.Matching{Source: m.Source, Doc: doc}); err != nil {
				return nil, err
			}
		}
	}
	im.option = o
	return e.renewImport(ctx, id, im)
}

// ImportLines returns a window of the preview's lines of some statuses whose
// path or source name holds a text.
func (e *Edits) ImportLines(who access.Actor, id string, status exchange.Status, text string, offset, limit int) (lines []exchange.Line,
	total int, err error) {
	im, err := e.imports.find(who, id)
	if err != nil {
		return nil, 0, err
	}
	im.mu.Lock()
	defer im.mu.Unlock()
	lines = []exchange.Line{}
	text = strings.ToLower(text)
	for i := range im.lines {
		l := &im.lines[i]
		if status != "" && l.Status != status || text != "" && !strings.Contains(strings.ToLower(l.Path+" "+l.Was+" "+l.Address), text) {
			continue
		}
		if total++; total > offset && len(lines) < limit {
			lines = append(lines, *l)
		}
	}
	return lines, total, nil
}

// Choice says which lines of a preview are applied: those of some statuses,
// and of the keys named the other way round.
type Choice struct {
	Statuses []exchange.Status `json:"statuses"`
	Flip     []string          `json:"flip" maxItems:"200000"`
	Types    bool              `json:"types,omitempty" doc:"structures become equipment, and their derived types become types"`
}

// Imported is what an import brought in.
type Imported struct {
	Tags     int      `json:"tags"`
	Types    []string `json:"types" doc:"types that were made of structures"`
	Problems []string `json:"problems" doc:"structures that stay folders, and why"`
}

// take turns the choice into a question about each line.
func (c Choice) take() func(*exchange.Line) bool {
	flip := make(map[string]bool, len(c.Flip))
	for _, k := range c.Flip {
		flip[k] = true
	}
	return func(l *exchange.Line) bool { return slices.Contains(c.Statuses, l.Status) != flip[l.Key] }
}

// ApplyImport brings in what is chosen, as one edit that can be undone; types
// of its structures are further edits.
func (e *Edits) ApplyImport(ctx context.Context, who access.Actor, id string, c Choice) (*Imported, error) {
	im, err := e.imports.find(who, id)
	if err != nil {
		return nil, err
	}
	im.mu.Lock()
	defer im.mu.Unlock()
	if im.needs {
		return nil, refused("%v", exchange.ErrNeedsMatching)
	}
	draft := e.Draft()
	lines := exchange.Preview(im.rows, draft, im.option)
	ops := exchange.Ops(lines, draft, c.take(), store.NewID)
	out := &Imported{Types: []string{}, Problems: []string{}}
	for _, op := range ops {
		if op.Kind == project.KindTag {
			out.Tags++
		}
	}
	if out.Tags == 0 {
		return nil, refused("no line that is ticked would change anything")
	}
	if _, err = e.Edit(ctx, who, fmt.Sprintf("bring in %d tags", out.Tags), ops); err != nil {
		return nil, err
	}
	if c.Types {
		out.Types, out.Problems = e.makeTypes(ctx, who, im.rows)
	}
	return out, nil
}
