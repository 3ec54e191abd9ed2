package door

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// controller is a made-up controller whose requests are counted, and one of
// which fails.
type controller struct {
	at      map[string]value.Value
	count   int           // requests so far
	fails   int           // number of the request that fails; 0 for none
	how     string        // cut, silent, refused, wrong
	cutFor  time.Duration // how long the link is away
	cutAt   time.Time
	foreign string // a value that somebody else writes as the request fails
	log     []string
	taken   bool // has taken the values over
}

func (c *controller) Requests(parts []*Part) [][]int {
	var out [][]int // two values go together
	for i := range parts {
		if i%2 == 0 {
			out = append(out, nil)
		}
		out[len(out)-1] = append(out[len(out)-1], i)
	}
	return out
}

// request counts one, and says how it fails; done tells whether it reached the
// controller all the same.
func (c *controller) request() (done bool, err error) {
	time.Sleep(5 * time.Millisecond)
	if !c.cutAt.IsZero() && time.Since(c.cutAt) < c.cutFor {
		return false, fmt.Errorf("%w: no connection", link.ErrNotSent)
	}
	if c.count++; c.count != c.fails {
		return true, nil
	}
	if c.foreign != "" {
		c.at[c.foreign] = value.Int(value.INT, 99)
	}
	switch c.how {
	case "cut":
		c.cutAt = time.Now()
		return false, fmt.Errorf("%w: no connection", link.ErrNotSent)
	case "silent": // it was taken, but nobody hears of it
		c.cutAt = time.Now()
		return true, errors.New("no answer in time")
	case "refused":
		return false, fmt.Errorf("%w: illegal data value", link.ErrRefused)
	}
	return true, nil
}

func (c *controller) Write(_ context.Context, parts []*Part, raw []value.Value) error {
	done, err := c.request()
	for i, p := range parts {
		c.log = append(c.log, fmt.Sprintf("%s=%s", p.Path, raw[i].Text()))
		if !done {
			continue
		}
		c.at[p.Path] = raw[i]
		if c.how == "wrong" && c.count == c.fails && i == 0 && raw[i].Kind == value.INT {
			c.at[p.Path] = value.Int(value.INT, 77)
		}
	}
	return err
}

func (c *controller) Read(_ context.Context, parts []*Part) ([]value.Value, error) {
	if _, err := c.request(); err != nil {
		return nil, err
	}
	out := make([]value.Value, len(parts))
	for i, p := range parts {
		out[i] = c.at[p.Path]
	}
	return out, nil
}

// sent is a delivery of five values, with what was kept of it.
type sent struct {
	*Delivery
	plc   *controller
	guard *guard
	kept  []string
}

func newSent(plc *controller) *sent {
	s := &sent{plc: plc, guard: &guard{}}
	plc.at = map[string]value.Value{"ready": value.Bool(false)}
	target := func(name string, typ value.Type) *Target {
		return &Target{
			Tag:   &tag.Tag{ID: name, Name: name, Type: typ, Source: tag.Device, Access: tag.ReadWrite},
			Path:  name,
			Guard: s.guard,
			Read:  func(string) value.Value { return plc.at[name] },
		}
	}
	s.Delivery = &Delivery{
		Who:      Who{ID: "tom", Name: "Tom Alder"},
		Key:      "k1",
		At:       time.Now(),
		Name:     "Larch 50, version 3",
		Place:    "Kiln1",
		Guard:    s.guard,
		Batch:    plc,
		PutsBack: true,
		Cancel:   make(chan struct{}),
		Told:     func(Progress) {},
		Keep: func(_ context.Context, state State, why string) error {
			s.kept = append(s.kept, string(state))
			return nil
		},
	}
	for i, name := range []string{"a", "b", "c", "d", "e"} {
		plc.at[name] = value.Int(value.INT, int64(i))
		turn := 0
		if name == "e" {
			turn = 1
		}
		s.Parts = append(
			s.Parts,
			&Part{Target: target(name, value.Type{Kind: value.INT}), Field: name, Turn: turn, Value: value.Int(value.INT, int64(10+i))},
		)
	}
	return s
}

