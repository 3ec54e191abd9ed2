package tag

import (
	"math"
	"testing"

	"readyrail/internal/core/value"
)

func TestOutsideThePlausibleRangeIsBad(t *testing.T) {
	f := func(x float64) *float64 { return &x }
	scale := &Scale{RawLow: 0, RawHigh: 1000, EngLow: 0, EngHigh: 100, Clamp: true}
	for name, c := range map[string]struct {
		scale *Scale
		r     Plausible
		raw   float64
		good  bool
	}{
		"a broken probe":                     {nil, Plausible{Low: f(0), High: f(120)}, -3276.8, false},
		"at the low end":                     {nil, Plausible{Low: f(0), High: f(120)}, 0, true},
		"at the high end":                    {nil, Plausible{Low: f(0), High: f(120)}, 120, true},
		"beyond it":                          {nil, Plausible{Low: f(0), High: f(120)}, 120.001, false},
		"an open side":                       {nil, Plausible{Low: f(0)}, 1e9, true},
		"no number":                          {nil, Plausible{Low: f(0)}, math.NaN(), false},
		"engineering units before the clamp": {scale, Plausible{High: f(110)}, 1150, false},
		"within, and clamped":                {scale, Plausible{High: f(110)}, 1050, true},
		"3.6 mA, raw":                        {scale, Plausible{Low: f(-50), Raw: true}, -51, false},
		"3.8 mA, raw":                        {scale, Plausible{Low: f(-50), Raw: true}, -49, true},
	} {
		tag := &Tag{ID: "t", Name: "T", Type: value.Type{Kind: value.LREAL}, Source: Device, Address: "holding:0", Scale: c.scale,
			Plausible: &c.r}
		if _, err := tag.Check(); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		v := tag.ToEngineering(value.Real(value.LREAL, c.raw))
		if v.Quality.IsBad() == c.good || !c.good && v.Quality != value.BadRange {
			t.Errorf("%s: quality %s", name, v.Quality.Reason())
		}
	}
	for _, bad := range []Tag{
		{Type: value.Type{Kind: value.BOOL}, Source: Device, Address: "coil:0", Plausible: &Plausible{Low: f(0)}},
		{Type: value.Type{Kind: value.INT}, Source: Internal, Plausible: &Plausible{Low: f(0)}},
		{Type: value.Type{Kind: value.INT}, Source: Device, Address: "holding:0", Plausible: &Plausible{Low: f(5), High: f(4)}},
	} {
		bad.Name = "T"
		if field, err := bad.Check(); err == nil || field != "plausible" {
			t.Errorf("%+v: %s %v", bad.Plausible, field, err)
		}
	}
}
