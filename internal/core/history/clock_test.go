package history

import "testing"

// A clock that is stepped a little back gives times that go on; one that is
// stepped further is followed.
func TestClock(t *testing.T) {
	t.Parallel()
	const s = int64(1e9)
	type at struct{ wall, mono, want int64 }
	for name, course := range map[string][]at{
		"as it goes":            {{100, 0, 100}, {101, 1, 101}, {160, 60, 160}},
		"back by two":           {{100, 0, 100}, {99, 1, 101}, {109, 11, 110}, {119, 21, 119}, {200, 102, 200}},
		"back and forth":        {{100, 0, 100}, {95, 0, 100}, {100, 0, 100}, {101, 1, 101}},
		"back by much":          {{100, 0, 100}, {40, 1, 40}, {41, 2, 41}},
		"back by little, twice": {{100, 0, 100}, {94, 0, 100}, {88, 0, 88}},
		"forth":                 {{100, 0, 100}, {500, 1, 500}, {501, 2, 501}},
	} {
		var c Clock
		last := int64(0)
		for i, x := range course {
			got := c.stamp(x.wall*s, x.mono*s)
			if got != x.want*s {
				t.Errorf("%s, %d: %v s, not %d", name, i, float64(got)/1e9, x.want)
			}
			if got < last && last-got < mostAhead {
				t.Errorf("%s, %d: %v s after %v", name, i, float64(got)/1e9, float64(last)/1e9)
			}
			last = got
		}
	}
}
