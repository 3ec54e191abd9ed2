package tag

import (
	"math"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Scale maps raw to engineering numbers, by two points or by gain and offset.
type Scale struct {
	RawLow  float64 `json:"rawLow"`
	RawHigh float64 `json:"rawHigh"`
	EngLow  float64 `json:"engLow"`
	EngHigh float64 `json:"engHigh"`
	// Clamp cuts what lies outside the two points to the nearer one; the value
	// is then uncertain.
	Clamp bool `json:"clamp,omitempty"`
	// Gain, when it is not 0, takes the place of the two points: engineering is
	// raw times Gain plus Offset.
	Gain   float64 `json:"gain,omitempty"`
	Offset float64 `json:"offset,omitempty"`
}

// Check refuses a scale that has no inverse.
func (s Scale) Check() error {
	for _, f := range []float64{s.RawLow, s.RawHigh, s.EngLow, s.EngHigh, s.Gain, s.Offset} {
		if math.IsNaN(f) || math.IsInf(f, 0) {
			return say.New("a scale is made of finite numbers")
		}
	}
	switch {
	case s.Gain != 0 && s.Clamp:
		return say.New("gain and offset have no ends to cut to: use two points")
	case s.Gain != 0:
		return nil
	case s.Offset != 0:
		return say.New("an offset needs a gain that is not 0")
	case s.RawLow == s.RawHigh:
		return say.New("the two raw points are equal: give two different ones")
	case s.EngLow == s.EngHigh:
		return say.New("the two engineering points are equal: give two different ones")
	}
	return nil
}

// Linear is a scale prepared for the hot path.
type Linear struct {
	rawLow, rawSpan float64
	engLow, engSpan float64
	low, high       float64 // engineering ends, for the clamp
	clamp           bool
}

// Linear prepares the scale.
func (s Scale) Linear() Linear {
	if s.Gain != 0 {
		return Linear{rawSpan: 1, engLow: s.Offset, engSpan: s.Gain}
	}
	return Linear{rawLow: s.RawLow, rawSpan: s.RawHigh - s.RawLow, engLow: s.EngLow, engSpan: s.EngHigh - s.EngLow,
		low: min(s.EngLow, s.EngHigh), high: max(s.EngLow, s.EngHigh), clamp: s.Clamp}
}

// Read converts a raw number. cut is true when the clamp changed it. It
// multiplies before it divides, so that 3 of 10 is 0.3 and not a neighbour.
func (l Linear) Read(raw float64) (eng float64, cut bool) {
	eng = (raw-l.rawLow)*l.engSpan/l.rawSpan + l.engLow
	if l.clamp {
		if eng < l.low {
			return l.low, true
		}
		if eng > l.high {
			return l.high, true
		}
	}
	return eng, false
}

// Unclamped is the same scale without its clamp.
func (l Linear) Unclamped() Linear { l.clamp = false; return l }

// Write converts an engineering number back to a raw one.
func (l Linear) Write(eng float64) float64 {
	return (eng-l.engLow)*l.rawSpan/l.engSpan + l.rawLow
}

// ToEngineering turns a raw value into what formulas and screens see: scaled
// numbers as LREAL, an inverted BOOL turned, everything else unchanged.
func (t *Tag) ToEngineering(raw value.Value) value.Value {
	if t.Plausible != nil && !raw.Quality.IsBad() && !t.Plausible.Holds(t.Scale, raw.Float()) {
		raw.Quality = value.BadRange
	}
	switch {
	case t.Scale != nil && raw.Kind.IsNumber():
		eng, cut := t.Scale.Linear().Read(raw.Float())
		v := value.Real(value.LREAL, eng).With(raw.Quality).AtNanos(raw.Nanos())
		if cut {
			v.Quality = raw.Quality.Worse(value.UncertainClamped)
		}
		return v
	case t.Invert && raw.Kind == value.BOOL:
		return value.Bool(!raw.Bool()).With(raw.Quality).AtNanos(raw.Nanos())
	}
	return raw
}

// ToRaw turns an engineering value into what is written to the device:
// integers rounded and range-checked, never wrapped.
func (t *Tag) ToRaw(eng value.Value) (value.Value, error) {
	kind := t.Type.Kind
	switch {
	case kind == value.STRING:
		return value.Parse(t.Type, eng.Str())
	case kind == value.BOOL:
		return value.Bool(eng.Bool() != t.Invert), nil
	case t.Scale != nil:
		raw, err := value.FromFloat(kind, t.Scale.Linear().Write(eng.Float()))
		if err != nil {
			return value.Value{}, say.Errorf("scaled back to raw: %w", err)
		}
		return raw, nil
	case eng.Kind == kind:
		return eng, nil
	}
	return value.FromFloat(kind, eng.Float())
}

// Plausible is the range in which a measured number can be; outside of it the
// quality is bad, "out of range", as NAMUR NE 43 has it for currents: a broken
// probe is no temperature. A side that is not given is open.
type Plausible struct {
	Low  *float64 `json:"low,omitempty"`
	High *float64 `json:"high,omitempty"`
	// Raw says that the ends are raw values, as a converter's 3.6 and 21 mA;
	// otherwise they are in engineering units, before any clamp.
	Raw bool `json:"raw,omitempty"`
}

// Ends are the range's ends, infinite where they are open.
func (r *Plausible) Ends() (low, high float64) {
	low, high = math.Inf(-1), math.Inf(1)
	if r.Low != nil {
		low = *r.Low
	}
	if r.High != nil {
		high = *r.High
	}
	return low, high
}

// Holds tells whether a raw number lies in the range; NaN does not.
func (r *Plausible) Holds(s *Scale, raw float64) bool {
	if !r.Raw && s != nil {
		raw, _ = s.Linear().Unclamped().Read(raw)
	}
	low, high := r.Ends()
	return raw >= low && raw <= high
}

func (r *Plausible) empty() bool {
	low, high := r.Ends()
	return !(low <= high)
}
