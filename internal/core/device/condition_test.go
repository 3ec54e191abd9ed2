package device

import (
	"strings"
	"testing"

	"readyrail/internal/core/value"
)

func TestWhatACodeMeans(t *testing.T) {
	c := Condition{Name: "Motion", Codes: []Code{{"0", LevelGood, "ready"}, {"31", LevelFault, "emergency stop"},
		{"E12", LevelAttention, "warm"}}}
	for _, x := range []struct {
		v      value.Value
		level  Level
		text   string
		listed bool
	}{
		{value.Int(value.UINT, 31), LevelFault, "emergency stop", true},
		{value.Int(value.INT, 0), LevelGood, "ready", true},
		{value.Int(value.INT, -7), LevelAttention, "", false},
		{value.Str("e12"), LevelAttention, "warm", true},
		{value.Str(""), LevelGood, "", false},
		{value.Bool(false), LevelGood, "", false},
		{value.Bool(true), LevelAttention, "", false},
		{value.Real(value.REAL, 31), LevelFault, "emergency stop", true},
	} {
		got, listed := c.Judge(CodeOf(x.v))
		if got.Level != x.level || got.Text != x.text || listed != x.listed {
			t.Errorf("%v: %+v %v", x.v, got, listed)
		}
	}
}

func TestConditionsAreRefusedWithTheirReason(t *testing.T) {
	for want, list := range map[string][]Condition{
		"needs a name":         {{Name: " "}},
		"two groups program":   {{Name: "Program"}, {Name: "program"}},
		"the code 3 twice":     {{Name: "P", Codes: []Code{{"3", LevelGood, ""}, {"3", LevelGood, ""}}}},
		"is no level":          {{Name: "P", Codes: []Code{{"3", "bad", ""}}}},
		"at most 24 groups":    make([]Condition, MaxConditions+1),
		"has at most 60 chara": {{Name: "P", Codes: []Code{{"", LevelGood, ""}}}},
	} {
		d := New()
		d.Name, d.Conditions = "PLC", list
		if field, err := d.Check(); field != "conditions" || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %s %v", want, field, err)
		}
	}
}
