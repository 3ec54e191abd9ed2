package door

import (
	"context"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/value"
)

// Every way in which a command can end, for each kind of sink: a sink is known
// to the door by what it answers alone.
func TestHowACommandEnds(t *testing.T) {
	for name, c := range map[string]struct {
		before  func(y *yard, c *Command)
		outcome string
		says    string // in the refusal or the reason
		wrote   int
		trail   []string
	}{
		"read back as written": {nil, audit.Confirmed, "", 1, []string{"intent", "outcome confirmed"}},
		"read back otherwise": {func(y *yard, _ *Command) { y.dev.script = []answer{{reads: "63"}} }, audit.Differs,
			"read back as 63", 1, []string{"intent", "outcome differs"}},
		"not read back": {func(y *yard, _ *Command) { y.dev.script = []answer{{reads: "bad"}} }, audit.Unknown,
			"could not be read back", 1, []string{"intent", "outcome unknown"}},
		"the device refuses": {func(y *yard, _ *Command) { y.dev.script = []answer{{err: errRefuses}} }, audit.Rejected,
			"illegal address", 1, []string{"intent", "outcome refused"}},
		"nothing was sent": {func(y *yard, _ *Command) { y.dev.script = []answer{{err: errDown}} }, audit.Rejected,
			"no connection", 1, []string{"intent", "outcome refused"}},
		"no answer": {func(y *yard, _ *Command) { y.dev.script = []answer{{err: errSilence}} }, audit.Unknown,
			"no answer came", 1, []string{"intent", "outcome unknown"}},
		"it is gone": {func(y *yard, _ *Command) { y.dev.script = []answer{{err: ErrGone}} }, audit.Rejected,
			"no longer there", 1, []string{"intent", "outcome refused"}},
		"without the right":     {func(y *yard, _ *Command) { y.guard.right = errWet }, "", "rail is wet", 0, []string{"refused refused"}},
		"while it is locked":    {func(y *yard, _ *Command) { y.guard.interlock = errWet }, "", "rail is wet", 0, []string{"refused refused"}},
		"after another release": {func(y *yard, _ *Command) { y.guard.current = errWet }, "", "rail is wet", 0, []string{"refused refused"}},
		"outside the limits":    {func(y *yard, c *Command) { *c = y.set(tom, "sp", 101) }, "", "outside", 0, []string{"refused refused"}},
		"an old command": {func(y *yard, c *Command) { time.Sleep(MaxAge + time.Millisecond) }, "", "1.0 s old", 0,
			[]string{"refused refused"}},
		"a clock of its own": {func(y *yard, c *Command) { c.At = c.At.Add(1795850427 * time.Second) }, "",
			"clock and the server's differ", 0, []string{"refused refused"}},
		"without a key": {func(y *yard, c *Command) { c.Key = "" }, "", "key of its own", 0, []string{"refused refused"}},
		"a signature missing": {func(y *yard, c *Command) { c.Ask = unsigned }, "",
			"rail is wet", 0, []string{"refused refused"}},
		"the disk fails": {func(y *yard, c *Command) { y.disk.fails = errWet }, "", "cannot be recorded", 0, nil},
	} {
		t.Run(name, func(t *testing.T) {
			bubble(t, func(y *yard) {
				cmd := y.set(tom, "sp", 62)
				if c.before != nil {
					c.before(y, &cmd)
				}
				out, err := y.door.Do(ctx, cmd)
				says := out.Reason.String()
				if err != nil {
					says = err.Error()
				}
				if out.Outcome != c.outcome || !strings.Contains(says, c.says) || (err != nil) != (c.outcome == "") {
					t.Errorf("%+v %v", out, err)
				}
				if len(y.dev.written) != c.wrote {
					t.Errorf("written: %v", y.dev.written)
				}
				y.trail(c.trail...)
			})
		})
	}
}

// What changes while the disk is slow, between the intent and the value, stops
// the value.
func TestNothingIsCarriedOutLate(t *testing.T) {
	for name, c := range map[string]struct {
		meanwhile func(g *guard)
		slow      time.Duration
		says      string
	}{
		"the command grows old": {func(*guard) {}, 1200 * time.Millisecond, "1.2 s old"},
		"the right goes":        {func(g *guard) { g.right = errWet }, 300 * time.Millisecond, "rail is wet"},
		"the interlock comes":   {func(g *guard) { g.interlock = errWet }, 300 * time.Millisecond, "rail is wet"},
		"a release comes":       {func(g *guard) { g.current = errWet }, 300 * time.Millisecond, "rail is wet"},
	} {
		t.Run(name, func(t *testing.T) {
			bubble(t, func(y *yard) {
				y.disk.takes = c.slow
				time.AfterFunc(100*time.Millisecond, func() {
					y.guard.mu.Lock()
					defer y.guard.mu.Unlock()
					c.meanwhile(y.guard)
				})
				if _, err := y.door.Do(ctx, y.set(tom, "sp", 62)); err == nil || !strings.Contains(err.Error(), c.says) {
					t.Errorf("%v", err)
				}
				y.wrote()
				y.trail("intent", "outcome refused")
			})
		})
	}
}

