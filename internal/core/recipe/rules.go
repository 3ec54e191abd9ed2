package recipe

import (
	"fmt"
	"slices"
	"strings"

	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Rules are the formulas of a book, made ready: limits, computed fields and
// checks. They may be used by several goroutines.
type Rules struct {
	book    *Book
	outer   []string // ids of the tags that formulas read
	low     []*formula.Program
	high    []*formula.Program
	compute []*formula.Program
	order   []int // of the computed fields, each after those that it reads
	checks  []*formula.Program
}

// Fault is a formula of a book that cannot be used.
type Fault struct {
	Place string // a JSON pointer
	Err   error  // a *formula.Error, or what else is wrong with it
}

// ErrCycle says that computed fields depend on one another in a ring.
var ErrCycle = say.New("the field depends on itself")

// ErrNotNumber and ErrNotBool say what a formula gives that it should not.
var (
	ErrNotNumber = say.New("a limit is a number")
	ErrNotBool   = say.New("a check is true or false")
	ErrKind      = say.New("the formula gives another type than the field has")
)

// NewRules makes the rules of a book. scope knows the plant's tags; the fields
// are known beside them. Formulas with faults are left out.
func NewRules(b *Book, scope formula.Scope) (*Rules, []Fault) {
	r := &Rules{book: b}
	n := len(b.Fields)
	r.low, r.high, r.compute = make([]*formula.Program, n), make([]*formula.Program, n), make([]*formula.Program, n)
	var faults []Fault
	own := r.scope(scope)
	take := func(place, stored string, into **formula.Program, fits func(value.Kind) error) {
		if stored == "" {
			return
		}
		prog, err := formula.Compile(stored, own)
		if err == nil {
			err = fits(prog.Kind())
		}
		if err != nil {
			faults = append(faults, Fault{place, err})
			return
		}
		*into = prog
	}
	number := func(k value.Kind) error {
		if !k.IsNumber() {
			return ErrNotNumber
		}
		return nil
	}
	for i := range b.Fields {
		f := &b.Fields[i]
		at := fmt.Sprintf("/fields/%d", i)
		take(at+"/low", f.Low, &r.low[i], number)
		take(at+"/high", f.High, &r.high[i], number)
		take(at+"/formula", f.Formula, &r.compute[i], func(k value.Kind) error {
			if k == f.Type.Kind || k.IsNumber() && f.Type.Kind.IsNumber() {
				return nil
			}
			return ErrKind
		})
	}
	r.checks = make([]*formula.Program, len(b.Checks))
	for i, c := range b.Checks {
		take(fmt.Sprintf("/checks/%d/formula", i), c.Formula, &r.checks[i], func(k value.Kind) error {
			if k != value.BOOL {
				return ErrNotBool
			}
			return nil
		})
	}
	return r, append(faults, r.sort()...)
}

// scope has the fields in the first slots and the tags that are read after them.
func (r *Rules) scope(outer formula.Scope) formula.Scope {
	return formula.Scope{
		Tag: func(id string) (int32, value.Kind, bool) {
			if field, own := strings.CutPrefix(id, Own); own {
				i := slices.IndexFunc(r.book.Fields, func(f Field) bool { return f.ID == field })
				if i < 0 {
					return 0, 0, false
				}
				return int32(i), r.book.Fields[i].Type.Kind, true
			}
			_, kind, ok := outer.Tag(id)
			if !ok {
				return 0, 0, false
			}
			at := slices.Index(r.outer, id)
			if at < 0 {
				at = len(r.outer)
				r.outer = append(r.outer, id)
			}
			return int32(len(r.book.Fields) + at), kind, true
		},
		Path: func(id string) (string, bool) {
			if field, own := strings.CutPrefix(id, Own); own {
				if f, ok := r.book.FindField(field); ok {
					return f.Name, true
				}
				return "", false
			}
			return outer.Path(id)
		},
	}
}

// sort puts the computed fields into an order in which each comes after those
// that it reads; those in a ring are faults.
func (r *Rules) sort() []Fault {
	const (
		fresh = iota
		under
		done
	)
	state := make([]int, len(r.compute))
	var faults []Fault
	var visit func(i int) bool
	visit = func(i int) bool {
		if r.compute[i] == nil || state[i] == done {
			return true
		}
		if state[i] == under {
			return false
		}
		state[i] = under
		for _, slot := range r.compute[i].Slots() {
			if int(slot) < len(r.compute) && !visit(int(slot)) {
				faults = append(faults, Fault{fmt.Sprintf("/fields/%d/formula", i), ErrCycle})
				r.compute[i] = nil
				state[i] = done
				return true
			}
		}
		state[i] = done
		r.order = append(r.order, i)
		return true
	}
	for i := range r.compute {
		visit(i)
	}
	return faults
}

// Outer are the ids of the tags that the formulas read.
func (r *Rules) Outer() []string { return r.outer }

// Cell is one field of a recipe.
type Cell struct {
	Field string
	// Value is good, or bad where nothing that fits is there: BadWaiting for
	// nothing, BadConfig for what cannot be read, BadInput for what cannot be
	// computed.
	Value     value.Value
	Low, High *float64 // of now; nil for none
}

// Breach is one thing about a recipe's values that does not hold. Rule names
// the sentence; the arguments are its parts as people read them.
type Breach struct {
	Field string            `json:"field,omitempty"` // id; empty for a check over several
	Check int               `json:"check"`           // number of the check; -1 for none
	Rule  string            `json:"rule" enum:"missing,unreadable,low,high,step,untold,check"`
	Args  map[string]string `json:"args,omitempty"`
}

// Rules of problems.
const (
	Missing     = "missing"    // no value, and no default
	Unreadable  = "unreadable" // {reason}
	BelowLow    = "low"        // {value} is below {limit}
	AboveHigh   = "high"       // {value} is above {limit}
	OffStep     = "step"       // {value} is no whole number of steps {step} from {from}
	Untold      = "untold"     // a limit, a check or a computed value cannot be told now: {what}
	CheckFailed = "check"      // {says}
)

// Look looks at a recipe's values: the cells of its fields in order, and what
// does not hold. read gives the value of a tag now.
func (r *Rules) Look(values Values, read func(id string) value.Value) ([]Cell, []Breach) {
	b := r.book
	frame := &formula.Frame{Slots: make([]value.Value, len(b.Fields)+len(r.outer))}
	for i, id := range r.outer {
		frame.Slots[len(b.Fields)+i] = read(id)
	}
	problems := []Breach{}
	say := func(field string, rule string, args ...string) {
		problems = append(problems, Breach{field, -1, rule, pairs(args)})
	}
	for i := range b.Fields {
		f := &b.Fields[i]
		if f.Formula != "" {
			frame.Slots[i] = value.Bad(f.Type.Kind, value.BadInput)
			continue
		}
		text, given := values[f.ID]
		switch {
		case !given && f.Default != "":
			text = f.Default
		case !given && f.Type.Kind != value.STRING:
			frame.Slots[i] = value.Bad(f.Type.Kind, value.BadWaiting)
			say(f.ID, Missing)
			continue
		}
		v, err := f.Parse(text)
		if err != nil {
			v = value.Bad(f.Type.Kind, value.BadConfig)
			say(f.ID, Unreadable, "value", text, "reason", err.Error())
		}
		frame.Slots[i] = v
	}
	for _, i := range r.order {
		f := &b.Fields[i]
		v := r.compute[i].Eval(frame)
		if !v.Quality.IsBad() && f.Type.Kind.IsNumber() {
			if fits, err := value.FromFloat(f.Type.Kind, v.Float()); err != nil {
				v = value.Bad(f.Type.Kind, value.BadOverflow)
			} else {
				v = fits.With(v.Quality)
			}
		}
		frame.Slots[i] = v
	}
	cells := make([]Cell, len(b.Fields))
	for i := range b.Fields {
		f := &b.Fields[i]
		cells[i] = Cell{Field: f.ID, Value: frame.Slots[i]}
		if f.Formula != "" && cells[i].Value.Quality.IsBad() {
			say(f.ID, Untold, "what", "formula")
		}
		cells[i].Low = r.limit(r.low[i], frame, func() { say(f.ID, Untold, "what", "low") })
		cells[i].High = r.limit(r.high[i], frame, func() { say(f.ID, Untold, "what", "high") })
		if !cells[i].Value.Quality.IsBad() && f.Type.Kind.IsNumber() {
			f.within(&cells[i], say)
		}
	}
	for i, prog := range r.checks {
		if prog == nil {
			continue
		}
		switch v := prog.Eval(frame); {
		case v.Quality.IsBad():
			problems = append(problems, Breach{"", i, Untold, map[string]string{"what": "check", "says": b.Checks[i].Says}})
		case !v.Bool():
			problems = append(problems, Breach{"", i, CheckFailed, map[string]string{"says": b.Checks[i].Says}})
		}
	}
	return cells, problems
}

func (r *Rules) limit(prog *formula.Program, frame *formula.Frame, untold func()) *float64 {
	if prog == nil {
		return nil
	}
	v := prog.Eval(frame)
	if v.Quality.IsBad() {
		untold()
		return nil
	}
	f := v.Float()
	return &f
}

// within says of a number that it lies outside of its limits, or between steps.
func (f *Field) within(c *Cell, say func(field, rule string, args ...string)) {
	x := c.Value.Float()
	shown := func() string { return f.Shown().Show(c.Value, true) }
	limit := func(x float64) string { return f.Shown().Show(value.Real(value.LREAL, x), true) }
	switch {
	case c.Low != nil && x < *c.Low:
		say(f.ID, BelowLow, "value", shown(), "limit", limit(*c.Low))
	case c.High != nil && x > *c.High:
		say(f.ID, AboveHigh, "value", shown(), "limit", limit(*c.High))
	case f.Step > 0:
		// Steps count from the low limit, as they do at tags.
		show := f.Shown()
		show.Low = c.Low
		if show.CheckEntry(c.Value) != nil {
			from := 0.0
			if c.Low != nil {
				from = *c.Low
			}
			say(f.ID, OffStep, "value", shown(), "step", limit(f.Step), "from", limit(from))
		}
	}
}

func pairs(args []string) map[string]string {
	if len(args) == 0 {
		return nil
	}
	out := make(map[string]string, len(args)/2)
	for i := 0; i+1 < len(args); i += 2 {
		out[args[i]] = args[i+1]
	}
	return out
}

// Says is the problem in English, for refusals and records.
func (p *Breach) Says(b *Book) string {
	name := ""
	if f, ok := b.FindField(p.Field); ok {
		name = f.Called()
		if f.Group != "" {
			name = f.Group + " › " + name
		}
		name += ": "
	}
	switch p.Rule {
	case Missing:
		return name + "no value"
	case Unreadable:
		return name + p.Args["reason"]
	case BelowLow:
		return fmt.Sprintf("%s%s is below %s", name, p.Args["value"], p.Args["limit"])
	case AboveHigh:
		return fmt.Sprintf("%s%s is above %s", name, p.Args["value"], p.Args["limit"])
	case OffStep:
		return fmt.Sprintf("%s%s is no whole number of steps of %s from %s", name, p.Args["value"], p.Args["step"], p.Args["from"])
	case CheckFailed:
		return p.Args["says"]
	}
	return name + "cannot be told now: a value that it needs is bad"
}
