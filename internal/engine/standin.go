package engine

import (
	"hash/fnv"
	"time"

	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// stepEvery is how often tags on stand-ins move.
const stepEvery = 100 * time.Millisecond

// motion is a tag on a stand-in.
type motion struct {
	behaviour tag.Behaviour
	run       *tag.Motion
	text      string // of a STRING
}

// carryMotions starts the motions of a new program; one whose behaviour is the
// same goes on.
func (e *Engine) carryMotions(old *Program, now time.Time) {
	was := e.motions
	e.motions = make(map[int32]*motion, len(e.prog.standins))
	for _, in := range e.prog.standins {
		slot := in.slot
		s := e.prog.specs[slot]
		if m := was[slot]; m != nil && int(slot) < len(old.specs) && old.specs[slot] != nil && old.specs[slot].tag.ID == s.tag.ID &&
			m.behaviour == s.motion {
			e.motions[slot] = m
			continue
		}
		h := fnv.New64a()
		h.Write([]byte(s.tag.ID))
		e.motions[slot] = &motion{behaviour: s.motion, run: tag.NewMotion(s.motion, h.Sum64())}
	}
	if len(e.motions) > 0 {
		e.step(0, now)
	}
}

// move advances the stand-ins when it is time.
func (e *Engine) move(m int64, now time.Time) {
	if len(e.motions) == 0 || m-e.moved < int64(stepEvery) {
		return
	}
	dt := time.Duration(m - e.moved).Seconds()
	e.moved = m
	e.step(min(dt, 1), now)
}

// step writes every stand-in's next raw value through the same way that a
// device's values take.
func (e *Engine) step(dt float64, now time.Time) {
	batch := make([]Update, 0, len(e.motions))
	for i := range e.prog.standins {
		in := &e.prog.standins[i]
		batch = append(batch, Update{in.slot, e.standInValue(in, dt).At(now)})
	}
	e.Update(batch, now)
}

// standInValue advances a tag by some seconds and returns its raw value.
func (e *Engine) standInValue(in *standIn, dt float64) value.Value {
	s, m := e.prog.specs[in.slot], e.motions[in.slot]
	t := s.tag
	if t.Type.Kind == value.STRING {
		return value.Str(m.text)
	}
	input := 0.0
	if in.follows >= 0 {
		v := &e.frame.Slots[in.follows]
		if v.Quality.IsBad() {
			return value.Bad(t.Type.Kind, value.BadInput)
		}
		input = v.Float()
	}
	eng := m.run.Advance(dt, input)
	if s.motion.Kind == tag.Formula {
		if in.moves == nil {
			return value.Bad(t.Type.Kind, value.BadConfig)
		}
		v := in.moves.Eval(&e.frame)
		if v.Quality.IsBad() {
			return value.Bad(t.Type.Kind, value.BadInput)
		}
		eng = v.Float()
	}
	v := value.Real(value.LREAL, eng)
	if t.Type.Kind == value.BOOL {
		v = value.Bool(eng != 0)
	}
	raw, err := t.ToRaw(v)
	if err != nil {
		return value.Bad(t.Type.Kind, value.BadRange)
	}
	return raw
}

// SetStandIn writes an engineering value to a tag on a stand-in; false when the
// tag is on none.
func (e *Engine) SetStandIn(id string, v value.Value, now time.Time) bool {
	slot, ok := e.prog.slots[id]
	if !ok || e.motions[slot] == nil {
		return false
	}
	m := e.motions[slot]
	if v.Kind == value.STRING {
		m.text = v.Str()
	} else {
		m.run.Set(v.Float())
	}
	for i := range e.prog.standins {
		if in := &e.prog.standins[i]; in.slot == slot {
			e.Update([]Update{{slot, e.standInValue(in, 0).At(now)}}, now)
		}
	}
	return true
}
