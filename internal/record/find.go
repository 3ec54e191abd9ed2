package record

import (
	"context"
	"slices"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/history"
	"readyrail/internal/core/value"
)

// Condition is what is looked for: a formula that gives a BOOL, and the tags that
// its slots stand for.
type Condition struct {
	Program *formula.Program
	Bounds  *formula.Bounds
	Tags    []string
	Kinds   []value.Kind
	Least   int64 // the shortest stretch that counts, in nanoseconds
}

// Find hands over the stretches of [from, to), in nanoseconds, in which a
// condition held, in order of time, with the values of its tags at the begin of
// each; until found returns false. Where one of its tags is not known the
// condition does not hold. Seen is told up to when it has looked.
//
// Most of the time is not looked at sample by sample: the roll-ups of a minute tell
// where the condition holds nowhere.
func (r *Recorder) Find(ctx context.Context, c *Condition, from, to int64, seen func(at int64),
	found func(history.Span, []value.Value) bool) error {
	s := &search{cond: c, reader: r, began: make([]value.Value, len(c.Tags))}
	s.Least = c.Least
	s.Found = func(x history.Span) bool { return found(x, slices.Clone(s.began)) }
	for from < to {
		end := min(history.Floor(from+stride, stride), to)
		parts, err := s.worthLooking(ctx, from, end)
		if err != nil {
			return err
		}
		for _, p := range parts {
			if more, err := s.look(ctx, p); err != nil || !more {
				return err
			}
		}
		from = end
		seen(from)
	}
	if s.on { // it held to the end of what was looked at
		s.Until(min(s.looked, to, r.store.Alive()))
	}
	return nil
}

// stride is how much of the time is judged by its roll-ups at once.
const stride = int64(4 * 24 * time.Hour)

// search is a condition that is looked for.
type search struct {
	cond *Condition
	history.Stretches
	reader *Recorder
	frame  formula.Frame
	began  []value.Value // of the stretch that lasts
	on     bool
	looked int64 // up to which it was looked at; later it is off, as far as is known
}

// look looks at every sample of a part; false once nothing more is wanted.
func (s *search) look(ctx context.Context, part history.Span) (more bool, err error) {
	if part.From != s.looked {
		// It held nowhere between.
		if s.set(s.looked, false); s.frame.Slots == nil {
			s.frame.Slots = make([]value.Value, len(s.cond.Tags))
		}
		for i, k := range s.cond.Kinds {
			s.frame.Slots[i] = value.Bad(k, value.BadWaiting)
		}
	}
	s.looked, more = part.To, true
	var v value.Value
	err = s.reader.merged(ctx, s.cond.Tags, part.From, part.To, func(at int64, tag int, next *value.Value, last bool) bool {
		s.frame.Slots[tag] = *next
		if next.Kind != s.cond.Kinds[tag] {
			// It was of another type then: nothing is known of what the formula needs.
			s.frame.Slots[tag] = value.Bad(s.cond.Kinds[tag], value.BadInput)
		}
		if !last {
			return true
		}
		s.cond.Program.EvalTo(&v, &s.frame)
		more = s.set(max(at, part.From), v.Kind == value.BOOL && !v.Quality.IsBad() && v.Bool())
		return more
	})
	return more, err
}

// set says that it holds from a time on, or not; false once nothing more is wanted.
func (s *search) set(at int64, on bool) bool {
	if on && !s.on {
		copy(s.began, s.frame.Slots)
	}
	s.on = on
	return s.Step(at, on)
}

// nearby is how far parts are apart that are looked at as one: to begin anew costs
// more than to look at so much.
const nearby = int64(10 * time.Minute)

// worthLooking are the parts of a range in which the condition may hold, by the
// least and most of each minute.
func (s *search) worthLooking(ctx context.Context, from, to int64) ([]history.Span, error) {
	const minute = int64(time.Minute)
	begin, end := history.Floor(from, minute), history.Floor(to+minute-1, minute)
	n := int((end - begin) / minute)
	ranges := make([][]formula.Range, len(s.cond.Tags))
	for i, id := range s.cond.Tags {
		ranges[i] = slices.Repeat([]formula.Range{formula.Anything}, n)
		if s.cond.Kinds[i] == value.STRING {
			continue
		}
		list, err := s.reader.store.Buckets(ctx, id, begin, end, minute)
		if err != nil {
			return nil, err
		}
		for _, b := range list {
			ranges[i][(b.From-begin)/minute] = formula.Range{Low: b.Least, High: b.Most}
		}
	}
	var out []history.Span
	slots := make([]formula.Range, len(s.cond.Tags))
	for k := range n {
		for i := range slots {
			slots[i] = ranges[i][k]
		}
		if !s.cond.Bounds.May(slots) {
			continue
		}
		p := history.Span{From: max(begin+int64(k)*minute, from), To: min(begin+int64(k+1)*minute, to)}
		if last := len(out) - 1; last >= 0 && p.From-out[last].To < nearby {
			out[last].To = p.To
		} else {
			out = append(out, p)
		}
	}
	return out, nil
}
