package host

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/recipe"
	"readyrail/internal/core/say"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/run"
	"readyrail/internal/store"
)

// DeliveryAsk says what is to be delivered where.
type DeliveryAsk struct {
	Recipe   string  `json:"recipe" maxLength:"60"`
	Version  int64   `json:"version" minimum:"1"`
	Target   string  `json:"target" maxLength:"200" doc:"id of the equipment; empty for a book of single tags"`
	Quantity float64 `json:"quantity,omitempty" doc:"to scale to; 0 for the book's own"`
	Language string  `json:"language,omitempty" maxLength:"12" doc:"of what is asked; empty for the project's first"`
}

// DeliveryPlan is what a delivery would do, and what stands against it now.
type DeliveryPlan struct {
	Title    string          `json:"title" doc:"recipe and version"`
	Place    string          `json:"place"`
	Fields   []PlannedField  `json:"fields"`
	Changes  int             `json:"changes" doc:"fields that the target has otherwise now"`
	Problems []recipe.Breach `json:"problems"`
	Against  []say.Text      `json:"against" doc:"why it cannot be sent now; empty where it can"`
	Requests int             `json:"requests" doc:"that writing takes"`
	Holds    string          `json:"holds" doc:"the condition that holds; empty where the book has none"`
	Asks     *Asks           `json:"asks" doc:"what who asks is asked before it is sent"`
}

// PlannedField is one field of a plan.
type PlannedField struct {
	Field   string `json:"field"`
	Want    string `json:"want"`
	Has     string `json:"has" doc:"what the target has now"`
	Bad     string `json:"bad" doc:"why that is not known"`
	Changes bool   `json:"changes"`
}

// shipment is a delivery as it is put together.
type shipment struct {
	version *project.Project
	program run.Program
	book    *recipe.Book
	recipe  store.Recipe
	of      store.RecipeVersion
	target  string
	ask     DeliveryAsk
	parts   []*door.Part
	hand    *door.Part
	taken   *tag.Tag
	// problems are those of the values.
	problems []recipe.Breach
	against  []error
}

func (s *shipment) title() string { return fmt.Sprintf("%s, version %d", s.recipe.Name, s.of.Number) }

func (s *shipment) place() string { return s.version.TargetPlace(s.book, s.target) }

// ship puts a delivery together. What stands against it is said in it; an error
// says that there is no such thing.
func (p *Shelf) ship(ctx context.Context, who Actor, book string, ask DeliveryAsk) (*shipment, error) {
	s := &shipment{version: p.plant(), program: p.program(), ask: ask, target: ask.Target}
	var err error
	if s.book, err = findBook(s.version, book); err != nil {
		return nil, err
	}
	if !slices.Contains(s.version.BookTargets(s.book), ask.Target) {
		return nil, ErrNotFound
	}
	if s.recipe, s.of, err = p.recipeVersion(ctx, s.book, ask.Recipe, ask.Version); err != nil {
		return nil, err
	}
	values, changes, err := carried(s.book, s.of.Doc)
	if err != nil {
		return nil, err
	}
	if q := s.book.Quantity; q != nil && ask.Quantity > 0 {
		if values, err = s.book.Scale(values, ask.Quantity); err != nil {
			return nil, refused("%v", err)
		}
	}
	// What is not released is written to in a turn alone, and by nobody's recipe.
	if p.sends() == nil {
		s.stands("nothing is released yet: recipes are sent once the plant runs a release")
	}
	cells, problems := p.looker(s.version, s.book)(values)
	s.problems = problems
	if len(problems) > 0 {
		s.stands("%s does not hold: %s", s.recipe.Name, p.told(s.book, problems))
	}
	s.judged(changes)
	s.pack(p, cells)
	return s, nil
}

func (s *shipment) stands(format string, args ...any) {
	s.against = append(s.against, refused(format, args...))
}

