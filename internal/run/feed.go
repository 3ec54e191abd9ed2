package run

import (
	"encoding/json"
	"strconv"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
)

// Feed is one screen of one program, expanded once and shared by all who look
// at it. docs/live-protocol.md describes what it sends.
type Feed struct {
	key     feedKey
	viewers int

	mu      sync.Mutex
	gen     int64
	scene   []byte // the scene message
	seq     int64
	cells   []cell
	last    []byte // the frame with number seq, made once for all who are up to date
	changed map[chan struct{}]bool
	gone    bool

	runs   *Runs
	view   screen.View
	bound  *screen.Bound
	own    own           // inputs that this viewer has for itself; under mu
	poked  chan struct{} // signalled as own is another
	sub    *engine.Sub
	runner *engine.Runner
	quit   chan struct{}
	done   chan struct{}
}

type feedKey struct {
	program  Program
	screen   string
	args     string
	language string
	// viewer and panel are set where the screen shows what each viewer has for
	// itself; all others share one feed.
	viewer, panel string
	// page is set where it shows what is open at a page.
	page int64
}

// cell is the newest value of a binding.
type cell struct {
	json []byte
	q    value.Quality
	seq  int64 // of the frame it came with
}

type feeds struct {
	mu   sync.Mutex
	open map[feedKey]*Feed
	gen  int64
}

// OpenFeed starts looking at a screen. It refuses a screen that the program
// does not have, and what cannot stand for its parameters.
func (r *Runs) OpenFeed(program Program, screenID string, view screen.View, who Onlooker) (*Feed, error) {
	r.feeds.mu.Lock()
	defer r.feeds.mu.Unlock()
	version, runner := r.Version(program), r.Runner(program)
	if version == nil || runner == nil || version.Screens[screenID] == nil {
		return nil, refused("there is no such screen")
	}
	s := version.Screens[screenID]
	if err := ArgsFit(version, s, view.Args); err != nil {
		return nil, err
	}
	if len(version.Site().Languages) > 0 && view.Language == version.Site().Languages[0] {
		view.Language = ""
	}
	bound := screen.Bind(s, version, view)
	key := feedKey{program: program, screen: screenID, args: bound.Scene.Args.Key(s.Params), language: view.Language}
	mine, ofPage := r.ownInputs(bound, version, program, who)
	if len(mine) > 0 {
		key.viewer, key.panel = who.Name, who.Panel
	}
	if ofPage {
		key.page = who.Page
	}
	if r.feeds.open == nil {
		r.feeds.open = map[feedKey]*Feed{}
	}
	if f := r.feeds.open[key]; f != nil {
		f.viewers++
		return f, nil
	}
	f := &Feed{key: key, view: view, viewers: 1, changed: map[chan struct{}]bool{}, runner: runner, runs: r, own: mine,
		poked: make(chan struct{}, 1)}
	r.feeds.gen++
	f.start(bound, r.feeds.gen)
	r.feeds.open[key] = f
	return f, nil
}

// CloseFeed ends one look at a feed.
func (r *Runs) CloseFeed(f *Feed) {
	r.feeds.mu.Lock()
	defer r.feeds.mu.Unlock()
	if f.viewers--; f.viewers == 0 {
		f.stop()
		if r.feeds.open[f.key] == f {
			delete(r.feeds.open, f.key)
		}
	}
}

// renew expands the open screens of a program anew, after a new version.
func (fs *feeds) renew(r *Runs, program Program) {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	version := r.Version(program)
	for key, f := range fs.open {
		if key.program != program {
			continue
		}
		f.stop()
		s := version.Screens[key.screen]
		if s == nil {
			f.end()
			delete(fs.open, key)
			continue
		}
		fs.gen++
		bound := screen.Bind(s, version, f.view)
		f.own, _ = r.ownInputs(bound, version, key.program, key.onlooker())
		f.start(bound, fs.gen)
	}
}

func (k feedKey) onlooker() Onlooker {
	return Onlooker{access.Actor{Name: k.viewer, Panel: k.panel}, k.page}
}

// tell gives the screens of a page what it told.
func (fs *feeds) tell(r *Runs, page pageKey) {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	version := r.Version(page.program)
	for key, f := range fs.open {
		if key.page != page.page || key.program != page.program || version == nil {
			continue
		}
		mine, _ := r.ownInputs(f.bound, version, key.program, key.onlooker())
		f.mu.Lock()
		f.own = mine
		f.mu.Unlock()
		select {
		case f.poked <- struct{}{}:
		default:
		}
	}
}

// closeProgram ends the screens of a program that no longer runs.
func (fs *feeds) closeProgram(program Program) {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	for key, f := range fs.open {
		if key.program == program {
			f.stop()
			f.end()
			delete(fs.open, key)
		}
	}
}

func (fs *feeds) closeAll() {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	for _, f := range fs.open {
		f.stop()
	}
	fs.open = nil
}

