package server

import (
	"strings"
	"testing"
)

// TestTheNoticeAtSigningIn: what the site says is told to who is not signed in.
func TestTheNoticeAtSigningIn(t *testing.T) {
	s := newServer(t)
	ask := func() string { return (&client{t: t, s: s}).do("GET", "/api/session", "").Body.String() }
	if strings.Contains(ask(), `"notice"`) {
		t.Error("a notice that nobody wrote is told")
	}
	s.options.Notice = "Only people of the yard."
	if !strings.Contains(ask(), `"notice":"Only people of the yard."`) {
		t.Error(ask())
	}
}
