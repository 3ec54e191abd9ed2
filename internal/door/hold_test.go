package door

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/value"
)

// Every end of a hold. Each happens 300 ms after the press, which is renewed
// throughout; the release value must be on its way at once where it is told,
// and within the 50 ms of a look where it has to be noticed.
func TestHowAHoldEnds(t *testing.T) {
	on := func(f func(g *guard)) func(y *yard, h *Hold) {
		return func(y *yard, _ *Hold) {
			y.guard.mu.Lock()
			defer y.guard.mu.Unlock()
			f(y.guard)
		}
	}
	for name, c := range map[string]struct {
		happens func(y *yard, h *Hold)
		within  time.Duration
		says    string
	}{
		"let go":         {func(y *yard, h *Hold) { y.door.LetGo(tom, h.key, errors.New("let go")) }, 0, "let go"},
		"the page blurs": {func(y *yard, h *Hold) { y.door.LetGo(tom, h.key, errors.New("the page lost its focus")) }, 0, "lost its focus"},
		"sign-out, a switched-off account or a changed password": {func(y *yard, _ *Hold) {
			y.door.EndWhere(func(w Who) bool { return w.ID == "tom" }, errors.New("signed out"))
		}, 0, "signed out"},
		"a lost right":                         {on(func(g *guard) { g.right = errWet }), 50 * time.Millisecond, "rail is wet"},
		"an interlock":                         {on(func(g *guard) { g.interlock = errWet }), 50 * time.Millisecond, "rail is wet"},
		"a release that changes what it holds": {on(func(g *guard) { g.current = errWet }), 50 * time.Millisecond, "rail is wet"},
		"bad quality":                          {on(func(g *guard) { g.bad = true }), 50 * time.Millisecond, "jog is bad"},
		"shutdown":                             {func(y *yard, _ *Hold) { y.ended = true; y.door.Close(ctx) }, 0, "server is ending"},
		"its release value is set": {func(y *yard, _ *Hold) { y.door.Do(ctx, y.off("jog")) }, 10 * time.Millisecond,
			"release value was written"},
	} {
		t.Run(name, func(t *testing.T) {
			bubble(t, func(y *yard) {
				h, begun := y.hold(tom, y.jog("jog"))
				if err := <-begun; err != nil {
					t.Fatal(err)
				}
				go y.renew(h, 2*time.Second)
				y.left(1)
				time.Sleep(295 * time.Millisecond)
				at := time.Now()
				c.happens(y, h)
				<-h.Over()
				if late := time.Since(at); late > c.within+5*time.Millisecond {
					t.Errorf("noticed after %v", late)
				}
				time.Sleep(time.Second)
				if !strings.Contains(fmt.Sprint(h.Why()), c.says) {
					t.Errorf("%v", h.Why())
				}
				if y.on("jog") {
					t.Error("it is still on")
				}
				y.left(0)
				y.disk.mu.Lock()
				defer y.disk.mu.Unlock()
				last := y.disk.records[2]
				if last.What != audit.Lease {
					last = y.disk.records[3] // an intent came between
				}
				if last.What != audit.Lease || last.Outcome != audit.Confirmed || !strings.Contains(last.Reason, c.says) {
					t.Errorf("%+v", last)
				}
				if err := y.door.Renew(tom, h.key); err == nil {
					t.Error("it revived")
				}
			})
		})
	}
}

// off is a command that sets a BOOL to false, once.
func (y *yard) off(name string) Command {
	return y.command(iris, Step{Target: y.target(name, value.BOOL),
		Value: func(value.Value) (value.Value, error) { return value.Bool(false), nil }})
}

func TestAPressThatIsNotRenewedEnds(t *testing.T) {
	bubble(t, func(y *yard) {
		h, begun := y.hold(tom, y.jog("jog"))
		<-begun
		time.Sleep(195 * time.Millisecond)
		if err := y.door.Renew(iris, h.key); err == nil {
			t.Error("somebody else renewed it")
		}
		if err := y.door.Renew(tom, h.key); err != nil {
			t.Error(err)
		}
		time.Sleep(time.Second)
		// Renewed at 200, so silent at 700.
		y.wrote("+5 jog=true!", "+705 jog=false!")
	})
}

