package host_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/project"
	"readyrail/internal/engine"
	"readyrail/internal/host"
	"readyrail/internal/record"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// alarmOn puts an alarm on the set point of a chamber, which nobody but us
// moves, and releases it.
func (s *site) alarmOn(more string) {
	s.t.Helper()
	doc := fmt.Sprintf(`{"name":"Set too high","tag":%q,"kind":"high","limit":"70","priority":"high","area":"a-k1","message":"Set to {value:0.0}"%s}`, s.id("Kiln1.DryBulbSP"), more)
	if _, err := s.p.Edit(ctx, s.actors["ada"], "alarm",
		[]project.Op{{Kind: project.KindAlarm, ID: "a-test", Value: json.RawMessage(doc)}}); err != nil {
		s.t.Fatal(err)
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{Note: "alarm"}); err != nil {
		s.t.Fatal(err)
	}
}

func (s *site) state() alarm.Standing {
	s.t.Helper()
	board, err := s.p.Alarms(ctx, s.actors["ada"], run.Release, true, "")
	if err != nil {
		s.t.Fatal(err)
	}
	for _, a := range board.Alarms {
		if a.ID == "a-test" {
			return a.State
		}
	}
	return "gone"
}

// What is tried has the alarms of the draft; acting on one of them would act on
// the plant's.
func TestAlarmsOfTheDraftAreOnlyLookedAt(t *testing.T) {
	s := newSite(t)
	for program, may := range map[run.Program]bool{run.Release: true, run.Draft: false} {
		board, err := s.p.Alarms(ctx, s.actors["ada"], program, true, "")
		if err != nil {
			t.Fatal(err)
		}
		if board.MayAck != may || board.May != may || board.Limits != may {
			t.Errorf("%s: %v %v %v, want %v", program, board.MayAck, board.May, board.Limits, may)
		}
	}
}

func (s *site) setPoint(v string) {
	s.t.Helper()
	var out host.Outcome
	var err error
	for range 3 { // a machine that stands still for a second makes a command too old, and a person does it again
		out, err = s.p.Write(ctx, s.actors["tom"], s.cmd("s-chamber1", "Dry bulb set point", v))
		if err == nil || !strings.Contains(err.Error(), "s old and was not carried out") {
			break
		}
	}
	if err != nil {
		s.t.Fatalf("%+v %v", out, err)
	}
}

func (s *site) act(name string, act alarm.Event, minutes int, reason string) (int, error) {
	done, recorded, err := s.p.ActOnAlarms(ctx, s.actors[name],
		host.AlarmAct{Alarms: []string{"a-test"}, Act: act, Minutes: minutes, Given: host.Given{Reason: reason}})
	if err == nil && !recorded {
		s.t.Error("an act is not on disk")
	}
	return done, err
}

func (s *site) journal() string {
	s.t.Helper()
	list, _, err := s.p.Journal(ctx, s.actors["ada"], store.JournalFilter{Alarm: "a-test"}, 100)
	if err != nil {
		s.t.Fatal(err)
	}
	var out []string
	for i := len(list) - 1; i >= 0; i-- {
		out = append(out, strings.TrimSpace(list[i].What+" "+list[i].Person))
	}
	return strings.Join(out, ", ")
}

