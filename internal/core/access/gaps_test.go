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
		{"a role that is gone", []Grant{{"tom", "gone", ""}}, ""},
		{"all is well", []Grant{{"tom", "desk", ""}}, ""},
		{"an area is left out", []Grant{{"tom", "rest", ""}, {"iris", "ack", "kilns"}}, "area:car[]"},
		{"nobody acknowledges", []Grant{{"tom", "rest", ""}}, "nobody:[acknowledge]"},
		{"one with everything", []Grant{{"iris", "all", ""}}, "everything:iris[]"},
		{"everything in a part alone", []Grant{{"iris", "all", "kilns"}, {"tom", "desk", "car"}}, ""},
		{"who may not sign in does not count", []Grant{{"tom", "rest", ""}, {"gone", "ack", ""}}, "nobody:[acknowledge]"},
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
