package host

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"readyrail/internal/core/access"
	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/door"
	"readyrail/internal/store"
)

// DeliveryShown is a delivery and how it stands.
type DeliveryShown struct {
	Seq      int64            `json:"seq"`
	Book     string           `json:"book"`
	Recipe   string           `json:"recipe" doc:"id"`
	Title    string           `json:"title" doc:"name of the recipe, as it was then"`
	Version  int64            `json:"version"`
	Quantity float64          `json:"quantity" doc:"it was scaled to; 0 for none"`
	Target   string           `json:"target"`
	Place    string           `json:"place" doc:"as the target was called then"`
	Person   string           `json:"person"`
	Panel    string           `json:"panel"`
	Began    int64            `json:"began" doc:"milliseconds since 1970"`
	Ended    int64            `json:"ended" doc:"0 while it is under way"`
	State    string           `json:"state" enum:"running,delivered,refused,back,half"`
	Reason   string           `json:"reason" doc:"why it did not go through"`
	Open     bool             `json:"open" doc:"somebody must deal with what it left"`
	Settled  string           `json:"settled" doc:"who dealt with it, and how"`
	Fields   []DeliveredField `json:"fields,omitempty" doc:"of one delivery; lists leave them out"`

	Progress *DeliveryProgress `json:"progress,omitempty" doc:"while it is under way"`
}

// DeliveryProgress is how far a delivery is.
type DeliveryProgress struct {
	Phase    string `json:"phase" enum:",writing,reading,asking,returning"`
	Written  int    `json:"written" doc:"fields"`
	Read     int    `json:"read"`
	Of       int    `json:"of"`
	Requests int    `json:"requests"`
}

// deliveryOutcomes are how a delivery's state stands in the trail.
var deliveryOutcomes = map[door.State]string{door.Delivered: audit.Confirmed, door.Untouched: audit.Rejected, door.WasBack: audit.Rejected,
	door.Half: audit.Unknown}

func (p *Shelf) deliveryShown(d *store.Delivery, whole bool) (DeliveryShown, error) {
	out := DeliveryShown{
		Seq:      d.Seq,
		Book:     d.Book,
		Recipe:   d.Recipe,
		Title:    d.Title,
		Version:  d.Number,
		Quantity: d.Quantity,
		Target:   d.Target,
		Place:    d.Place,
		Person:   d.Name,
		Panel:    d.Panel,
		Began:    d.Began / 1e6,
		Ended:    d.Ended / 1e6,
		State:    d.State,
		Reason:   d.Reason,
		Open:     d.Open,
		Settled:  d.Settled,
	}
	if w := p.under.get(d.Seq); w != nil {
		g := w.progress
		out.Progress = &DeliveryProgress{g.Phase, g.Written, g.Read, g.Of, g.Requests}
	}
	if !whole {
		return out, nil
	}
	return out, json.Unmarshal([]byte(d.Doc), &out.Fields)
}

// mostDeliveries is how many deliveries one page has.
const mostDeliveries = 100

