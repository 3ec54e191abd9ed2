package outbox

import (
	"fmt"
	"path/filepath"
	"readyrail/internal/core/say"
	"readyrail/internal/machine"
	"strings"
	"sync"
	"time"
)

// Media are the folders that files may go to. Each is looked at every other second
// by a goroutine of its own: nobody waits for one that hangs.
type Media struct {
	list []*medium
	quit chan struct{}
	done sync.WaitGroup
}

// State is how a folder is.
type State struct {
	Name    string
	There   bool
	Free    int64 // bytes
	Problem string
	// Finished says that somebody has finished with its medium, which may be taken
	// out: nothing is written to it.
	Finished bool
}

type medium struct {
	Folder
	mu       sync.Mutex
	looked   time.Time
	state    State
	writers  int
	busy     bool // somebody is finishing with it
	finished bool
	mounted  bool // as somebody finished with it, and it was unmounted then
	gone     bool // since then
}

const (
	looks  = 2 * time.Second
	silent = 10 * time.Second // a folder that was not seen for so long does not answer
)

// Watch begins to look at folders, until Close.
func Watch(folders []Folder) *Media {
	m := &Media{quit: make(chan struct{})}
	for _, f := range folders {
		x := &medium{Folder: f}
		x.lookSoon()
		m.list = append(m.list, x)
		m.done.Add(1)
		go func() {
			defer m.done.Done()
			tick := time.NewTicker(looks)
			defer tick.Stop()
			for {
				select {
				case <-m.quit:
					return
				case <-tick.C:
					x.look()
				}
			}
		}()
	}
	return m
}

// Close ends the looking; it does not wait for a folder that hangs.
func (m *Media) Close() {
	close(m.quit)
	ended := make(chan struct{})
	go func() { m.done.Wait(); close(ended) }()
	select {
	case <-ended:
	case <-time.After(time.Second):
	}
}

// look asks the folder how it is, and sees a medium that comes back.
func (x *medium) look() {
	free, err := x.Free()
	mounted := isMount(x.Path)
	x.mu.Lock()
	defer x.mu.Unlock()
	x.looked = time.Now()
	x.state = State{Name: x.Name, There: err == nil, Free: free}
	if err != nil {
		x.state.Problem = err.Error()
	}
	if !x.finished {
		return
	}
	away := err != nil || x.mounted && !mounted
	if x.gone = x.gone || away; x.gone && !away {
		x.finished, x.gone = false, false
	}
}

// lookSoon looks, and waits a second at most: a folder may hang.
func (x *medium) lookSoon() {
	looked := make(chan struct{})
	go func() { x.look(); close(looked) }()
	select {
	case <-looked:
	case <-time.After(time.Second):
	}
}

func (x *medium) now() State {
	x.mu.Lock()
	defer x.mu.Unlock()
	s := x.state
	s.Finished = x.finished
	if time.Since(x.looked) > silent {
		s.There, s.Free, s.Problem = false, 0, fmt.Sprintf("the folder %s does not answer", x.Name)
	}
	return s
}

// States tells of all folders.
func (m *Media) States() []State {
	out := make([]State, len(m.list))
	for i, x := range m.list {
		out[i] = x.now()
	}
	return out
}

// State tells of a folder; one that the server does not allow is not there.
func (m *Media) State(name string) State {
	x, err := m.find(name)
	if err != nil {
		return State{Name: name, Problem: err.Error()}
	}
	return x.now()
}

func (m *Media) find(name string) (*medium, error) {
	var names []string
	for _, x := range m.list {
		if x.Name == name {
			return x, nil
		}
		names = append(names, x.Name)
	}
	if len(names) == 0 {
		return nil, say.New("the server allows no folder for files: begin it with --folder name=path")
	}
	return nil, say.Errorf("the server allows no folder %q; it allows %s", name, strings.Join(names, ", "))
}

// Begin has a folder written to, until end. A medium that somebody has finished
// with is not written to by itself; a person who writes to it takes it up again.
func (m *Media) Begin(name string, person bool) (f Folder, end func(), err error) {
	x, err := m.find(name)
	if err != nil {
		return f, nil, err
	}
	if person { // what was seen a moment ago will do for what goes by itself
		x.lookSoon()
	}
	s := x.now()
	x.mu.Lock()
	defer x.mu.Unlock()
	switch {
	case !s.There:
		return f, nil, say.New(s.Problem)
	case x.busy:
		return f, nil, say.Errorf("the medium of %s is being finished with", name)
	case x.finished && x.mounted:
		return f, nil, say.Errorf("the medium of %s was finished with: put one in", name)
	case x.finished && !person:
		return f, nil, say.Errorf("somebody has finished with the medium of %s: it is written to again once one is put in", name)
	}
	x.finished = false
	x.writers++
	return x.Folder, func() {
		x.mu.Lock()
		defer x.mu.Unlock()
		x.writers--
	}, nil
}

// Finish ends the work with a medium: everything is on it, nothing more is written
// to it, and where the server may it is unmounted. told says what was done.
func (m *Media) Finish(name string) (told string, err error) {
	x, err := m.find(name)
	if err != nil {
		return "", err
	}
	if err := x.take(); err != nil {
		return "", err
	}
	// A slow medium takes its time: who asks how it is does not wait for it.
	unmounted, err := x.settle()
	x.mu.Lock()
	defer x.mu.Unlock()
	x.busy = false
	if err != nil {
		return "", err
	}
	x.finished, x.gone, x.mounted = true, false, unmounted
	if unmounted {
		return "its files are on it and it is unmounted", nil
	}
	return "its files are on it", nil
}

// take has nobody else write to the medium or finish with it.
func (x *medium) take() error {
	x.mu.Lock()
	defer x.mu.Unlock()
	switch {
	case x.finished:
		return say.Errorf("%s was finished with already: its medium may be taken out", x.Name)
	case x.busy:
		return say.Errorf("the medium of %s is being finished with", x.Name)
	case x.writers > 0:
		return say.Errorf("a file is being written to %s: finish with it when that is done", x.Name)
	}
	x.busy = true
	return nil
}

// settle has everything on the medium of the folder, other programs' files too, and
// unmounts it where that is wanted.
func (f Folder) settle() (unmounted bool, err error) {
	if _, err := f.Free(); err != nil {
		return false, err
	}
	if err := f.Sync(); err != nil {
		return false, err
	}
	machine.Flush()
	if !f.Unmounts || !isMount(f.Path) {
		return false, nil
	}
	if err := machine.Unmount(f.Path); err != nil {
		return false, say.Errorf("the medium of %s cannot be unmounted: %w; leave it in its place", f.Name, err)
	}
	return true, nil
}

// isMount tells whether another file system begins at a path.
func isMount(path string) bool { return !machine.SameDisk(path, filepath.Dir(path)) }
