package equipment

import (
	"cmp"
	"encoding/json"
	"slices"
	"sort"
	"strconv"
	"strings"

	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
)

// TypeAlarm is an alarm that every piece of equipment of a type has. Its signal
// begins with a point and is a member's chain; that of an array gives an alarm
// for each of it. Its name, its group and its guidance may hold expressions in
// braces, as a member's description; its formulas and its message name
// settings, name and i by themselves. A group that is not given is the name of
// the instance.
type TypeAlarm struct {
	alarm.Alarm
	// Differs are the properties that an instance may have for itself.
	Differs []string `json:"differs,omitempty"`
}

// AlarmDiffering are the properties of an alarm that a type may leave to its
// instances.
var AlarmDiffering = []string{"limit", "deadband", "onDelay", "offDelay", "window", "side", "latch", "onBad", "priority", "suppress",
	"suppressWhy", "off", "shelveMinutes", "area", "screen", "message", "gone", "guidance", "reviewed", "atDesk"}

// AlarmUsual are those that it leaves to them unless it says otherwise.
var AlarmUsual = []string{"deadband", "limit", "off", "offDelay", "onDelay"}

// MadeAlarm is an alarm of an instance.
type MadeAlarm struct {
	alarm.Alarm
	Type    string // id of the type that holds it
	Member  string // its id there
	Chain   string // from the instance to it
	Differs []string
}

func (a *TypeAlarm) check() (place string, err error) {
	if place, err := a.Alarm.Check(); err != nil {
		return place, err
	}
	if a.Tag != "" && !strings.HasPrefix(a.Tag, ".") {
		return "/tag", say.Errorf("an alarm of a type watches a member of it")
	}
	for _, d := range a.Differs {
		if !slices.Contains(AlarmDiffering, d) {
			return "/differs", say.Errorf("%q of an alarm cannot differ from one instance to another", d)
		}
	}
	return "", nil
}

func (t *Type) checkAlarms() (place string, err error) {
	for _, id := range t.SortedAlarms() {
		at, a := "/alarms/"+id, t.Alarms[id]
		switch {
		case !plainID(id):
			return at, say.Errorf("an alarm's id has letters and digits only")
		case t.Members[id] != nil:
			return at, say.Errorf("there is a member of this id")
		case a == nil:
			return at, say.Errorf("an alarm is missing its description")
		}
		if place, err := a.check(); err != nil {
			return at + place, err
		}
	}
	return "", nil
}

// SortedAlarms lists the ids of a type's alarms by priority, then by name.
func (t *Type) SortedAlarms() []string {
	ids := make([]string, 0, len(t.Alarms))
	for id := range t.Alarms {
		ids = append(ids, id)
	}
	sort.Slice(ids, func(i, j int) bool {
		a, b := t.Alarms[ids[i]], t.Alarms[ids[j]]
		if a != nil && b != nil && a.Name != b.Name {
			return a.Name < b.Name
		}
		return ids[i] < ids[j]
	})
	return ids
}

// OwnPrefix begins the names that a type's formulas have for its settings, for
// name and for i.
const OwnPrefix = "$"

// alarms makes the alarms of a piece of equipment.
func (x *expander) alarms(t *Type, holder string, names map[string]value.Value) {
	for _, id := range t.SortedAlarms() {
		a := t.Alarms[id]
		m := t.Members[strings.TrimPrefix(a.Tag, ".")]
		if a.Tag == "" || m == nil || m.To == 0 {
			x.alarm(t, a, id, holder, below(holder, id), a.Tag, names)
			continue
		}
		for i := m.From; i <= m.To; i++ {
			n := "." + strconv.Itoa(i)
			inner := make(map[string]value.Value, len(names))
			for k, v := range names {
				inner[k] = v
			}
			inner["i"] = value.Int(value.LINT, int64(i))
			x.alarm(t, a, id, holder, below(holder, id)+n, a.Tag+n, inner)
		}
	}
}

func (x *expander) alarm(t *Type, a *TypeAlarm, id, holder, chain, signal string, names map[string]value.Value) {
	c := a.Alarm
	c.ID, c.Tag = x.e.Real(chain), x.root(signal, holder)
	c.Group = cmp.Or(c.Group, x.e.Name)
	for _, text := range []*string{&c.Name, &c.Group, &c.Guidance.Cause, &c.Guidance.Consequence, &c.Guidance.Action, &c.SuppressWhy} {
		filled, err := formula.FillText(*text, names)
		if err != nil {
			x.problem(chain, "alarm", say.Errorf("%s: %q, %v", a.Name, *text, err))
			continue
		}
		*text = filled
	}
	here := func(id, path string) (string, bool) {
		if own, ok := strings.CutPrefix(id, OwnPrefix); ok && alarm.Names[own] == "" {
			v, known := names[own]
			return literal(v), known
		}
		return formula.Reference(x.root(id, holder), path), strings.HasPrefix(id, ".")
	}
	made, _, _ := c.Convert(
		func(f string) (string, error) { return formula.Substitute(f, here), nil },
		func(m string) (string, error) { return formula.SubstituteTemplate(plain(m, names), here), nil })
	if own := x.e.Differs[chain]; len(own) > 0 {
		if err := differAlarm(made, own); err != nil {
			x.problem(chain, "difference", say.Errorf("%s: %v", c.Name, err))
		}
	}
	x.note(chain)
	x.out.Alarms = append(x.out.Alarms, MadeAlarm{Alarm: *made, Type: t.ID, Member: id, Chain: chain, Differs: a.Differs})
}

// plain puts the values of settings, name and i into a message where it shows
// them as they are.
func plain(message string, names map[string]value.Value) string {
	for own, v := range names {
		if alarm.Names[own] == "" {
			message = strings.ReplaceAll(message, "{"+formula.Reference(OwnPrefix+own, own)+"}", braces.Replace(v.Text()))
		}
	}
	return message
}

var braces = strings.NewReplacer(`\`, `\\`, "{", `\{`, "}", `\}`)

// literal writes a setting's value as formulas have it.
func literal(v value.Value) string {
	switch {
	case v.Kind == value.STRING:
		return strconv.Quote(v.Text())
	case strings.HasPrefix(v.Text(), "-"):
		return "(" + v.Text() + ")"
	}
	return v.Text()
}

// differAlarm lays an instance's own properties over an alarm.
func differAlarm(a *alarm.Alarm, own map[string]json.RawMessage) error {
	c := alarm.Alarm{}
	if err := overlay(a, own, &c); err != nil {
		return err
	}
	if _, err := c.Check(); err != nil {
		return err
	}
	*a = c
	return nil
}
