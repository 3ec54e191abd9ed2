package history

import "time"

// Clock gives samples their times, to the millisecond. Where the clock of the
// machine was stepped back by a little, as one that is set over the network is,
// samples go on in order: for a while their times pass by a tenth more slowly,
// until the clock has caught up. Where it was stepped back by more, they have its
// time and find their places among what is there.
type Clock struct {
	begun      time.Time
	wall, mono int64
	ahead      int64 // of the clock of the machine, nanoseconds
}

const (
	mostAhead = int64(10 * time.Second) // that a step back is made up for
	catchUp   = 10                      // a second is made up for in so many
)

// Now is the time that a sample has that is taken now.
func (c *Clock) Now() time.Time {
	now := time.Now()
	if c.begun.IsZero() {
		c.begun = now
	}
	return time.Unix(0, c.stamp(now.UnixNano(), int64(now.Sub(c.begun)))).Truncate(time.Millisecond)
}

// stamp is the time of a sample by the clock of the machine and by what has
// passed, in nanoseconds.
func (c *Clock) stamp(wall, mono int64) int64 {
	if c.wall != 0 {
		passed := mono - c.mono
		c.ahead -= min(c.ahead, passed/catchUp)
		c.ahead = max(0, c.ahead-(wall-c.wall-passed))
		if c.ahead > mostAhead {
			c.ahead = 0
		}
	}
	c.wall, c.mono = wall, mono
	return wall + c.ahead
}
