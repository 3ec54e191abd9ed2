package door

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"readyrail/internal/core/audit"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

// A delivery is a set of values that go to one place together: a recipe on its
// way to a device. It is one command at the door.

// Delivery is what is to be delivered.
type Delivery struct {
	Who    Who
	Key    string
	At     time.Time
	Reason string
	Ask    func(ctx context.Context) (audit.Witness, error)
	// Name is what is delivered, for the trail: "Larch 50, version 3". Place is
	// where: one delivery a place at a time.
	Name, Place string
	Guard       Guard
	// Trial is of one: its parts are, it is in no trail, and its place is not the
	// plant's.
	Trial bool
	// Parts are in the order in which they are written; those of one turn go in
	// as few requests as their devices allow.
	Parts []*Part
	Batch Batch
	// Hand ends the delivery; nil for none.
	Hand *Hand
	// PutsBack puts back what was there where the delivery fails.
	PutsBack bool
	// Cancel is closed by whoever gives it up.
	Cancel <-chan struct{}
	// Keep keeps how it stands. It is called before the first value leaves, when
	// an error ends the delivery, and at its end.
	Keep func(ctx context.Context, state State, why string) error
	// Told is told how far it is.
	Told func(Progress)
}

// Part is one value of a delivery.
type Part struct {
	*Target
	Field string // for the record
	Turn  int
	Value value.Value // engineering

	Raw    value.Value // what is written
	Before value.Value // raw, as it was there before
	After  value.Value // raw, as it was read last
	State  PartState
}

// PartState is how a part of a delivery stands.
type PartState string

// The states of a part.
const (
	PartWaits     PartState = "waits"     // nothing of it was sent
	PartUnknown   PartState = "unknown"   // sent, perhaps, with no answer
	PartSent      PartState = "sent"      // taken, not yet read back
	PartConfirmed PartState = "confirmed" // read back as written
	PartDiffers   PartState = "differs"   // read back otherwise
	PartRefused   PartState = "refused"   // the device did not take it
	PartBack      PartState = "back"      // as it was before the delivery, read back
	PartForeign   PartState = "foreign"   // somebody else wrote it meanwhile
)

// Hand is the request by which the controller is asked to take the values over.
type Hand struct {
	Ready *Part
	// Idle refuses while the controller still answers the request before.
	Idle func() error
	// Answer waits until the controller has taken the values over.
	Answer func(ctx context.Context) error
}

// State is how a delivery stands.
type State string

// The states of a delivery.
const (
	Running   State = "running"
	Delivered State = "delivered"
	Untouched State = "refused" // nothing was sent
	WasBack   State = "back"    // failed, and what was there before is there again
	Half      State = "half"    // failed, and somebody must deal with what it left
)

// Progress is how far a delivery is.
type Progress struct {
	Phase    string // writing, reading, asking, returning
	Written  int    // parts
	Read     int
	Of       int
	Requests int // that writing takes
}

// told is what the trail has of the delivery as a whole.
func (v *Delivery) told() *Target { return &Target{Element: v.Name, Path: v.Place, Trial: v.Trial} }

// Batch is the way of several values to where they go.
type Batch interface {
	// Requests parts values that go together: the numbers of those of each
	// request.
	Requests(parts []*Part) [][]int
	// Write writes raw values by one request. Its errors are those of a Sink.
	Write(ctx context.Context, parts []*Part, raw []value.Value) error
	// Read reads parts, raw, from where they are written.
	Read(ctx context.Context, parts []*Part) ([]value.Value, error)
}

// backWithin is how long after a failure what was there may be put back by
// itself. Later a person chooses.
const backWithin = 10 * time.Second

var errCancelled = &Refused{say.New("it was given up")}

// Deliver carries out a delivery and says how it ended, and why where it did not
// go through. An error is a refusal before anything was sent.
func (d *Door) Deliver(ctx context.Context, v *Delivery) (State, string, error) {
	c := &Command{Who: v.Who, Key: v.Key, At: v.At, Reason: v.Reason, Ask: v.Ask, Typed: v.Name}
	release, err := d.admit(ctx, v, c)
	if err != nil {
		return Untouched, err.Error(), d.refuse(ctx, c, v.told(), err)
	}
	defer release()
	state, why := Untouched, ""
	all := v.all()
	intents, err := d.intendAll(ctx, c, all, c.Key, func(p *Part) (old, next value.Value) { return p.Before, p.Raw })
	if err != nil {
		why = err.Error()
	} else if why = d.carry(ctx, v); why == "" {
		state = Delivered
		d.concludeAll(ctx, intents, all, why)
	} else {
		d.concludeAll(ctx, intents, all, why)
		state, why = d.failed(ctx, v, c, why)
	}
	if kept := v.Keep(context.WithoutCancel(ctx), state, why); kept != nil {
		d.log.Error("how a delivery ended could not be kept", "delivery", v.Name, "place", v.Place, "error", kept)
	}
	return state, why, err
}

