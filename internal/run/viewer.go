package run

import "time"

// Viewer is one look at a feed; its methods are called by one goroutine.
type Viewer struct {
	feed   *Feed
	gen    int64
	seq    int64
	signal chan struct{}
}

// View begins a look. Close ends it.
func (f *Feed) View() *Viewer {
	v := &Viewer{feed: f, signal: make(chan struct{}, 1)}
	v.signal <- struct{}{}
	f.mu.Lock()
	f.changed[v.signal] = true
	f.mu.Unlock()
	return v
}

// Close ends the look.
func (v *Viewer) Close() {
	v.feed.mu.Lock()
	delete(v.feed.changed, v.signal)
	v.feed.mu.Unlock()
}

// Changed is signalled when there is something to send.
func (v *Viewer) Changed() <-chan struct{} { return v.signal }

// Next returns the messages that bring the viewer up to date: a scene when the
// generation is new, then a frame of all that changed since its last. A viewer
// that was slow gets one frame for all it missed. gone is true when the screen
// is no longer there.
func (v *Viewer) Next() (scene, frame []byte, gone bool) {
	f := v.feed
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.gone {
		return nil, nil, true
	}
	if v.gen != f.gen {
		scene, v.gen, v.seq = f.scene, f.gen, 0
	}
	switch {
	case v.seq == f.seq:
	case v.seq == f.seq-1 && f.last != nil:
		frame = f.last
	default:
		frame = f.head(nil, f.seq)
		any := false
		for i := range f.cells {
			if c := &f.cells[i]; c.seq > v.seq {
				frame = appendCell(frame, i, c, any)
				any = true
			}
		}
		frame = append(frame, ']', '}')
	}
	v.seq = f.seq
	return scene, frame, false
}

// Beat returns an empty frame that says that the engine is alive, or nil when
// its last round is more than a second old.
func (v *Viewer) Beat() []byte {
	if time.Since(v.feed.runner.Beat()) > time.Second {
		return nil
	}
	v.feed.mu.Lock()
	defer v.feed.mu.Unlock()
	return append(v.feed.head(nil, v.seq), ']', '}')
}
