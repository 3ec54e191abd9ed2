package host_test

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/host"
	"readyrail/internal/store"
)

// limited is what iris orders, signed as the yard asks.
func limited(v *float64, reason string) host.LimitOrder {
	return host.LimitOrder{Limit: v, Given: host.Given{Answered: true, Reason: reason,
		Signatures: []host.Signature{{Name: "iris", Secret: "elm-and-yew"}}}}
}

func (s *site) limit(name string, v float64, reason string) error {
	return s.p.SetAlarmLimit(ctx, s.actors[name], "a-test", limited(&v, reason))
}

func TestALimitIsChangedAtTheDesk(t *testing.T) {
	s := newSite(t)
	s.alarmOn(`,"atDesk":true`)
	s.until("the alarm stands", func() bool { return s.state() == alarm.Unacknowledged })
	var denied *access.Denied
	if err := s.limit("tom", 75, "too near"); !errors.As(err, &denied) {
		t.Errorf("an operator changed it: %v", err)
	}
	for v, want := range map[float64]string{1e6: "never reaches", 75: "asks for a reason"} {
		reason := "too near"
		if v == 75 {
			reason = " "
		}
		if err := s.limit("iris", v, reason); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v: %v", v, err)
		}
	}
	if err := s.limit("iris", 75, "too near"); err != nil {
		t.Fatal(err)
	}
	s.until("the alarm went", func() bool { return s.state() == alarm.Returned })
	if s.p.Draft().Alarms["a-test"].Limit != "70" {
		t.Error("the draft changed with it")
	}
	list, _, err := s.p.Journal(ctx, s.actors["ada"], store.JournalFilter{Kinds: []string{store.ActionEntry}}, 10)
	if err != nil || len(list) == 0 || list[0].Text != "70 → 75" || list[0].Reason != "too near" || list[0].Person != "Iris Rowan" {
		t.Errorf("%+v %v", list, err)
	}
	// The next release asks what becomes of it.
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{}); err == nil || !strings.Contains(err.Error(), "keep, adopt or discard") {
		t.Errorf("released without an answer: %v", err)
	}
	released := func(choice host.LimitChoice) string {
		t.Helper()
		if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{Limits: map[string]host.LimitChoice{"a-test": choice}}); err != nil {
			t.Fatal(err)
		}
		return s.p.Released().Alarms["a-test"].Limit
	}
	if got := released(host.KeepLimit); got != "75" || len(s.p.ChangedLimits()) != 1 {
		t.Errorf("kept: %s, %+v", got, s.p.ChangedLimits())
	}
	if got := released(host.AdoptLimit); got != "75" || len(s.p.ChangedLimits()) != 0 || s.p.Draft().Alarms["a-test"].Limit != "75" {
		t.Errorf("adopted: %s, draft %s", got, s.p.Draft().Alarms["a-test"].Limit)
	}
	if err := s.limit("iris", 80, "once more"); err != nil {
		t.Fatal(err)
	}
	if got := released(host.DiscardLimit); got != "75" || len(s.p.ChangedLimits()) != 0 {
		t.Errorf("discarded: %s", got)
	}
	// Given back by hand, and over a restart.
	if err := s.limit("iris", 80, "again"); err != nil {
		t.Fatal(err)
	}
	s.reopen()
	if got := s.p.Released().Alarms["a-test"].Limit; got != "80" {
		t.Errorf("after a restart: %s", got)
	}
	err = s.p.SetAlarmLimit(ctx, s.actors["iris"], "a-test", limited(nil, "enough"))
	if err != nil || s.p.Released().Alarms["a-test"].Limit != "75" {
		t.Errorf("given back: %v", err)
	}
	// One that does not allow it.
	if _, err := s.p.Edit(ctx, s.actors["ada"], "no",
		[]project.Op{{Kind: project.KindAlarm, ID: "a-test", Path: "/atDesk", Value: json.RawMessage("false")}}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{}); err != nil {
		t.Fatal(err)
	}
	if err := s.limit("iris", 60, "why not"); err == nil || !strings.Contains(err.Error(), "may not be changed") {
		t.Errorf("%v", err)
	}
}