// judged says whether the version may be sent at all.
func (s *shipment) judged(changes []recipe.Carried) {
	switch {
	case s.recipe.Gone > 0:
		s.stands("%s is deleted", s.recipe.Name)
	case s.of.State == store.WithdrawnVersion:
		s.stands("version %d of %s is withdrawn by %s: %s", s.of.Number, s.recipe.Name, s.of.JudgedBy, s.of.JudgedWhy)
	case s.book.Approved && s.of.State != store.ApprovedVersion:
		s.stands("version %d of %s is not approved", s.of.Number, s.recipe.Name)
	case s.book.Approved && recipe.Alters(changes):
		s.stands(
			"the book has changed since version %d of %s was approved: save it as a new version, and have that approved",
			s.of.Number,
			s.recipe.Name,
		)
	}
}

// pack makes the parts, in the order in which they are written.
func (s *shipment) pack(p *Shelf, cells []recipe.Cell) {
	order, ends := s.book.Order()
	turn := 0
	for n, i := range order {
		if n == ends[turn] {
			turn++
		}
		f := &s.book.Fields[i]
		t := s.version.BookTag(f, s.target)
		if t == nil {
			s.stands("%s goes to a tag that there is not", f.Called())
			continue
		}
		v, err := entryFor(t, cells[i].Value)
		if err != nil {
			if !cells[i].Value.Quality.IsBad() { // that one is a problem already
				s.stands("%s: %v", f.Called(), err)
			}
			continue
		}
		s.parts = append(s.parts, &door.Part{Target: p.partTarget(s, t), Field: f.ID, Turn: turn, Value: v})
	}
	h := s.book.Sending.Hand
	if h == nil {
		return
	}
	ready, taken := s.version.TargetTag(h.Ready, s.target), s.version.TargetTag(h.Taken, s.target)
	if ready == nil || taken == nil {
		s.stands("a tag of the handshake there is not")
		return
	}
	s.hand, s.taken = &door.Part{Target: p.partTarget(s, ready), Value: value.Bool(true), Before: value.Bool(false)}, taken
}

// entryFor is a field's value as the tag's engineering value.
func entryFor(t *tag.Tag, v value.Value) (value.Value, error) {
	if v.Quality.IsBad() {
		return v, refused("no value")
	}
	want := t.EngineeringType()
	switch {
	case v.Kind == want.Kind && v.Kind != value.STRING:
		return v.With(value.Good), nil
	case v.Kind.IsNumber() && want.Kind.IsNumber():
		return value.FromFloat(want.Kind, v.Float())
	}
	return value.Parse(want, v.Text())
}

func (p *Shelf) partTarget(s *shipment, t *tag.Tag) *door.Target {
	path, _ := s.version.Path(t.ID)
	return &door.Target{Tag: t, Path: path, Element: "recipe " + s.recipe.Name, Trial: p.trial,
		Read: func(id string) value.Value { return p.ReadTags(s.program, []string{id})[0].Value }}
}

// PlanDelivery says what a delivery would do.
func (p *Shelf) PlanDelivery(ctx context.Context, who Actor, book string, ask DeliveryAsk) (*DeliveryPlan, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	s, err := p.ship(ctx, who, book, ask)
	if err != nil {
		return nil, err
	}
	out := &DeliveryPlan{
		Title:    s.title(),
		Place:    s.place(),
		Fields:   make([]PlannedField, len(s.parts)),
		Problems: s.problems,
		Against:  []say.Text{},
		Asks:     p.asksOf(s.version, who, p.askedToSend(ctx, who, s), ask.Language),
	}
	guard := &deliveryGuard{p: p, who: who, s: s}
	against := append(slices.Clone(s.against), guard.Right(ctx), guard.Interlock(), p.handIdle(s))
	for _, err := range against {
		if err != nil {
			out.Against = append(out.Against, say.Text{Why: err})
		}
	}
	if s.book.Sending.When != "" && guard.Interlock() == nil {
		out.Holds = s.version.ShownBook(s.book).Sending.When
	}
	ids := make([]string, len(s.parts))
	for i, part := range s.parts {
		ids[i] = part.Tag.ID
	}
	p.looks.keep(p.runs, s.program, append(s.asked(), ids...))
	for i, r := range p.ReadTags(s.program, ids) {
		part := s.parts[i]
		f := PlannedField{Field: part.Field, Want: part.Tag.Show(part.Value, true)}
		if r.Value.Quality.IsBad() {
			f.Bad = string(r.Value.Quality.Reason())
		} else {
			f.Has, f.Changes = part.Tag.Show(r.Value, true), !sameAt(part.Tag, part.Value, r.Value)
		}
		if f.Changes {
			out.Changes++
		}
		out.Fields[i] = f
	}
	batch := p.runs.BatchOf(s.program, s.version)
	for _, turn := range door.Turns(s.parts) {
		out.Requests += len(batch.Requests(turn))
	}
	return out, nil
}