// withHand has the controller take the values over at a request.
func (s *sent) withHand() {
	plc := s.plc
	ready := &Part{
		Target: &Target{
			Tag:   &tag.Tag{ID: "ready", Name: "ready", Type: value.Type{Kind: value.BOOL}, Source: tag.Device, Access: tag.ReadWrite},
			Path:  "ready",
			Guard: s.guard,
			Read:  func(string) value.Value { return plc.at["ready"] },
		},
		Value: value.Bool(true),
	}
	s.Hand = &Hand{Ready: ready, Idle: func() error { return nil }, Answer: func(ctx context.Context) error {
		for range 20 {
			select {
			case <-ctx.Done():
				return ctx.Err()
			case <-time.After(100 * time.Millisecond):
			}
			if plc.at["ready"].Bool() && plc.how != "deaf" {
				plc.taken = true
				return nil
			}
		}
		return errors.New("the controller took the value but did not answer in time")
	}}
}

func (s *sent) values() string {
	var out []string
	for _, p := range s.Parts {
		out = append(out, s.plc.at[p.Path].Text())
	}
	return strings.Join(out, " ")
}

func (s *sent) states() string {
	var out []string
	for _, p := range s.Parts {
		out = append(out, string(p.State))
	}
	return strings.Join(out, " ")
}

const (
	asBefore = "0 1 2 3 4"
	asWanted = "10 11 12 13 14"
)

// deliver carries a delivery out at a door of its own; it returns the state, why,
// and what the trail has.
func (s *sent) deliver(t *testing.T, k *disk) (State, string, error) {
	t.Helper()
	d := New(k, k, nil, quiet)
	state, why, err := d.Deliver(ctx, s.Delivery)
	for _, r := range k.records {
		if r.What == audit.Intent && !hasOutcome(k.records, r.Seq) {
			t.Errorf("the intent %s=%s has no outcome", r.Path, r.New)
		}
	}
	return state, why, err
}

func hasOutcome(list []audit.Record, intent int64) bool {
	for _, r := range list {
		if r.What == audit.Outcome && r.Intent == intent {
			return true
		}
	}
	return false
}

func TestADeliveryGoesThrough(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		k := &disk{leases: map[string]Lease{}}
		s := newSent(&controller{})
		s.withHand()
		state, why, err := s.deliver(t, k)
		if state != Delivered || why != "" || err != nil || s.values() != asWanted || !s.plc.taken || s.plc.at["ready"].Bool() {
			t.Errorf("%s %q %v: %s", state, why, err, s.values())
		}
		if got := strings.Join(s.plc.log, " "); got != "a=10 b=11 c=12 d=13 e=14 ready=true ready=false" {
			t.Error(got)
		}
		if got := strings.Join(s.kept, " "); got != "running delivered" {
			t.Error(got)
		}
		if len(k.records) != 12 || k.records[0].Path != "a" || k.records[0].Old != "0" || k.records[0].New != "10" {
			t.Errorf("%d records, the first %+v", len(k.records), k.records[0])
		}
	})
}

