package store

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"
)

// Parts come in their order however long each takes; an error of a part, of finding the
// next or of who takes them ends it, after what came before.
func TestSideBySide(t *testing.T) {
	broken := errors.New("broken")
	for name, c := range map[string]struct {
		to, wrong int64 // the last place, and the part that fails
		refuse    int64 // the part that is not taken
		want      string
		err       error
	}{
		"nothing":          {0, 0, 0, "", nil},
		"one":              {1, 0, 0, "1 ", nil},
		"many":             {9, 0, 0, "1 2 3 4 5 6 7 8 9 ", nil},
		"a part fails":     {9, 4, 0, "1 2 3 ", broken},
		"one is not taken": {9, 0, 6, "1 2 3 4 5 6 ", broken},
	} {
		got := ""
		err := sideBySide(context.Background(), 0, 3,
			func(after int64) (int64, error) { return min(after+1, c.to), nil },
			func(after, to int64) ([]int64, error) {
				time.Sleep(time.Duration(7*to%5) * time.Millisecond)
				if to == c.wrong {
					return nil, broken
				}
				return []int64{to}, nil
			},
			func(list []int64) error {
				for _, x := range list {
					got += fmt.Sprint(x, " ")
					if x == c.refuse {
						return broken
					}
				}
				return nil
			})
		if got != c.want || !errors.Is(err, c.err) {
			t.Errorf("%s: %q %v", name, got, err)
		}
	}
	ctx, cancel := context.WithCancel(context.Background())
	err := sideBySide(ctx, 0, 2, func(after int64) (int64, error) { return after + 1, nil },
		func(_, to int64) ([]int64, error) { return []int64{to}, nil },
		func(list []int64) error {
			if list[0] == 50 {
				cancel()
			}
			return nil
		})
	if !errors.Is(err, context.Canceled) {
		t.Errorf("given up: %v", err)
	}
}