// all are the parts and the request after them.
func (v *Delivery) all() []*Part {
	if v.Hand == nil {
		return v.Parts
	}
	return append(slices.Clip(v.Parts), v.Hand.Ready)
}

// admit does everything before the intent: it takes the key, the place and the
// turns of all tags, asks what is asked, checks every value, and reads what is
// there.
func (d *Door) admit(ctx context.Context, v *Delivery, c *Command) (release func(), err error) {
	var undo []func()
	back := func() {
		for _, f := range slices.Backward(undo) {
			f()
		}
	}
	defer func() {
		if err != nil {
			back()
		}
	}()
	if len(v.Parts) == 0 {
		return nil, Refusing("none of the fields goes anywhere")
	}
	if err := d.enter(); err != nil {
		return nil, err
	}
	undo = append(undo, d.wg.Done)
	if err := d.begin(ctx, c, Step{Target: &Target{Guard: v.Guard}}); err != nil {
		return nil, err
	}
	undo = append(undo, func() { d.finish(c.Key) })
	// A signature takes its time: the command is as young as its end.
	if c.Ask != nil {
		c.At = time.Now()
	}
	if err := d.takePlace(lane(v.Place, v.Trial)); err != nil {
		return nil, err
	}
	undo = append(undo, func() { d.leavePlace(lane(v.Place, v.Trial)) })
	over, err := d.allTurns(ctx, v)
	undo = append(undo, over)
	if err != nil {
		return nil, err
	}
	if err := d.checkParts(ctx, v); err != nil {
		return nil, err
	}
	before, err := v.Batch.Read(ctx, v.Parts)
	if err != nil {
		return nil, Refusing("what is there now cannot be read: %v", err)
	}
	for i, p := range v.Parts {
		if before[i].Quality.IsBad() {
			return nil, Refusing("what %s has now cannot be read: %s", p.Path, before[i].Quality.Reason())
		}
		p.Before, p.State = before[i], PartWaits
	}
	// Reading may have taken a while: everything is asked again, right before.
	if err := d.lastOf(ctx, v); err != nil {
		return nil, err
	}
	if err := v.Keep(ctx, Running, ""); err != nil {
		return nil, say.Errorf("this cannot be recorded, so it was not done. %w", err)
	}
	return back, nil
}

// takePlace takes a place for one delivery.
func (d *Door) takePlace(place string) error {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.places[place] {
		return Refusing("another delivery to %s is under way", place)
	}
	d.places[place] = true
	return nil
}

func (d *Door) leavePlace(place string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.places, place)
}

// checkParts refuses where a value does not fit its tag, or somebody holds one.
func (d *Door) checkParts(ctx context.Context, v *Delivery) (err error) {
	if err := mayDeliver(ctx, v.Guard); err != nil {
		return err
	}
	if v.Hand != nil {
		if err := v.Hand.Idle(); err != nil {
			return err
		}
	}
	for _, p := range v.all() {
		if p.Raw, err = p.fits(p.Value); err != nil {
			return err
		}
		p.State = PartWaits
		if err := d.unheld(p.Target, p.Value); err != nil {
			return err
		}
	}
	return nil
}

func mayDeliver(ctx context.Context, g Guard) error { return (&Target{Guard: g}).may(ctx) }

// lastOf is what is asked right before values leave.
func (d *Door) lastOf(ctx context.Context, v *Delivery) error {
	if err := mayDeliver(ctx, v.Guard); err != nil {
		return err
	}
	select {
	case <-v.Cancel:
		return errCancelled
	case <-d.quit:
		return errEnding
	default:
		return nil
	}
}

