package engine

import (
	"cmp"
	"maps"
	"math/bits"
	"slices"
	"strconv"
	"time"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/project"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

// alarmSpec is an alarm compiled for the engine.
type alarmSpec struct {
	alarm                    *alarm.Alarm
	tag                      *tag.Tag // its signal, nil for a formula
	slot                     int32    // of its signal, -1 for a formula
	limit, target, condition *formula.Program
	suppress                 *formula.Program
	message                  []piece
	worded                   map[string][]piece // the message in further languages
	gone                     []piece            // what is said when it goes; none for the message
	broken                   bool
	// steady is an alarm whose limit is a number and that nothing suppresses.
	steady bool
	fixed  float64
}

// piece is a part of a message: plain text, or a formula with its format.
type piece struct {
	text    string
	program *formula.Program
	format  formula.Format
	show    *tag.Tag // how the zero format shows it
}

// Alarm is an alarm as it stands in a running program.
type Alarm struct {
	*alarm.Alarm
	alarm.Kept
	Bad bool // its condition cannot be told now
}

// AlarmEvent is something that happened to an alarm.
type AlarmEvent struct {
	alarm.Change
	Now     Alarm  // as it stood right after
	Comment string // what the person said who did it
	// Text, Value and Bound are what is said of it, the signal and the limit:
	// as they were when the alarm came, or when it went where it went.
	Text, Value, Bound string
}

// compileAlarms compiles every alarm of a project; what did not change since
// prev keeps its programs as long as no tag changed its kind or place.
func (p *Program) compileAlarms(proj *project.Project, prev *Program, changed map[string]bool) {
	old := map[string]*alarmSpec{}
	p.words = wording{proj.Site().Languages, proj.Words}
	if prev != nil && len(changed) == 0 && prev.words.same(p.words) {
		for _, s := range prev.alarms {
			old[s.alarm.ID] = s
		}
	}
	p.alarmsOf, p.captured = make([][]int32, len(p.specs)), map[int32]bool{}
	scope := p.scope(proj)
	// In the order of their signals: neighbours change together.
	ids := project.SortedKeys(proj.Alarms)
	slices.SortStableFunc(ids, func(x, y string) int {
		return cmp.Compare(p.slots[proj.Alarms[x].Tag], p.slots[proj.Alarms[y].Tag])
	})
	for _, id := range ids {
		a := proj.Alarms[id]
		s := old[id]
		if s == nil || s.alarm != a || s.tag != proj.Tags[a.Tag] {
			s = newAlarmSpec(proj, a, scope)
			s.word(proj, scope)
		}
		index := int32(len(p.alarms))
		p.alarms = append(p.alarms, s)
		for _, slot := range s.slots() {
			p.alarmsOf[slot] = append(p.alarmsOf[slot], index)
		}
		p.capture(s.message)
		p.capture(s.gone)
		for _, message := range s.worded {
			p.capture(message)
		}
	}
}

func newAlarmSpec(proj *project.Project, a *alarm.Alarm, scope formula.Scope) *alarmSpec {
	s := &alarmSpec{alarm: a, tag: proj.Tags[a.Tag], slot: -1}
	compile := func(stored string, needed bool) *formula.Program {
		if stored == "" {
			s.broken = s.broken || needed
			return nil
		}
		prog, err := formula.Compile(proj.AlarmFormula(a, stored), scope)
		s.broken = s.broken || err != nil
		return prog
	}
	if a.Kind != alarm.Formula {
		slot, _, ok := scope.Tag(a.Tag)
		s.slot, s.broken = slot, !ok
	} else {
		s.condition = compile(a.Condition, true)
	}
	if a.Kind.Limited() {
		s.limit = compile(a.Limit, true)
	}
	if a.Kind.Targeted() {
		s.target = compile(a.Target, true)
	}
	if a.Suppress != "" {
		s.suppress = compile(a.Suppress, false)
	}
	if f, err := strconv.ParseFloat(a.Limit, 64); err == nil && s.slot >= 0 && s.suppress == nil && !s.broken {
		s.steady, s.fixed = true, f
	}
	s.message, s.gone = s.pieces(proj, a.Message, scope), s.pieces(proj, a.Gone, scope)
	return s
}

// wording is in which languages messages are, and how.
type wording struct {
	languages []string
	words     map[string]*project.Words
}

func (w wording) same(o wording) bool {
	return slices.Equal(w.languages, o.languages) && maps.Equal(w.words, o.words)
}

// capture notes the tags whose values a message shows.
func (p *Program) capture(message []piece) {
	for _, part := range message {
		if part.program == nil {
			continue
		}
		for _, slot := range part.program.Slots() {
			p.captured[slot] = true
		}
	}
}

// word compiles the message in the project's further languages, as far as it
// has a wording there.
func (s *alarmSpec) word(proj *project.Project, scope formula.Scope) {
	for i, language := range proj.Site().Languages {
		text := proj.Word(language, s.alarm.Message)
		if i == 0 || text == s.alarm.Message {
			continue
		}
		if s.worded == nil {
			s.worded = map[string][]piece{}
		}
		s.worded[language] = s.pieces(proj, text, scope)
	}
}

func (s *alarmSpec) pieces(proj *project.Project, message string, scope formula.Scope) (out []piece) {
	parts, _ := formula.ParseTemplate(message)
	for _, part := range parts {
		pc := piece{text: part.Text, format: part.Format, show: s.tag}
		if part.Formula != "" {
			text := proj.AlarmFormula(s.alarm, part.Formula)
			if id, ok := formula.PlainReference(text); ok && proj.Tags[id] != nil {
				pc.show = proj.Tags[id]
			}
			pc.program, _ = formula.Compile(text, scope)
		}
		out = append(out, pc)
	}
	return out
}

// slots are those whose change may change the alarm; what its message captures
// is not among them.
func (s *alarmSpec) slots() []int32 {
	var out []int32
	seen := map[int32]bool{}
	if s.slot >= 0 && !s.broken {
		out, seen[s.slot] = append(out, s.slot), true
	}
	for _, prog := range []*formula.Program{s.condition, s.limit, s.target, s.suppress} {
		if prog == nil {
			continue
		}
		for _, slot := range prog.Slots() {
			if !seen[slot] {
				seen[slot] = true
				out = append(out, slot)
			}
		}
	}
	return out
}

// alarms is the engine's share of alarms.
type alarms struct {
	list     []*alarm.Runtime // as the program's
	dirty    []uint64
	anyDirty bool
	due      []int64 // by alarm, monotonic; 0 for never
	nextDue  int64
	happened []AlarmEvent
	calm     []calm
	kept     map[string]alarm.Kept // of alarms that the program does not have yet
}

// calm is an alarm that only its signal's crossing of a threshold can change.
type calm struct {
	alarm.Threshold
	slot int32
	is   bool
}

// Keep gives the states that alarms had before a restart; those that the
// program has take them over at once.
func (e *Engine) Keep(kept map[string]alarm.Kept, now time.Time) {
	e.alarms.kept, e.alarms.list, e.alarms.happened = kept, nil, nil
	e.carryAlarms(now)
	e.runAlarms(now)
}

// carryAlarms brings the alarms of a program that was applied: those of before
// keep their state.
func (e *Engine) carryAlarms(now time.Time) {
	before := make(map[string]*alarm.Runtime, len(e.alarms.list))
	for _, r := range e.alarms.list {
		before[r.ID] = r
	}
	n := len(e.prog.alarms)
	// Side by side in memory, as a change touches many.
	room := make([]alarm.Runtime, n)
	e.alarms.list, e.alarms.due, e.alarms.dirty = make([]*alarm.Runtime, n), make([]int64, n), make([]uint64, (n+63)/64)
	e.alarms.calm = make([]calm, n)
	for i, s := range e.prog.alarms {
		r := before[s.alarm.ID]
		if r == nil {
			r = alarm.New(s.alarm, e.alarms.kept[s.alarm.ID], now)
		} else {
			r.Redefine(s.alarm)
		}
		delete(before, s.alarm.ID)
		room[i] = *r
		e.alarms.list[i] = &room[i]
		e.touchAlarm(int32(i))
	}
	// One that a later program brings back goes on from here.
	for id, r := range before {
		if e.alarms.kept == nil {
			e.alarms.kept = map[string]alarm.Kept{}
		}
		e.alarms.kept[id] = r.Kept
	}
}

func (e *Engine) touchAlarm(i int32) {
	e.alarms.dirty[i/64] |= 1 << (i % 64)
	e.alarms.anyDirty = true
}

// runAlarms looks at the alarms whose inputs changed.
func (e *Engine) runAlarms(now time.Time) {
	a := &e.alarms
	if !a.anyDirty {
		return
	}
	a.anyDirty = false
	for w := range a.dirty {
		for a.dirty[w] != 0 {
			b := bits.TrailingZeros64(a.dirty[w])
			a.dirty[w] &^= 1 << b
			e.stepAlarm(w*64+b, now)
		}
	}
}

// dueAlarms looks at the alarms whose delay, window or shelf is over.
func (e *Engine) dueAlarms(m int64, now time.Time) {
	a := &e.alarms
	if a.nextDue == 0 || m < a.nextDue {
		return
	}
	a.nextDue = 0
	for i, due := range a.due {
		switch {
		case due == 0:
		case due <= m:
			e.stepAlarm(i, now)
		default:
			a.soonest(due)
		}
	}
}

func (a *alarms) soonest(due int64) {
	if due != 0 && (a.nextDue == 0 || due < a.nextDue) {
		a.nextDue = due
	}
}

// stepAlarm looks at an alarm. Most often its signal moved on its own side of
// the limit, which a glance at calm tells.
func (e *Engine) stepAlarm(i int, now time.Time) {
	c := &e.alarms.calm[i]
	if c.is {
		if v := &e.frame.Slots[c.slot]; !v.Quality.IsBad() && !c.Crossed(v.Float()) {
			return
		}
	}
	s, r := e.prog.alarms[i], e.alarms.list[i]
	if s.broken {
		r.Bad = true
		return
	}
	in := e.inputs(s)
	changes, due := r.Step(in, now)
	e.alarms.due[i] = 0
	if !due.IsZero() {
		e.alarms.due[i] = max(1, e.mono(due))
		e.alarms.soonest(e.alarms.due[i])
	}
	e.note(s, r, in, changes, "", now)
	e.settleAlarm(i)
}

// settleAlarm notes whether an alarm is calm after what was done to it.
func (e *Engine) settleAlarm(i int) {
	s, c := e.prog.alarms[i], &e.alarms.calm[i]
	c.is = false
	if s.steady {
		c.slot = s.slot
		c.Threshold, c.is = e.alarms.list[i].Threshold(s.fixed)
	}
}

func (e *Engine) inputs(s *alarmSpec) alarm.Inputs {
	in := alarm.Inputs{Limit: e.result(s.limit), Target: e.result(s.target), Suppress: e.result(s.suppress)}
	if s.slot >= 0 {
		in.Signal = e.frame.Slots[s.slot]
	} else {
		in.Signal = e.result(s.condition)
	}
	return in
}

func (e *Engine) result(p *formula.Program) value.Value {
	if p == nil {
		return value.Value{}
	}
	return p.Eval(&e.frame)
}

// note keeps what happened, with the message and values of the moment where an
// alarm came, and what is said of its going where it went.
func (e *Engine) note(s *alarmSpec, r *alarm.Runtime, in alarm.Inputs, changes []alarm.Change, comment string, at time.Time) {
	for _, c := range changes {
		if c.On == alarm.Raise || c.To == alarm.Unacknowledged {
			r.Texts = nil
			for language, message := range s.worded {
				if r.Texts == nil {
					r.Texts = map[string]string{}
				}
				r.Texts[language] = e.say(s, message, at)
			}
			r.Text, r.Value, r.Bound = e.say(s, s.message, at), shown(s.tag, in.Signal), shown(s.tag, in.Limit)
		}
		event := AlarmEvent{c, Alarm{r.Alarm, r.Kept, r.Bad}, comment, r.Text, r.Value, r.Bound}
		if c.On == alarm.Clear {
			event.Value, event.Bound = shown(s.tag, in.Signal), shown(s.tag, in.Limit)
			if len(s.gone) > 0 {
				event.Text = e.say(s, s.gone, at)
			}
		}
		e.alarms.happened = append(e.alarms.happened, event)
	}
}

func (e *Engine) say(s *alarmSpec, message []piece, now time.Time) string {
	if len(message) == 0 {
		return s.alarm.Name
	}
	var b []byte
	for _, p := range message {
		switch {
		case p.program == nil:
			b = append(b, p.text...)
		default:
			v := p.program.Eval(&e.frame)
			if v.Quality.IsBad() {
				b = append(b, "—"...)
				continue
			}
			if p.show == nil {
				b = v.AppendText(b)
				continue
			}
			b = p.format.Append(b, v, p.show, now.Location())
		}
	}
	return string(b)
}

func shown(t *tag.Tag, v value.Value) string {
	switch {
	case v.Kind == value.None || v.Quality.IsBad():
		return ""
	case t == nil:
		return v.Text()
	}
	return string(t.AppendShow(nil, v, true))
}

// ActOnAlarm does what a person asks: Ack, Reset, Shelve until a time,
// Unshelve, Remove, Return. ok is false where there is no such alarm or it
// means nothing in its present state.
func (e *Engine) ActOnAlarm(id string, on alarm.Event, now, until time.Time, by, reason string) bool {
	for i, r := range e.alarms.list {
		if r.ID != id {
			continue
		}
		changes, ok := r.Act(on, now, until, by, reason)
		if ok {
			e.note(e.prog.alarms[i], r, e.inputs(e.prog.alarms[i]), changes, reason, now)
			e.alarms.calm[i].is = false
			e.touchAlarm(int32(i))
			e.runAlarms(now)
		}
		return ok
	}
	return false
}

// Alarms lists every alarm as it stands.
func (e *Engine) Alarms() []Alarm {
	out := make([]Alarm, len(e.alarms.list))
	for i, r := range e.alarms.list {
		out[i] = Alarm{r.Alarm, r.Kept, r.Bad || e.prog.alarms[i].broken}
	}
	return out
}

// TakeAlarmEvents returns what happened since it was asked last, in order.
func (e *Engine) TakeAlarmEvents() []AlarmEvent {
	out := e.alarms.happened
	e.alarms.happened = nil
	return out
}
