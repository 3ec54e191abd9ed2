package host

import (
	"cmp"
	"context"
	"slices"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/store"
)

// One place at a time acts in an area that asks for it: a panel, whoever is signed in
// there, or a person at no panel. It takes control, is asked for it, hands it over or
// gives it up. A place that nobody is at keeps it only until another takes it.

const (
	// leftAfter is how long a place may be without a page before it counts as left: a
	// link that is cut for a moment costs nobody control.
	leftAfter = 15 * time.Second
	// askedFor is how long asking for control lasts without an answer.
	askedFor = 2 * time.Minute
)

// control is who has which area of the release in hand.
type control struct {
	mu     sync.Mutex
	held   map[string]store.Control // by area; as on disk
	asked  map[string]controlAsk    // by area
	asks   int64                    // counts askings
	there  map[string]int           // pages of people, by place
	left   map[string]time.Time     // when the last page of a place went
	opened time.Time
}

type controlAsk struct {
	number int64
	place  string
	who    Actor
	at     time.Time
}

// AreaControl is an area in which one place at a time acts, as somebody sees it.
type AreaControl struct {
	Area   string         `json:"area"`
	Name   string         `json:"name"`
	Covers []string       `json:"covers" doc:"ids of the areas that are taken with it, itself among them"`
	Holder *ControlHolder `json:"holder" doc:"null while nobody has it"`
	Asks   *ControlAsk    `json:"asks" doc:"who asks for it; null for nobody"`
	Acts   bool           `json:"acts" doc:"who sees this may operate there, and so take it"`
	Away   bool           `json:"away" doc:"and may take it away"`
}

// ControlHolder is the place that has an area.
type ControlHolder struct {
	Name  string `json:"name" doc:"who took it"`
	Panel string `json:"panel" doc:"empty at no panel"`
	Since int64  `json:"since" doc:"milliseconds since 1970"`
	Mine  bool   `json:"mine"`
	There bool   `json:"there" doc:"somebody is there; otherwise anybody who may operate may take it"`
}

// ControlAsk is somebody who asks for control.
type ControlAsk struct {
	Number int64  `json:"number"`
	Name   string `json:"name"`
	Panel  string `json:"panel"`
	Mine   bool   `json:"mine"`
}

// ControlOrder is what is done about control of an area.
type ControlOrder struct {
	Do string `json:"do" enum:"take,ask,give,keep,leave,away" doc:"take it while it is free, or away by right; leave gives it up"`
	// Ask is the asking that is answered by give and keep.
	Ask    int64  `json:"ask,omitempty" doc:"number of the asking that give and keep answer"`
	Reason string `json:"reason,omitempty" maxLength:"1000" doc:"of taking it away"`
}

// placeOf is where somebody acts from, as control counts places.
func placeOf(who Actor) string {
	if who.Panel != "" {
		return "panel " + who.Panel
	}
	return "person " + who.ID
}

// placeName says who is where.
func placeName(name, panel string) string {
	if panel == "" {
		return name
	}
	return name + " (" + panel + ")"
}

func (c *control) load(ctx context.Context, state *store.State) error {
	list, err := state.Controls(ctx)
	if err != nil {
		return say.Errorf("reading who has control: %w", err)
	}
	c.held, c.asked = map[string]store.Control{}, map[string]controlAsk{}
	c.there, c.left, c.opened = map[string]int{}, map[string]time.Time{}, time.Now()
	for _, x := range list {
		c.held[x.Area] = x
	}
	return nil
}

// attended tells whether somebody is at a place, or was a moment ago; under mu.
func (c *control) attended(place string, now time.Time) bool {
	if c.there[place] > 0 {
		return true
	}
	left, known := c.left[place]
	if !known {
		left = c.opened
	}
	return now.Sub(left) < leftAfter
}

