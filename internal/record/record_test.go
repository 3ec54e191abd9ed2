package record

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

var ctx = context.Background()

// kept opens records in a folder, of a project whose site has some rules.
func kept(t *testing.T, dir string, past Past, change func(*Options)) (*Records, error) {
	t.Helper()
	o := Options{Log: slog.New(slog.NewTextHandler(io.Discard, nil)), AuditKeys: audit.Ring{[]byte("a key of the yard")}, Changed: func() {},
		Rules:   func() map[string]project.JournalRule { return nil },
		Source:  func() Source { return Source{} },
		Bounded: func(_ string, f func()) { f() }}
	if change != nil {
		change(&o)
	}
	return Open(dir, past, o)
}

func opened(t *testing.T, dir string, past Past, change func(*Options)) *Records {
	t.Helper()
	r, err := kept(t, dir, past, change)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(r.Close)
	return r
}

// now is a time that is not too old to be kept.
func now() int64 { return time.Now().UnixNano() }

// names are those of a page of the journal, the oldest first.
func (r *Records) names(t *testing.T) []string {
	t.Helper()
	list, _, err := r.Journal.List(ctx, store.JournalFilter{}, 1000)
	if err != nil {
		t.Fatal(err)
	}
	out := make([]string, len(list))
	for i, e := range list {
		out[len(list)-1-i] = e.Name
	}
	return out
}

func TestTheSitesRulesSayWhatTheJournalKeeps(t *testing.T) {
	r := opened(t, t.TempDir(), Past{}, func(o *Options) {
		o.Rules = func() map[string]project.JournalRule {
			return map[string]project.JournalRule{store.LinkEntry: {Out: true}, store.TroubleEntry: {Priority: "high"},
				"log-full": {Out: true}, "disk-low": {Priority: "critical"}, "clock-stepped": {}}
		}
	})
	for _, kind := range []string{store.SystemEntry, store.LinkEntry, store.TroubleEntry} {
		r.Journal.Event(store.Entry{At: now(), Kind: kind, Name: kind, Priority: 3})
	}
	list, _, err := r.Journal.List(ctx, store.JournalFilter{}, 10)
	if err != nil || len(list) != 2 {
		t.Fatalf("%d entries, %v", len(list), err)
	}
	if list[1].Kind != store.SystemEntry || list[1].Priority != -1 || list[0].Kind != store.TroubleEntry || list[0].Priority != 1 {
		t.Errorf("%+v", list)
	}
	// A failure's own rule goes before that of its kind, also one that asks for nothing.
	for _, what := range []string{"log-full", "disk-low", "clock-stepped", "failed"} {
		r.Journal.Event(store.Entry{At: now(), Kind: store.TroubleEntry, What: what})
	}
	list, _, err = r.Journal.List(ctx, store.JournalFilter{}, 10)
	if err != nil || len(list) != 5 {
		t.Fatalf("%d entries, %v", len(list), err)
	}
	for i, want := range map[int]struct {
		what string
		rank int
	}{0: {"failed", 1}, 1: {"clock-stepped", -1}, 2: {"disk-low", 0}} {
		if list[i].What != want.what || list[i].Priority != want.rank {
			t.Errorf("%+v", list[i])
		}
	}
}

func TestWhatPeopleDidStandsInTheJournalToo(t *testing.T) {
	r := opened(t, t.TempDir(), Past{}, nil)
	for _, rec := range []audit.Record{
		{What: audit.Intent, Path: "Kiln1.DryBulbSP", Old: "62", New: "65", Name: "Tom Alder", Panel: "Kiln room"},
		{What: audit.Outcome, Path: "Kiln1.DryBulbSP"}, // how it ended is the trail's alone
		{What: audit.Event, Element: "Log call", New: "burner serviced"},
	} {
		if _, err := r.Trail.Append(ctx, rec); err != nil {
			t.Fatal(err)
		}
	}
	list, _, err := r.Journal.List(ctx, store.JournalFilter{}, 10)
	if err != nil || len(list) != 2 {
		t.Fatalf("%d entries, %v", len(list), err)
	}
	if e := list[1]; e.Name != "Kiln1.DryBulbSP" || e.Text != "62 → 65" || e.Person != "Tom Alder" || e.Panel != "Kiln room" {
		t.Errorf("%+v", e)
	}
	if e := list[0]; e.Name != "Log call" || e.Text != "burner serviced" {
		t.Errorf("%+v", e)
	}
}

