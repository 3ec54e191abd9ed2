package store

import (
	"context"
	"runtime"
	"time"
)

// leisure are the places for parts of long reads: one fewer than processors, so
// that whatever must not wait finds one free.
var leisure = places(max(1, runtime.GOMAXPROCS(0)-1))

// place is where a part runs, at most one at a time.
type place struct {
	worked time.Duration // since it last stayed empty
}

func places(n int) chan *place {
	out := make(chan *place, n)
	for range n {
		out <- &place{}
	}
	return out
}

// A place stays empty for a rest after each stint: a processor that is never idle
// sees late what came from the network. Shorter parts are one stint together, as
// a rest takes longer than many of them.
const (
	stint = 3 * time.Millisecond
	rest  = 200 * time.Microsecond
)

// atLeisure runs a part of a long read, some milliseconds of it, when it has
// a place. Reads that go on at once take turns part by part.
func atLeisure(ctx context.Context, part func() error) error {
	var p *place
	select {
	case p = <-leisure:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { leisure <- p }()
	from := time.Now()
	err := part()
	if p.worked += time.Since(from); p.worked >= stint {
		time.Sleep(rest)
		p.worked = 0
	}
	return err
}

// backwards looks through the numbers [low, before) part by part for the newest
// rows, at most limit. page returns those within [from, before), newest first.
func backwards[T any](ctx context.Context, low, before, part int64, limit int,
	page func(from, before int64, limit int) ([]T, error)) ([]T, error) {
	out := []T{}
	for before > low && len(out) < limit {
		from := max(low, before-part)
		err := atLeisure(ctx, func() error {
			more, err := page(from, before, limit-len(out))
			out = append(out, more...)
			return err
		})
		if err != nil {
			return nil, err
		}
		before = from
	}
	return out, nil
}
