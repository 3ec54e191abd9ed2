package screen

import (
	"math"
	"readyrail/internal/core/say"
	"slices"
)

// Box is a place on a screen, in pixels.
type Box struct{ X, Y, W, H float64 }

// Whole lists elements with what lies in those that are groups, a group before
// what lies in it. An element that is no longer there is an error.
func (s *Screen) Whole(ids []string) ([]string, error) {
	chosen := map[string]bool{}
	for _, id := range ids {
		if s.Elements[id] == nil {
			return nil, say.New("somebody deleted an element meanwhile")
		}
		chosen[id] = true
	}
	depth := map[string]int{}
	var out []string
	for _, id := range s.Sorted() {
		within := false
		for at := id; at != "" && s.Elements[at] != nil && depth[id] <= len(s.Elements); at = s.Elements[at].Group {
			within = within || chosen[at]
			depth[id]++
		}
		if within {
			out = append(out, id)
		}
	}
	slices.SortStableFunc(out, func(a, b string) int { return depth[a] - depth[b] })
	return out, nil
}

// Around is the smallest box that holds elements, turned ones as they stand.
func (s *Screen) Around(ids []string) Box {
	left, top, right, bottom := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, id := range ids {
		e := s.Elements[id]
		if e.gathers() {
			continue
		}
		sin, cos := math.Sincos(e.Angle * math.Pi / 180)
		w := (math.Abs(e.W*cos) + math.Abs(e.H*sin)) / 2
		h := (math.Abs(e.W*sin) + math.Abs(e.H*cos)) / 2
		x, y := e.X+e.W/2, e.Y+e.H/2
		left, top, right, bottom = min(left, x-w), min(top, y-h), max(right, x+w), max(bottom, y+h)
	}
	if left > right {
		return Box{}
	}
	left, top = math.Floor(left), math.Floor(top)
	return Box{left, top, max(8, math.Ceil(right-left)), max(8, math.Ceil(bottom-top))}
}