// A press that ends before its value is sent writes nothing at all.
func TestAPressThatEndsBeforeItBegins(t *testing.T) {
	for name, c := range map[string]struct {
		slow time.Duration
		end  func(y *yard, h *Hold)
		says string
	}{
		"let go while the intent is kept": {100 * time.Millisecond, func(y *yard, h *Hold) { y.door.LetGo(tom, h.key, errors.New("let go")) },
			"let go"},
		"not renewed while the disk is slow": {700 * time.Millisecond, func(*yard, *Hold) {}, "not heard"},
		"renewed, but the disk is far too slow": {14600 * time.Millisecond, func(y *yard, h *Hold) { go y.renew(h, 20*time.Second) },
			"14.6 s old"},
		"the server ends": {100 * time.Millisecond,
			func(y *yard, h *Hold) {
				h.door.EndWhere(func(Who) bool { return true }, errors.New("the server is ending"))
			}, "server is ending"},
	} {
		t.Run(name, func(t *testing.T) {
			bubble(t, func(y *yard) {
				y.disk.takes = c.slow
				h, begun := y.hold(tom, y.jog("jog"))
				time.Sleep(50 * time.Millisecond)
				c.end(y, h)
				if err := <-begun; err == nil || !strings.Contains(err.Error(), c.says) {
					t.Errorf("%v", err)
				}
				y.wrote()
				y.left(0)
				y.trail("intent", "outcome refused")
			})
		})
	}
}

// How the first write of a hold may end.
func TestAHoldWhoseWriteGoesWrong(t *testing.T) {
	for name, c := range map[string]struct {
		script []answer
		fails  bool
		wrote  []string
		trail  []string
	}{
		"refused": {[]answer{{err: errRefuses}}, true, []string{"+0 jog=true! the device refused: illegal address"},
			[]string{"intent", "outcome refused"}},
		"not sent": {[]answer{{err: errDown}}, true, []string{"+0 jog=true! not sent: no connection"}, []string{"intent", "outcome refused"}},
		"no answer": {[]answer{{err: errSilence}, {}}, false, []string{"+0 jog=true! time-out", "+0 jog=false!"},
			[]string{"intent", "outcome unknown", "lease confirmed"}},
		"the release value is lost twice": {[]answer{{}, {err: errDown}, {err: errSilence}, {reads: "true"}, {}}, false,
			[]string{"+0 jog=true!", "+500 jog=false! not sent: no connection", "+520 jog=false! time-out", "+770 jog=false!", "+1020 jog=false!"},
			[]string{"intent", "outcome confirmed", "lease confirmed"}},
	} {
		t.Run(name, func(t *testing.T) {
			bubble(t, func(y *yard) {
				y.dev.script = c.script
				_, begun := y.hold(tom, y.jog("jog"))
				if err := <-begun; (err != nil) != c.fails {
					t.Errorf("%v", err)
				}
				time.Sleep(2 * time.Second)
				y.wrote(c.wrote...)
				y.trail(c.trail...)
				y.left(0)
				if y.dev.kept != 0 {
					t.Error("the way is still kept open")
				}
			})
		})
	}
}

func TestTwoPressesShareNothing(t *testing.T) {
	bubble(t, func(y *yard) {
		// The first one's device answers only after the second press began.
		y.dev.script = []answer{{takes: 200 * time.Millisecond}, {}}
		first, begun := y.hold(tom, y.jog("jog"))
		time.Sleep(20 * time.Millisecond)
		y.door.LetGo(tom, first.key, errors.New("let go"))
		_, somebody := y.hold(iris, y.jog("jog"))
		if err := <-somebody; err == nil || !strings.Contains(err.Error(), "holds it") {
			t.Errorf("somebody else while it is still being let go: %v", err)
		}
		// The same hand waits until it is let go, and no longer than its press lives.
		second, waited := y.hold(tom, y.jog("jog"))
		go y.renew(second, 300*time.Millisecond)
		<-begun
		if err := <-waited; err != nil {
			t.Errorf("the same hand again: %v", err)
		}
		y.wrote("+200 jog=true!", "+200 jog=false!", "+200 jog=true!")
		if err := y.door.Renew(tom, first.key); err == nil {
			t.Error("the first one's late answer revived it")
		}
		y.door.LetGo(tom, second.key, errors.New("let go"))
		time.Sleep(100 * time.Millisecond)
		third, begun := y.hold(tom, y.jog("jog"))
		if err := <-begun; err != nil {
			t.Errorf("once it is let go: %v", err)
		}
		y.door.LetGo(tom, first.key, errors.New("late"))
		if third.Why() != nil {
			t.Error("the end of another press ended this one")
		}
	})
}

// A press whose device has not confirmed the end of the one before is refused once
// it has waited as long as a press lives without word.
func TestAPressAfterOneThatIsNotLetGo(t *testing.T) {
	bubble(t, func(y *yard) {
		first, begun := y.hold(tom, y.jog("jog"))
		<-begun
		y.dev.mu.Lock()
		y.dev.script = []answer{{takes: 3 * time.Second}, {}}
		y.dev.mu.Unlock()
		y.door.LetGo(tom, first.key, errors.New("let go"))
		time.Sleep(10 * time.Millisecond)
		at := time.Now()
		second, waited := y.hold(tom, y.jog("jog"))
		go y.renew(second, 5*time.Second)
		if err := <-waited; err == nil || !strings.Contains(err.Error(), "still has what was sent before") {
			t.Errorf("%v", err)
		}
		if took := time.Since(at); took > LeaseTime+10*time.Millisecond {
			t.Errorf("refused after %v", took)
		}
		time.Sleep(3 * time.Second)
		y.left(0)
	})
}