// TestADeliveryFailsAtEachRequest has the link cut, an answer lost, a request
// refused and a wrong value read back at each request of a delivery in turn: in
// the end the controller has all of the recipe, all of what it had before, or
// somebody is told that it has neither.
func TestADeliveryFailsAtEachRequest(t *testing.T) {
	// Requests: 1 reads what is there; 2 and 3 write a to d; 4 writes e; 5 reads
	// back; 6 asks; the rest puts back or takes the request back.
	for how, want := range map[string]map[int]State{
		"cut":     {1: Untouched, 2: Untouched, 3: WasBack, 4: WasBack, 5: WasBack, 6: WasBack, 7: Delivered, 8: Delivered},
		"silent":  {1: Untouched, 2: WasBack, 3: WasBack, 4: WasBack, 5: WasBack, 6: Half, 7: Delivered, 8: Delivered},
		"refused": {1: Untouched, 2: Untouched, 3: WasBack, 4: WasBack, 5: WasBack, 6: WasBack, 7: Delivered, 8: Delivered},
		"wrong":   {1: Delivered, 2: WasBack, 3: WasBack, 4: WasBack, 5: Delivered, 6: Delivered, 7: Delivered, 8: Delivered},
	} {
		for n, state := range want {
			t.Run(fmt.Sprintf("%s at %d", how, n), func(t *testing.T) {
				synctest.Test(t, func(t *testing.T) {
					k := &disk{leases: map[string]Lease{}}
					s := newSent(&controller{fails: n, how: how, cutFor: 2 * time.Second})
					s.withHand()
					got, why, _ := s.deliver(t, k)
					if got != state {
						t.Errorf("%s (%s), not %s; %s; %v", got, why, state, s.states(), s.plc.log)
					}
					values := asBefore
					if state == Delivered {
						values = asWanted
					}
					if s.values() != values {
						t.Errorf("the controller has %s, not %s: %v", s.values(), values, s.plc.log)
					}
					if state != Delivered && s.plc.at["ready"].Bool() {
						t.Error("the request still stands")
					}
				})
			})
		}
	}
}

func TestWhatIsNotPutBack(t *testing.T) {
	for name, c := range map[string]struct {
		plc    controller
		change func(s *sent)
		want   State
		values string
		says   string
	}{
		"the link stays away": {controller{fails: 3, how: "cut", cutFor: time.Hour}, nil, Half, "10 11 2 3 4", "no connection"},
		"somebody else wrote a value": {controller{fails: 4, how: "refused", foreign: "b"}, nil, Half, "10 99 12 13 4",
			"b was changed by somebody else, to 99"},
		"the book says to stop": {controller{fails: 4, how: "refused"}, func(s *sent) { s.PutsBack = false }, Half, "10 11 12 13 4", "refused"},
		"the condition no longer holds": {controller{fails: 4, how: "refused"}, func(s *sent) {
			s.Told = func(p Progress) {
				if p.Phase == "returning" {
					s.guard.mu.Lock()
					s.guard.interlock = Refusing("the chamber runs")
					s.guard.mu.Unlock()
				}
			}
		}, Half, "10 11 12 13 4", "the chamber runs"},
		"the controller does not answer": {controller{how: "deaf"}, func(s *sent) { s.withHand() }, Half, asBefore, "whether the controller took"},
	} {
		t.Run(name, func(t *testing.T) {
			synctest.Test(t, func(t *testing.T) {
				k := &disk{leases: map[string]Lease{}}
				s := newSent(&c.plc)
				if c.change != nil {
					c.change(s)
				}
				began := time.Now()
				state, why, _ := s.deliver(t, k)
				if state != c.want || s.values() != c.values || !strings.Contains(why, c.says) {
					t.Errorf("%s (%s), %s; not %s, %s", state, why, s.values(), c.want, c.values)
				}
				if took := time.Since(began); took > backWithin+5*time.Second {
					t.Errorf("it took %s", took)
				}
			})
		})
	}
}

// TestALaterPutBack puts back by hand what a delivery left half-way, and not
// where somebody else wrote a value since.
func TestALaterPutBack(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		k := &disk{leases: map[string]Lease{}}
		s := newSent(&controller{fails: 3, how: "cut", cutFor: 20 * time.Second})
		if state, _, _ := s.deliver(t, k); state != Half || s.values() != "10 11 2 3 4" {
			t.Fatalf("%s %s", state, s.values())
		}
		time.Sleep(20 * time.Second)
		d := New(k, k, nil, quiet)
		s.Key, s.At = "k2", time.Now()
		s.plc.at["b"] = value.Int(value.INT, 5)
		if err := d.PutBack(ctx, s.Delivery); err == nil || !strings.Contains(err.Error(), "somebody else") || s.values() != "10 5 2 3 4" {
			t.Errorf("%v %s", err, s.values())
		}
		s.plc.at["b"] = value.Int(value.INT, 11)
		s.Parts[1].State = PartUnknown
		s.Key, s.At = "k3", time.Now()
		if err := d.PutBack(ctx, s.Delivery); err != nil || s.values() != asBefore {
			t.Errorf("%v %s", err, s.values())
		}
	})
}

