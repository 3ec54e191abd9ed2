package store

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"sync"
	"time"

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

	settling sync.Mutex // over Settle
	coder    history.Coder

	writing sync.Mutex // over writes to the seconds
	rested  int64      // when rows were last put together

	mu     sync.RWMutex
	tails  map[string]*tailOf
	alive  int64 // the newest time that is kept
	looked int64 // from when on the ends of the tags' blocks are known
	whole  []wholeDay

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
	for i, name := range names[max(0, len(names)-2):] {
		if begin, err := time.Parse(monthForm, name); i == 0 && err == nil {
			s.looked = begin.UnixNano()
		}
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
	behind := behind{}
	// What is in blocks already is in their rows too, for a while.
	if err := s.seconds.each(ctx, func(id string, v value.Value) { s.place(TagValue{Tag: id, Value: v}, behind) }); err != nil {
		return err
	}
	s.insert(behind)
	if s.alive == 0 {
		return nil
	}
	var marks []TagValue
	for id, t := range s.tails {
		if at, kind := t.last(); at >= s.alive-blockAge && !t.marked() {
			marks = append(marks, TagValue{Tag: id, Value: value.Bad(kind, value.BadUnrecorded).AtNanos(max(at, s.alive) + 1)})
		}
	}
	return s.Keep(ctx, marks)
}

// Named is a value of a tag that lacks what the tag was. Who keeps many of a tag asks
// for it once, so that the tag is not looked for by its name each time.
func (s *Samples) Named(tag string) TagValue {
	s.mu.Lock()
	defer s.mu.Unlock()
	return TagValue{Tag: tag, tail: s.tail(tag)}
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

// Keep keeps samples, all of them or none; they are on disk when it returns. One
// that comes late finds its place by its time: at once, or as Settle writes the
// blocks anew among which it belongs. Where there is one of its time already, that
// one stands. A tag that stands still is kept once a day at least: what held at a
// time is looked for no longer back than a block lasts.
func (s *Samples) Keep(ctx context.Context, list []TagValue) error {
	if len(list) == 0 {
		return nil
	}
	s.writing.Lock()
	defer s.writing.Unlock()
	timely, late := s.byTime(list)
	if err := s.seconds.keep(ctx, timely, late); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	behind := behind{}
	var overtaken []TagValue // by Settle, since they were taken apart
	for _, x := range timely {
		if !s.place(x, behind) {
			overtaken = append(overtaken, x)
		}
	}
	s.insert(behind)
	if len(overtaken) == 0 {
		return nil
	}
	return s.seconds.keep(ctx, nil, overtaken)
}

// behind is what is in no block and not the newest of its tag.
type behind map[string][]value.Value

// place gives a sample its place in memory, or leaves it for insert; false where it
// is from before the end of its tag's blocks.
func (s *Samples) place(x TagValue, rest behind) bool {
	s.alive = max(s.alive, x.Nanos())
	t := x.tail
	if t == nil {
		t = s.tail(x.Tag)
	}
	if t.add(x.Value) {
		s.count++
	} else if x.Nanos() > s.blocksUntil(t) {
		rest[x.Tag] = append(rest[x.Tag], x.Value)
	} else {
		return false
	}
	return true
}

func (s *Samples) insert(rest behind) {
	for id, some := range rest {
		sortByTime(some)
		s.count += int64(s.tail(id).insert(some))
	}
}

// blocksUntil is when the last block of a tag ends, or the one that is being made,
// or from when on that is known.
func (s *Samples) blocksUntil(t *tailOf) int64 {
	if t != nil && max(t.until, t.taken) > 0 {
		return max(t.until, t.taken)
	}
	return s.looked - 1
}

// byTime takes apart what is from before the end of a tag's blocks.
func (s *Samples) byTime(list []TagValue) (timely, late []TagValue) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	for i := range list {
		x := &list[i]
		t := x.tail
		if t == nil {
			t = s.tails[x.Tag]
		}
		switch before := x.Nanos() <= s.blocksUntil(t); {
		case before && late == nil:
			timely, late = append(timely, list[:i]...), append(late, *x)
		case before:
			late = append(late, *x)
		case late != nil:
			timely = append(timely, *x)
		}
	}
	if late == nil {
		return list, nil
	}
	return timely, late
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
