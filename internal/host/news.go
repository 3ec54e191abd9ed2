package host

import (
	"readyrail/internal/run"
	"strconv"
	"sync"
	"time"
)

// News tells the open Workshops and Desks that a project changed.
type News struct {
	Project  string   `json:"project"`
	Revision int64    `json:"revision"`
	Person   string   `json:"person"`
	Things   []string `json:"things,omitempty"` // "tag/t1"; cut at 200
	Moves    bool     `json:"moves,omitempty"`  // paths of things may be others
	Names    bool     `json:"names,omitempty"`  // who names whom may be
	Release  int64    `json:"release,omitempty"`
}

// news hands news to whoever listens; a listener that is slow loses the oldest.
type news struct {
	mu        sync.Mutex
	listeners map[chan News]bool
}

func (n *news) init() { n.listeners = map[chan News]bool{} }

func (n *news) tell(item News) {
	n.mu.Lock()
	defer n.mu.Unlock()
	for ch := range n.listeners {
		select {
		case ch <- item:
		default:
			select {
			case <-ch:
			default:
			}
			ch <- item
		}
	}
}

// count is how many listen.
func (n *news) count() int {
	n.mu.Lock()
	defer n.mu.Unlock()
	return len(n.listeners)
}

// Listen returns a channel of the project's news and a function that ends it.
func (p *Project) Listen() (<-chan News, func()) {
	ch := make(chan News, 16)
	p.news.mu.Lock()
	p.news.listeners[ch] = true
	p.news.mu.Unlock()
	return ch, func() {
		p.news.mu.Lock()
		delete(p.news.listeners, ch)
		p.news.mu.Unlock()
	}
}

// staleAfter is how old an engine's last round may be while it counts as alive.
const staleAfter = time.Second

// NewsBeat appends what tells a listener that the project is alive, and the
// present number of each program's alarms: {"t":milliseconds,"a":{"release":n}}.
// It is nil while the engine of the release stands still.
func (p *Project) NewsBeat(b []byte) []byte {
	if r := p.runs.Runner(run.Release); r != nil && time.Since(r.Beat()) > staleAfter {
		return nil
	}
	b = strconv.AppendInt(append(b, `{"t":`...), time.Now().UnixMilli(), 10)
	b = append(b, `,"a":{`...)
	first := true
	for _, name := range []run.Program{run.Release, run.Draft, run.Try} {
		if p.runs.Runner(name) == nil {
			continue
		}
		if !first {
			b = append(b, ',')
		}
		first = false
		b = append(append(append(b, '"'), name...), `":`...)
		b = strconv.AppendInt(b, p.runs.Board(name), 10)
	}
	return append(b, '}', '}')
}
