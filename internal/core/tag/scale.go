package tag

import (
	"errors"
	"fmt"

	"readyrail/internal/core/value"
)

// Scale maps raw to engineering numbers by two points.
type Scale struct {
	RawLow  float64 `json:"rawLow"`
	RawHigh float64 `json:"rawHigh"`
	EngLow  float64 `json:"engLow"`
	EngHigh float64 `json:"engHigh"`
	// Clamp cuts what lies outside the two points to the nearer one; the value
	// is then uncertain.
	Clamp bool `json:"clamp,omitempty"`
}

// Check refuses a scale that has no inverse.
func (s Scale) Check() error {
	if s.RawLow == s.RawHigh {
		return errors.New("the two raw points are equal: give two different ones")
	}
	if s.EngLow == s.EngHigh {
		return errors.New("the two engineering points are equal: give two different ones")
	}
	return nil
}

// Linear is the scale as a factor and an offset: engineering = raw*Gain + Offset.
type Linear struct {
	Gain, Offset float64
	Low, High    float64 // engineering ends, for the clamp
	Clamp        bool
}

// Linear precomputes the scale for the hot path.
func (s Scale) Linear() Linear {
	g := (s.EngHigh - s.EngLow) / (s.RawHigh - s.RawLow)
	low, high := s.EngLow, s.EngHigh
	if low > high {
		low, high = high, low
	}
	return Linear{Gain: g, Offset: s.EngLow - s.RawLow*g, Low: low, High: high, Clamp: s.Clamp}
}

// Read converts a raw number. cut is true when the clamp changed it.
func (l Linear) Read(raw float64) (eng float64, cut bool) {
	eng = raw*l.Gain + l.Offset
	if l.Clamp {
		if eng < l.Low {
			return l.Low, true
		}
		if eng > l.High {
			return l.High, true
		}
	}
	return eng, false
}

// Write converts an engineering number back to a raw one.
func (l Linear) Write(eng float64) float64 { return (eng - l.Offset) / l.Gain }

// ToEngineering turns a raw value into what formulas and screens see: scaled
// numbers as LREAL, an inverted BOOL turned, everything else unchanged.
func (t *Tag) ToEngineering(raw value.Value) value.Value {
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
			return value.Value{}, fmt.Errorf("scaled back to raw: %w", err)
		}
		return raw, nil
	case eng.Kind == kind:
		return eng, nil
	}
	return value.FromFloat(kind, eng.Float())
}
