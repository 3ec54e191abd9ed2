package door

import (
	"cmp"
	"context"
	"encoding/json"
	"maps"
	"slices"
	"sync"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Times of a held press.
const (
	// RenewEvery is how often a page renews what is held at it.
	RenewEvery = 150 * time.Millisecond
	// LeaseTime is how long a press lives without a renewal.
	LeaseTime = 500 * time.Millisecond
	// watchEvery is how often right, interlock and quality are asked while it
	// lasts.
	watchEvery = 50 * time.Millisecond
)

// Hold is a press that is held: one person, one panel, one tag. It is the
// press's from the moment that the server hears of it, before anything about it
// is asked, so that a press that has ended is never carried out late. It ends
// once and never revives.
type Hold struct {
	door *Door
	who  Who
	key  string

	mu      sync.Mutex
	renewed time.Time
	ended   error // why; nil while it is held
	begun   *Step // what it holds, from when that is sent on
	over    chan struct{}
}

// Press registers a press. Renewals and its end count from now on, whatever
// the disk and the device take for it to begin.
func (d *Door) Press(who Who, key string) (*Hold, error) {
	if key == "" || len(key) > 64 {
		return nil, Refusing("a press needs a key of its own, of at most 64 characters")
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.closing {
		return nil, errEnding
	}
	if d.presses[key] != nil || d.keys[key] {
		return nil, errTaken
	}
	h := &Hold{door: d, who: who, key: key, renewed: time.Now(), over: make(chan struct{})}
	d.presses[key] = h
	d.wg.Add(1)
	return h, nil
}

// Over is closed when the press has ended; Why tells why.
func (h *Hold) Over() <-chan struct{} { return h.over }

// Why is why the press ended; nil while it is held.
func (h *Hold) Why() error {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.ended
}

// Renew keeps a press; only its own person at its own panel can.
func (d *Door) Renew(who Who, key string) error {
	h := d.press(key)
	if h == nil {
		return errLetGo
	}
	if !h.of(who) {
		return Refusing("somebody else holds this")
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.ended != nil {
		return &Refused{h.ended}
	}
	if time.Since(h.renewed) >= LeaseTime {
		return errSilent
	}
	h.renewed = time.Now()
	return nil
}

// Why presses end.
var (
	errLetGo  = &Refused{say.New("let go")}
	errSilent = &Refused{say.Errorf("the panel was not heard for %d ms", LeaseTime.Milliseconds())}
)

// LetGo ends a press of a person at a panel.
func (d *Door) LetGo(who Who, key string, why error) {
	if h := d.press(key); h != nil && h.of(who) {
		h.end(why)
	}
}

// EndWhere ends the presses that match, as those of a person who signs out.
func (d *Door) EndWhere(match func(Who) bool, why error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, h := range d.presses {
		if match(h.who) {
			h.end(why)
		}
	}
}

// Ended is a press that was ended: what it held, who held it and why it ended.
type Ended struct {
	Path string
	Who  Who
	Why  error
}

// Across makes a change of what runs, and then asks at once whether what was pressed before
// may still be; what may not is ended, lets go by its release value, and is told.
func (d *Door) Across(ctx context.Context, change func()) (out []Ended) {
	d.mu.Lock()
	before := slices.Collect(maps.Values(d.presses))
	d.mu.Unlock()
	before = slices.DeleteFunc(before, func(h *Hold) bool {
		h.mu.Lock()
		defer h.mu.Unlock()
		return h.begun == nil || h.ended != nil
	})
	change()
	for _, h := range before {
		// Whoever watches over it may have ended it already, for the same reason.
		if err := h.begun.may(ctx); err != nil {
			h.end(err)
			out = append(out, Ended{h.begun.Path, h.who, err})
		}
	}
	slices.SortFunc(out, func(a, b Ended) int { return cmp.Compare(a.Path, b.Path) })
	return out
}

// Holds tells whether something is pressed by whoever matches.
func (d *Door) Holds(match func(Who) bool) bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, h := range d.presses {
		if match(h.who) {
			return true
		}
	}
	return false
}

func (d *Door) press(key string) *Hold {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.presses[key]
}

func (h *Hold) of(who Who) bool { return h.who.ID == who.ID && h.who.Panel == who.Panel }

func (h *Hold) end(why error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.ended == nil {
		h.ended = why
		close(h.over)
	}
}

// alive refuses once the press has ended or was not renewed in time.
func (h *Hold) alive() error {
	h.mu.Lock()
	quiet, ended := time.Since(h.renewed), h.ended
	h.mu.Unlock()
	switch {
	case ended != nil:
		return &Refused{ended}
	case quiet >= LeaseTime:
		return errSilent
	}
	return nil
}

// Begin writes what the press holds and watches over it until it ends. It
// returns once the device has answered; a press that ended meanwhile, or that
// something refuses, writes nothing. Begin is called once; c has one step.
func (h *Hold) Begin(ctx context.Context, c Command) error {
	s := c.Steps[0]
	c.Key = h.key
	over, err := h.begin(ctx, &c, s)
	if err != nil {
		over()
		h.Abandon(err)
	}
	return err
}

// Abandon ends a press that found nothing to hold, in the place of Begin.
func (h *Hold) Abandon(why error) {
	h.end(why)
	h.door.forget(h)
	h.door.wg.Done()
}

// begin goes down the road until the value is sent. The function it returns
// gives back what was taken on the way.
func (h *Hold) begin(ctx context.Context, c *Command, s Step) (over func(), err error) {
	d := h.door
	over = func() {}
	no := func(why error) (func(), error) { return over, d.refuse(ctx, c, s.Target, why) }
	c.Typed = "held"
	if err := fresh(c.At); err != nil {
		return no(err)
	}
	if err := d.asked(ctx, c, s); err != nil {
		return no(err)
	}
	if err := h.sound(ctx, s); err != nil {
		return no(err)
	}
	before := s.Read(s.Tag.ID)
	v, err := s.Value(before)
	if err != nil {
		return no(err)
	}
	raw, err := s.fits(v)
	if err != nil {
		return no(err)
	}
	row, err := d.claim(ctx, c, s, v)
	if err != nil {
		return no(err)
	}
	over = row.giveBack
	in, err := d.intend(ctx, c, s.Target, v, before, 0)
	if err == nil {
		// The disk may have been slow: everything is asked again, right before.
		err = h.sound(ctx, s)
		if err == nil {
			err = fresh(c.At)
		}
		if err != nil {
			d.conclude(ctx, in, ended(audit.Rejected, err))
		}
	}
	if err != nil {
		d.drop(ctx, row)
		return over, err
	}
	out := s.send(ctx, v, raw, true)
	if err := d.conclude(ctx, in, out); err != nil {
		h.end(say.New("its beginning could not be recorded"))
	}
	if out.Outcome == audit.Rejected {
		d.drop(ctx, row)
		return over, &Refused{out.Reason.Why}
	}
	if out.Outcome == audit.Unknown {
		h.end(out.Reason.Why)
	}
	h.mu.Lock()
	h.begun = &s
	h.mu.Unlock()
	go h.watch(s, row)
	return over, nil
}

// sound asks everything that a press rests on.
func (h *Hold) sound(ctx context.Context, s Step) error {
	if err := h.alive(); err != nil {
		return err
	}
	if h.door.ctx.Err() != nil {
		return errEnding
	}
	if err := s.may(ctx); err != nil {
		return err
	}
	if q := s.Read(s.Tag.ID).Quality; q.IsBad() {
		return Refusing("%s is bad: %s", s.Path, q.Reason())
	}
	return nil
}

// watch ends the press when its time is up or what it rests on is gone, and
// then lets go.
func (h *Hold) watch(s Step, row *claim) {
	d := h.door
	defer d.wg.Done()
	defer d.forget(h)
	// What panics here must still let go.
	defer row.giveBack()
	defer func() { d.letGo(d.ctx, row, s.Sink, s.Release, h.Why().Error()) }()
	defer func() {
		if p := recover(); p != nil {
			d.log.Error("watching over a held button failed", "path", row.Path, "problem", p)
			h.end(say.New("the server failed to watch over it"))
		}
	}()
	timer := time.NewTimer(0)
	defer timer.Stop()
	for {
		select {
		case <-h.over:
			return
		case <-timer.C:
		}
		if err := h.sound(d.ctx, s); err != nil {
			h.end(err)
			continue
		}
		h.mu.Lock()
		left := time.Until(h.renewed.Add(LeaseTime))
		h.mu.Unlock()
		timer.Reset(min(watchEvery, max(left, time.Millisecond)))
	}
}

func (d *Door) forget(h *Hold) {
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.presses, h.key)
}

// claim is a tag taken for a hold or a pulse, from before its first write until
// its release value is confirmed.
type claim struct {
	Lease
	giveBack func()
	target   *Target
	release  value.Value
	trial    bool
	hold     *Hold
}

// claim takes a tag, its turn, and a row on disk.
func (d *Door) claim(ctx context.Context, c *Command, s Step, v value.Value) (*claim, error) {
	row := &claim{Lease: lease(c, s), target: s.Target, release: s.Release, trial: s.Trial}
	d.mu.Lock()
	row.hold = d.presses[c.Key]
	if err := d.freeLocked(row); err != nil {
		d.mu.Unlock()
		return nil, err
	}
	d.claims[s.lane()] = row
	d.mu.Unlock()
	wait, cancel := context.WithTimeout(ctx, LeaseTime)
	defer cancel()
	over, err := d.turns.wait(wait, s.lane())
	if err != nil {
		d.unclaim(row)
		if ctx.Err() == nil && wait.Err() != nil {
			return nil, Refusing("%s still has what was sent before this", s.Path)
		}
		return nil, err
	}
	row.giveBack = func() { d.unclaim(row); over() }
	if s.Trial {
		return row, nil
	}
	// On disk before the first write, so that a crash cannot leave it on.
	if err := d.leases.Put(context.WithoutCancel(ctx), row.Lease); err != nil {
		row.giveBack()
		return nil, say.Errorf("keeping what is held: %w", err)
	}
	return row, nil
}

// endsFor tells whether a claim is a press that its hand has left, and the next one
// is by the same hand: it waits until the end of the first is confirmed, and is not
// refused for it.
func (c *claim) endsFor(next *claim) bool {
	return c.hold != nil && c.hold.Why() != nil && next.hold != nil && c.hold.of(next.hold.who)
}

// unclaim gives a tag back, unless it is somebody else's by now.
func (d *Door) unclaim(c *claim) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if key := lane(c.Tag, c.trial); d.claims[key] == c {
		delete(d.claims, key)
	}
}

