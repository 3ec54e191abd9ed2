package history

import (
	"testing"
	"time"
)

func TestHowWhatIsKeptGrows(t *testing.T) {
	const day = 24 * time.Hour
	for _, c := range []struct {
		g          Growth
		daily, in9 int64
	}{
		{Growth{Bytes: 700, Since: 7 * day}, 100, 1600},
		{Growth{Bytes: 700, Since: 7 * day, Days: 10}, 100, 1000},                // three days more, then the oldest goes
		{Growth{Bytes: 3000, Since: 30 * day, Days: 30}, 100, 3000},              // it goes already
		{Growth{Bytes: 4000, Since: 40 * day, Days: 30}, 100, 4000},              // more than it may: nothing is hoped for
		{Growth{Bytes: 700, Since: 7 * day, Days: 30, Most: 900}, 100, 900},      // its size ends it
		{Growth{Bytes: 50, Since: 30 * time.Minute, Days: 30, Most: 900}, 0, 50}, // too little to tell
		{Growth{}, 0, 0},
	} {
		if d, in := c.g.Daily(), c.g.In(9*day); d != c.daily || in != c.in9 {
			t.Errorf("%+v: %d a day, %d in nine days", c.g, d, in)
		}
	}
}