// asked are the tags that are asked before it is sent, beside those of the fields.
func (s *shipment) asked() []string {
	out := formula.References(s.version.SendingWhen(s.book, s.target))
	if s.taken != nil {
		out = append(out, s.taken.ID)
	}
	return out
}

// handIdle refuses while the controller still answers an earlier request.
func (p *Shelf) handIdle(s *shipment) error {
	if s.hand == nil {
		return nil
	}
	path, _ := s.version.Path(s.taken.ID)
	switch v := p.ReadTags(s.program, []string{s.taken.ID})[0].Value; {
	case v.Quality.IsBad():
		return refused("whether the controller is ready for a recipe cannot be told: %s, %s", path, v.Quality.Reason())
	case v.Bool():
		return refused("the controller has not finished with the recipe before: %s is on", path)
	}
	return nil
}

// deliveryGuard stands before a delivery.
type deliveryGuard struct {
	p   *Shelf
	who Actor
	s   *shipment
}

// Current refuses once the book, a tag of it or its device is no longer what it
// was, or the version is no longer one that may be sent.
func (g *deliveryGuard) Current() error {
	now := g.p.plant()
	changed := refused("a new release changed this book: look again")
	if now != g.s.version {
		if g.p.program() != g.s.program || !sameDoc(now.Books[g.s.book.ID], g.s.book) {
			return changed
		}
		for _, part := range g.s.parts {
			t, ok := now.Tag(part.Tag.ID)
			if !ok || !sameDoc(t, part.Tag) || !sameDoc(now.Devices[t.Device], g.s.version.Devices[t.Device]) {
				return changed
			}
		}
	}
	v, err := g.p.store.Version(context.Background(), g.s.recipe.ID, g.s.of.Number)
	if err != nil {
		return err
	}
	if v.State != g.s.of.State {
		return refused("version %d of %s is %s now", v.Number, g.s.recipe.Name, v.State)
	}
	return nil
}

func sameDoc(one, other any) bool {
	a, wrong := json.Marshal(one)
	b, err := json.Marshal(other)
	return wrong == nil && err == nil && string(a) == string(b)
}

func (g *deliveryGuard) Right(ctx context.Context) error {
	area := g.s.version.TargetArea(g.s.book, g.s.target)
	if err := g.p.Require(ctx, g.who, access.Deliver, area); err != nil || g.p.trial {
		return err
	}
	return g.p.controls(g.who, area)
}

func (g *deliveryGuard) Interlock() error { return g.p.sendingHolds(g.s.version, g.s.book, g.s.target) }

// DeliveryOrder is a delivery that a person orders.
type DeliveryOrder struct {
	DeliveryAsk
	Key string
	Given
}

// under are the deliveries that are under way, by their numbers.
type under struct {
	working sync.WaitGroup
	mu      sync.Mutex
	by      map[int64]*underWay
}

type underWay struct {
	seq          int64
	book, target string
	by           door.Who
	progress     door.Progress
	cancel       func()
}

// share is how much is done, in %: each field is written and read back.
func (w *underWay) share() float64 {
	if w == nil || w.progress.Of == 0 {
		return 0
	}
	return 100 * float64(w.progress.Written+w.progress.Read) / float64(2*w.progress.Of)
}