func TestAKeyIsTakenOnce(t *testing.T) {
	bubble(t, func(y *yard) {
		c := y.set(tom, "sp", 62)
		again := make(chan error)
		go func() { _, err := y.door.Do(ctx, c); again <- err }()
		synctest.Wait()
		if _, err := y.door.Do(ctx, c); err == nil || !strings.Contains(err.Error(), "taken already") {
			t.Errorf("at once: %v", err)
		}
		if err := <-again; err != nil {
			t.Error(err)
		}
		if _, err := y.door.Do(ctx, c); err == nil || !strings.Contains(err.Error(), "taken already") {
			t.Errorf("later: %v", err)
		}
		y.wrote("+5 sp=62")
	})
}

// What a button asks is asked once and stands for its steps, which go in their
// order and end with the first that does not go well.
func TestStepsAreTheDoorsOwn(t *testing.T) {
	bubble(t, func(y *yard) {
		step := func(name string, n float64) Step { return y.set(tom, name, n).Steps[0] }
		never, broken := step("b", 2), step("d", 4)
		never.When = func() (bool, error) { return false, nil }
		broken.When = func() (bool, error) { return false, errWet }
		c := y.command(tom, step("a", 1), never, step("c", 3), broken, step("e", 5))
		asked := 0
		c.Ask = func(context.Context) (audit.Witness, error) { asked++; return audit.Witness{Sign: "Iris Rowan"}, nil }
		c.Reason = "trial run"
		out, err := y.door.Do(ctx, c)
		if err == nil || out.Steps != 3 || asked != 1 {
			t.Errorf("%+v %v, asked %d times", out, err, asked)
		}
		y.wrote("+5 a=1", "+10 c=3")
		y.trail("intent", "outcome confirmed", "intent", "outcome confirmed", "refused refused")
		if r := y.disk.records[2]; r.Reason != "trial run" || r.Sign != "Iris Rowan" || r.Key != c.Key+"/2" {
			t.Errorf("%+v", r)
		}
	})
}

func TestAStepCountsFromWhatIsThere(t *testing.T) {
	bubble(t, func(y *yard) {
		s := Step{Target: y.target("sp", value.LREAL), Value: func(now value.Value) (value.Value, error) {
			return value.Real(value.LREAL, now.Float()+5), nil
		}}
		for range 2 {
			if _, err := y.door.Do(ctx, y.command(tom, s)); err != nil {
				t.Fatal(err)
			}
		}
		y.wrote("+5 sp=15", "+10 sp=20")
	})
}

func TestAnEventIsRecordedAndWritesNothing(t *testing.T) {
	bubble(t, func(y *yard) {
		s := Step{Target: y.target("sp", value.LREAL), Event: func(context.Context) (string, error) { return "rail greased", nil }}
		if out, err := y.door.Do(ctx, y.command(tom, s)); err != nil || out.New != "rail greased" {
			t.Errorf("%+v %v", out, err)
		}
		y.wrote()
		y.trail("event confirmed")
	})
}

func TestARequestWaitsForItsAnswer(t *testing.T) {
	bubble(t, func(y *yard) {
		s := y.set(tom, "sp", 62).Steps[0]
		s.Answer = func(context.Context) error { time.Sleep(5 * time.Second); return errWet }
		done := make(chan Outcome)
		c := y.command(tom, s)
		go func() { out, _ := y.door.Do(ctx, c); done <- out }()
		time.Sleep(time.Second)
		if _, err := y.door.Do(ctx, y.set(iris, "sp", 70)); err == nil || !strings.Contains(err.Error(), "not yet answered") {
			t.Errorf("%v", err)
		}
		if out := <-done; out.Outcome != audit.Unanswered || out.Reason.String() != errWet.Error() {
			t.Errorf("%+v", out)
		}
		if out, err := y.door.Do(ctx, y.set(iris, "sp", 70)); err != nil || out.Outcome != audit.Confirmed {
			t.Errorf("after it: %+v %v", out, err)
		}
	})
}

