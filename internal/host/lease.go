package host

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/device"
	"readyrail/internal/core/screen"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/store"
)

// Hold-to-run. A held button is a lease: one person, one panel, one tag. The
// page renews it while the button is pressed; when renewals stop, the server
// writes the release value ahead of everything else until the device confirms
// it. None of this is a safety function: the safe stop is the machine's own.

// Times of a lease.
const (
	RenewEvery = 150 * time.Millisecond
	LeaseTime  = 500 * time.Millisecond
	leaseCheck = 50 * time.Millisecond
	retryEvery = 250 * time.Millisecond
)

type lease struct {
	row    store.Lease
	who    Actor
	target *target
	intent audit.Record

	mu      sync.Mutex
	renewed time.Time
	ended   string // why; empty while it is held
	over    chan struct{}
}

type leases struct {
	p    *Project
	wg   sync.WaitGroup
	quit chan struct{}

	mu    sync.Mutex
	byID  map[string]*lease
	byTag map[string]*lease
}

func newLeases(p *Project) *leases {
	return &leases{p: p, byID: map[string]*lease{}, byTag: map[string]*lease{}, quit: make(chan struct{})}
}

// Hold begins a lease and writes the value that the button holds.
func (p *Project) Hold(ctx context.Context, who Actor, c Command) (id string, err error) {
	if c.Program == Try {
		return p.tryHold(ctx, who, c)
	}
	t, err := p.target(c)
	if err != nil {
		return "", p.refuse(ctx, who, c, nil, err)
	}
	c.Value = "held"
	fail := func(why error) (string, error) { return "", p.refuse(ctx, who, c, t, why) }
	if t.action != screen.ActionHold {
		return fail(refused("%s is no button to hold", t.name))
	}
	v, err := p.wanted(t, c)
	if err != nil {
		return fail(refused("%v", err))
	}
	if err := p.check(ctx, who, t, v); err != nil {
		return fail(err)
	}
	if age := time.Since(c.At); age > MaxAge || age < -MaxAge {
		return fail(refused("the press is %.1f s old and was not carried out", age.Seconds()))
	}
	if err := p.sane(t); err != nil {
		return fail(err)
	}
	raw, err := t.tag.ToRaw(v)
	if err != nil {
		return fail(refused("%v", err))
	}
	l := &lease{who: who, target: t, renewed: time.Now(), over: make(chan struct{})}
	l.row = store.Lease{ID: newID("lease"), Tag: t.tag.ID, Path: t.path, Person: who.ID, Name: who.Name, Panel: who.Panel, Screen: t.screenName(c.Args), Element: t.name,
		ReleaseValue: t.element.Text("release"), At: time.Now().UnixNano()}
	l.row.TagDoc, _ = json.Marshal(t.tag)
	l.row.Device, _ = json.Marshal(t.release.Devices[t.tag.Device])
	if err := p.leases.take(l); err != nil {
		return fail(err)
	}
	// On disk before the first write, so that a crash cannot leave it on.
	if err := p.state.PutLease(context.WithoutCancel(ctx), l.row); err != nil {
		p.leases.drop(l)
		return "", err
	}
	if l.intent, err = p.intend(ctx, who, c, t, v); err != nil {
		p.leases.drop(l)
		p.state.DropLease(context.WithoutCancel(ctx), l.row.ID)
		return "", err
	}
	out := p.carryOut(ctx, t, v, raw, true)
	if err := p.conclude(ctx, l.intent, out); err != nil {
		l.end("the outcome could not be kept")
	}
	if out.Outcome == audit.Rejected {
		l.end(out.Reason)
	}
	p.leases.wg.Add(1)
	go p.leases.watch(l)
	if out.Outcome == audit.Rejected {
		return "", refused("%s", out.Reason)
	}
	return l.row.ID, nil
}

// sane refuses to begin while the tag's own value is bad.
func (p *Project) sane(t *target) error {
	if q := p.ReadTags(Release, []string{t.tag.ID})[0].Value.Quality; q.IsBad() {
		return refused("%s is bad: %s", t.path, q.Reason())
	}
	return nil
}

// Renew keeps a lease; only its own person at its own panel can. It returns
// why the lease is over when it is: an ended lease never revives.
func (p *Project) Renew(who Actor, id string) error {
	if p.trying.renew(id) {
		return nil
	}
	l := p.leases.find(id)
	if l == nil {
		return refused("let go")
	}
	if l.row.Person != who.ID || l.row.Panel != who.Panel {
		return refused("somebody else holds this")
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.ended != "" {
		return refused("%s", l.ended)
	}
	if time.Since(l.renewed) > LeaseTime {
		return refused("the panel was not heard for %d ms", LeaseTime.Milliseconds())
	}
	l.renewed = time.Now()
	return nil
}

// LetGo ends a lease.
func (p *Project) LetGo(who Actor, id, reason string) {
	if p.trying.letGo(id) {
		return
	}
	if l := p.leases.find(id); l != nil && l.row.Person == who.ID && l.row.Panel == who.Panel {
		l.end(reason)
	}
}

func (s *leases) find(id string) *lease {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.byID[id]
}

// take enters a lease unless somebody holds the tag.
func (s *leases) take(l *lease) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	select {
	case <-s.quit:
		return refused("the server is ending")
	default:
	}
	if o := s.byTag[l.row.Tag]; o != nil {
		where := o.row.Panel
		if where == "" {
			where = "a browser that is no panel"
		}
		return refused("%s at %s holds it", o.row.Name, where)
	}
	s.byID[l.row.ID], s.byTag[l.row.Tag] = l, l
	return nil
}

func (s *leases) drop(l *lease) {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.byID, l.row.ID)
	if s.byTag[l.row.Tag] == l {
		delete(s.byTag, l.row.Tag)
	}
}

