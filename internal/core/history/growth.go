package history

import "time"

// Growth is how much is kept in a place, and how it goes on.
type Growth struct {
	Bytes int64
	Since time.Duration // the age of the oldest of it
	Days  int           // as long is kept; 0 for ever
	Most  int64         // as many bytes are kept; 0 for no bound
}

// leastSince is how long something has to be kept before it tells how it goes on.
const leastSince = time.Hour

// Daily is how many bytes a day adds, as far as what is kept tells; 0 where that
// is too little.
func (g Growth) Daily() int64 {
	if g.Since < leastSince {
		return 0
	}
	return int64(float64(g.Bytes) / g.Since.Hours() * 24)
}

// In is how many bytes there are after a time if it goes on so: what gets as old
// as it may goes, and what is too much does.
func (g Growth) In(after time.Duration) int64 {
	daily := g.Daily()
	out := g.Bytes + int64(float64(daily)*after.Hours()/24)
	if g.Days > 0 {
		out = min(out, max(g.Bytes, daily*int64(g.Days)))
	}
	if g.Most > 0 {
		out = min(out, g.Most)
	}
	return out
}