// Deliver begins a delivery and returns its number once it is under way; how it
// goes on is asked for by the number. An error is a refusal: nothing was sent.
func (p *Shelf) Deliver(ctx context.Context, who Actor, book string, order DeliveryOrder) (int64, error) {
	if err := p.Somewhere(ctx, who, access.Deliver); err != nil {
		return 0, err
	}
	reason, err := tidyReason(order.Reason)
	if err != nil {
		return 0, err
	}
	refuse := func(s *shipment, err error) error {
		c := door.Command{Who: through(who), Key: order.Key, Reason: reason}
		if s == nil {
			return p.refuse(ctx, c, "", "recipe", err)
		}
		return p.refuse(ctx, c, s.place(), s.title(), err)
	}
	s, err := p.ship(ctx, who, book, order.DeliveryAsk)
	if err != nil {
		return 0, err
	}
	if len(s.against) > 0 {
		return 0, refuse(s, s.against[0])
	}
	asked := p.askedToSend(ctx, who, s)
	sign := &undersigned{p.Project, s.version, who, asked, order.Given, access.Deliver,
		[]string{s.version.TargetArea(s.book, s.target)}, s.book.Name}
	if err := sign.reason(); err != nil {
		return 0, refuse(s, err)
	}
	cancel := make(chan struct{})
	r := &dispatch{
		p:        p,
		s:        s,
		who:      who,
		reason:   reason,
		key:      order.Key,
		admitted: make(chan int64, 1),
		cancel:   sync.OnceFunc(func() { close(cancel) }),
	}
	d := r.delivery(cancel)
	d.Ask = sign.check
	failed := make(chan error, 1)
	p.under.working.Go(func() { failed <- r.carry(context.WithoutCancel(ctx), d) })
	select {
	case seq := <-r.admitted:
		return seq, nil
	case err := <-failed:
		select {
		case seq := <-r.admitted:
			return seq, nil
		default:
			return 0, err
		}
	}
}

// askedToSend is what is asked of who sends. What is no person is asked what the
// book itself asks: the rules are about people.
func (p *Shelf) askedToSend(ctx context.Context, who Actor, s *shipment) project.Asked {
	asked := s.version.AskedToSend(s.book, s.target, p.rolesOf(ctx, who, access.Deliver))
	if who.Role != "" {
		return asked.Itself()
	}
	return asked
}

// carry carries the delivery out and ends its record, also where it panics.
func (r *dispatch) carry(ctx context.Context, d *door.Delivery) (err error) {
	state, why := door.Half, "the server failed on the way: its log says more"
	ended := false
	r.p.bounded("delivery of a recipe", func() {
		state, why, err = r.p.runs.Door().Deliver(ctx, d)
		ended = true
	})
	if !ended {
		err = refused("%s", why)
		if r.row.Seq > 0 {
			err = errors.Join(err, r.keep(ctx, state, why))
		}
	}
	r.over(state, why)
	return err
}

// dispatch is one delivery under way, with its record.
type dispatch struct {
	p        *Shelf
	s        *shipment
	who      Actor
	reason   string
	key      string
	admitted chan int64
	cancel   func()
	row      store.Delivery
}

func (r *dispatch) delivery(cancel <-chan struct{}) *door.Delivery {
	p, s := r.p, r.s
	guard := &deliveryGuard{p: p, who: r.who, s: s}
	d := &door.Delivery{Who: through(r.who), Key: r.key, At: time.Now(), Reason: r.reason, Name: s.title(), Place: s.place(), Guard: guard,
		Trial: p.trial, Parts: s.parts, Batch: p.runs.BatchOf(s.program, s.version), PutsBack: s.book.Sending.PutBack,
		Cancel: cancel, Keep: r.keep, Told: r.told}
	for _, part := range s.parts {
		part.Guard = guard
	}
	if s.hand != nil {
		s.hand.Guard = guard
		patience := time.Duration(s.book.Sending.Hand.Seconds * float64(time.Second))
		d.Hand = &door.Hand{Ready: s.hand, Idle: func() error { return p.handIdle(s) },
			Answer: func(ctx context.Context) error {
				return p.answered(ctx, s.program, Request{s.taken.ID, value.Bool(true), patience})
			}}
	}
	return d
}

// DeliveredField is one field in the record of a delivery.
type DeliveredField struct {
	Field  string         `json:"field"`
	Name   string         `json:"name" doc:"as it was called then"`
	Tag    string         `json:"tag" doc:"id"`
	Path   string         `json:"path"`
	Before string         `json:"before" doc:"what was there, as people read it"`
	Want   string         `json:"want"`
	After  string         `json:"after" doc:"as it was read last; empty where it was not"`
	State  door.PartState `json:"state" enum:"waits,unknown,sent,confirmed,differs,refused,back,foreign"`
	// Raw are what was there, what was written and what was read last, as the
	// device has them; empty where nothing was.
	Raw [3]string `json:"raw" doc:"before, written and read last, as the device has them"`
}

