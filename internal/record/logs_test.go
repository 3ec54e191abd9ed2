package record

import (
	"encoding/json"
	"errors"
	"fmt"
	"sync/atomic"
	"testing"
	"time"

	"readyrail/internal/core/history"
	"readyrail/internal/core/project"
	"readyrail/internal/core/value"
	"readyrail/internal/engine"
	"readyrail/internal/store"
)

// yard is a project at work whose logs are kept.
type yard struct {
	t       *testing.T
	dir     string
	runner  *engine.Runner
	version atomic.Pointer[project.Project]
	*Records
}

// newYard has three internal tags, Dry (LREAL), Door (BOOL) and Load (STRING), and
// logs.
func newYard(t *testing.T, logs ...history.Log) *yard {
	t.Helper()
	y := &yard{t: t, dir: t.TempDir()}
	ops := []project.Op{}
	for id, doc := range map[string]string{"dry": `{"name":"Dry","type":"LREAL","source":"internal"}`,
		"door": `{"name":"Door","type":"BOOL","source":"internal"}`, "load": `{"name":"Load","type":"STRING(16)","source":"internal"}`} {
		ops = append(ops, project.Op{Kind: project.KindTag, ID: id, Value: json.RawMessage(doc)})
	}
	y.edit(project.New("Larchmoor"), append(ops, logOps(t, logs...)...)...)
	y.runner = engine.Run(engine.Compile(y.version.Load(), nil, engine.Options{}), nil, func([]engine.AlarmEvent) {}, func(any) {})
	t.Cleanup(y.runner.Close)
	y.set("dry", value.Real(value.LREAL, 20))
	y.set("door", value.Bool(false))
	y.set("load", value.Str(""))
	y.open()
	t.Cleanup(func() { y.Records.Close() })
	return y
}

func logOps(t *testing.T, logs ...history.Log) (ops []project.Op) {
	t.Helper()
	for _, l := range logs {
		if l.Keep.Days == 0 {
			l.Keep.Days = 30
		}
		doc, err := json.Marshal(l)
		if err != nil {
			t.Fatal(err)
		}
		ops = append(ops, project.Op{Kind: project.KindLog, ID: l.Name, Value: doc})
	}
	return ops
}

func (y *yard) edit(p *project.Project, ops ...project.Op) {
	y.t.Helper()
	p, _, err := p.Edit(ops)
	if err != nil {
		y.t.Fatal(err)
	}
	y.version.Store(p)
}

func (y *yard) open() {
	y.t.Helper()
	r, err := kept(y.t, y.dir, Past{}, func(o *Options) {
		o.Logs = func() (*engine.Runner, *project.Project) { return y.runner, y.version.Load() }
	})
	if err != nil {
		y.t.Fatal(err)
	}
	y.Records = r
	r.Renew()
	for id := range y.version.Load().Logs {
		y.until(id+" is at work", func() bool { return r.Logs.Log(id) != nil })
	}
}

func (y *yard) set(id string, v value.Value) {
	y.runner.Do(func(e *engine.Engine) { e.SetInternal(id, v, time.Now()) })
}

func (y *yard) dry(v float64) { y.set("dry", value.Real(value.LREAL, v)) }

// until waits for something that comes within seconds.
func (y *yard) until(what string, f func() bool) {
	y.t.Helper()
	for end := time.Now().Add(time.Minute); !f(); {
		if time.Now().After(end) {
			y.t.Fatalf("%s: not within a minute", what)
		}
		time.Sleep(20 * time.Millisecond)
	}
}

// values are what a log kept of a tag, "-" where nothing is known.
func (y *yard) values(log, tag string) (out []string) {
	y.t.Helper()
	list, err := y.Logs.Log(log).Reader().Course(ctx, tag, 0, time.Now().Add(time.Hour).UnixNano())
	if err != nil {
		y.t.Fatal(err)
	}
	for _, s := range list {
		if s.Quality.IsBad() {
			out = append(out, "-")
		} else {
			out = append(out, fmt.Sprint(s.Value))
		}
	}
	return out
}

// seen waits until a log has seen a value: two that come at once are one.
func (y *yard) seen(log string, v float64) {
	y.t.Helper()
	x := y.Logs.Log(log)
	y.until(fmt.Sprintf("%s sees %v", log, v), func() (seen bool) {
		x.turn(func() { seen = x.values[0].Float() == v })
		return seen
	})
}

func (y *yard) shows(log, want string) {
	y.t.Helper()
	got := ""
	defer func() {
		if got != want {
			y.t.Errorf("%s kept %s, not %s", log, got, want)
		}
	}()
	y.until(log+" "+want, func() bool { got = fmt.Sprint(y.values(log, "dry")); return got == want })
}

