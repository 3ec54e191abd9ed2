package alarm

import "time"

// What ISA-18.2 calls nuisance alarms (clause on monitoring and assessment),
// with the numbers that this program goes by.
const (
	chatterTimes  = 3           // raised so often
	chatterWithin = time.Minute // within this
	FleetingBelow = 10 * time.Second
	StaleAfter    = 24 * time.Hour
)

// Spell is a time for which an alarm stood. A zero To is one that stands yet.
type Spell struct {
	From time.Time `json:"from"`
	To   time.Time `json:"to,omitzero"`
}

// Fleeting tells whether it was gone before anybody could act on it.
func (s Spell) Fleeting() bool { return !s.To.IsZero() && s.To.Sub(s.From) < FleetingBelow }

// Chatter counts the episodes in which an alarm was raised three times or more
// within a minute, and says how often it came in its worst minute. Spells are
// in order.
func Chatter(spells []Spell) (episodes, worst int) {
	first, within := 0, false
	for i, s := range spells {
		for s.From.Sub(spells[first].From) > chatterWithin {
			first++
		}
		n := i - first + 1
		worst = max(worst, n)
		switch {
		case n >= chatterTimes && !within:
			episodes++
			within = true
		case n == 1:
			within = false
		}
	}
	return episodes, worst
}

// FleetingOf counts the spells that were gone before anybody could act.
func FleetingOf(spells []Spell) (n int) {
	for _, s := range spells {
		if s.Fleeting() {
			n++
		}
	}
	return n
}