func (l *lease) end(why string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.ended == "" {
		l.ended = why
		close(l.over)
	}
}

// watch ends the lease when its time is up, its interlock holds, its right is
// gone or its tag is bad, and then lets go.
func (s *leases) watch(l *lease) {
	defer s.wg.Done()
	tick := time.NewTicker(leaseCheck)
	defer tick.Stop()
	for held := true; held; {
		select {
		case <-l.over:
			held = false
		case <-s.quit:
			l.end("the server is ending")
		case <-tick.C:
			l.mu.Lock()
			silent := time.Since(l.renewed)
			l.mu.Unlock()
			if silent > LeaseTime {
				l.end(fmt.Sprintf("the panel was not heard for %d ms", LeaseTime.Milliseconds()))
				continue
			}
			if err := s.p.sane(l.target); err != nil {
				l.end(err.Error())
			} else if err := s.p.interlock(l.target); err != nil {
				l.end(err.Error())
			}
		}
	}
	outcome := s.letGo(l.row)
	s.drop(l)
	s.recordEnd(l.row, outcome, l.ended)
}

// recheck ends the leases whose person has lost the right.
func (s *leases) recheck() {
	s.mu.Lock()
	list := make([]*lease, 0, len(s.byID))
	for _, l := range s.byID {
		list = append(list, l)
	}
	s.mu.Unlock()
	for _, l := range list {
		if err := s.p.Require(context.Background(), l.who, access.Operate, l.target.area); err != nil {
			l.end(err.Error())
		}
	}
}

// EndLeases ends every lease of a person at a panel, as when they sign out; at
// every panel when none is named.
func (h *Host) EndLeases(who Actor, reason string) {
	for _, p := range h.Projects() {
		p.leases.mu.Lock()
		for _, l := range p.leases.byID {
			if l.row.Person == who.ID && (who.Panel == "" || l.row.Panel == who.Panel) {
				l.end(reason)
			}
		}
		p.leases.mu.Unlock()
	}
}

// endAll ends every lease and waits until each has been let go, or until the
// device has had its time.
func (s *leases) endAll(why string) {
	s.mu.Lock()
	for _, l := range s.byID {
		l.end(why)
	}
	close(s.quit)
	s.mu.Unlock()
	s.wg.Wait()
}

// letGo writes the release value until the device confirms it, and forgets the
// lease. When the server ends first, the lease stays on disk for the next
// start.
func (s *leases) letGo(row store.Lease) (outcome string) {
	var t tag.Tag
	var d device.Device
	if json.Unmarshal(row.TagDoc, &t) != nil || json.Unmarshal(row.Device, &d) != nil {
		return audit.Unknown
	}
	if t.Source == tag.Internal {
		if v, err := t.ParseEntry(row.ReleaseValue); err == nil && s.p.release.runner.Load() != nil {
			s.p.carryOut(context.Background(), &target{program: Release, tag: &t}, v, v, true)
		}
		s.p.state.DropLease(context.Background(), row.ID)
		return audit.Confirmed
	}
	pt, ok := point(&d, &t)
	v, err := t.ParseEntry(row.ReleaseValue)
	if err != nil {
		v = value.Bool(false)
	}
	raw, rawErr := t.ToRaw(v)
	if !ok || rawErr != nil {
		s.p.state.DropLease(context.Background(), row.ID)
		return audit.Unknown
	}
	// The connection is kept for as long as this takes, whatever is released
	// meanwhile.
	owner := s.p.id + "/lease/" + row.ID
	s.p.host.hub.Set(owner, []link.DeviceSubscriptions{{Device: d}}, func([]link.Reading) {})
	defer s.p.host.hub.Set(owner, nil, nil)
	for {
		back, err := s.p.host.hub.Write(context.Background(), d, pt, raw, true)
		if err == nil && back.Same(raw) {
			s.p.state.DropLease(context.Background(), row.ID)
			return audit.Confirmed
		}
		wait := retryEvery
		if err != nil {
			wait = 20 * time.Millisecond
		}
		select {
		case <-s.stopping():
			return audit.Unknown
		case <-time.After(wait):
		}
	}
}

// recordEnd keeps in the trail how a lease ended.
func (s *leases) recordEnd(row store.Lease, outcome, why string) {
	_, err := s.p.audit.Append(context.Background(), audit.Record{At: time.Now().UnixNano(), What: audit.Lease, Person: row.Person, Name: row.Name, Panel: row.Panel,
		Screen: row.Screen, Element: row.Element, Tag: row.Tag, Path: row.Path, Old: "held", New: row.ReleaseValue, Outcome: outcome, Reason: why})
	if err != nil {
		s.p.host.log.Error("the end of a lease is not in the audit trail", "path", row.Path, "error", err)
	}
}

// stopping is closed some time after the server began to end, so that leases
// have time to be let go first.
func (s *leases) stopping() <-chan struct{} {
	out := make(chan struct{})
	select {
	case <-s.quit:
		time.AfterFunc(retryEvery, func() { close(out) })
	default:
	}
	return out
}

// releaseLeft lets go what was held when the server last ended. It gives each
// device a moment before the rest starts, and goes on in the background where
// that was not enough.
func (s *leases) releaseLeft(ctx context.Context) error {
	rows, err := s.p.state.Leases(ctx)
	if err != nil {
		return err
	}
	for _, row := range rows {
		done := make(chan struct{})
		s.wg.Add(1)
		go func() {
			defer s.wg.Done()
			defer close(done)
			s.recordEnd(row, s.letGo(row), "the server had ended while it was held")
		}()
		select {
		case <-done:
		case <-time.After(2 * time.Second):
		}
	}
	return nil
}
