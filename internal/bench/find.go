package bench

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
	"readyrail/internal/record"
	"readyrail/internal/store"
)

// filled opens a store of samples in a folder of its own and fills it.
func filled(fill func(s *store.Samples) error) (s *store.Samples, end func(), err error) {
	dir, err := os.MkdirTemp("", "readyrail-bench")
	if err != nil {
		return nil, nil, err
	}
	if s, err = store.OpenSamples(dir, nil); err == nil {
		err = fill(s)
	}
	return s, func() {
		if s != nil {
			s.Close()
		}
		os.RemoveAll(dir)
	}, err
}

// finds measures how soon a condition of three tags is found in a month, and the
// edges of two signals are measured against one another.
func finds() ([]Figure, error) {
	last := time.Now().Truncate(time.Hour)
	begin := last.AddDate(0, 0, -trendDays)
	s, end, err := filled(func(s *store.Samples) error {
		if err := fillMonth(s, begin, last); err != nil {
			return err
		}
		return fillSignals(s, begin, last)
	})
	defer end()
	if err != nil {
		return nil, err
	}
	r := record.Reading(s)
	find := func(text string) (float64, error) {
		c, err := threeTags(text)
		if err != nil {
			return 0, err
		}
		found := 0
		took, err := median(func() error {
			return r.Find(context.Background(), c, begin.UnixNano(), last.UnixNano(), func(int64) {},
				func(history.Span, []value.Value) bool { found++; return true })
		})
		if err == nil && found == 0 {
			err = fmt.Errorf("the condition %s never holds", text)
		}
		return took, err
	}
	rare, err := find("pen0 > pen1 + 5 and pen2 > 60")
	if err != nil {
		return nil, err
	}
	often, err := find("bit(round(pen0 * 10), 0) and pen1 > 0 and pen2 > 0")
	if err != nil {
		return nil, err
	}
	pairs, err := median(func() error {
		p, err := r.Pairs(context.Background(), record.Edge{Tag: "call"}, record.Edge{Tag: "flame"}, begin.UnixNano(), last.UnixNano(), 0, 0)
		if err == nil && p.Count == 0 {
			err = fmt.Errorf("no edge answers another")
		}
		return err
	})
	return []Figure{
		below("find: three tags at 1 s, 31 days", "ms", rare, 800),
		below("find: the same, every sample looked at", "ms", often, 800),
		below("find: edges of two rows, 31 days", "ms", pairs, 60),
	}, err
}

// threeTags is a condition over the pens 0 to 2.
func threeTags(text string) (*record.Condition, error) {
	c := &record.Condition{}
	stored, err := formula.Store(text, func(path string) (string, bool) { return path, true }, nil)
	if err != nil {
		return nil, err
	}
	for i := range 3 {
		c.Tags, c.Kinds = append(c.Tags, pen(i)), append(c.Kinds, value.LREAL)
	}
	scope := formula.Scope{Path: func(id string) (string, bool) { return id, true },
		Tag: func(id string) (int32, value.Kind, bool) { return int32(id[3] - '0'), value.LREAL, true }}
	if c.Program, err = formula.Compile(stored, scope); err == nil {
		c.Bounds, err = formula.BoundsOf(stored, scope)
	}
	return c, err
}

// fillSignals keeps two signals of a burner that lights twice an hour.
func fillSignals(s *store.Samples, begin, end time.Time) error {
	r := rand.New(rand.NewPCG(6, 7))
	var list []store.TagValue
	for at := begin; at.Before(end); at = at.Add(30 * time.Minute) {
		for _, e := range []struct {
			tag   string
			after float64
			on    bool
		}{{"call", 0, true}, {"flame", 6.4 + r.Float64(), true}, {"call", 600, false}, {"flame", 600.3, false}} {
			list = append(list, store.TagValue{Tag: e.tag, Value: value.Bool(e.on).At(at.Add(time.Duration(e.after * 1e9)))})
		}
	}
	if err := s.Keep(context.Background(), list); err != nil {
		return err
	}
	return s.Settle(context.Background(), end)
}

const (
	replayTags = 300
	replayDays = 3
)

// replays measures how soon everything that a large screen shows is read of a
// recorded moment.
func replays() ([]Figure, error) {
	last := time.Now().Truncate(time.Hour)
	begin := last.AddDate(0, 0, -replayDays)
	ids := make([]string, replayTags)
	for i := range ids {
		ids[i] = fmt.Sprintf("tag%03d", i)
	}
	s, end, err := filled(func(s *store.Samples) error { return fillTags(s, ids, begin, last) })
	defer end()
	if err != nil {
		return nil, err
	}
	r := record.Reading(s)
	random := rand.New(rand.NewPCG(8, 9))
	into := make([]value.Value, len(ids))
	took, err := median(func() error {
		for i := range into {
			into[i] = value.Bad(value.LREAL, value.BadWaiting)
		}
		at := begin.Add(time.Hour + time.Duration(random.Int64N(int64(last.Sub(begin)-2*time.Hour))))
		if err := r.Moment(context.Background(), ids, at.UnixNano(), into); err != nil {
			return err
		}
		for i, v := range into {
			if v.Quality.IsBad() {
				return fmt.Errorf("nothing is known of %s", ids[i])
			}
		}
		return nil
	})
	return []Figure{below(fmt.Sprintf("replay: %d values of any moment", replayTags), "ms", took, 50)}, err
}

// fillTags keeps a sample of each tag every ten seconds.
func fillTags(s *store.Samples, ids []string, begin, end time.Time) error {
	ctx := context.Background()
	w := walk{rand.New(rand.NewPCG(10, 11)), 60}
	for hour := begin; hour.Before(end); hour = hour.Add(time.Hour) {
		var list []store.TagValue
		for _, id := range ids {
			for sec := 0; sec < 3600; sec += 10 {
				at := hour.Add(time.Duration(sec)*time.Second + time.Duration(w.r.IntN(20))*time.Millisecond)
				list = append(list, store.TagValue{Tag: id, Value: w.next().At(at)})
			}
		}
		if err := s.Keep(ctx, list); err != nil {
			return err
		}
		if err := s.Settle(ctx, hour.Add(time.Hour)); err != nil {
			return err
		}
	}
	return nil
}
