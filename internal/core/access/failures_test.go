package access

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// TestFailureNotes: the first failure at an account is noted at once, the next ones
// together ten minutes later, and nothing where nothing failed.
func TestFailureNotes(t *testing.T) {
	var n FailureNotes
	start := time.Date(2026, 11, 30, 6, 0, 0, 0, time.UTC)
	for i, c := range []struct {
		at    time.Duration
		fails string // account@place count, …
		end   bool
		want  string
	}{
		{0, "", false, ""},
		{0, "tom@north 1", false, "tom 1 north"},
		{2 * time.Second, "tom@north 4, iris@10.0.0.5 2", false, "iris 2 10.0.0.5"},
		{9 * time.Minute, "tom@gate 1, tom@north 1", false, ""},
		{10 * time.Minute, "", false, "tom 6 north+gate"},
		{15 * time.Minute, "", false, ""},
		{21 * time.Minute, "tom@1 1, tom@2 1, tom@3 1, tom@4 1, tom@5 1, tom@6 1, tom@6 9", false, "tom 15 1+2+3+4+5 and more"},
		{22 * time.Minute, "tom@north 3", false, ""},
		{23 * time.Minute, "", true, "tom 3 north"},
	} {
		for fail := range strings.SplitSeq(c.fails, ", ") {
			who, rest, ok := strings.Cut(fail, "@")
			if !ok {
				continue
			}
			var place string
			var count int64
			fmt.Sscan(rest, &place, &count)
			n.Add(who, place, count)
		}
		var got []string
		for _, f := range n.Due(start.Add(c.at), c.end) {
			s := fmt.Sprintf("%s %d %s", f.Account, f.Count, strings.Join(f.Places, "+"))
			if f.More {
				s += " and more"
			}
			got = append(got, s)
		}
		if s := strings.Join(got, ", "); s != c.want {
			t.Errorf("step %d: %q; want %q", i, s, c.want)
		}
	}
	if n.Due(start.Add(time.Hour), false); len(n.by) != 0 {
		t.Errorf("%d accounts are remembered of which nothing is to be said", len(n.by))
	}
}
