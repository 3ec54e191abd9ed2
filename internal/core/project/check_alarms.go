package project

import (
	"fmt"
	"strconv"
	"strings"

	"readyrail/internal/core/access"
	"readyrail/internal/core/alarm"
	"readyrail/internal/core/formula"
	"readyrail/internal/core/tag"
	"readyrail/internal/core/value"
)

func (c *checker) alarms() {
	limits := map[string]map[alarm.Kind]float64{}
	for _, id := range SortedKeys(c.p.Alarms) {
		a := &alarmCheck{checker: c, a: c.p.Alarms[id]}
		a.run()
		if f, err := strconv.ParseFloat(a.a.Limit, 64); err == nil && a.a.Tag != "" {
			if limits[a.a.Tag] == nil {
				limits[a.a.Tag] = map[alarm.Kind]float64{}
			}
			limits[a.a.Tag][a.a.Kind] = f
		}
	}
	for _, id := range SortedKeys(c.p.Alarms) {
		c.order(c.p.Alarms[id], limits[c.p.Alarms[id].Tag])
	}
	c.proportions()
	c.seenByNobody()
}

// alarmCheck checks one alarm.
type alarmCheck struct {
	*checker
	a *alarm.Alarm
}

func (c *checker) sayAlarm(a *alarm.Alarm, rule string, sev Severity, place string, args ...any) {
	c.add(rule, sev, KindAlarm, a.ID, place, c.p.AlarmName(a), args...)
}

func (c *alarmCheck) say(rule string, sev Severity, place string, args ...any) {
	c.sayAlarm(c.a, rule, sev, place, args...)
}

func (c *alarmCheck) run() {
	a := c.a
	signal := c.p.Tags[a.Tag]
	switch {
	case a.Kind == alarm.Formula:
		c.compile("/condition", a.Condition, value.BOOL)
	case a.Tag == "":
		c.say("alarm.new", Error, "/tag")
	case signal == nil:
		c.say("alarm.tag", Error, "/tag")
	case a.Kind == alarm.State && signal.Kind() != value.BOOL:
		c.say("alarm.bool", Error, "/tag", "tag", c.p.paths.of[a.Tag], "type", signal.Type.String())
	case a.Kind.Limited() && !signal.Kind().IsNumber():
		c.say("alarm.number", Error, "/tag", "tag", c.p.paths.of[a.Tag], "type", signal.Type.String())
	}
	if a.Kind.Limited() {
		c.compile("/limit", a.Limit, value.LREAL)
		c.inRange(signal)
	}
	if a.Kind.Targeted() {
		want := value.LREAL
		if signal != nil && a.Kind == alarm.Discrepancy {
			want = signal.Kind()
		}
		c.compile("/target", a.Target, want)
	}
	if a.Suppress != "" {
		c.compile("/suppress", a.Suppress, value.BOOL)
	}
	c.message()
	if a.Priority == alarm.Critical && (a.Guidance.Action == "" || a.Guidance.Consequence == "") {
		c.say("alarm.guidance", Warning, "/guidance")
	}
	if p, ok := a.Guidance.Suggested(); ok && p != a.Priority {
		c.say("alarm.matrix", Note, "/priority", "priority", string(a.Priority), "suggested", string(p))
	}
	if a.Screen != "" && c.p.Screens[a.Screen] == nil {
		c.say("alarm.screen", Error, "/screen")
	}
}

// compile checks a formula and what it results in.
func (c *alarmCheck) compile(place, stored string, want value.Kind) {
	if stored == "" {
		c.say("alarm.missing", Error, place)
		return
	}
	prog, err := formula.Compile(c.p.AlarmFormula(c.a, stored), c.p.Scope())
	if err != nil {
		c.formula(err, KindAlarm, c.a.ID, place, c.p.AlarmName(c.a))
		return
	}
	k := prog.Kind()
	if fits := k == want || want.IsNumber() && k.IsNumber(); !fits {
		c.say("alarm.type", Error, place, "type", k.String(), "wants", want.String())
	}
}