// allTurns waits for the turn of every tag of a delivery, in one order for all,
// so that two of them never wait for one another.
func (d *Door) allTurns(ctx context.Context, v *Delivery) (over func(), err error) {
	all := v.all()
	ids := make([]string, len(all))
	for i, p := range all {
		ids[i] = p.lane()
	}
	slices.Sort(ids)
	var ends []func()
	over = func() {
		for _, end := range ends {
			end()
		}
	}
	for i, id := range ids {
		if i > 0 && id == ids[i-1] {
			return over, Refusing("two fields go to one tag")
		}
		end, err := d.turns.wait(ctx, id)
		if err != nil {
			return over, err
		}
		ends = append(ends, end)
	}
	return over, nil
}

// carry writes every part, reads every one back, and asks the controller to take
// them over; it returns why that failed.
func (d *Door) carry(ctx context.Context, v *Delivery) (why string) {
	// The order of intents is on disk: it is asked once more.
	if err := d.lastOf(ctx, v); err != nil {
		return err.Error()
	}
	done := Progress{Phase: "writing", Of: len(v.Parts)}
	turns := Turns(v.Parts)
	requests := make([][][]int, len(turns))
	for i, turn := range turns {
		requests[i] = v.Batch.Requests(turn)
		done.Requests += len(requests[i])
	}
	v.Told(done)
	for i, turn := range turns {
		for _, request := range requests[i] {
			parts := chosen(turn, request)
			if done.Written > 0 {
				if err := d.lastOf(ctx, v); err != nil {
					return err.Error()
				}
			}
			if err := writeParts(ctx, v.Batch, parts, func(p *Part) value.Value { return p.Raw }); err != nil {
				return err.Error()
			}
			done.Written += len(parts)
			v.Told(done)
		}
	}
	done.Phase = "reading"
	v.Told(done)
	if why := readParts(ctx, v.Batch, v.Parts); why != "" {
		return why
	}
	done.Read = len(v.Parts)
	v.Told(done)
	if v.Hand == nil {
		return ""
	}
	if err := d.lastOf(ctx, v); err != nil {
		return err.Error()
	}
	done.Phase = "asking"
	v.Told(done)
	return d.handOver(ctx, v)
}

// handOver asks the controller to take the values over, waits until it has, and
// takes the request back.
func (d *Door) handOver(ctx context.Context, v *Delivery) (why string) {
	ready := v.Hand.Ready
	if err := writeParts(ctx, v.Batch, []*Part{ready}, func(p *Part) value.Value { return p.Raw }); err != nil {
		return "asking the controller to take the values over: " + err.Error()
	}
	asking, end := context.WithCancel(context.WithoutCancel(ctx))
	defer end()
	go func() {
		select {
		case <-v.Cancel:
			end()
		case <-d.quit:
			end()
		case <-asking.Done():
		}
	}()
	if err := v.Hand.Answer(asking); errors.Is(err, context.Canceled) {
		if err := d.lastOf(ctx, v); err != nil {
			return err.Error()
		}
		return errCancelled.Error()
	} else if err != nil {
		return err.Error()
	}
	v.unask(ctx)
	ready.State = PartConfirmed
	return ""
}

// asked tells whether the request may have reached the controller.
func (v *Delivery) asked() bool {
	return v.Hand != nil && v.Hand.Ready.State != PartWaits && v.Hand.Ready.State != PartRefused
}

// unask takes the request back, where it was made. A controller that takes it
// back itself has done so; where the link is gone, the controller's own watch
// over the request has to.
func (v *Delivery) unask(ctx context.Context) {
	if !v.asked() {
		return
	}
	if raw, err := v.Hand.Ready.Tag.ToRaw(value.Bool(false)); err == nil {
		_ = v.Batch.Write(ctx, []*Part{v.Hand.Ready}, []value.Value{raw})
	}
}

// Turns are the parts of each turn, in the order of their turns.
func Turns(parts []*Part) [][]*Part {
	var out [][]*Part
	for i, p := range parts {
		if i == 0 || p.Turn != parts[i-1].Turn {
			out = append(out, nil)
		}
		out[len(out)-1] = append(out[len(out)-1], p)
	}
	return out
}

func chosen(parts []*Part, which []int) []*Part {
	out := make([]*Part, len(which))
	for i, n := range which {
		out[i] = parts[n]
	}
	return out
}