// Deliveries lists the deliveries of a book, newest first, from before a number;
// those to one target where it is named, and up to a time.
func (p *Shelf) Deliveries(
	ctx context.Context,
	who Actor,
	book string,
	target *string,
	before int64,
	upto time.Time,
) ([]DeliveryShown, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	q := store.DeliverySearch{Book: book, Target: target, Before: before, Most: mostDeliveries}
	if !upto.IsZero() {
		q.Upto = upto.UnixNano()
	}
	list, err := p.store.Deliveries(ctx, q)
	if err != nil {
		return nil, err
	}
	out := make([]DeliveryShown, len(list))
	for i := range list {
		if out[i], err = p.deliveryShown(&list[i], false); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Delivery returns one delivery with its fields.
func (p *Shelf) Delivery(ctx context.Context, who Actor, seq int64) (*DeliveryShown, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	d, err := p.delivery(ctx, seq)
	if err != nil {
		return nil, err
	}
	out, err := p.deliveryShown(&d, true)
	return &out, err
}

func (p *Shelf) delivery(ctx context.Context, seq int64) (store.Delivery, error) {
	d, err := p.store.Delivery(ctx, seq)
	if errors.Is(err, store.ErrNotFound) {
		err = ErrNotFound
	}
	return d, err
}

// TargetState is what a target runs by its last delivery, and how that stands.
type TargetState struct {
	Target   string           `json:"target"`
	Runs     *DeliveryShown   `json:"runs,omitempty" doc:"the last delivery that went through"`
	Changed  int              `json:"changed" doc:"fields that the target has otherwise by now"`
	Unknown  int              `json:"unknown" doc:"fields of which that cannot be told now"`
	UnderWay *DeliveryShown   `json:"underWay,omitempty"`
	Open     []DeliveryShown  `json:"open" doc:"what earlier deliveries left and nobody has dealt with"`
	Fields   []DeliveredField `json:"-"`
}

// TargetStates tells what each target of a book runs.
func (p *Shelf) TargetStates(ctx context.Context, who Actor, book string) ([]TargetState, error) {
	if err := p.Somewhere(ctx, who, access.View); err != nil {
		return nil, err
	}
	version := p.plant()
	b, err := findBook(version, book)
	if err != nil {
		return nil, err
	}
	out := []TargetState{}
	for _, target := range version.BookTargets(b) {
		kept, err := p.board.get(ctx, p, book, target)
		if err != nil {
			return nil, err
		}
		t := *kept
		t.Changed, t.Unknown, _ = p.differs(t.Fields)
		if w := p.under.to(book, target); w != nil {
			d, err := p.delivery(ctx, w.seq)
			if err != nil {
				return nil, err
			}
			shown, err := p.deliveryShown(&d, false)
			if err != nil {
				return nil, err
			}
			t.UnderWay = &shown
		}
		out = append(out, t)
	}
	return out, nil
}

// deliveredThere finds the last delivery to a target that went through.
func (p *Shelf) deliveredThere(ctx context.Context, book string, t *TargetState) error {
	list, err := p.store.Deliveries(
		ctx,
		store.DeliverySearch{Book: book, Target: &t.Target, State: string(door.Delivered), Most: 1},
	)
	if err != nil || len(list) == 0 {
		return err
	}
	shown, err := p.deliveryShown(&list[0], true)
	if err != nil {
		return err
	}
	t.Runs, t.Fields = &shown, shown.Fields
	shown.Fields = nil
	return nil
}

// differs counts the fields of a delivery that their tags have otherwise by now,
// and those of which that cannot be told, with why.
func (p *Shelf) differs(fields []DeliveredField) (changed, unknown int, why value.Quality) {
	if len(fields) == 0 {
		return 0, 0, value.Good
	}
	ids := make([]string, len(fields))
	for i, f := range fields {
		ids[i] = f.Tag
	}
	p.looks.keep(p.runs, p.program(), ids)
	version := p.plant()
	for i, r := range p.ReadTags(p.program(), ids) {
		tag, ok := version.Tag(ids[i])
		if !ok || r.Value.Quality.IsBad() {
			unknown, why = unknown+1, value.BadConfig
			if ok {
				why = r.Value.Quality
			}
			continue
		}
		want, err := value.Parse(tag.Type, fields[i].Raw[1])
		now, wrong := tag.ToRaw(r.Value)
		if err != nil || wrong != nil || !want.Same(now) {
			changed++
		}
	}
	return changed, unknown, why
}

// CancelDelivery gives up a delivery that is under way.
func (p *Shelf) CancelDelivery(ctx context.Context, who Actor, seq int64) error {
	d, err := p.mayDealWith(ctx, who, seq)
	if err != nil {
		return err
	}
	w := p.under.get(seq)
	if w == nil {
		return refused("the delivery of %s to %s is over", d.Title, d.Place)
	}
	w.cancel()
	return nil
}

// mayDealWith finds a delivery for who may send to its target.
func (p *Shelf) mayDealWith(ctx context.Context, who Actor, seq int64) (store.Delivery, error) {
	if err := p.Somewhere(ctx, who, access.Deliver); err != nil {
		return store.Delivery{}, err
	}
	d, err := p.delivery(ctx, seq)
	if err != nil {
		return d, err
	}
	area := ""
	if version := p.plant(); version != nil {
		if b, err := findBook(version, d.Book); err == nil {
			area = version.TargetArea(b, d.Target)
		}
	}
	return d, p.Require(ctx, who, access.Deliver, area)
}

// SettleDelivery deals with what a delivery left: it is accepted as it is, for a
// reason.
func (p *Shelf) SettleDelivery(ctx context.Context, who Actor, seq int64, reason string) error {
	d, err := p.mayDealWith(ctx, who, seq)
	if err != nil {
		return err
	}
	if reason, err = tidyReason(reason); err != nil {
		return err
	}
	if reason == "" {
		return refused("say why what the delivery left stays as it is")
	}
	return p.settle(ctx, who, d, "left as it is by "+who.Name+": "+reason, reason)
}

func (p *Shelf) settle(ctx context.Context, who Actor, d store.Delivery, how, reason string) error {
	done, err := p.store.Settle(ctx, d.Seq, how)
	if err != nil {
		return err
	}
	if !done {
		return refused("nothing is left of it to deal with")
	}
	p.note(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Delivery, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Path: d.Place, New: fmt.Sprintf("%s, version %d: %s", d.Title, d.Number, how), Reason: reason})
	p.deliveriesChanged(ctx)
	return nil
}

// settleBefore has what earlier deliveries left at a target dealt with by one
// that went through.
func (p *Shelf) settleBefore(ctx context.Context, by store.Delivery) {
	list, err := p.store.Unfinished(ctx)
	if err != nil {
		p.host.log.Error("what earlier deliveries left cannot be read", "project", p.id, "error", err)
		return
	}
	for _, d := range list {
		if d.Book == by.Book && d.Target == by.Target && d.Open && d.Seq != by.Seq {
			how := fmt.Sprintf("delivered anew by %s: %s, version %d", by.Name, by.Title, by.Number)
			if _, err := p.store.Settle(ctx, d.Seq, how); err != nil {
				p.host.log.Error("what an earlier delivery left is not settled", "project", p.id, "error", err)
			}
		}
	}
}

// deliveryNote keeps a delivery in the trail as one act.
func (p *Shelf) deliveryNote(ctx context.Context, who Actor, d store.Delivery, outcome, why string) {
	p.note(ctx, audit.Record{At: time.Now().UnixNano(), What: audit.Delivery, Person: who.ID, Name: who.Name, Panel: who.Panel,
		Path: d.Place, New: fmt.Sprintf("%s, version %d: %s", d.Title, d.Number, d.State), Outcome: outcome, Reason: why})
}

// PutBackDelivery puts back what was there before a delivery that ended
// half-way.
func (p *Shelf) PutBackDelivery(ctx context.Context, who Actor, seq int64, key string) error {
	d, err := p.mayDealWith(ctx, who, seq)
	if err != nil {
		return err
	}
	if !d.Open {
		return refused("nothing is left of it to deal with")
	}
	if p.sends() == nil {
		return refused("nothing is released: what the delivery left is dealt with by hand")
	}
	s := &shipment{
		version: p.plant(),
		program: p.program(),
		target:  d.Target,
		recipe:  store.Recipe{Name: d.Title},
		of:      store.RecipeVersion{Number: d.Number},
	}
	if s.book, err = findBook(s.version, d.Book); err != nil {
		return refused("the book of this delivery is not in the release any more: what it left is dealt with by hand")
	}
	var fields []DeliveredField
	if err := json.Unmarshal([]byte(d.Doc), &fields); err != nil {
		return err
	}
	guard := &backGuard{p: p, who: who, s: s}
	for _, f := range fields {
		t, ok := s.version.Tag(f.Tag)
		if !ok {
			return refused("the tag %s is not in the release any more: what the delivery left is dealt with by hand", f.Path)
		}
		part := &door.Part{Target: p.partTarget(s, t), Field: f.Field, State: f.State}
		part.Guard = guard
		for i, into := range []*value.Value{&part.Before, &part.Raw, &part.After} {
			if f.Raw[i] == "" && t.Type.Kind != value.STRING {
				continue
			}
			if *into, err = value.Parse(t.Type, f.Raw[i]); err != nil {
				return refused("%s is of another type by now: what the delivery left is dealt with by hand", f.Path)
			}
		}
		s.parts = append(s.parts, part)
	}
	err = p.runs.Door().
		PutBack(ctx, &door.Delivery{Who: through(who), Key: key, At: time.Now(), Name: s.title(), Place: s.place(), Guard: guard, Trial: p.trial,
			Parts: s.parts, Batch: p.runs.BatchOf(s.program, s.version), Told: func(door.Progress) {}})
	if err != nil {
		return err
	}
	return p.settle(ctx, who, d, "put back by "+who.Name, "")
}

// backGuard stands before putting back what was there: the version of the recipe
// does not matter any more.
type backGuard struct {
	p   *Shelf
	who Actor
	s   *shipment
}

func (g *backGuard) Current() error {
	if now := g.p.plant(); now != g.s.version {
		return refused("a new release runs: look again")
	}
	return nil
}

func (g *backGuard) Right(ctx context.Context) error {
	return g.p.Require(ctx, g.who, access.Deliver, g.s.version.TargetArea(g.s.book, g.s.target))
}

func (g *backGuard) Interlock() error { return g.p.sendingHolds(g.s.version, g.s.book, g.s.target) }

// brokenOff finds the deliveries that were under way as the server ended: they
// are open until somebody deals with them.
func (p *Shelf) brokenOff(ctx context.Context) error {
	list, err := p.store.Unfinished(ctx)
	if err != nil {
		return err
	}
	for _, d := range list {
		if d.Ended > 0 {
			continue
		}
		d.Ended, d.State, d.Open, d.Reason = time.Now().UnixNano(), string(door.Half), true, "the server ended while it was under way"
		if d.Doc, err = anySent(d.Doc); err != nil {
			return err
		}
		if err := p.store.PutDelivery(ctx, d); err != nil {
			return err
		}
		p.event(store.TroubleEntry, "delivery-broken", d.Place, fmt.Sprintf("%s, version %d", d.Title, d.Number), Actor{})
	}
	p.deliveriesChanged(ctx)
	return nil
}

// anySent is the record of the fields of a delivery that broke off: it was kept
// before the first value left, and each may have been sent since.
func anySent(doc string) (string, error) {
	var fields []DeliveredField
	if err := json.Unmarshal([]byte(doc), &fields); err != nil {
		return doc, say.Errorf("the record of a delivery cannot be read: %w", err)
	}
	for i := range fields {
		if fields[i].State == door.PartWaits {
			fields[i].State = door.PartUnknown
		}
	}
	out, err := json.Marshal(fields)
	return string(out), err
}

// deliveriesChanged counts anew what nobody has dealt with.
func (p *Shelf) deliveriesChanged(ctx context.Context) {
	p.board.changed()
	list, err := p.store.Unfinished(ctx)
	if err != nil {
		p.host.log.Error("what deliveries left cannot be read", "project", p.id, "error", err)
		return
	}
	open := int64(0)
	for _, d := range list {
		if d.Open {
			open++
		}
	}
	p.left.Store(open)
}