// asking is who asks for an area now; under mu.
func (c *control) asking(area string, now time.Time) (controlAsk, bool) {
	ask, ok := c.asked[area]
	return ask, ok && now.Sub(ask.at) < askedFor && c.attended(ask.place, now)
}

// Attend counts a page of a person in, for as long as leave isn't called.
func (p *Project) Attend(who Actor) (leave func()) {
	if who.Watches != "" || who.As != nil {
		return func() {}
	}
	c, place := &p.control, placeOf(who)
	c.mu.Lock()
	defer c.mu.Unlock()
	c.there[place]++
	return func() {
		c.mu.Lock()
		defer c.mu.Unlock()
		if c.there[place]--; c.there[place] == 0 {
			delete(c.there, place)
			c.left[place] = time.Now()
		}
	}
}

// controls refuses while another place, or none, has control of an area that asks for
// one. What is no person, as a tag that asks for a recipe, is at no place.
func (p *Project) controls(who Actor, area string) error {
	version := p.Released()
	if version == nil || who.Role != "" {
		return nil
	}
	if area = access.InControl(version.Site().Areas, area); area == "" {
		return nil
	}
	p.control.mu.Lock()
	held, ok := p.control.held[area]
	p.control.mu.Unlock()
	switch name := version.AreaName(area); {
	case !ok:
		return refused("nobody has control of %s: take it first, at the head of the Desk", name)
	case held.Place != placeOf(who):
		return refused("%s has control of %s: ask for it, at the head of the Desk", placeName(held.Name, held.Panel), name)
	}
	return nil
}

// Controls lists the areas in which one place at a time acts.
func (p *Project) Controls(ctx context.Context, who Actor) ([]AreaControl, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	out := []AreaControl{}
	version := p.Released()
	if version == nil {
		return out, nil
	}
	areas := version.Site().Areas
	covers := map[string][]string{}
	for _, a := range areas {
		under := access.InControl(areas, a.ID)
		covers[under] = append(covers[under], a.ID)
	}
	now, place := time.Now(), placeOf(who)
	p.control.mu.Lock()
	defer p.control.mu.Unlock()
	for _, a := range areas {
		if !a.Control {
			continue
		}
		x := AreaControl{Area: a.ID, Name: a.Name, Covers: covers[a.ID],
			Acts: p.Require(ctx, who, access.Operate, a.ID) == nil, Away: p.Require(ctx, who, access.Control, a.ID) == nil}
		if h, ok := p.control.held[a.ID]; ok {
			x.Holder = &ControlHolder{h.Name, h.Panel, h.At / 1e6, h.Place == place, p.control.attended(h.Place, now)}
		}
		if ask, ok := p.control.asking(a.ID, now); ok {
			x.Asks = &ControlAsk{ask.number, ask.who.Name, ask.who.Panel, ask.place == place}
		}
		out = append(out, x)
	}
	return out, nil
}

// OrderControl does something about control of an area of the release.
func (p *Project) OrderControl(ctx context.Context, who Actor, area string, order ControlOrder) error {
	right := access.Operate
	if order.Do == "away" {
		right = access.Control
	}
	if err := p.Require(ctx, who, right, area); err != nil {
		return err
	}
	version := p.Released()
	if version == nil || !version.HasArea(area) || access.InControl(version.Site().Areas, area) != area {
		return ErrNotFound
	}
	reason, err := tidyReason(order.Reason)
	if err != nil {
		return err
	}
	turn := &controlTurn{p: p, who: who, area: area, name: version.AreaName(area), order: order, reason: reason, now: time.Now()}
	p.control.mu.Lock()
	err = turn.do(ctx)
	p.control.mu.Unlock()
	if err != nil {
		return err
	}
	if turn.record.What != "" {
		p.runs.Door().Note(ctx, turn.record)
	}
	p.news.tell(News{Project: p.id, Revision: p.Revision(), Person: who.Name, Things: []string{"control/" + area}})
	return nil
}

