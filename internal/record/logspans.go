package record

import (
	"context"
	"errors"
	"time"

	"readyrail/internal/store"
)

// cut begins and ends spans. A value that is not known ends none: a link that is
// down for ten seconds does not cut a load in two.
func (x *Log) cut(now time.Time) {
	for _, c := range x.plan.cuts {
		v := x.values[x.slots[c.tag]]
		if v.Quality.IsBad() {
			continue
		}
		x.spanIs(c.of, c.name(v), now)
	}
	if c := x.plan.spans; c != nil {
		on, known := x.holds(c)
		switch _, lasts := x.spans[""]; {
		case !known || on && lasts:
		case on:
			x.spanIs("", now.Format("2006-01-02 15:04:05"), now)
		default:
			x.spanIs("", "", now)
		}
	}
}

// spanIs has a span of equipment be the one of a name, none where it is empty.
func (x *Log) spanIs(of, name string, now time.Time) {
	if s, lasts := x.spans[of]; lasts {
		if s.Name == name {
			return
		}
		x.endSpan(of, now)
		if _, lasts := x.spans[of]; lasts {
			return // the disk did not take it: again the next time
		}
	}
	if name == "" {
		return
	}
	s := store.LogSpan{Log: x.state.ID, Of: of, Name: name, Began: now.UnixNano()}
	var err error
	if s.Seq, err = x.logs.store.AddSpan(context.Background(), s); err != nil {
		x.logs.log.Error("a span of a log is not kept", "log", x.plan.log.Name, "error", err)
		return
	}
	x.spans[of] = s
}

func (x *Log) endSpan(of string, now time.Time) {
	if err := x.logs.store.EndSpan(context.Background(), x.spans[of].Seq, now.UnixNano()); err != nil {
		x.logs.log.Error("the end of a span is not kept", "log", x.plan.log.Name, "error", err)
		return
	}
	delete(x.spans, of)
}

func (x *Log) endSpans(now time.Time) {
	for of := range x.spans {
		x.endSpan(of, now)
	}
}

// Mark keeps a mark with a name at this moment.
func (x *Log) Mark(name, person string) (err error) {
	return errors.Join(x.turn(func() {
		now := time.Now().UnixNano()
		_, err = x.logs.store.AddSpan(context.Background(), store.LogSpan{Log: x.state.ID, Name: name, Began: now, Ended: &now, Mark: true,
			Person: person})
	}), err)
}