// fields is the record of the parts as they stand.
func (r *dispatch) fields() []DeliveredField {
	out := make([]DeliveredField, len(r.s.parts))
	for i, part := range r.s.parts {
		f, _ := r.s.book.FindField(part.Field)
		shown := func(raw value.Value) (string, string) {
			if raw.Kind == value.None || raw.Quality.IsBad() {
				return "", ""
			}
			return part.Tag.Show(part.Tag.ToEngineering(raw), true), raw.Text()
		}
		out[i] = DeliveredField{Field: part.Field, Name: f.Called(), Tag: part.Tag.ID, Path: part.Path, State: part.State}
		if f.Group != "" {
			out[i].Name = f.Group + " › " + f.Called()
		}
		out[i].Before, out[i].Raw[0] = shown(part.Before)
		out[i].Want, out[i].Raw[1] = shown(part.Raw)
		out[i].After, out[i].Raw[2] = shown(part.After)
	}
	return out
}

// keep keeps the record: first before anything is sent.
func (r *dispatch) keep(ctx context.Context, state door.State, why string) error {
	doc, err := json.Marshal(r.fields())
	if err != nil {
		return err
	}
	records := r.p.store
	r.row.State, r.row.Reason, r.row.Doc = string(state), strings.TrimSpace(why), string(doc)
	if state != door.Running {
		r.row.Ended, r.row.Open = time.Now().UnixNano(), state == door.Half
	}
	if r.row.Seq > 0 {
		return records.PutDelivery(ctx, r.row)
	}
	s := r.s
	r.row.Key, r.row.Book, r.row.Recipe, r.row.Title, r.row.Number = r.key, s.book.ID, s.recipe.ID, s.recipe.Name, s.of.Number
	r.row.Quantity, r.row.Target, r.row.Place = s.ask.Quantity, s.target, s.place()
	r.row.Person, r.row.Name, r.row.Panel, r.row.Began = r.who.ID, r.who.Name, r.who.Panel, time.Now().UnixNano()
	if r.row.Seq, err = records.BeginDelivery(ctx, r.row); err != nil {
		return err
	}
	r.told(door.Progress{})
	r.admitted <- r.row.Seq
	return nil
}

func (r *dispatch) told(progress door.Progress) {
	r.p.under.put(r.row.Seq, &underWay{r.row.Seq, r.row.Book, r.row.Target, through(r.who), progress, r.cancel})
}

func (u *under) put(seq int64, w *underWay) {
	u.mu.Lock()
	defer u.mu.Unlock()
	if u.by == nil {
		u.by = map[int64]*underWay{}
	}
	u.by[seq] = w
}

func (u *under) get(seq int64) *underWay {
	u.mu.Lock()
	defer u.mu.Unlock()
	return u.by[seq]
}

// to is what is under way to a target of a book; nil for nothing.
func (u *under) to(book, target string) *underWay {
	u.mu.Lock()
	defer u.mu.Unlock()
	for _, w := range u.by {
		if w.book == book && w.target == target {
			return w
		}
	}
	return nil
}

// cancelAll gives up what is under way.
func (u *under) cancelAll() {
	u.mu.Lock()
	defer u.mu.Unlock()
	for _, w := range u.by {
		w.cancel()
	}
}

// any tells whether something is under way for whoever matches.
func (u *under) any(match func(door.Who) bool) bool {
	u.mu.Lock()
	defer u.mu.Unlock()
	for _, w := range u.by {
		if match(w.by) {
			return true
		}
	}
	return false
}

func (u *under) drop(seq int64) {
	u.mu.Lock()
	defer u.mu.Unlock()
	delete(u.by, seq)
}

// over ends a delivery that was admitted: it stands in the trail as one act, and
// what was left before it at its target is dealt with by its going through.
func (r *dispatch) over(state door.State, why string) {
	if r.row.Seq == 0 {
		return
	}
	ctx := context.Background()
	if state == door.Delivered {
		r.p.settleBefore(ctx, r.row)
	}
	r.p.deliveryNote(ctx, r.who, r.row, deliveryOutcomes[state], why)
	r.p.deliveriesChanged(ctx)
	r.p.under.drop(r.row.Seq)
}
