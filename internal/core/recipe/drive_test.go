package recipe

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// TestBlock steps a block through what a controller does, a letter each: t and f
// are Execute, ? cannot be read, d and e end the delivery well and badly, a dot
// lets a second pass. What it tells after each stands below.
func TestBlock(t *testing.T) {
	for _, c := range []struct{ does, tells string }{
		{"f t t d t f . f", "-,B,B,D,D,D,D,-"},
		{"f t e t f . f t", "-,B,E5,E5,E5,E5,-,B"},
		{"t t f t", "-,-,-,B"},             // on at the first look asks for nothing
		{"f t f d f . f", "-,B,B,D,D,D,-"}, // fell before the end: the answer stands a second
		{"f ? t", "-,-,B"},                 // asked for while the link was away
		{"f t d ? ? t f . f", "-,B,D,D,D,D,D,D,-"},
		{"f t t f t d f . f t", "-,B,B,B,B,D,D,D,-,B"}, // rising again within it asks for nothing more
		{"? ? f t", "-,-,-,B"},
	} {
		var b Block
		now := time.Unix(1e9, 0)
		var told []string
		for _, what := range strings.Fields(c.does) {
			was := b.Answer()
			asks := false
			switch what {
			case "d":
				b.End(0, now)
			case "e":
				b.End(DriveHalf, now)
			case ".":
				now = now.Add(time.Second)
			default:
				asks = b.Step(what == "t", what != "?", now)
			}
			a := b.Answer()
			if asks != (a.Busy && !was.Busy) {
				t.Errorf("%s: asks %v, and tells %+v", c.does, asks, a)
			}
			switch {
			case a.Busy:
				told = append(told, "B")
			case a.Done:
				told = append(told, "D")
			case a.Error:
				told = append(told, fmt.Sprint("E", a.ErrorID))
			default:
				told = append(told, "-")
			}
		}
		if got := strings.Join(told, ","); got != c.tells {
			t.Errorf("%s tells %s, not %s", c.does, got, c.tells)
		}
	}
}