// failing lets a database refuse every new row until it is asked to stop.
func failing(t *testing.T, file, table string) (stop func()) {
	t.Helper()
	db, err := sqlx.Open("sqlite", file)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	db.MustExec("PRAGMA busy_timeout = 5000")
	db.MustExec("CREATE TRIGGER broken BEFORE INSERT ON " + table + " BEGIN SELECT RAISE(FAIL, 'the disk is full'); END")
	return func() { db.MustExec("DROP TRIGGER broken") }
}

func TestWhatTheDiskDoesNotTakeWaits(t *testing.T) {
	dir := t.TempDir()
	var told atomic.Int64
	r := opened(t, dir, Past{}, func(o *Options) { o.Changed = func() { told.Add(1) } })
	stop := failing(t, filepath.Join(dir, "journal.db"), "entry")
	for i := range 3 {
		r.Journal.Add([]store.Entry{{At: now(), Kind: store.EventEntry, Name: fmt.Sprint(i)}},
			map[string]json.RawMessage{"a": json.RawMessage(fmt.Sprint(i))})
	}
	if err := r.Journal.Flush(true); err == nil {
		t.Fatal("a journal that cannot be written says nothing")
	}
	if n := r.Journal.Failing(); n != 3 {
		t.Errorf("%d wait, not 3", n)
	}
	before := told.Load()
	stop()
	if err := r.Journal.Flush(true); err != nil {
		t.Fatal(err)
	}
	if got := r.names(t); !slices.Equal(got, []string{"0", "1", "2"}) {
		t.Errorf("in the end it has %v", got)
	}
	if r.Journal.Failing() != 0 || told.Load() == before {
		t.Error("nobody is told that it is written again")
	}
}

func TestMoreThanMemoryMayHoldIsSaid(t *testing.T) {
	dir := t.TempDir()
	r := opened(t, dir, Past{}, nil)
	stop := failing(t, filepath.Join(dir, "journal.db"), "entry")
	const over = 7
	list := make([]store.Entry, mostQueued+over)
	for i := range list {
		list[i] = store.Entry{At: now() + int64(i), Kind: store.EventEntry, Name: fmt.Sprint(i)}
	}
	r.Journal.Add(list, nil)
	if r.Journal.Flush(false) == nil {
		t.Fatal("a journal that cannot be written says nothing")
	}
	if n := r.Journal.Failing(); n != mostQueued+over {
		t.Errorf("%d are missing, not %d", n, mostQueued+over)
	}
	stop()
	if err := r.Journal.Flush(false); err != nil {
		t.Fatal(err)
	}
	// It lies before all the others: a page looks through so many entries only.
	f := store.JournalFilter{Kinds: []string{store.TroubleEntry}}
	lost, next, err := r.Journal.List(ctx, f, 10)
	for err == nil && len(lost) == 0 && next > 0 {
		f.Before = next
		lost, next, err = r.Journal.List(ctx, f, 10)
	}
	if err != nil || len(lost) != 1 || !strings.HasPrefix(lost[0].Text, fmt.Sprint(over, " ")) {
		t.Errorf("of %d that are lost it says %+v, %v", over, lost, err)
	}
	newest, _, err := r.Journal.List(ctx, store.JournalFilter{Kinds: []string{store.EventEntry}}, 1)
	if err != nil || len(newest) != 1 || newest[0].Name != fmt.Sprint(mostQueued+over-1) {
		t.Errorf("the newest is %+v, %v", newest, err)
	}
}

func TestAPastComesBeforeWhatIsKept(t *testing.T) {
	dir := t.TempDir()
	past := Past{Entries: []store.Entry{{At: now(), Kind: store.EventEntry, Name: "before"}}}
	r, err := kept(t, dir, past, nil)
	if err != nil {
		t.Fatal(err)
	}
	r.Journal.Event(store.Entry{At: now(), Kind: store.EventEntry, Name: "after"})
	r.Close() // what waits is written
	again := opened(t, dir, Past{}, nil)
	if got := again.names(t); !slices.Equal(got, []string{"before", "after"}) {
		t.Errorf("%v", got)
	}
}

