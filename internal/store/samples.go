package store

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"sync"

	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// Samples are the courses of a project's tags. What comes in is on disk before
// Keep returns; Settle turns it into blocks of the months' files, with their
// buckets. Reads see both as one and wait for neither.
type Samples struct {
	seconds *seconds
	months  *months
	dir     string
	coder   history.Coder // of Settle

	writing sync.Mutex // over writes to the seconds
	rested  int64      // when rows were last put together

	mu    sync.RWMutex
	tails map[string]*tailOf
	alive int64 // the newest time that is kept
	whole []wholeDay

	count   int64 // of samples that are kept
	counted bool
}

// OpenSamples opens a project's samples.
func OpenSamples(dir string, r *Reserve) (*Samples, error) {
	dir = filepath.Join(dir, "samples")
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	s := &Samples{dir: dir, tails: map[string]*tailOf{}, months: &months{dir: dir, reserve: r, open: map[string]*month{}}}
	var err error
	if s.seconds, err = openSeconds(dir, r); err != nil {
		return nil, err
	}
	if err := s.recover(context.Background()); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// recover reads what is in no block, and says of every tag that nothing is known
// of it from the last moment that was kept on.
func (s *Samples) recover(ctx context.Context) error {
	names := s.months.names()
	for _, name := range names[max(0, len(names)-2):] {
		m, err := s.months.file(name, false)
		if err != nil {
			return err
		}
		for id, until := range m.until {
			t := s.tail(id)
			t.until = max(t.until, until)
			s.alive = max(s.alive, until)
		}
	}
	if err := s.seconds.each(ctx, func(id string, v value.Value) {
		s.tail(id).add(v)
		s.alive = max(s.alive, v.Nanos())
	}); err != nil {
		return err
	}
	if s.alive == 0 {
		return nil
	}
	var marks []TagValue
	for id, t := range s.tails {
		if at, kind := t.last(); at >= s.alive-blockAge && !t.marked() {
			marks = append(marks, TagValue{id, value.Bad(kind, value.BadUnrecorded).AtNanos(max(at, s.alive) + 1)})
		}
	}
	return s.Keep(ctx, marks)
}

func (s *Samples) tail(id string) *tailOf {
	t := s.tails[id]
	if t == nil {
		t = &tailOf{}
		s.tails[id] = t
	}
	return t
}

// Close closes every file.
func (s *Samples) Close() error {
	s.writing.Lock()
	defer s.writing.Unlock()
	return errors.Join(s.months.close(), s.seconds.db.Close())
}

// Keep keeps samples, all of them or none; they are on disk when it returns. Each
// is later than what is kept of its tag; one that is not is left out. A tag that
// stands still is kept once a day at least: what held at a time is looked for no
// longer back than a block lasts.
func (s *Samples) Keep(ctx context.Context, list []TagValue) error {
	if len(list) == 0 {
		return nil
	}
	s.writing.Lock()
	defer s.writing.Unlock()
	if err := s.seconds.keep(ctx, list); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, x := range list {
		if s.tail(x.Tag).add(x.Value) {
			s.count++
		}
		s.alive = max(s.alive, x.Nanos())
	}
	return nil
}

// Alive is the newest time that anything is kept of, in nanoseconds since 1970.
func (s *Samples) Alive() int64 {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return s.alive
}

// Prune forgets what is from before a time, by whole days; of tags that are kept
// until another time what is from before that, by whole months where it is the
// longer.
func (s *Samples) Prune(ctx context.Context, before int64, own map[string]int64) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	return s.months.drop(ctx, before, own)
}