func (c *alarmCheck) message() {
	if strings.TrimSpace(c.a.Message) == "" {
		c.say("alarm.message", Warning, "/message")
	}
	c.template(c.a.Message, "/message")
	c.template(c.a.Gone, "/gone")
}

func (c *alarmCheck) template(text, place string) {
	parts, err := formula.ParseTemplate(text)
	if err != nil {
		c.formula(err, KindAlarm, c.a.ID, place, c.p.AlarmName(c.a))
		return
	}
	for _, part := range parts {
		if part.Formula == "" {
			continue
		}
		if _, err := formula.Compile(c.p.AlarmFormula(c.a, part.Formula), c.p.Scope()); err != nil {
			c.formula(err, KindAlarm, c.a.ID, place, c.p.AlarmName(c.a))
		}
	}
}

// inRange finds a limit that the signal can never reach.
func (c *alarmCheck) inRange(signal *tag.Tag) {
	limit, err := strconv.ParseFloat(c.a.Limit, 64)
	if err != nil || signal == nil || c.a.Kind == alarm.Deviation || c.a.Kind == alarm.Rate {
		return
	}
	low, high := signal.Low, signal.High
	if s := signal.Scale; s != nil {
		low, high = &s.EngLow, &s.EngHigh
	}
	if low != nil && limit < *low || high != nil && limit > *high {
		c.say("alarm.range", Warning, "/limit", "limit", c.a.Limit, "tag", c.p.paths.of[c.a.Tag])
	}
}

// order finds limits of one signal in the wrong order.
func (c *checker) order(a *alarm.Alarm, of map[alarm.Kind]float64) {
	mine, ok := of[a.Kind]
	if !ok {
		return
	}
	for _, above := range map[alarm.Kind][]alarm.Kind{alarm.HighLimit: {alarm.HighHigh}, alarm.LowLimit: {alarm.HighLimit, alarm.HighHigh},
		alarm.LowLow: {alarm.LowLimit, alarm.HighLimit, alarm.HighHigh}}[a.Kind] {
		if other, ok := of[above]; ok && mine >= other {
			c.sayAlarm(a, "alarm.order", Error, "/limit", "limit", a.Limit, "kind", string(a.Kind), "other", string(above), "otherLimit",
				strconv.FormatFloat(other, 'g', -1, 64))
		}
	}
}

// Shares that EEMUA 191 and ISA-18.2 recommend at most for the upper
// priorities, in percent, and how many alarms there have to be to tell.
const (
	criticalShare = 5
	highShare     = 15
	enoughAlarms  = 20
)

// proportions finds priorities that say little, as too many have the upper ones.
func (c *checker) proportions() {
	n := len(c.p.Alarms)
	if n < enoughAlarms {
		return
	}
	count := map[alarm.Priority]int{}
	for _, a := range c.p.Alarms {
		count[a.Priority]++
	}
	first := c.p.Alarms[SortedKeys(c.p.Alarms)[0]]
	for p, most := range map[alarm.Priority]int{alarm.Critical: criticalShare, alarm.High: highShare} {
		// Twice the share is let pass: it is advice, not a rule.
		if share := 100 * count[p] / n; share > 2*most {
			c.sayAlarm(first, "alarm.share", Note, "/priority", "priority", string(p), "share", fmt.Sprint(share), "most", fmt.Sprint(most))
		}
	}
}

// seenByNobody finds that no role may acknowledge.
func (c *checker) seenByNobody() {
	if len(c.p.Alarms) == 0 {
		return
	}
	for _, r := range c.p.Roles {
		if r.Has(access.Acknowledge) {
			return
		}
	}
	c.sayAlarm(c.p.Alarms[SortedKeys(c.p.Alarms)[0]], "alarm.nobody", Warning, "")
}