func dryAt(way history.Way) history.Log {
	return history.Log{Name: "log", Picks: []history.Pick{{Tag: "dry"}}, How: history.LogHow{Way: way}}
}

// TestALogKeepsChanges within its band, and says where it did not work.
func TestALogKeepsChanges(t *testing.T) {
	t.Parallel() // it mostly waits
	l := dryAt(history.AtChanges)
	band := 1.0
	l.How.Band = &band
	l.While.Holds = "Door == false"
	y := newYard(t, l)
	y.shows("log", "[20]")
	for _, v := range []float64{20.5, 20.9, 30} {
		y.dry(v)
		y.seen("log", v)
	}
	y.shows("log", "[20 20.9 30]")
	y.set("door", value.Bool(true))
	y.shows("log", "[20 20.9 30 -]")
	if s := y.Logs.Log("log").Status(); s.State != LogWaits || s.Why != WaitsHolds || s.Count != 4 {
		t.Errorf("%+v", s)
	}
	y.dry(50)
	y.set("door", value.Bool(false))
	y.shows("log", "[20 20.9 30 - 50]")
}

// TestALogKeepsTheClocksMarks looks at the times of an interval's values.
func TestALogKeepsTheClocksMarks(t *testing.T) {
	t.Parallel() // it mostly waits
	l := dryAt(history.AtIntervals)
	l.How.Every = 200
	y := newYard(t, l)
	y.until("ten values", func() bool { return len(y.values("log", "dry")) >= 10 })
	list, err := y.Logs.Log("log").Reader().Course(ctx, "dry", 0, time.Now().UnixNano())
	if err != nil {
		t.Fatal(err)
	}
	for i, s := range list {
		if s.At%int64(200*time.Millisecond) != 0 || i > 0 && s.At <= list[i-1].At {
			t.Errorf("%d at %s", i, time.Unix(0, s.At).Format("05.000"))
		}
	}
}

// TestALogKeepsMoments at a rising, at an alarm and by hand.
func TestALogKeepsMoments(t *testing.T) {
	t.Parallel() // it mostly waits
	l := dryAt(history.AtMoments)
	l.How.Rises, l.How.Alarm = "Dry > 40", "hot"
	y := newYard(t, l)
	y.until("values", func() bool { return y.Logs.Log("log").Status().State == LogWorks })
	for _, v := range []float64{45, 30, 41, 42} {
		y.dry(v)
		y.seen("log", v)
	}
	y.shows("log", "[45 41]")
	y.Logs.Raised("cold", time.Now())
	y.Logs.Raised("hot", time.Now())
	y.shows("log", "[45 41 42]")
	if err := y.Logs.Log("log").Take(); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(y.values("log", "dry")); got != "[45 41 42 42]" {
		t.Errorf("taken, %s are kept", got)
	}
}

// TestALogIsStoppedAndStarted by hand, and stays so over a restart.
func TestALogIsStoppedAndStarted(t *testing.T) {
	t.Parallel() // it mostly waits
	l := dryAt(history.AtChanges)
	l.While.Starts = true
	y := newYard(t, l)
	log := func() *Log { return y.Logs.Log("log") }
	if s := log().Status(); s.State != LogStopped {
		t.Fatalf("%+v", s)
	}
	if err := log().Take(); err == nil {
		t.Error("a stopped log took values")
	}
	if err := errors.Join(log().Start("Ada"), log().Start("Ada")); err == nil {
		t.Error("started twice")
	}
	y.shows("log", "[20]")
	if err := log().Stop("Tom"); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(y.values("log", "dry")); got != "[20 -]" {
		t.Errorf("stopped, %s are on disk", got)
	}
	y.dry(60)
	y.Records.Close()
	y.open()
	if s := log().Status(); s.State != LogStopped || s.Person != "Tom" || s.Count != 2 {
		t.Errorf("%+v", s)
	}
}