func TestAnAlarmIsHandledAndKept(t *testing.T) {
	s := newSite(t)
	s.alarmOn("")
	s.setPoint("75")
	s.until("it comes", func() bool { return s.state() == alarm.Unacknowledged })
	// Who may not is refused; nobody shelves without a reason or for too long.
	var denied *access.Denied
	if _, err := s.act("sam", alarm.Ack, 0, ""); !errors.As(err, &denied) || denied.Right != access.Acknowledge {
		t.Errorf("a viewer acknowledges: %v", err)
	}
	if _, err := s.act("tom", alarm.Shelve, 30, "noise"); !errors.As(err, &denied) || denied.Right != access.Shelve {
		t.Errorf("an operator shelves: %v", err)
	}
	if _, err := s.act("iris", alarm.Shelve, 30, " "); err == nil || !strings.Contains(err.Error(), "asks for a reason") {
		t.Errorf("without a reason: %v", err)
	}
	if _, err := s.act("iris", alarm.Shelve, 10_000, "noise"); err == nil || !strings.Contains(err.Error(), "1 to 480 minutes") {
		t.Errorf("too long: %v", err)
	}
	// Two desks acknowledge: the second finds it done.
	if n, err := s.act("tom", alarm.Ack, 0, ""); n != 1 || err != nil {
		t.Errorf("%d %v", n, err)
	}
	if n, err := s.act("iris", alarm.Ack, 0, ""); n != 0 || err != nil {
		t.Errorf("the second desk: %d %v", n, err)
	}
	s.setPoint("60")
	s.until("it goes", func() bool { return s.state() == alarm.Normal })
	s.setPoint("75")
	s.until("it comes again", func() bool { return s.state() == alarm.Unacknowledged })
	if n, err := s.act("iris", alarm.Shelve, 30, "valve is repaired"); n != 1 || err != nil {
		t.Errorf("%d %v", n, err)
	}
	// A release and a restart leave it shelved.
	s.alarmOn(`,"deadband":1`)
	if got := s.state(); got != alarm.Shelved {
		t.Errorf("after a release it is %s", got)
	}
	s.h.Close()
	s.open()
	s.p, _ = s.h.Project("larchmoor")
	if got := s.state(); got != alarm.Shelved {
		t.Errorf("after a restart it is %s", got)
	}
	if n, err := s.act("iris", alarm.Unshelve, 0, ""); n != 1 || err != nil {
		t.Errorf("%d %v", n, err)
	}
	s.until("it stands again", func() bool { return s.state() == alarm.Unacknowledged })
	if got := s.journal(); got != "raised, acknowledged Tom Alder, cleared, raised, shelved Iris Rowan, unshelved Iris Rowan" {
		t.Errorf("journal: %s", got)
	}
	// Comments stay with their entry, and several may be.
	list, _, _ := s.p.Journal(ctx, s.actors["tom"], store.JournalFilter{Alarm: "a-test"}, 1)
	for _, text := range []string{"looked at it", "all right"} {
		if err := s.p.CommentEntry(ctx, s.actors["tom"], list[0].Seq, text); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := s.p.EntryComments(ctx, s.actors["tom"], list[0].Seq); err != nil || len(got) != 2 || got[1].Text != "all right" {
		t.Errorf("%+v %v", got, err)
	}
	if err := s.p.CommentEntry(ctx, s.actors["tom"], 1<<40, "x"); !errors.Is(err, host.ErrNotFound) {
		t.Errorf("a comment on nothing: %v", err)
	}
}

// What happened beside the alarms stands in the same journal.
func TestEventsStandBesideAlarms(t *testing.T) {
	s := newSite(t)
	s.setPoint("66")
	seen := map[string]bool{}
	list, _, err := s.p.Journal(ctx, s.actors["ada"], store.JournalFilter{}, 100)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range list {
		seen[e.Kind+" "+e.What] = true
	}
	for _, want := range []string{"system start", "system release", "action intent"} {
		if !seen[want] {
			t.Errorf("no %s among %v", want, seen)
		}
	}
	if list, _, err := s.p.Journal(ctx, s.actors["ada"], store.JournalFilter{Kinds: []string{store.ActionEntry}, Text: "DryBulb"},
		10); err != nil || len(list) != 1 || list[0].Person != "Tom Alder" {
		t.Errorf("by filter: %+v %v", list, err)
	}
}

// Paging goes through all entries once, from the newest to the oldest.
func TestTheJournalIsPaged(t *testing.T) {
	j, err := store.OpenJournal(t.TempDir(), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer j.Close()
	var entries []store.Entry
	for i := range 1000 {
		entries = append(entries, store.Entry{At: int64(i + 1), Kind: store.AlarmEntry, What: "raised", Alarm: fmt.Sprint(i % 7),
			Name: "50 % of it_", Priority: i % 4})
	}
	if err := j.Append(ctx, entries, nil); err != nil {
		t.Fatal(err)
	}
	count, before, last := 0, int64(0), int64(1<<60)
	for {
		page, next, err := j.List(ctx, store.JournalFilter{Before: before, Priority: []int{1, 3}}, 64)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range page {
			if e.Seq >= last || e.Priority%2 == 0 {
				t.Fatalf("%+v behind %d", e, last)
			}
			last = e.Seq
			count++
		}
		if before = next; next == 0 {
			break
		}
	}
	if count != 500 {
		t.Errorf("%d entries seen", count)
	}
	for text, want := range map[string]int{"50 %": 3, "it_": 3, "itx": 0, "5%t": 0} {
		if page, _, err := j.List(ctx, store.JournalFilter{Text: text}, 3); err != nil || len(page) != want {
			t.Errorf("%q: %d entries, %v", text, len(page), err)
		}
	}
	if err := j.Prune(ctx, 101, 500); err != nil {
		t.Fatal(err)
	}
	if page, _, _ := j.List(ctx, store.JournalFilter{}, 5000); len(page) != 500 || page[499].At != 501 {
		t.Errorf("pruned to %d", len(page))
	}
}

// What was recorded is played through other settings, and counted.
func TestWhatOtherSettingsWouldHaveDone(t *testing.T) {
	s := newSite(t)
	s.alarmOn("")
	for _, v := range []string{"71", "69", "71", "69", "75", "60"} {
		s.setPoint(v)
		s.until("the set point is "+v, func() bool { return s.p.ReadTags(run.Release, []string{s.id("Kiln1.DryBulbSP")})[0].Value.Text() == v })
		time.Sleep(2 * engine.TickEvery) // what comes and goes within a tick is not recorded
	}
	proposal := record.Proposal{Hours: 1, Cure: true, Set: map[string]json.RawMessage{"limit": json.RawMessage(`"73"`)}}
	var got *record.Played
	s.until("everything is recorded", func() bool {
		var err error
		if got, err = s.p.WhatIf(ctx, "a-test", proposal); err != nil {
			t.Fatal(err)
		}
		return got.Now.Count == 3 && got.Now.Spells[2][1] != 0 // it began above the limit
	})
	if got.Proposed.Count != 1 || got.Limit == nil || *got.Limit != 73 || got.Since == 0 {
		t.Errorf("%+v", got)
	}
	if _, err := s.p.WhatIf(ctx, "a-test", record.Proposal{Hours: 1,
		Set: map[string]json.RawMessage{"deadband": json.RawMessage(`-1`)}}); err == nil {
		t.Error("a deadband below 0 was played")
	}
	perf, err := s.p.AlarmPerformance(ctx, s.actors["tom"], time.Now().Add(-time.Hour), time.Now(), "a-kilns")
	if err != nil || perf.Alarms < 3 || perf.Frequent[0].Name != "Kiln1.DryBulbSP · Set too high" || len(perf.Chatter) != 1 {
		t.Errorf("%+v %v", perf, err)
	}
	if perf, err = s.p.AlarmPerformance(ctx, s.actors["tom"], time.Now().Add(-time.Hour), time.Now(), "a-car"); err != nil ||
		perf.Alarms != 0 {
		t.Errorf("%+v %v", perf, err)
	}
}

// The journal is closed by right: written out whole, sealed, and begun anew
// with a line that says so; how the alarms stand stays.
func TestTheJournalIsClosedAndSealed(t *testing.T) {
	s := newSite(t)
	s.alarmOn("")
	s.until("the alarm stands", func() bool { return s.state() == alarm.Unacknowledged })
	page, _, err := s.p.Journal(ctx, s.actors["ada"], store.JournalFilter{Alarm: "a-test"}, 10)
	if err != nil || len(page) != 1 {
		t.Fatalf("%v %v", page, err)
	}
	if err := s.p.CommentEntry(ctx, s.actors["tom"], page[0].Seq, "=seen"); err != nil {
		t.Fatal(err)
	}
	var denied *access.Denied
	if _, err := s.p.CloseJournal(ctx, s.actors["tom"], "year"); !errors.As(err, &denied) {
		t.Errorf("an operator closed it: %v", err)
	}
	if _, err := s.p.CloseJournal(ctx, s.actors["iris"], " "); err == nil {
		t.Error("closed without a reason")
	}
	a, err := s.p.CloseJournal(ctx, s.actors["iris"], "end of the year")
	if err != nil {
		t.Fatal(err)
	}
	_, data, err := s.p.JournalArchive(ctx, s.actors["iris"], a.ID)
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	texts := map[string]string{}
	for _, f := range z.File {
		r, _ := f.Open()
		b, _ := io.ReadAll(r)
		texts[f.Name] = string(b)
	}
	if !strings.Contains(texts["journal.csv"], "Kiln1.DryBulbSP · Set too high") || !strings.Contains(texts["comments.csv"], "'=seen") ||
		int64(strings.Count(texts["journal.csv"], "\n")) != a.Entries+1 {
		t.Errorf("%+v\n%s", a, texts)
	}
	page, _, err = s.p.Journal(ctx, s.actors["ada"], store.JournalFilter{}, 100)
	if err != nil || page[len(page)-1].What != "journal-closed" || !strings.Contains(page[len(page)-1].Text, a.Hash) ||
		page[len(page)-1].Seq <= a.Last {
		t.Errorf("the new journal begins with %+v %v", page, err)
	}
	if s.state() != alarm.Unacknowledged {
		t.Error("the alarm is gone with the journal")
	}
	trail, _, err := s.p.Trail(ctx, store.TrailFilter{}, 10)
	if err != nil || !strings.Contains(fmt.Sprint(trail), a.Hash) {
		t.Errorf("the trail does not hold the hash: %v", err)
	}
	// A file that was touched is refused.
	path := filepath.Join(s.dir, "projects", "larchmoor", "archive", a.File)
	if err := os.WriteFile(path, append(data, 'x'), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.p.JournalArchive(ctx, s.actors["iris"], a.ID); err == nil || !strings.Contains(err.Error(), "not as it was sealed") {
		t.Errorf("a touched file: %v", err)
	}
}

// A kind of event is left out, or given a priority, as the site says.
func TestTheSiteSaysWhatTheJournalKeeps(t *testing.T) {
	s := newSite(t)
	rules := `{"event":{"priority":"high"},"trouble":{"out":true}}`
	if _, err := s.p.Edit(ctx, s.actors["ada"], "rules",
		[]project.Op{{Kind: project.KindSite, ID: project.SiteID, Path: "/journal", Value: json.RawMessage(rules)}}); err != nil {
		t.Fatal(err)
	}
	for _, bad := range []string{`{"alarm":{"out":true}}`, `{"event":{"priority":"huge"}}`} {
		if _, err := s.p.Edit(ctx, s.actors["ada"], "rules",
			[]project.Op{{Kind: project.KindSite, ID: project.SiteID, Path: "/journal", Value: json.RawMessage(bad)}}); err == nil {
			t.Errorf("%s was taken", bad)
		}
	}
	if _, err := s.p.Publish(ctx, s.actors["ada"], host.ReleaseOrder{Note: "rules"}); err != nil {
		t.Fatal(err)
	}
	if err := s.p.ScreenError(ctx, s.actors["tom"], "s-yard", "it broke"); err != nil {
		t.Fatal(err)
	}
	list, _, err := s.p.Journal(ctx, s.actors["ada"], store.JournalFilter{}, 100)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range list {
		if e.Kind == store.TroubleEntry {
			t.Errorf("kept: %+v", e)
		}
	}
}