// freeLocked refuses a tag that is held, and one that what is held excludes.
func (d *Door) freeLocked(row *claim) error {
	t := row.target
	for _, o := range d.claims {
		switch {
		case o.trial != t.Trial:
		case o.Tag == t.Tag.ID && o.endsFor(row):
		case o.Tag == t.Tag.ID:
			return Refusing("%s at %s holds it", o.Name, o.where())
		case o.target == nil:
		case contains(t.Excludes, o.Tag) || contains(o.target.Excludes, t.Tag.ID) || t.Group != "" && t.Group == o.target.Group:
			return Refusing("%s at %s holds %s, which excludes this one", o.Name, o.where(), o.Path)
		}
	}
	return nil
}

func contains(list []string, id string) bool {
	for _, x := range list {
		if x == id {
			return true
		}
	}
	return false
}

// unheld refuses to write to a tag that is held, but for its release value:
// that ends the hold.
func (d *Door) unheld(t *Target, v value.Value) error {
	d.mu.Lock()
	defer d.mu.Unlock()
	o := d.claims[t.lane()]
	if o == nil {
		return nil
	}
	if o.hold != nil && v.Same(o.release) {
		o.hold.end(say.New("its release value was written by somebody"))
		return nil
	}
	return Refusing("%s at %s holds it", o.Name, o.where())
}

func (l *Lease) where() string {
	if l.Panel == "" {
		return "a browser that is no panel"
	}
	return l.Panel
}

// Lease is what is kept on disk of a hold or a pulse. It carries the
// definitions it began with, so that it can be ended even when the project has
// changed since.
type Lease struct {
	ID, Tag, Path       string
	Person, Name, Panel string
	Screen, Element     string
	ReleaseValue        string // engineering, as text with a decimal point
	TagDoc, DeviceDoc   []byte
	At                  time.Time
}

func lease(c *Command, s Step) Lease {
	l := Lease{ID: c.Key, Tag: s.Tag.ID, Path: s.Path, Person: c.Who.ID, Name: c.Who.Name, Panel: c.Who.Panel, Screen: s.Screen,
		Element:      s.Element,
		ReleaseValue: s.Release.Text(), DeviceDoc: []byte(s.Device), At: time.Now()}
	l.TagDoc, _ = json.Marshal(s.Tag) // a definition that was loaded marshals
	return l
}