// TestAFullLog lets its oldest go, or ends and says so.
func TestAFullLog(t *testing.T) {
	t.Parallel() // it mostly waits
	l := dryAt(history.AtMoments)
	l.Keep.Count, l.Keep.Stops = 3, true
	y := newYard(t, l)
	log := y.Logs.Log("log")
	y.until("a value", func() bool { return log.Take() == nil && log.Status().Count == 1 })
	for range 2 {
		time.Sleep(2 * time.Millisecond)
		if err := log.Take(); err != nil {
			t.Fatal(err)
		}
	}
	if s := log.Status(); s.State != LogIsFull || s.Count != 3 || s.Free != 0 {
		t.Errorf("%+v", s)
	}
	if err := log.Take(); err == nil || log.Status().Count != 3 {
		t.Error("a full log took another")
	}
	if err := log.Start("Ada"); err == nil {
		t.Error("a full log began again")
	}
	if _, err := log.Clear(ctx); !errors.Is(err, ErrNotExported) {
		t.Errorf("cleared what is nowhere else: %v", err)
	}
	if err := log.Exported(log.Status().Last, 0); err != nil {
		t.Fatal(err)
	}
	if c, err := log.Clear(ctx); err != nil || c.Count != 3 {
		t.Fatalf("%+v %v", c, err)
	}
	if err := log.Start("Ada"); err != nil {
		t.Error(err)
	}
	y.until("the journal", func() bool { return fmt.Sprint(y.names(t)) == "[log]" })

	oldest := dryAt(history.AtIntervals)
	oldest.How.Every, oldest.Keep.Count = 100, 4
	z := newYard(t, oldest)
	z.until("ten values", func() bool { return z.Logs.Log("log").Status().Count >= 10 })
	if err := z.Logs.Log("log").bound(ctx, time.Now()); err != nil {
		t.Fatal(err)
	}
	if n := len(z.values("log", "dry")); n < 3 || n > 6 {
		t.Errorf("%d of at most 4 are kept", n)
	}
}

// TestSpansFollowALoad while it is there; not knowing it ends none, nor a restart.
func TestSpansFollowALoad(t *testing.T) {
	t.Parallel() // it mostly waits
	l := dryAt(history.AtChanges)
	l.Spans.Tag = "load"
	y := newYard(t, l)
	spans := func() (out string) {
		list, err := y.Logs.Spans(ctx, "log", "", "", 0, 10)
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range list {
			out = s.Name + map[bool]string{true: "… ", false: " "}[s.Ended == nil] + out
		}
		return out
	}
	shows := func(want string) {
		t.Helper()
		y.until(want, func() bool { return spans() == want })
	}
	y.set("load", value.Str("A"))
	shows("A… ")
	y.set("load", value.Bad(value.STRING, value.BadWaiting))
	time.Sleep(50 * time.Millisecond)
	y.Records.Close()
	y.open()
	y.set("load", value.Str("A"))
	time.Sleep(50 * time.Millisecond)
	shows("A… ")
	y.set("load", value.Str("B"))
	shows("A B… ")
	if err := y.Logs.Log("log").Mark("sampled", "Ada"); err != nil {
		t.Fatal(err)
	}
	y.set("load", value.Str(""))
	shows("A B sampled ")
}

// TestAnEngineWithoutAVersionEndsNothing: for a moment there is one.
func TestAnEngineWithoutAVersionEndsNothing(t *testing.T) {
	t.Parallel() // it mostly waits
	y := newYard(t, dryAt(history.AtChanges))
	version := y.version.Swap(nil)
	y.Renew()
	time.Sleep(50 * time.Millisecond)
	y.version.Store(version)
	y.edit(version, project.Op{Kind: project.KindLog, ID: "log"})
	y.Renew()
	y.until("the logs look again", func() bool { return y.Logs.Log("log") == nil })
}

// TestALogThatIsChangedGoesOn with what it has, and one that is gone leaves it.
func TestALogThatIsChangedGoesOn(t *testing.T) {
	t.Parallel() // it mostly waits
	first := dryAt(history.AtChanges)
	first.Spans.Holds = "Dry > 10"
	y := newYard(t, first)
	y.shows("log", "[20]")
	wider := first
	wider.Picks = []history.Pick{{Tag: "dry"}, {Tag: "door"}}
	y.edit(y.version.Load(), logOps(t, wider)...)
	y.Renew()
	y.until("the other tag", func() bool { return len(y.values("log", "door")) == 1 })
	y.shows("log", "[20]")
	y.edit(y.version.Load(), project.Op{Kind: project.KindLog, ID: "log"})
	y.Renew()
	y.until("a log that is gone ends", func() bool { return y.Logs.Log("log") == nil })
	y.until("its span ends", func() bool {
		spans, err := y.Logs.Spans(ctx, "log", "", "", 0, 10)
		return err == nil && len(spans) == 1 && spans[0].Ended != nil
	})
	left, err := y.Logs.Left(ctx)
	if err != nil || len(left) != 1 || left[0].State != store.LogOn {
		t.Fatal(left, err)
	}
	if err := y.Logs.Drop(ctx, "."); err == nil {
		t.Error("a log that there never was is dropped")
	}
	if err := y.Logs.Drop(ctx, "log"); err != nil {
		t.Fatal(err)
	}
	if left, _ := y.Logs.Left(ctx); len(left) != 0 {
		t.Error(left)
	}
}