func TestOfThreeWritesToATagTheSecondIsSuperseded(t *testing.T) {
	bubble(t, func(y *yard) {
		y.dev.script = []answer{{takes: 100 * time.Millisecond}}
		type end struct {
			n   float64
			err error
		}
		ends := make(chan end, 3)
		for _, n := range []float64{1, 2, 3} {
			c := y.set(tom, "sp", n)
			go func() { _, err := y.door.Do(ctx, c); ends <- end{n, err} }()
			synctest.Wait()
		}
		// Another tag does not wait.
		time.Sleep(20 * time.Millisecond)
		if _, err := y.door.Do(ctx, y.set(tom, "other", 9)); err != nil {
			t.Error(err)
		}
		for range 3 {
			if e := <-ends; (e.n == 2) != (e.err != nil) {
				t.Errorf("%v: %v", e.n, e.err)
			}
		}
		y.wrote("+100 sp=1", "+120 other=9", "+200 sp=3")
		y.trail("intent", "refused superseded", "intent", "outcome confirmed", "intent", "outcome confirmed", "outcome confirmed")
	})
}

func TestAWaitThatIsGivenUpLeavesTheTurnWhole(t *testing.T) {
	bubble(t, func(y *yard) {
		q := &turns{}
		first, _ := q.wait(ctx, "t1")
		c, cancel := context.WithCancel(ctx)
		gone := make(chan error)
		go func() { _, err := q.wait(c, "t1"); gone <- err }()
		synctest.Wait()
		cancel()
		if err := <-gone; err != context.Canceled {
			t.Error(err)
		}
		first()
		if over, err := q.wait(ctx, "t1"); err != nil {
			t.Error(err)
		} else {
			over()
		}
		if len(q.tags) != 0 {
			t.Errorf("%d tags are still kept", len(q.tags))
		}
	})
}

// A stop goes through while the disk fails, and is recorded when it works again.
func TestAStopGoesThroughWhileTheDiskFails(t *testing.T) {
	bubble(t, func(y *yard) {
		y.disk.fails = errWet
		c := y.set(tom, "stop", 1)
		c.Steps[0].Stop = true
		out, err := y.door.Do(ctx, c)
		if err != nil || out.Outcome != audit.Confirmed {
			t.Fatalf("%+v %v", out, err)
		}
		y.wrote("+5 stop=1")
		if y.door.Owed() != 1 {
			t.Errorf("%d owed", y.door.Owed())
		}
		if _, err := y.door.Do(ctx, y.set(tom, "sp", 50)); err == nil {
			t.Error("what is no stop went through unrecorded")
		}
		y.disk.fails = nil
		if left := y.door.Settle(ctx); left != 0 {
			t.Errorf("%d left", left)
		}
		y.trail("intent", "outcome confirmed")
		if y.disk.records[1].Intent != y.disk.records[0].Seq {
			t.Error("the outcome does not name its intent")
		}
	})
}

func TestATrialLeavesNothing(t *testing.T) {
	bubble(t, func(y *yard) {
		c := y.set(tom, "sp", 62)
		c.Steps[0].Trial = true
		if out, err := y.door.Do(ctx, c); err != nil || out.Outcome != audit.Confirmed {
			t.Errorf("%+v %v", out, err)
		}
		c = y.set(tom, "sp", 200)
		c.Steps[0].Trial = true
		if _, err := y.door.Do(ctx, c); err == nil {
			t.Error("limits hold in a trial too")
		}
		s := y.jog("jog")
		s.Trial = true
		h, begun := y.hold(tom, s)
		if err := <-begun; err != nil {
			t.Fatal(err)
		}
		y.left(0)
		<-h.Over()
		time.Sleep(50 * time.Millisecond)
		y.wrote("+5 sp=62", "+10 jog=true!", "+510 jog=false!")
		y.trail()
	})
}

// TestATrialIsInNobodysWay: what is held in a trial is free at the plant, and the
// other way round; the two have no turns of one another.
func TestATrialIsInNobodysWay(t *testing.T) {
	bubble(t, func(y *yard) {
		s := y.jog("jog")
		s.Trial = true
		trial, begun := y.hold(iris, s)
		if err := <-begun; err != nil {
			t.Fatal(err)
		}
		plant, begun := y.hold(tom, y.jog("jog"))
		if err := <-begun; err != nil {
			t.Fatal(err)
		}
		if err := y.door.takePlace(lane("Kiln1", true)); err != nil {
			t.Error(err)
		}
		if err := y.door.takePlace(lane("Kiln1", false)); err != nil {
			t.Error(err)
		}
		_, begun = y.hold(iris, y.jog("jog"))
		if err := <-begun; err == nil {
			t.Error("two at the plant hold one tag")
		}
		<-trial.Over()
		<-plant.Over()
		time.Sleep(50 * time.Millisecond)
		y.left(0)
	})
}

func TestAHeartbeatLeavesNoRecord(t *testing.T) {
	bubble(t, func(y *yard) {
		y.disk.takes = time.Hour
		if err := y.door.Beat(ctx, sink{y.dev, "beat"}, value.Bool(true), value.Bool(true)); err != nil {
			t.Error(err)
		}
		y.wrote("+5 beat=true")
		y.trail()
	})
}

func unsigned(context.Context) (audit.Witness, error) { return audit.Witness{}, errWet }
