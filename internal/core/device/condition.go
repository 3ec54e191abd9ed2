package device

import (
	"strconv"
	"strings"

	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// Condition is a part of a controller that tells by a code how it is: its
// program, motion, field bus, network, power, or one of the plant's own.
type Condition struct {
	Name  string `json:"name"` // in the project's first language
	Tag   string `json:"tag"`  // id of the tag that holds the code
	Codes []Code `json:"codes,omitempty"`
}

// Code is one code of a condition with its meaning.
type Code struct {
	Code  string `json:"code"` // as the tag's value is written: 17, true, E12
	Level Level  `json:"level" enum:"good,attention,fault,unknown"`
	Text  string `json:"text,omitempty"` // in the project's first language
}

// ServerName is the group of an OPC UA server that tells of itself, without a
// tag.
const ServerName = "Server"

// HasCondition tells whether a controller has a group of a name.
func (d *Device) HasCondition(name string) bool {
	for _, c := range d.Conditions {
		if c.Name == name {
			return true
		}
	}
	return d.Protocol == OPCUA && name == ServerName
}

// Level says how a part of a controller is.
type Level string

// The levels, from the best. Unknown is for a code that cannot be read.
const (
	LevelGood      Level = "good"
	LevelAttention Level = "attention" // it goes on, but not as it should
	LevelFault     Level = "fault"
	LevelUnknown   Level = "unknown"
)

// Bounds of what a controller tells.
const (
	MaxConditions = 24
	MaxCodes      = 1000
)

// CodeOf writes a value as a code.
func CodeOf(v value.Value) string {
	switch {
	case v.Kind == value.BOOL:
		return strconv.FormatBool(v.Bool())
	case v.Kind == value.STRING:
		return v.Str()
	case v.Kind.IsInteger():
		return strconv.FormatInt(v.Int(), 10)
	}
	return strconv.FormatFloat(v.Float(), 'g', -1, 64)
}

// Judge says what a code means. A code that is not in the list is good where
// it is nothing (0, false, no text), and wants attention otherwise; listed is
// false then.
func (c *Condition) Judge(code string) (found Code, listed bool) {
	for _, x := range c.Codes {
		if strings.EqualFold(x.Code, code) {
			return x, true
		}
	}
	if code == "0" || code == "" || code == "false" {
		return Code{Code: code, Level: LevelGood}, false
	}
	return Code{Code: code, Level: LevelAttention}, false
}

func (d *Device) checkConditions() error {
	if len(d.Conditions) > MaxConditions {
		return say.Errorf("a controller has at most %d groups", MaxConditions)
	}
	names := map[string]bool{}
	for _, c := range d.Conditions {
		name := strings.TrimSpace(c.Name)
		switch {
		case name == "" || len(name) > 60:
			return say.New("a group of the controller needs a name of at most 60 characters")
		case names[strings.ToLower(name)]:
			return say.Errorf("there are two groups %s", name)
		case len(c.Codes) > MaxCodes:
			return say.Errorf("the group %s: at most %d codes", name, MaxCodes)
		}
		names[strings.ToLower(name)] = true
		codes := map[string]bool{}
		for _, x := range c.Codes {
			switch {
			case x.Code == "" || len(x.Code) > 60 || len(x.Text) > 400:
				return say.Errorf("the group %s: a code has at most 60 characters and its meaning 400", name)
			case codes[strings.ToLower(x.Code)]:
				return say.Errorf("the group %s has the code %s twice", name, x.Code)
			case x.Level != LevelGood && x.Level != LevelAttention && x.Level != LevelFault:
				return say.Errorf("the group %s, code %s: %q is no level: use good, attention or fault", name, x.Code, x.Level)
			}
			codes[strings.ToLower(x.Code)] = true
		}
	}
	return nil
}