// writeParts writes values by one request and notes what became of them.
func writeParts(ctx context.Context, b Batch, parts []*Part, raw func(*Part) value.Value) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = say.Errorf("the way to it failed: %v", p)
		}
		state := PartSent
		switch {
		case errors.Is(err, link.ErrNotSent), errors.Is(err, ErrGone):
			state = PartWaits
		case errors.Is(err, link.ErrRefused):
			state = PartRefused
		case err != nil:
			state = PartUnknown
			err = say.Errorf("%s: sent, but no answer came: %w", parts[0].Path, err)
		}
		for _, p := range parts {
			p.State = state
		}
	}()
	values := make([]value.Value, len(parts))
	for i, p := range parts {
		values[i] = raw(p)
	}
	return b.Write(ctx, parts, values)
}

// readParts reads every part back; it returns what did not come back as it was
// written.
func readParts(ctx context.Context, b Batch, parts []*Part) (why string) {
	back, err := b.Read(ctx, parts)
	if err != nil {
		return "it could not be read back: " + err.Error()
	}
	var wrong []string
	for i, p := range parts {
		p.After = back[i]
		switch {
		case back[i].Quality.IsBad():
			p.State = PartUnknown
			wrong = append(wrong, p.Path+" could not be read back")
		case back[i].Same(p.Raw):
			p.State = PartConfirmed
		default:
			p.State = PartDiffers
			wrong = append(wrong, p.Path+" read back as "+p.Tag.Show(p.Tag.ToEngineering(back[i]), true))
		}
	}
	return someOf(wrong)
}

// someOf joins sentences, of many the first.
func someOf(list []string) string {
	const most = 3
	if over := len(list) - most; over > 0 {
		return fmt.Sprintf("%s, and %d more", strings.Join(list[:most], ", "), over)
	}
	return strings.Join(list, ", ")
}

// failed does what is to be done after a failure: nothing where nothing was
// sent, else what was there is put back where that is wanted and can be.
func (d *Door) failed(ctx context.Context, v *Delivery, c *Command, why string) (State, string) {
	ctx = context.WithoutCancel(ctx)
	if !slices.ContainsFunc(v.Parts, func(p *Part) bool { return p.State != PartWaits && p.State != PartRefused }) {
		return Untouched, why
	}
	if err := v.Keep(ctx, Running, why); err != nil {
		d.log.Error("that a delivery failed could not be kept", "delivery", v.Name, "place", v.Place, "error", err)
	}
	if !v.PutsBack {
		v.unask(ctx)
		return Half, why
	}
	v.Told(Progress{Phase: "returning", Of: len(v.Parts)})
	until := time.Now().Add(backWithin)
	for n := 1; ; n++ {
		again, err := d.putBack(ctx, v, c, n)
		switch {
		case err == nil && v.asked():
			return Half, why + "; what was there is back, but whether the controller took the values over is not known"
		case err == nil:
			return WasBack, why
		}
		if !again || time.Now().After(until) {
			return Half, why + "; it was not put back: " + err.Error()
		}
		select {
		case <-time.After(250 * time.Millisecond):
		case <-d.quit:
			return Half, why + "; it was not put back: the server is ending"
		}
	}
}

// PutBack puts back what was there before a delivery that ended half-way, as a
// command of its own: the parts know what was there and what was written.
func (d *Door) PutBack(ctx context.Context, v *Delivery) error {
	c := &Command{Who: v.Who, Key: v.Key, At: v.At, Reason: v.Reason, Ask: v.Ask, Typed: "put back " + v.Name}
	refuse := func(err error) error { return d.refuse(ctx, c, v.told(), err) }
	if err := d.enter(); err != nil {
		return refuse(err)
	}
	defer d.wg.Done()
	if err := d.begin(ctx, c, Step{Target: &Target{Guard: v.Guard}}); err != nil {
		return refuse(err)
	}
	defer d.finish(c.Key)
	over, err := d.allTurns(ctx, v)
	defer over()
	if err != nil {
		return refuse(err)
	}
	for _, p := range v.Parts {
		if err := d.unheld(p.Target, p.Tag.ToEngineering(p.Before)); err != nil {
			return refuse(err)
		}
	}
	if _, err := d.putBack(ctx, v, c, 0); err != nil {
		return refuse(err)
	}
	return nil
}