// controlTurn is one order about control; its methods are called under mu.
type controlTurn struct {
	p      *Project
	who    Actor
	area   string
	name   string
	order  ControlOrder
	reason string
	now    time.Time
	record audit.Record // of what changed hands
}

func (t *controlTurn) do(ctx context.Context) error {
	c, mine := &t.p.control, placeOf(t.who)
	held, has := c.held[t.area]
	own := has && held.Place == mine
	switch t.order.Do {
	case "take":
		switch {
		case own:
			return refused("this place has control of %s already", t.name)
		case has && c.attended(held.Place, t.now):
			return refused("%s has control of %s: ask for it", placeName(held.Name, held.Panel), t.name)
		}
		return t.pass(ctx, mine, t.who, "")
	case "away":
		switch {
		case own:
			return refused("this place has control of %s already", t.name)
		case t.reason == "":
			return refused("taking control of %s away needs a reason", t.name)
		}
		return t.pass(ctx, mine, t.who, t.reason)
	case "ask":
		return t.ask(held, has, own)
	}
	if !own {
		return refused("this place has no control of %s", t.name)
	}
	if t.order.Do == "leave" {
		return t.leave(ctx)
	}
	ask, asked := c.asking(t.area, t.now)
	if !asked || ask.number != t.order.Ask {
		return refused("nobody asks for %s with that any more: look again", t.name)
	}
	if t.order.Do == "keep" {
		delete(c.asked, t.area)
		return nil
	}
	return t.pass(ctx, ask.place, ask.who, "handed over by "+t.who.Name)
}

func (t *controlTurn) ask(held store.Control, has, own bool) error {
	c := &t.p.control
	switch other, asked := c.asking(t.area, t.now); {
	case own:
		return refused("this place has control of %s already", t.name)
	case !has || !c.attended(held.Place, t.now):
		return refused("%s is free: take it", t.name)
	case asked && other.place != placeOf(t.who):
		return refused("%s asks for %s already", placeName(other.who.Name, other.who.Panel), t.name)
	}
	c.asks++
	c.asked[t.area] = controlAsk{c.asks, placeOf(t.who), t.who, t.now}
	return nil
}

// pass gives the area to a place.
func (t *controlTurn) pass(ctx context.Context, place string, who Actor, why string) error {
	c := &t.p.control
	before := c.held[t.area]
	next := store.Control{Area: t.area, Place: place, Panel: who.Panel, Name: who.Name, At: t.now.UnixNano()}
	if err := t.p.state.SetControl(ctx, next); err != nil {
		return err
	}
	c.held[t.area] = next
	delete(c.asked, t.area)
	t.keep(placeName(before.Name, before.Panel), placeName(who.Name, who.Panel), why)
	return nil
}

func (t *controlTurn) leave(ctx context.Context) error {
	c := &t.p.control
	before := c.held[t.area]
	if err := t.p.state.DropControl(ctx, t.area); err != nil {
		return err
	}
	delete(c.held, t.area)
	t.keep(placeName(before.Name, before.Panel), "", "given up")
	return nil
}

func (t *controlTurn) keep(old, now, why string) {
	t.record = audit.Record{At: t.now.UnixNano(), What: audit.Control, Person: t.who.ID, Name: t.who.Name, Panel: t.who.Panel, Path: t.name,
		Old: old, New: cmp.Or(now, "nobody"), Reason: why}
}

// uncontrolled gives up what a release no longer asks one place for.
func (p *Project) uncontrolled(ctx context.Context, areas []access.Area) {
	c := &p.control
	c.mu.Lock()
	defer c.mu.Unlock()
	for area := range c.held {
		if slices.ContainsFunc(areas, func(a access.Area) bool { return a.ID == area && a.Control }) {
			continue
		}
		if err := p.state.DropControl(ctx, area); err != nil {
			p.host.log.Error("control of an area that is no longer asked for is not given up", "project", p.id, "error", err)
			continue
		}
		delete(c.held, area)
	}
}
