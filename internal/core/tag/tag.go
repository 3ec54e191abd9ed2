package tag

import (
	"errors"
	"math"
	"strconv"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Source says where a tag's value comes from.
type Source string

// The sources.
const (
	Device   Source = "device"   // read from and written to a device
	Internal Source = "internal" // held here
	Computed Source = "computed" // the result of a formula
	System   Source = "system"   // told by the application itself; read only
)

// Access says whether a device tag may be written.
type Access string

// The accesses.
const (
	Read      Access = "read"
	ReadWrite Access = "readwrite"
)

// Folder is one place in the tree of paths.
type Folder struct {
	ID          string `json:"id"`
	Parent      string `json:"parent,omitempty"` // id of the folder it lies in, empty at the top
	Name        string `json:"name"`
	Description string `json:"description,omitempty"`
	Area        string `json:"area,omitempty"` // id of the plant area; inherited when empty
	// Record is for all tags below that say nothing of their own.
	Record *Recording `json:"record,omitempty"`
}

// State names one value of a BOOL or integer tag: in the project's first
// language, and in its others by their codes.
type State struct {
	Value int64             `json:"value"`
	Text  string            `json:"text"`
	Texts map[string]string `json:"texts,omitempty"`
}

// Tag is a definition. Limits, unit, decimals and step are in engineering
// units.
type Tag struct {
	ID          string     `json:"id"`
	Folder      string     `json:"folder,omitempty"`
	Name        string     `json:"name"`
	Description string     `json:"description,omitempty"`
	Type        value.Type `json:"type"`
	Source      Source     `json:"source" enum:"device,internal,computed,system"`

	Device  string `json:"device,omitempty"`  // id, for Source Device and system values about a device
	Address string `json:"address,omitempty"` // as the device's protocol writes it
	Access  Access `json:"access,omitempty" enum:"read,readwrite"`
	// WriteAddress is where the controller wants values written, when that is
	// not where they are read.
	WriteAddress string `json:"writeAddress,omitempty"`
	Poll         int    `json:"poll,omitempty"`                              // milliseconds; 0 takes the group's or the device's rate
	Group        string `json:"group,omitempty"`                             // id of one of the device's poll groups
	Order        string `json:"order,omitempty" enum:",ABCD,CDAB,BADC,DCBA"` // byte order; empty takes the device's

	Scale  *Scale `json:"scale,omitempty"`
	Invert bool   `json:"invert,omitempty"`
	// Plausible is where a value of a device can be; outside of it its quality is
	// bad.
	Plausible *Plausible `json:"plausible,omitempty"`
	Unit      string     `json:"unit,omitempty"`
	Decimals  *int       `json:"decimals,omitempty"`
	Low       *float64   `json:"low,omitempty"`
	High      *float64   `json:"high,omitempty"`
	// LowTag and HighTag are ids of tags whose values are the limits; each goes
	// before the constant beside it.
	LowTag  string  `json:"lowTag,omitempty"`
	HighTag string  `json:"highTag,omitempty"`
	Step    float64 `json:"step,omitempty"`
	States  []State `json:"states,omitempty"`

	Initial string `json:"initial,omitempty"` // for Source Internal
	Retain  bool   `json:"retain,omitempty"`  // an internal tag keeps its value over a restart
	System  string `json:"system,omitempty"`  // which system value, for Source System
	// Log is the id of the log that a system value tells of.
	Log string `json:"log,omitempty"`
	// Book is the id of the book of recipes that a system value tells of.
	Book string `json:"book,omitempty"`
	// Field is the id of the field of that book, for the system value FieldOfRecipe.
	Field string `json:"field,omitempty"`
	// Behaviour is what the tag does on a stand-in; a suggested one where none
	// is given.
	Behaviour *Behaviour `json:"behaviour,omitempty"`
	Formula   string     `json:"formula,omitempty"` // stored form, for Source Computed
	Area      string     `json:"area,omitempty"`    // id; inherited from the folder when empty

	// Record says what the recorder does with it; as the folder says where it is nil.
	Record *Recording `json:"record,omitempty"`

	// SourceName is what the controller calls it, where that differs.
	SourceName string `json:"sourceName,omitempty"`
}

// Kind is the kind that formulas and screens see.
func (t *Tag) Kind() value.Kind {
	if t.Scale != nil && t.Type.Kind.IsNumber() {
		return value.LREAL
	}
	return t.Type.Kind
}

// EngineeringType is the type of what people see and enter.
func (t *Tag) EngineeringType() value.Type {
	if t.Type.Kind == value.STRING {
		return t.Type
	}
	return value.Type{Kind: t.Kind()}
}

// Writable tells whether a person may be allowed to write it at all.
func (t *Tag) Writable() bool {
	return t.Source == Internal || t.Source == Device && t.Access == ReadWrite
}

// Check refuses a definition that contradicts itself. field names the JSON
// field the sentence is about.
func (t *Tag) Check() (field string, err error) {
	if err := CheckSegment(t.Name); err != nil {
		return "name", err
	}
	k := t.Type.Kind
	switch {
	case k == value.None:
		return "type", say.Errorf("a tag needs a type, such as INT or REAL")
	case t.Source != Device && t.Source != Internal && t.Source != Computed && t.Source != System:
		return "source", say.Errorf("source %q is not known: use device, internal, computed or system", t.Source)
	case t.Source == Device && t.Address == "":
		return "address", say.Errorf("a device tag needs an address")
	case t.Source == Computed && t.Formula == "":
		return "formula", say.Errorf("a computed tag needs a formula")
	case t.Access != "" && t.Access != Read && t.Access != ReadWrite:
		return "access", say.Errorf("access %q is not known: use read or readwrite", t.Access)
	case t.Scale != nil && !k.IsNumber():
		return "scale", say.Errorf("a %s is not scaled: only numbers are", k)
	case t.Invert && k != value.BOOL:
		return "invert", say.Errorf("a %s is not inverted: only BOOL is", k)
	case t.Plausible != nil && (!k.IsNumber() || t.Source != Device):
		return "plausible", say.Errorf("a plausible range is for numbers that a device measures")
	case t.Plausible != nil && t.Plausible.empty():
		return "plausible", say.Errorf("the low end of the plausible range is above its high end")
	case t.Decimals != nil && (*t.Decimals < 0 || *t.Decimals > 9):
		return "decimals", say.Errorf("%d decimals: use 0 to 9", *t.Decimals)
	case t.Low != nil && t.High != nil && *t.Low > *t.High:
		return "low", say.Errorf("the low limit %v is above the high limit %v", *t.Low, *t.High)
	case t.Step < 0 || math.IsNaN(t.Step):
		return "step", say.Errorf("a step is not negative")
	case t.Poll != 0 && (t.Poll < 50 || t.Poll > 86_400_000):
		return "poll", say.Errorf("a poll rate is 50 ms to one day, not %d ms", t.Poll)
	}
	if t.Scale != nil {
		if err := t.Scale.Check(); err != nil {
			return "scale", err
		}
	}
	if t.Source == System {
		s, ok := SystemValueOf(t.System)
		if !ok {
			return "system", say.Errorf("there is no system value %q", t.System)
		}
		if s.Field && t.Field == "" {
			return "field", say.Errorf("the system value %s needs the field that it is", t.System)
		}
		if !s.Field && s.Type.Kind != k {
			return "type", say.Errorf("the system value %s is %s, not %s", t.System, s.Type, t.Type)
		}
		if s.Device && t.Device == "" {
			return "device", say.Errorf("the system value %s needs the device it is about", t.System)
		}
		if s.Log && t.Log == "" {
			return "log", say.Errorf("the system value %s needs the log it is about", t.System)
		}
		if s.Book && t.Book == "" {
			return "book", say.Errorf("the system value %s needs the book of recipes it is about", t.System)
		}
	}
	if field, err := t.Record.Check(); err != nil {
		return "record/" + field, err
	}
	for i, st := range t.States {
		for _, o := range t.States[:i] {
			if o.Value == st.Value {
				return "states", say.Errorf("the value %d has two names, %s and %s", st.Value, o.Text, st.Text)
			}
		}
	}
	if t.Behaviour != nil {
		if err := t.Behaviour.Check(); err != nil {
			return "behaviour", err
		}
	}
	if t.Source == Internal && t.Initial != "" {
		if _, err := value.Parse(t.EngineeringType(), t.Initial); err != nil {
			return "initial", err
		}
	}
	return "", nil
}

// Limits returns the ends of what may be entered: the tag's own limits, or
// where it has none what its type can hold, brought to engineering units.
func (t *Tag) Limits() (low, high float64, own bool) {
	low, high = math.Inf(-1), math.Inf(1)
	if t.Type.Kind.IsInteger() {
		l, h := t.Type.Kind.IntRange()
		low, high = float64(l), float64(h)
		if t.Scale != nil {
			lin := t.Scale.Linear()
			lin.clamp = false
			low, _ = lin.Read(low)
			high, _ = lin.Read(high)
			if low > high {
				low, high = high, low
			}
		}
	}
	if t.Low != nil {
		low, own = *t.Low, true
	}
	if t.High != nil {
		high, own = *t.High, true
	}
	return low, high, own
}

// Range is what the tag's value moves in: that of its scaling, or its limits; ok
// is false where neither is given.
func (t *Tag) Range() (low, high float64, ok bool) {
	switch {
	case t.Scale != nil:
		low, high = t.Scale.EngLow, t.Scale.EngHigh
	case t.Low != nil && t.High != nil:
		low, high = *t.Low, *t.High
	}
	return low, high, high > low
}

// LimitTags are the ids of the tags that give the limits, where there are any.
func (t *Tag) LimitTags() []string {
	var out []string
	for _, id := range []string{t.LowTag, t.HighTag} {
		if id != "" {
			out = append(out, id)
		}
	}
	return out
}

// WithLimits returns the tag with the limits that its limit tags have now. read
// gives a tag's value; where one is bad, the error says so.
func (t *Tag) WithLimits(read func(id string) value.Value) (*Tag, error) {
	if t.LowTag == "" && t.HighTag == "" {
		return t, nil
	}
	c := *t
	for id, into := range map[string]**float64{t.LowTag: &c.Low, t.HighTag: &c.High} {
		if id == "" {
			continue
		}
		v := read(id)
		if v.Quality.IsBad() || !v.Kind.IsNumber() {
			return nil, say.Errorf("the tag that gives its limit is bad: %s", v.Quality.Reason())
		}
		f := v.Float()
		*into = &f
	}
	return &c, nil
}

// LimitError refuses an entry, with the limit and where it is set.
type LimitError struct {
	Value, Low, High string // as people read them, with unit
	Own              bool   // the limit is set at the tag, not by its type
	Type             value.Type
	StepOf           string // set when the step, not a limit, refuses
}

func (e *LimitError) Error() string { return e.sentence().Error() }

// Say gives the refusal in a language.
func (e *LimitError) Say(language string) string { return say.In(language, e.sentence()) }

func (e *LimitError) sentence() error {
	switch {
	case e.StepOf != "":
		return say.Errorf("%s is not a whole number of steps of %s from %s; the step is set at the tag", e.Value, e.StepOf, e.Low)
	case e.Own:
		return say.Errorf("%s is outside %s to %s; the limits are set at the tag", e.Value, e.Low, e.High)
	}
	return say.Errorf("%s is outside %s to %s, which is all that its type %s holds", e.Value, e.Low, e.High, e.Type)
}

// CheckEntry refuses an engineering value outside the limits or between two
// steps. Steps count from the low limit, or from 0 where there is none.
func (t *Tag) CheckEntry(v value.Value) error {
	if !v.Kind.IsNumber() {
		return nil
	}
	f := v.Float()
	low, high, own := t.Limits()
	if f < low || f > high {
		return &LimitError{Value: t.Show(v, true), Low: t.showNumber(low), High: t.showNumber(high), Own: own, Type: t.Type}
	}
	if t.Step > 0 {
		base := 0.0
		if t.Low != nil {
			base = *t.Low
		}
		n := (f - base) / t.Step
		if math.Abs(n-math.Round(n)) > 1e-6 {
			return &LimitError{Value: t.Show(v, true), Low: t.showNumber(base), StepOf: t.showNumber(t.Step)}
		}
	}
	return nil
}

// Show writes a value as people read it: state name, decimals, unit on demand.
func (t *Tag) Show(v value.Value, unit bool) string { return string(t.AppendShow(nil, v, unit)) }

// AppendShow appends what Show returns, without allocating when b has room.
func (t *Tag) AppendShow(b []byte, v value.Value, unit bool) []byte {
	if len(t.States) > 0 && (v.Kind == value.BOOL || v.Kind.IsInteger()) {
		for _, s := range t.States {
			if s.Value == v.Int() {
				return append(b, s.Text...)
			}
		}
	}
	switch {
	case v.Kind == value.BOOL:
		if v.Bool() {
			return append(b, "on"...)
		}
		return append(b, "off"...)
	case v.Kind.IsReal():
		b = value.AppendFixed(b, v.Float(), t.decimals(v.Kind))
	case v.Kind.IsInteger() && v.Kind != value.ULINT && v.Int() > -1<<53 && v.Int() < 1<<53:
		if d := t.decimals(v.Kind); d > 0 {
			b = value.AppendFixed(b, v.Float(), d)
		} else {
			b = value.AppendWhole(b, v.Int())
		}
	default:
		b = v.AppendText(b)
	}
	if unit && t.Unit != "" && v.Kind.IsNumber() {
		b = append(b, "\u00a0"...)
		b = append(b, t.Unit...)
	}
	return b
}

func (t *Tag) decimals(k value.Kind) int {
	switch {
	case t.Decimals != nil:
		return *t.Decimals
	case k.IsInteger():
		return 0
	}
	return value.NoDecimals
}

func (t *Tag) showNumber(f float64) string {
	if math.IsInf(f, 0) {
		return "no limit"
	}
	s := string(value.AppendFixed(nil, f, t.decimals(t.Kind())))
	if t.Unit != "" {
		s += "\u00a0" + t.Unit
	}
	return s
}

// ShowLimits writes the two limits as people read them; empty where there is
// neither.
func (t *Tag) ShowLimits() (low, high string) {
	l, h, _ := t.Limits()
	if !math.IsInf(l, 0) {
		low = t.showNumber(l)
	}
	if !math.IsInf(h, 0) {
		high = t.showNumber(h)
	}
	return low, high
}

// ParseEntry reads what a person typed into an engineering value: a state
// name, a number with a decimal point (a comma is refused, not guessed), or
// text.
func (t *Tag) ParseEntry(s string) (value.Value, error) {
	typed := strings.TrimSpace(s)
	for _, st := range t.States {
		named := strings.EqualFold(typed, st.Text)
		for _, other := range st.Texts {
			named = named || strings.EqualFold(typed, other)
		}
		if named {
			s = strconv.FormatInt(st.Value, 10)
		}
	}
	v, err := value.Parse(t.EngineeringType(), s)
	if errors.Is(err, value.ErrRange) && t.Kind().IsNumber() {
		// What may be entered counts, and not what the type could hold.
		low, high, own := t.Limits()
		return v, &LimitError{Value: typed, Low: t.showNumber(low), High: t.showNumber(high), Own: own, Type: t.Type}
	}
	return v, err
}
