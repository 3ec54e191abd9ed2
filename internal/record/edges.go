package record

import (
	"context"
	"slices"

	"readyrail/internal/core/history"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Edge is a change of a BOOL: it comes on, or goes off.
type Edge struct {
	Tag  string
	Fall bool
}

// Pairs are the times from an edge of one signal to one of another.
type Pairs struct {
	Count     int         `json:"count"`
	Without   int         `json:"without" doc:"edges of the first that nothing answered before the next"`
	Least     Number      `json:"least" doc:"seconds"`
	Most      Number      `json:"most"`
	Mean      Number      `json:"mean"`
	Median    Number      `json:"median"`
	Deviation Number      `json:"deviation" doc:"standard deviation of all, seconds"`
	Early     int         `json:"early" doc:"how many took less than was expected"`
	Late      int         `json:"late" doc:"how many took more"`
	Bins      PairBins    `json:"bins"`
	List      []PairShown `json:"list" doc:"at most 2000: first those that are not as expected, else the newest"`
}

// PairBins count the times in parts of equal width.
type PairBins struct {
	From   float64 `json:"from" doc:"seconds"`
	Width  float64 `json:"width"`
	Counts []int   `json:"counts"`
}

// PairShown is one of them.
type PairShown struct {
	At   int64   `json:"at" doc:"of the first edge, milliseconds since 1970"`
	Took float64 `json:"took" doc:"seconds; of one that nothing answered 0"`
	Fits string  `json:"fits" enum:"yes,early,late,without"`
}

const (
	mostPairs = 2000
	mostBins  = 24
	mostEdges = 2_000_000 // of one signal
)

// ErrManyEdges refuses to measure signals that change too often for one answer.
var ErrManyEdges = say.New("there are more than two million edges: choose a shorter time")

// Pairs measures the times from one edge to another in a range, in nanoseconds.
// Those outside of least and most, in seconds, are told apart; 0 is no bound.
func (r *Recorder) Pairs(ctx context.Context, first, second Edge, from, to int64, least, most float64) (*Pairs, error) {
	a, err := r.edges(ctx, first, from, to)
	if err != nil {
		return nil, err
	}
	b, err := r.edges(ctx, second, from, to)
	if err != nil {
		return nil, err
	}
	pairs, without := history.PairEdges(a, b, to)
	out := &Pairs{Without: len(without), List: []PairShown{}}
	took := make([]float64, len(pairs))
	var fit, unfit []PairShown
	for i, p := range pairs {
		took[i] = float64(p.Took) / 1e9
		s := PairShown{p.At / 1e6, took[i], "yes"}
		switch {
		case least > 0 && took[i] < least:
			s.Fits = "early"
			out.Early++
		case most > 0 && took[i] > most:
			s.Fits = "late"
			out.Late++
		default:
			fit = append(fit, s)
			continue
		}
		unfit = append(unfit, s)
	}
	for _, at := range without {
		unfit = append(unfit, PairShown{At: at / 1e6, Fits: "without"})
	}
	out.Bins.From, out.Bins.Width, out.Bins.Counts = history.Bins(took, mostBins)
	if out.Bins.Counts == nil {
		out.Bins.Counts = []int{}
	}
	slices.Sort(took)
	s := history.SpreadOf(took)
	out.Count, out.Least, out.Most, out.Mean, out.Median, out.Deviation = s.Count, Number(s.Least), Number(s.Most), Number(s.Mean),
		Number(s.Median), Number(s.Deviation)
	out.List = append(out.List, unfit[max(0, len(unfit)-mostPairs):]...)
	out.List = append(out.List, fit[max(0, len(fit)-(mostPairs-len(out.List))):]...)
	slices.SortFunc(out.List, func(x, y PairShown) int { return int(max(-1, min(1, y.At-x.At))) })
	return out, nil
}

// edges are the moments at which a BOOL changed one way. What follows a time in
// which it was not known is no edge: nobody saw when it came.
func (r *Recorder) edges(ctx context.Context, e Edge, from, to int64) (out []int64, err error) {
	known, on := false, false
	err = r.store.Each(ctx, e.Tag, from, to, func(c *history.Column) error {
		for i, at := range c.At {
			s := c.Sample(i)
			good := c.Kind == value.BOOL && !s.Quality.IsBad()
			is := s.Value != 0
			if good && known && is != on && is != e.Fall && at >= from {
				if len(out) == mostEdges {
					return ErrManyEdges
				}
				out = append(out, at)
			}
			known, on = good, is
		}
		return nil
	})
	return out, err
}