func TestRecordsThatCannotBeOpenedLeaveNothingAtWork(t *testing.T) {
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "journal.db"), []byte(strings.Repeat("no database at all ", 1000)), 0o600); err != nil {
		t.Fatal(err)
	}
	if r, err := kept(t, dir, Past{}, nil); err == nil || r != nil {
		t.Fatal("a journal that is none was opened")
	}
	// The trail was open by then: it is closed, and can be opened again.
	if err := os.Remove(filepath.Join(dir, "journal.db")); err != nil {
		t.Fatal(err)
	}
	opened(t, dir, Past{}, nil)
}

// TestTheRecorderKeepsWhatMoves runs an engine with one signal: moves within its
// band are not kept, one beyond it is.
func TestTheRecorderKeepsWhatMoves(t *testing.T) {
	p, _, err := project.New("Larchmoor").Edit([]project.Op{{Kind: project.KindTag, ID: "dry",
		Value: json.RawMessage(`{"name":"DryBulb","type":"LREAL","source":"internal"}`)}})
	if err != nil {
		t.Fatal(err)
	}
	program := engine.Compile(p, nil, engine.Options{})
	runner := engine.Run(program, nil, func([]engine.AlarmEvent) {}, func(any) {})
	defer runner.Close()
	set := func(v value.Value) {
		runner.Do(func(e *engine.Engine) { e.SetInternal("dry", v, time.Now()) })
		time.Sleep(20 * time.Millisecond) // the recorder looks when it is woken
	}
	set(value.Real(value.LREAL, 60))
	r := opened(t, t.TempDir(), Past{}, func(o *Options) {
		o.Source = func() Source { return Source{Runner: runner, Bands: map[string]float64{"dry": 1}} }
	})
	for i := range 30 {
		set(value.Real(value.LREAL, 60+float64(i%3)/10))
	}
	set(value.Real(value.LREAL, 70))
	var got []float64
	for range 100 { // written once a second
		list, err := r.Recorder.Course(ctx, "dry", 0, time.Now().UnixNano())
		if err != nil {
			t.Fatal(err)
		}
		got = got[:0]
		for _, s := range list {
			got = append(got, s.Value)
		}
		if len(got) > 0 && got[len(got)-1] == 70 {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	// The first, perhaps the one before the move, and the move.
	if len(got) < 2 || len(got) > 3 || got[0] > 61 || got[len(got)-1] != 70 {
		t.Errorf("of 30 moves within the band and one beyond it kept %v", got)
	}
}

// TestTheRecorderIsBounded keeps nine days of which three fit: older ones go, the
// last two stay whatever they are.
func TestTheRecorderIsBounded(t *testing.T) {
	t.Parallel()
	end := time.Now().Truncate(time.Hour)
	var past []store.TagValue
	for at := end.AddDate(0, 0, -9); at.Before(end); at = at.Add(time.Second) {
		past = append(past, store.TagValue{Tag: "dry", Value: value.Real(value.LREAL, math.Sin(float64(at.Unix()))).At(at)})
	}
	r := opened(t, t.TempDir(), Past{Samples: past}, nil).Recorder
	if err := r.store.Settle(ctx, time.Now()); err != nil {
		t.Fatal(err)
	}
	days := func() float64 {
		first, _, err := r.Extent(ctx, "dry")
		if err != nil {
			t.Fatal(err)
		}
		return end.Sub(time.Unix(0, first)).Hours() / 24
	}
	whole, err := r.store.Size(ctx)
	if err != nil || days() < 8.9 {
		t.Fatal(days(), err)
	}
	source := Source{Days: map[string]int{"dry": 40}, Keep: project.RecorderBounds{Days: 5}}
	bound := func() {
		t.Helper()
		if err := r.bound(ctx, source, time.Now()); err != nil {
			t.Fatal(err)
		}
	}
	bound()
	if days() < 8.9 {
		t.Errorf("of a tag that is kept for 40 days %.1f are left", days())
	}
	source.Keep.MB = max(1, int(whole/1e6/2))
	bound()
	if got := days(); got > 5.5 || got < 1.5 {
		t.Errorf("%.1f days are left of %d bytes in %d MB", got, whole, source.Keep.MB)
	}
	source.Keep.MB = 1
	bound()
	if got := days(); got < 1.5 || got > 3.1 {
		t.Errorf("%.1f days are left where nothing fits", got)
	}
}