// start begins a generation.
func (f *Feed) start(b *screen.Bound, gen int64) {
	scene, err := json.Marshal(struct {
		Gen   int64         `json:"g"`
		Scene *screen.Scene `json:"scene"`
	}{gen, &b.Scene})
	if err != nil {
		scene = []byte(`{"g":0}`)
	}
	f.mu.Lock()
	f.gen, f.scene, f.bound, f.seq, f.last = gen, scene, b, 0, nil
	f.cells = make([]cell, b.Len())
	f.quit, f.done = make(chan struct{}), make(chan struct{})
	quit, done := f.quit, f.done
	f.wakeLocked()
	f.mu.Unlock()
	if !f.runner.Do(func(e *engine.Engine) { f.sub = e.Subscribe(b.Inputs) }) {
		close(done)
		return
	}
	go f.runs.o.Bounded("a screen", func() {
		whole := false
		defer func() {
			if !whole {
				f.end()
			}
		}()
		f.follow(b, f.sub, quit, done)
		whole = true
	})
}

// end tells who looks that the screen is no longer there.
func (f *Feed) end() {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.gone = true
	f.wakeLocked()
}

func (f *Feed) stop() {
	select {
	case <-f.quit:
		return
	default:
	}
	close(f.quit)
	<-f.done
	sub := f.sub
	f.runner.Do(func(e *engine.Engine) { e.Unsubscribe(sub) })
}

// follow evaluates the bindings whose inputs changed and makes frames.
func (f *Feed) follow(b *screen.Bound, sub *engine.Sub, quit, done chan struct{}) {
	defer close(done)
	frame := &formula.Frame{Slots: make([]value.Value, len(b.Inputs))}
	readers := make([][]int32, len(b.Inputs)) // bindings by input
	for i := range b.Len() {
		for _, s := range b.Slots(i) {
			readers[s] = append(readers[s], int32(i))
		}
	}
	due := make([]bool, b.Len())
	var fresh, list []int32
	first := true
	var scratch []byte
	for {
		select {
		case <-quit:
			return
		case <-sub.Changed():
		case <-f.poked:
		}
		fresh = sub.Take(frame.Slots, nil, fresh[:0])
		f.mu.Lock()
		for i, v := range f.own {
			if frame.Slots[i] != v {
				frame.Slots[i], fresh = v, append(fresh, i)
			}
		}
		f.mu.Unlock()
		list = list[:0]
		if first {
			first = false
			for i := range due {
				due[i] = true
				list = append(list, int32(i))
			}
		}
		for _, s := range fresh {
			for _, i := range readers[s] {
				if !due[i] {
					due[i] = true
					list = append(list, i)
				}
			}
		}
		scratch = f.frame(b, frame, list, due, scratch)
	}
}

// frame evaluates the bindings that are due and makes a frame of those that
// changed.
func (f *Feed) frame(b *screen.Bound, values *formula.Frame, list []int32, due []bool, scratch []byte) []byte {
	f.mu.Lock()
	defer f.mu.Unlock()
	seq := f.seq + 1
	out := f.head(make([]byte, 0, len(f.last)+256), seq)
	any := false
	for _, i := range list {
		due[i] = false
		c := &f.cells[i]
		var q value.Quality
		scratch, q = b.Append(scratch[:0], int(i), values)
		if c.seq > 0 && q == c.q && string(scratch) == string(c.json) {
			continue
		}
		c.json, c.q, c.seq = append(c.json[:0], scratch...), q, seq
		out = appendCell(out, int(i), c, any)
		any = true
	}
	if any {
		f.seq, f.last = seq, append(out, ']', '}')
		f.wakeLocked()
	}
	return scratch
}

// head begins a frame.
func (f *Feed) head(b []byte, seq int64) []byte {
	b = append(b, `{"g":`...)
	b = strconv.AppendInt(b, f.gen, 10)
	b = append(b, `,"s":`...)
	b = strconv.AppendInt(b, seq, 10)
	b = append(b, `,"t":`...)
	b = strconv.AppendInt(b, time.Now().UnixMilli(), 10)
	return append(b, `,"v":[`...)
}

func appendCell(b []byte, i int, c *cell, comma bool) []byte {
	if comma {
		b = append(b, ',')
	}
	b = append(b, '[')
	b = strconv.AppendInt(b, int64(i), 10)
	b = append(b, ',')
	b = append(b, c.json...)
	if c.q != value.Good {
		b = append(b, ',')
		b = strconv.AppendInt(b, int64(c.q), 10)
	}
	return append(b, ']')
}

// Cell is a binding's value as frames have it.
func Cell(i int, doc []byte, q value.Quality) []byte {
	return appendCell(nil, i, &cell{json: doc, q: q}, false)
}

func (f *Feed) wakeLocked() {
	for ch := range f.changed {
		select {
		case ch <- struct{}{}:
		default:
		}
	}
}