func TestOpposites(t *testing.T) {
	for name, c := range map[string]struct {
		shape func(forward, back *Step)
		both  bool
	}{
		"named by the first":  {func(f, _ *Step) { f.Excludes = []string{"back"} }, false},
		"named by the second": {func(_, b *Step) { b.Excludes = []string{"forward"} }, false},
		"one group":           {func(f, b *Step) { f.Group, b.Group = "car", "car" }, false},
		"other groups":        {func(f, b *Step) { f.Group, b.Group = "car", "lift" }, true},
		"none":                {func(_, _ *Step) {}, true},
	} {
		t.Run(name, func(t *testing.T) {
			bubble(t, func(y *yard) {
				forward, back := y.jog("forward"), y.jog("back")
				c.shape(&forward, &back)
				h, begun := y.hold(tom, forward)
				<-begun
				_, other := y.hold(iris, back)
				if err := <-other; (err == nil) != c.both || err != nil && !strings.Contains(err.Error(), "Tom Alder at Kiln house holds forward") {
					t.Errorf("%v", err)
				}
				y.door.LetGo(tom, h.key, errors.New("let go"))
				time.Sleep(100 * time.Millisecond)
				if c.both {
					return
				}
				_, other = y.hold(iris, back)
				if err := <-other; err != nil {
					t.Errorf("once it is free: %v", err)
				}
			})
		})
	}
}

func TestWhatIsHeldIsWrittenByNobodyElse(t *testing.T) {
	bubble(t, func(y *yard) {
		_, begun := y.hold(tom, y.jog("jog"))
		<-begun
		on := y.command(iris, Step{Target: y.target("jog", value.BOOL),
			Value: func(value.Value) (value.Value, error) { return value.Bool(true), nil }})
		if _, err := y.door.Do(ctx, on); err == nil || !strings.Contains(err.Error(), "Tom Alder at Kiln house holds it") {
			t.Errorf("%v", err)
		}
	})
}

func TestAPulse(t *testing.T) {
	for name, c := range map[string]struct {
		script  []answer
		outcome string
		wrote   []string
	}{
		"ends":        {nil, audit.Confirmed, []string{"+5 bell=true", "+305 bell=false!"}},
		"never began": {[]answer{{err: errRefuses}}, audit.Rejected, []string{"+0 bell=true the device refused: illegal address"}},
		"its end is lost once": {[]answer{{}, {err: errSilence}, {}}, audit.Confirmed,
			[]string{"+0 bell=true", "+300 bell=false! time-out", "+550 bell=false!"}},
	} {
		t.Run(name, func(t *testing.T) {
			bubble(t, func(y *yard) {
				y.dev.script = c.script
				if c.script == nil {
					y.dev.script = []answer{{takes: 5 * time.Millisecond}, {}}
				}
				s := y.jog("bell")
				s.Pulse = 300 * time.Millisecond
				out, err := y.door.Do(ctx, y.command(tom, s))
				if err != nil || out.Outcome != c.outcome {
					t.Errorf("%+v %v", out, err)
				}
				y.wrote(c.wrote...)
				y.left(0)
				if _, err := y.door.Do(ctx, y.off("bell")); err != nil {
					t.Errorf("the tag is not free again: %v", err)
				}
			})
		})
	}
}

// A crash at each step of a hold: what is on disk then, and what the next start
// makes of it.
func TestACrashAtEachStep(t *testing.T) {
	for name, c := range map[string]struct {
		after  time.Duration // when it is cut off
		disk   time.Duration
		device []answer
		on     bool // the device has the value
		kept   int
	}{
		"before its lease is kept":  {0, 0, nil, false, 0},
		"while the intent is kept":  {50 * time.Millisecond, 100 * time.Millisecond, nil, false, 1},
		"while the device is asked": {50 * time.Millisecond, 0, []answer{{takes: 100 * time.Millisecond}, {}}, true, 1},
		"while it is held":          {400 * time.Millisecond, 0, nil, true, 1},
		"while its release is on the way": {550 * time.Millisecond, 0, []answer{{}, {takes: 100 * time.Millisecond, err: errSilence}, {}}, true,
			1},
		"after it was let go": {700 * time.Millisecond, 0, nil, false, 0},
	} {
		t.Run(name, func(t *testing.T) {
			synctest.Test(t, func(t *testing.T) {
				y := newYard(t)
				y.disk.takes, y.dev.script = c.disk, c.device
				if c.after > 0 {
					_, begun := y.hold(tom, y.jog("jog"))
					go func() { <-begun }()
				}
				time.Sleep(c.after)
				// What a SIGKILL leaves: the rows on disk and the value in the device.
				left := newYard(t)
				y.disk.mu.Lock()
				for id, l := range y.disk.leases {
					left.disk.leases[id] = l
				}
				y.disk.mu.Unlock()
				left.left(c.kept)
				left.dev.at["jog"] = value.Bool(c.on)
				if err := left.door.Recover(ctx); err != nil {
					t.Fatal(err)
				}
				if left.on("jog") {
					t.Error("it is on after the next start")
				}
				left.left(0)
				if c.kept > 0 {
					left.trail("lease confirmed")
				}
				left.close(time.Second)
				y.close(time.Second)
			})
		})
	}
}

