package store

import (
	"context"
	"sync"
)

// ahead is a part of something long, as it was read.
type ahead[T any] struct {
	list []T
	err  error
}

// sideBySide reads parts of something long by so many at once, each up to the place
// that next says of the place before, and hands them over in their order. next returns
// the place that it was given once nothing follows.
func sideBySide[T any](ctx context.Context, at int64, many int, next func(after int64) (int64, error),
	read func(after, to int64) ([]T, error), do func(list []T) error) error {
	ctx, cancel := context.WithCancel(ctx)
	var all sync.WaitGroup
	defer all.Wait()
	defer cancel()
	// As many parts wait as are read; the last one that next finds ends the line.
	line := make(chan chan ahead[T], many)
	all.Go(func() {
		defer close(line)
		for {
			to, err := next(at)
			if err == nil && to == at {
				return
			}
			from, place := at, make(chan ahead[T], 1)
			select {
			case line <- place:
			case <-ctx.Done():
				return
			}
			if err != nil {
				place <- ahead[T]{err: err}
				return
			}
			all.Go(func() {
				list, err := read(from, to)
				place <- ahead[T]{list, err}
			})
			at = to
		}
	})
	for place := range line {
		p := <-place
		if p.err != nil {
			return p.err
		}
		if err := do(p.list); err != nil {
			return err
		}
	}
	return ctx.Err()
}
