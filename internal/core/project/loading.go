package project

import (
	"readyrail/internal/core/say"
	"runtime"
	"sync"
)

// Load builds a project from its stored form.
func Load(list []Entity) (*Project, error) {
	l := BeginLoading()
	for len(list) > 0 {
		n := min(enough, len(list))
		l.Add(list[:n])
		list = list[n:]
	}
	return l.Done()
}

// Loading reads a project while its things still come in, on every processor:
// one thing says nothing of another until all are there. Add and Done are called
// by one goroutine; Done is called once, or the work of Add goes on unseen.
type Loading struct {
	of      map[string]reading
	order   []reading
	unknown string        // a kind that there is none of
	room    chan struct{} // for each that reads at once
}

// reading are the things of one kind that are being read.
type reading interface {
	add(list []Entity, room chan struct{})
	finish(p *Project) error
}

// BeginLoading begins with nothing.
func BeginLoading() *Loading {
	l := &Loading{of: map[string]reading{}, room: make(chan struct{}, runtime.NumCPU())}
	for _, k := range kinds {
		r := k.reading()
		l.of[k.told().Name] = r
		l.order = append(l.order, r)
	}
	return l
}

// Add takes things in their stored form, which stay as they are until Done.
func (l *Loading) Add(list []Entity) {
	for from := 0; from < len(list); {
		to := from + 1
		for to < len(list) && list[to].Kind == list[from].Kind {
			to++
		}
		if r := l.of[list[from].Kind]; r != nil {
			r.add(list[from:to], l.room)
		} else {
			l.unknown = list[from].Kind
		}
		from = to
	}
}

// Done waits for everything and gives the project.
func (l *Loading) Done() (*Project, error) {
	p := New("")
	var refused error
	for _, r := range l.order {
		// All are waited for, so that nothing is at work when this returns.
		if err := r.finish(p); err != nil && refused == nil {
			refused = err
		}
	}
	switch {
	case l.unknown != "":
		return nil, noKind(l.unknown)
	case refused != nil:
		return nil, refused
	}
	p.paths = buildPaths(p)
	return p, nil
}

// readingOf are things of one kind on their way: in parts, each read by itself.
type readingOf[T any] struct {
	kind  *kindOf[T]
	parts []*part[T]
	work  sync.WaitGroup
}

type part[T any] struct {
	list    []Entity
	read    []*T
	refused []error
}

func (k *kindOf[T]) reading() reading { return &readingOf[T]{kind: k} }

func (r *readingOf[T]) add(list []Entity, room chan struct{}) {
	x := &part[T]{list, make([]*T, len(list)), make([]error, len(list))}
	r.parts = append(r.parts, x)
	r.work.Go(func() {
		room <- struct{}{}
		defer func() { <-room }()
		things := make([]T, len(list))
		for i, e := range list {
			x.read[i] = &things[i]
			x.refused[i] = decodeStored(e.Doc, x.read[i])
		}
	})
}

// finish checks what was read against what stands in the project by now, and
// puts it there.
func (r *readingOf[T]) finish(p *Project) error {
	r.work.Wait()
	k := r.kind
	n := 0
	var checks sync.WaitGroup
	for _, x := range r.parts {
		n += len(x.list)
		checks.Go(func() {
			for i, t := range x.read {
				if x.refused[i] == nil {
					x.read[i], x.refused[i] = k.read(p, x.list[i].ID, t, false)
				}
			}
		})
	}
	checks.Wait()
	p.take(k.Name)
	if m := k.of(p); n > 0 && len(*m) == 0 {
		*m = make(map[string]*T, n)
	}
	for _, x := range r.parts {
		for i, t := range x.read {
			if x.refused[i] != nil {
				return say.Errorf("%s %s: %w", k.Name, x.list[i].ID, x.refused[i])
			}
			k.things(p)[x.list[i].ID] = t
		}
	}
	if k.loaded != nil {
		k.loaded(p)
	}
	return nil
}