func TestWhatIsNotDelivered(t *testing.T) {
	for name, c := range map[string]struct {
		change func(s *sent, k *disk)
		says   string
	}{
		"without the right":       {func(s *sent, _ *disk) { s.guard.right = Refusing("no right") }, "no right"},
		"the condition":           {func(s *sent, _ *disk) { s.guard.interlock = Refusing("the door is open") }, "the door is open"},
		"another release":         {func(s *sent, _ *disk) { s.guard.current = Refusing("changed") }, "changed"},
		"a value over its limit":  {func(s *sent, _ *disk) { high := 12.0; s.Parts[4].Tag.High = &high }, "outside"},
		"a tag that is read only": {func(s *sent, _ *disk) { s.Parts[2].Tag.Access = tag.Read }, "only be read"},
		"what cannot be read":     {func(s *sent, _ *disk) { s.plc.at["c"] = value.Bad(value.INT, value.BadRefused) }, "cannot be read"},
		"two fields on one tag":   {func(s *sent, _ *disk) { s.Parts[1].Target = s.Parts[0].Target }, "two fields"},
		"the disk fails":          {func(_ *sent, k *disk) { k.fails = errors.New("disk") }, "cannot be recorded"},
		"the controller is busy": {func(s *sent, _ *disk) {
			s.withHand()
			s.Hand.Idle = func() error { return Refusing("still busy") }
		}, "still busy"},
		"nothing to send": {func(s *sent, _ *disk) { s.Parts = nil }, "none of the fields"},
	} {
		t.Run(name, func(t *testing.T) {
			synctest.Test(t, func(t *testing.T) {
				k := &disk{leases: map[string]Lease{}}
				s := newSent(&controller{})
				c.change(s, k)
				state, _, err := s.deliver(t, k)
				if state != Untouched || err == nil || !strings.Contains(err.Error(), c.says) || len(s.plc.log) > 0 {
					t.Errorf("%s %v %v", state, err, s.plc.log)
				}
			})
		})
	}
}

// TestTwoDeliveries has one delivery a place at a time, and an entry wait for
// its end.
func TestTwoDeliveries(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		k := &disk{leases: map[string]Lease{}}
		d := New(k, k, nil, quiet)
		plc := &controller{}
		one, two := newSent(plc), newSent(plc)
		two.Key = "k2"
		ended := make(chan State)
		go func() { state, _, _ := d.Deliver(ctx, one.Delivery); ended <- state }()
		time.Sleep(7 * time.Millisecond)
		if state, _, err := d.Deliver(ctx, two.Delivery); state != Untouched || err == nil || !strings.Contains(err.Error(), "under way") {
			t.Errorf("%s %v", state, err)
		}
		if state := <-ended; state != Delivered {
			t.Error(state)
		}
		two.Key, two.At = "k3", time.Now()
		if state, _, err := d.Deliver(ctx, two.Delivery); state != Delivered {
			t.Error(state, err)
		}
		if state, _, err := d.Deliver(ctx, two.Delivery); state != Untouched {
			t.Error("a key is taken twice", err)
		}
	})
}

func TestADeliveryIsGivenUp(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		k := &disk{leases: map[string]Lease{}}
		s := newSent(&controller{})
		cancel := make(chan struct{})
		s.Cancel = cancel
		s.Told = func(p Progress) {
			if p.Phase == "writing" && p.Written == 2 {
				close(cancel)
			}
		}
		state, why, err := s.deliver(t, k)
		if state != WasBack || why != "it was given up" || err != nil || s.values() != asBefore {
			t.Errorf("%s %q %v %s", state, why, err, s.values())
		}
	})
}
