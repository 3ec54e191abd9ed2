package server

import (
	"fmt"
	"maps"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
)

// channels are what is asked of the socket, with the rule of each.
var channels = []struct {
	need
	op, screen, program string
}{
	{need: need{everywhere: rights(access.View)}, op: "scene", screen: "s-car", program: "release"},
	{need: need{anywhere: rights(access.View)}, op: "scene", screen: "s-chamber1", program: "release"},
	{need: need{everywhere: building, anywhere: proving}, op: "scene", screen: "s-car", program: "draft"},
	{need: need{everywhere: rights(access.View, access.Engineer), anywhere: proving}, op: "tags", program: "release"},
	{need: need{everywhere: building, anywhere: proving}, op: "tags", program: "draft"},
	{need: need{everywhere: building, anywhere: rights(access.View, access.Commission, access.Override)}, op: "news"},
	{need: need{everywhere: rights(access.Operate), also: rights(access.View)}, op: "hold", screen: "s-car"},
}

// TestWhoMayHearWhat holds every channel of the socket, and holding a button, against
// every role, as TestWhoMayDoWhat does for the operations.
func TestWhoMayHearWhat(t *testing.T) {
	s := newServer(t)
	web := httptest.NewServer(s)
	t.Cleanup(web.Close)
	p, err := s.host.Project("larchmoor")
	if err != nil {
		t.Fatal(err)
	}
	singleRoles(t, p)
	element := elementNamed(p, "Hold to go forward")
	roles := maps.Clone(p.Draft().Roles)
	roles[""] = &access.Role{}
	for _, id := range slices.Sorted(maps.Keys(roles)) {
		for _, area := range []string{"", "a-kilns"} {
			who := s.with(t, triedName(id, area), id, area)
			l := dialWith(t, web, who)
			for i, c := range channels {
				l.say(fmt.Sprintf(`{"op":%q,"ch":%d,"project":"larchmoor","program":%q,"screen":%q,"element":%q,"tags":["t-001"],"key":"12345678","at":%d}`,
					c.op, i+1, c.program, c.screen, element, time.Now().UnixMilli()))
				if heard, may := l.heard(i+1), c.may(roles[id], area == ""); heard != may {
					t.Errorf("%s %s %s %s: heard %v", triedName(id, area), c.op, c.screen, c.program, heard)
				}
			}
			l.conn.CloseNow()
		}
	}
}

// heard waits for what a channel or a held button answers: false where a right is missing.
func (l *line) heard(channel int) bool {
	l.t.Helper()
	frame, about := fmt.Sprintf("[%d,", channel), fmt.Sprintf(`"ch":%d,`, channel)
	late := time.After(6 * time.Second)
	for {
		select {
		case m := <-l.in:
			switch {
			case strings.HasPrefix(m, frame):
				return true
			case strings.Contains(m, about), strings.Contains(m, `"over"`), strings.Contains(m, `"held"`):
				return !strings.Contains(m, "is missing")
			}
		case <-late:
			l.t.Fatalf("channel %d says nothing", channel)
		}
	}
}
