package access

import (
	"fmt"
	"strings"
	"testing"
)

// TestGaps: what is amiss with who has which rights, and nothing where nobody has a
// role yet.
func TestGaps(t *testing.T) {
	var every []Right
	desk := []Right{}
	for _, r := range Rights {
		every = append(every, r.Right)
		if AtTheDesk(r.Right) {
			desk = append(desk, r.Right)
		}
	}
	roles := map[string]*Role{
		"all": {ID: "all", Rights: every}, "desk": {ID: "desk", Rights: desk}, "ack": {ID: "ack", Rights: []Right{Acknowledge}},
		"rest": {ID: "rest", Rights: []Right{View, Operate, Shelve, Limits, Archive, Logs, Recipes, Approve, Deliver}},
	}
	areas := []Area{{ID: "kilns"}, {ID: "k1", Parent: "kilns"}, {ID: "car"}}
	for _, c := range []struct {
		name   string
		grants []Grant
		want   string
	}{
		{"nobody has a role yet", nil, ""},
		{"a role that is gone", []Grant{{Person: "tom", Role: "gone"}}, ""},
		{"all is well", []Grant{{Person: "tom", Role: "desk"}}, ""},
		{"an area is left out", []Grant{{Person: "tom", Role: "rest"}, {Person: "iris", Role: "ack", Area: "kilns"}}, "area:car[]"},
		{"nobody acknowledges", []Grant{{Person: "tom", Role: "rest"}}, "nobody:[acknowledge]"},
		{"one with everything", []Grant{{Person: "iris", Role: "all"}}, "everything:iris[]"},
		{"everything in a part alone", []Grant{{Person: "iris", Role: "all", Area: "kilns"}, {Person: "tom", Role: "desk", Area: "car"}}, ""},
		{"who may not sign in does not count",
			[]Grant{{Person: "tom", Role: "rest"}, {Person: "gone", Role: "ack"}}, "nobody:[acknowledge]"},
	} {
		p := &Policy{Roles: roles, Areas: areas, Grants: c.grants}
		var got []string
		for _, g := range p.Gaps([]string{"tom", "iris"}, []string{"k1", "car"}) {
			got = append(got, fmt.Sprint(g.Kind, ":", g.Area, g.Person, g.Rights))
		}
		if s := strings.Join(got, " "); s != c.want {
			t.Errorf("%s: %q, want %q", c.name, s, c.want)
		}
	}
}