// A device that cannot be reached holds up neither the start nor the end, and
// its lease stays for the next start.
func TestADeviceThatCannotBeReachedHoldsNothingUp(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		y := newYard(t)
		_, begun := y.hold(tom, y.jog("jog"))
		<-begun
		y.dev.mu.Lock()
		y.dev.script = []answer{{err: errDown}}
		y.dev.mu.Unlock()
		at := time.Now()
		y.close(3 * time.Second)
		if took := time.Since(at) - time.Minute; took > 3*time.Second {
			t.Errorf("the end took %v", took)
		}
		y.left(1)
		y.open()
		at = time.Now()
		short, cancel := contextFor(2 * time.Second)
		defer cancel()
		if err := y.door.Recover(short); err != nil {
			t.Fatal(err)
		}
		if took := time.Since(at); took > 2*time.Second {
			t.Errorf("the start took %v", took)
		}
		_, again := y.hold(iris, y.jog("jog"))
		if err := <-again; err == nil || !strings.Contains(err.Error(), "Tom Alder at Kiln house holds it") {
			t.Errorf("it is held anew before it was let go: %v", err)
		}
		y.dev.mu.Lock()
		y.dev.script = nil
		y.dev.mu.Unlock()
		time.Sleep(time.Second)
		y.left(0)
		y.close(time.Second)
	})
}

func TestWhatComesWhileTheDoorClosesIsRefused(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		y := newYard(t)
		d := y.door
		y.close(time.Second)
		if _, err := d.Press(tom, "late"); err == nil {
			t.Error("a press was taken")
		}
		if _, err := d.Do(ctx, y.set(tom, "sp", 50)); err == nil {
			t.Error("a command was taken")
		}
		y.wrote()
	})
}

// Letting go never waits for the disk.
func TestTheReleaseValueGoesOutWhileTheDiskFails(t *testing.T) {
	bubble(t, func(y *yard) {
		_, begun := y.hold(tom, y.jog("jog"))
		<-begun
		y.disk.mu.Lock()
		y.disk.fails = errWet
		y.disk.mu.Unlock()
		time.Sleep(time.Second)
		y.wrote("+5 jog=true!", "+505 jog=false!")
		if y.door.Owed() != 1 {
			t.Errorf("%d owed", y.door.Owed())
		}
		y.disk.mu.Lock()
		y.disk.fails = nil
		y.disk.mu.Unlock()
		y.door.Settle(ctx)
		y.trail("intent", "outcome confirmed", "lease confirmed")
	})
}

// TestAcrossAChange: what may no longer be held after a change of what runs is let go at
// once and told, also where whoever watches over it sees that first; everything else goes on.
func TestAcrossAChange(t *testing.T) {
	bubble(t, func(y *yard) {
		h, begun := y.hold(tom, y.jog("jog"))
		if err := <-begun; err != nil {
			t.Fatal(err)
		}
		go y.renew(h, time.Second)
		if ended := y.door.Across(ctx, func() { time.Sleep(100 * time.Millisecond) }); len(ended) != 0 || h.Why() != nil {
			t.Errorf("%+v %v", ended, h.Why())
		}
		ended := y.door.Across(ctx, func() {
			y.guard.mu.Lock()
			y.guard.current = errWet
			y.guard.mu.Unlock()
			time.Sleep(100 * time.Millisecond)
		})
		if len(ended) != 1 || ended[0].Path != "jog" || ended[0].Who.ID != "tom" || !errors.Is(ended[0].Why, errWet) {
			t.Errorf("%+v", ended)
		}
		time.Sleep(time.Second)
		if y.on("jog") {
			t.Error("it is still on")
		}
		if ended := y.door.Across(ctx, func() {}); len(ended) != 0 {
			t.Errorf("what was over is told again: %+v", ended)
		}
	})
}