// putBack writes what was there before the delivery, if everything is still as
// the delivery wrote it; otherwise it writes nothing. again tells that it may
// be tried once more, as nothing was written.
func (d *Door) putBack(ctx context.Context, v *Delivery, c *Command, n int) (again bool, err error) {
	if err := mayDeliver(ctx, v.Guard); err != nil {
		return true, err
	}
	now, err := v.Batch.Read(ctx, v.Parts)
	if err != nil {
		return true, err
	}
	var changed []*Part
	for i, p := range v.Parts {
		switch {
		case now[i].Quality.IsBad():
			return true, say.Errorf("%s cannot be read: %s", p.Path, now[i].Quality.Reason())
		case now[i].Same(p.Before):
		case now[i].Same(p.Raw) && p.State != PartWaits, p.State == PartDiffers && now[i].Same(p.After):
			changed = append(changed, p)
		default:
			p.State, p.After = PartForeign, now[i]
			return false, say.Errorf("%s was changed by somebody else, to %s", p.Path, p.Tag.Show(p.Tag.ToEngineering(now[i]), true))
		}
	}
	// The request goes first: what is taken back now is not to be taken over.
	v.unask(ctx)
	if len(changed) == 0 {
		v.allBack(now)
		return false, nil
	}
	intents, err := d.intendAll(ctx, c, changed, fmt.Sprintf("%s/back/%d", c.Key, n),
		func(p *Part) (old, next value.Value) { return p.Raw, p.Before })
	if err != nil {
		return true, err
	}
	if err := mayDeliver(ctx, v.Guard); err != nil {
		d.concludeAll(ctx, intents, changed, err.Error())
		return true, err
	}
	err = v.writeBack(ctx, changed)
	d.concludeAll(ctx, intents, changed, "")
	if err == nil {
		v.allBack(now)
	}
	return false, err
}

// writeBack writes what was there before, the last turn first, and reads it back.
func (v *Delivery) writeBack(ctx context.Context, changed []*Part) error {
	before := func(p *Part) value.Value { return p.Before }
	for _, turn := range slices.Backward(Turns(changed)) {
		for _, request := range v.Batch.Requests(turn) {
			if err := writeParts(ctx, v.Batch, chosen(turn, request), before); err != nil {
				return err
			}
		}
	}
	back, err := v.Batch.Read(ctx, changed)
	if err != nil {
		return say.Errorf("what was put back could not be read: %w", err)
	}
	for i, p := range changed {
		p.After = back[i]
		if !back[i].Same(p.Before) {
			p.State = PartDiffers
			err = say.Errorf("%s did not take back what was there", p.Path)
			continue
		}
		p.State = PartConfirmed
	}
	return err
}

func (v *Delivery) allBack(now []value.Value) {
	for i, p := range v.Parts {
		if p.State != PartConfirmed {
			p.After = now[i]
		}
		p.State = PartBack
	}
}

// intendAll keeps what is about to be sent, a record a part, in one commit.
func (d *Door) intendAll(
	ctx context.Context,
	c *Command,
	parts []*Part,
	key string,
	values func(*Part) (old, next value.Value),
) ([]audit.Record,
	error) {
	list := make([]audit.Record, len(parts))
	for i, p := range parts {
		if p.Trial {
			return nil, nil
		}
		old, next := values(p)
		r := c.record(p.Target)
		r.What, r.Key = audit.Intent, key+"/"+fmt.Sprint(i)
		r.Old, r.New = shown(p.Tag, p.Tag.ToEngineering(old)), p.Tag.Show(p.Tag.ToEngineering(next), true)
		list[i] = r
	}
	kept, err := d.ledger.appendAll(ctx, list)
	if err != nil {
		return nil, err
	}
	return kept, nil
}

// outcomes are how a part's state stands in the trail.
var outcomes = map[PartState]string{PartWaits: audit.Rejected, PartUnknown: audit.Unknown, PartSent: audit.Unknown,
	PartConfirmed: audit.Confirmed, PartDiffers: audit.Differs, PartRefused: audit.Rejected, PartBack: audit.Confirmed}

// concludeAll keeps how each intent ended.
func (d *Door) concludeAll(ctx context.Context, intents []audit.Record, parts []*Part, why string) {
	if len(intents) == 0 {
		return
	}
	ends := make([]audit.Record, len(intents))
	for i, in := range intents {
		ends[i] = audit.Record{At: time.Now().UnixNano(), What: audit.Outcome, Intent: in.Seq, Outcome: outcomes[parts[i].State]}
		switch parts[i].State {
		case PartConfirmed, PartBack:
		case PartWaits:
			ends[i].Reason = "not sent: " + why
		default:
			ends[i].Reason = why
		}
	}
	if _, err := d.ledger.appendAll(ctx, ends); err != nil {
		for _, end := range ends {
			d.ledger.add(entry{record: end})
		}
	}
}
