package host

import "sync"

// News tells the open Workshops and Desks that a project changed.
type News struct {
	Project  string   `json:"project"`
	Revision int64    `json:"revision"`
	Person   string   `json:"person"`
	Things   []string `json:"things,omitempty"` // "tag/t1"; cut at 200
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
