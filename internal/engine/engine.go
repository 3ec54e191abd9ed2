package engine

import (
	"math"
	"math/bits"
	"time"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// Update is a raw value for a slot.
type Update struct {
	Slot  int32
	Value value.Value
}

// Engine holds the values of one running program. One goroutine at a time may
// call its methods; Sub is how others look.
type Engine struct {
	prog  *Program
	frame formula.Frame // its Slots are the table of engineering values
	raw   []value.Value // of device tags
	seen  []int64       // when a device tag last had a value, monotonic nanoseconds
	start time.Time

	dirty    []uint64 // computed tags to run, by rank
	anyDirty bool

	scratch  value.Value // a value on its way into its slot
	watchers [][]watcher // by slot
	watched  []uint8     // by slot
	changed  []int32     // watched slots that changed since the last Tick
	subs     map[*Sub]struct{}
	nextAge  int64

	held    map[string]value.Value // by id: what a person holds a tag at
	shadow  map[int32]*value.Value // by slot: what a held tag would be
	motions map[int32]*motion      // by slot: tags on stand-ins
	moved   int64                  // when the stand-ins last moved, monotonic
	resting map[int32]bool         // slots that are not read as nobody needs them
	alarms  alarms
}

// New starts a program.
func New(prog *Program, now time.Time) *Engine {
	e := &Engine{prog: &Program{slots: map[string]int32{}}, start: now, subs: map[*Sub]struct{}{}, held: map[string]value.Value{}}
	e.Apply(prog, now)
	return e
}

// Program returns the running program.
func (e *Engine) Program() *Program { return e.prog }

func (e *Engine) mono(now time.Time) int64 { return int64(now.Sub(e.start)) }

// Apply takes a new program over the running one. Values are carried by id; a
// tag whose scaling changed shows the new scaling of its last raw value at
// once; one whose place or type changed waits for a value.
func (e *Engine) Apply(next *Program, now time.Time) {
	old, oldVals, oldRaw, oldSeen := e.prog, e.frame.Slots, e.raw, e.seen
	n := len(next.specs)
	e.prog = next
	e.frame.Slots = make([]value.Value, n)
	e.raw, e.seen = make([]value.Value, n), make([]int64, n)
	e.watchers, e.watched = nil, nil // made anew below, when every value is in place
	e.changed = e.changed[:0]
	e.dirty = make([]uint64, (len(next.order)+63)/64)
	for i, s := range next.specs {
		if s == nil {
			continue
		}
		slot := int32(i)
		was := int32(-1)
		if i < len(old.specs) && old.specs[i] != nil && old.specs[i].tag.ID == s.tag.ID {
			was = slot
		} else if o, ok := old.slots[s.tag.ID]; ok {
			was = o
		}
		if was < 0 {
			e.begin(slot, s, now)
			continue
		}
		before := old.specs[was]
		if before == s {
			e.frame.Slots[i], e.raw[i], e.seen[i] = oldVals[was], oldRaw[was], oldSeen[was]
			continue
		}
		e.carry(slot, before, s, oldVals[was], oldRaw[was], oldSeen[was], now)
	}
	for r := range next.order {
		e.dirty[r/64] |= 1 << (r % 64)
	}
	e.anyDirty = len(next.order) > 0
	e.carryAlarms(now)
	e.carryMotions(old, now)
	e.tellTime(now)
	e.rehold(now)
	e.runComputed(now)
	e.rewatch()
	e.rest(now)
}

// begin gives a new slot its first value.
func (e *Engine) begin(slot int32, s *spec, now time.Time) {
	switch {
	case s.broken || s.tag.Source == tag.Computed:
		e.frame.Slots[slot] = value.Bad(s.kind, value.BadConfig).At(now)
	case s.tag.Source == tag.System:
		e.frame.Slots[slot] = value.Bad(s.kind, value.BadWaiting).At(now)
	case s.tag.Source == tag.Internal:
		e.frame.Slots[slot] = s.initial.At(now)
	case s.device.Off:
		e.frame.Slots[slot] = value.Bad(s.kind, value.BadOff).At(now)
	default:
		e.frame.Slots[slot] = value.Bad(s.kind, value.BadWaiting).At(now)
		e.seen[slot] = e.mono(now)
	}
}

func (e *Engine) carry(slot int32, before, s *spec, val, raw value.Value, seen int64, now time.Time) {
	a, b := before.tag, s.tag
	switch {
	case s.broken != before.broken || a.Source != b.Source || s.broken:
		e.begin(slot, s, now)
	case b.Source == tag.Device:
		same := a.Device == b.Device && a.Address == b.Address && a.Type == b.Type && a.Order == b.Order &&
			before.standIn == s.standIn && before.device.Endpoint() == s.device.Endpoint() && before.device.Unit == s.device.Unit &&
			before.device.Off == s.device.Off && before.device.Order == s.device.Order
		if !same {
			e.begin(slot, s, now)
			return
		}
		e.raw[slot], e.seen[slot] = raw, seen
		e.frame.Slots[slot] = val
		if raw.Kind != value.None {
			e.prog.hot[slot].convert(&e.frame.Slots[slot], &raw)
		}
	case (b.Source == tag.Internal || b.Source == tag.System && a.System == b.System && a.Device == b.Device) && before.kind == s.kind:
		e.frame.Slots[slot] = val
	default:
		e.begin(slot, s, now)
	}
}

// convert turns a raw value into engineering units, in place. It is
// Tag.ToEngineering with the scale computed beforehand.
func (h *hot) convert(out, raw *value.Value) {
	if raw.Kind == value.STRING && !raw.Quality.IsBad() {
		out.PutText(raw.Quality, raw.Str())
	} else {
		q, bits := h.number(raw)
		out.Put(h.kind, q, bits)
	}
	out.PutNanos(raw.Nanos())
}

// number is convert for all but texts; the kind is the slot's own.
func (h *hot) number(raw *value.Value) (q value.Quality, bits uint64) {
	q = raw.Quality
	switch {
	case q.IsBad():
		return q, 0
	case h.bounded && !h.plausible(raw.Float()):
		return value.BadRange, 0
	case h.how == scaled:
		eng, cut := h.lin.Read(raw.Float())
		if cut {
			q = q.Worse(value.UncertainClamped)
		}
		return q, math.Float64bits(eng)
	case h.how == inverted:
		return q, raw.Bits() ^ 1
	}
	return q, raw.Bits()
}

// plausible tells whether a raw number can be true.
func (h *hot) plausible(raw float64) bool {
	if !h.boundedRaw {
		raw, _ = h.lin.Unclamped().Read(raw)
	}
	return raw >= h.low && raw <= h.high
}

// Update applies a batch of raw values of device tags and runs the computed
// tags that depend on what changed.
func (e *Engine) Update(batch []Update, now time.Time) {
	seen := e.mono(now)
	for i := range batch {
		u := &batch[i]
		if int(u.Slot) >= len(e.prog.hot) {
			continue
		}
		h := &e.prog.hot[u.Slot]
		if h.raw == value.None || u.Value.Kind != h.raw {
			continue
		}
		if !u.Value.Quality.IsBad() {
			e.seen[u.Slot] = seen
		}
		if h.raw == value.STRING || len(e.shadow) > 0 && e.shadow[u.Slot] != nil {
			e.raw[u.Slot] = u.Value
			h.convert(&e.scratch, &u.Value)
			e.store(u.Slot, h.deps)
			continue
		}
		raw, now := &e.raw[u.Slot], &e.frame.Slots[u.Slot]
		raw.Put(u.Value.Kind, u.Value.Quality, u.Value.Bits())
		raw.PutNanos(u.Value.Nanos())
		q, bits := h.number(&u.Value)
		now.PutNanos(u.Value.Nanos())
		if now.Quality == q && now.Bits() == bits && now.Kind == h.kind {
			continue
		}
		now.Put(h.kind, q, bits)
		e.mark(u.Slot, h.deps)
	}
	e.runComputed(now)
}

// SetInternal sets an internal tag; the value has its engineering kind.
func (e *Engine) SetInternal(id string, v value.Value, now time.Time) bool {
	slot, ok := e.prog.slots[id]
	if !ok || e.prog.specs[slot].tag.Source != tag.Internal || e.prog.specs[slot].kind != v.Kind {
		return false
	}
	e.set(slot, v.At(now))
	e.runComputed(now)
	return true
}

// set stores a value and marks who depends on it, when it differs.
func (e *Engine) set(slot int32, v value.Value) {
	e.scratch = v
	e.store(slot, true)
}

// store is set for the value in scratch.
func (e *Engine) store(slot int32, deps bool) {
	if len(e.shadow) > 0 && e.shadow[slot] != nil {
		*e.shadow[slot] = e.scratch
		return
	}
	e.expose(slot, deps)
}

// expose is store for what is seen even while the tag is held.
func (e *Engine) expose(slot int32, deps bool) {
	now, v := &e.frame.Slots[slot], &e.scratch
	if now.Kind == v.Kind && now.Quality == v.Quality && now.Bits() == v.Bits() && (v.Kind != value.STRING || now.Str() == v.Str()) {
		now.PutNanos(v.Nanos())
		return
	}
	if v.Kind == value.STRING {
		now.PutText(v.Quality, v.Str())
	} else {
		now.Put(v.Kind, v.Quality, v.Bits())
	}
	now.PutNanos(v.Nanos())
	e.mark(slot, deps)
}

// mark notes who depends on a slot that changed.
func (e *Engine) mark(slot int32, deps bool) {
	if deps {
		for _, r := range e.prog.dependents[slot] {
			e.dirty[r/64] |= 1 << (r % 64)
			e.anyDirty = true
		}
		for _, a := range e.prog.alarmsOf[slot] {
			e.touchAlarm(a)
		}
	}
	if e.watched != nil && e.watched[slot] == watchedQuiet {
		e.watched[slot] = watchedNew
		e.changed = append(e.changed, slot)
	}
}

// Whether somebody watches a slot, and whether it is among the changed.
const (
	unwatched uint8 = iota
	watchedQuiet
	watchedNew
)

// runComputed runs the dirty computed tags in order of dependency, then the
// alarms. A tag only dirties tags behind it, so one pass is enough.
func (e *Engine) runComputed(now time.Time) {
	if !e.anyDirty {
		e.runAlarms(now)
		return
	}
	e.anyDirty = false
	nanos := now.UnixNano()
	for w := range e.dirty {
		for e.dirty[w] != 0 {
			b := bits.TrailingZeros64(e.dirty[w])
			e.dirty[w] &^= 1 << b
			slot := e.prog.order[w*64+b]
			s := e.prog.specs[slot]
			s.program.EvalTo(&e.scratch, &e.frame)
			if e.scratch.Kind != s.kind || e.scratch.Quality.IsBad() {
				e.scratch = fit(s, e.scratch)
			}
			e.scratch.PutNanos(nanos)
			e.store(slot, true)
		}
	}
	e.anyDirty = false
	e.runAlarms(now)
}

// fit brings a formula's result to the computed tag's own type.
func fit(s *spec, v value.Value) value.Value {
	k := s.kind
	switch {
	case v.Quality.IsBad():
		return value.Bad(k, v.Quality)
	case v.Kind == k:
		return v
	case k.IsReal() && v.Kind.IsNumber():
		return value.Real(k, v.Float()).With(v.Quality)
	case k.IsInteger() && v.Kind.IsInteger():
		low, high := k.IntRange()
		if v.Kind == value.ULINT && v.Uint() > high || v.Kind != value.ULINT && (v.Int() < low || v.Int() > 0 && uint64(v.Int()) > high) {
			return value.Bad(k, value.BadOverflow)
		}
		return value.Uint(k, v.Uint()).With(v.Quality)
	}
	return value.Bad(k, value.BadConfig)
}

// Tick makes overdue values bad and hands what changed to the subscribers. It
// is called about 20 times a second.
func (e *Engine) Tick(now time.Time) {
	m := e.mono(now)
	if m >= e.nextAge {
		e.nextAge = m + int64(200*time.Millisecond)
		e.age(m, now)
		e.tellTime(now)
	}
	e.move(m, now)
	e.dueAlarms(m, now)
	e.deliver()
}

// age makes the values bad that missed three polls. The engine does this by
// the clock and does not rely on a link to say that it is stuck.
func (e *Engine) age(m int64, now time.Time) {
	for i, s := range e.prog.specs {
		if s == nil || s.device == nil || s.broken || s.maxAge == 0 || m-e.seen[i] <= int64(s.maxAge) {
			continue
		}
		if v := &e.frame.Slots[i]; !v.Quality.IsBad() {
			e.set(int32(i), value.Bad(s.kind, value.BadStale).At(now))
			e.raw[i].Quality = value.BadStale
		}
	}
	e.runComputed(now)
}

// Read returns a tag's value and its raw value.
func (e *Engine) Read(id string) (eng, raw value.Value, ok bool) {
	slot, ok := e.prog.slots[id]
	if !ok {
		return value.Value{}, value.Value{}, false
	}
	return e.frame.Slots[slot], e.raw[slot], true
}

// Eval runs a program compiled over this engine's slots.
func (e *Engine) Eval(p *formula.Program) value.Value { return p.Eval(&e.frame) }
