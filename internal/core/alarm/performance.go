package alarm

import (
	"math"
	"slices"
	"sort"
	"time"
)

// Happening is what the journal has of an alarm.
type Happening struct {
	At       time.Time
	Alarm    string // id
	Name     string
	Area     string // id
	Priority Priority
	On       Event
	To       Standing
}

// The targets of EEMUA 191 and of ISA-18.2, clause on monitoring and
// assessment, for one operator's desk.
const (
	slice          = 10 * time.Minute
	targetAverage  = 1.0  // alarms in ten minutes, long-term average: very likely acceptable
	targetPeak     = 10.0 // alarms in ten minutes
	targetFlood    = 1.0  // percent of the time
	targetTop      = 5.0  // percent of all alarms that the ten most frequent make
	targetStale    = 5.0  // alarms that stand for more than a day
	targetCritical = 5.0  // percent of annunciated alarms
	targetHigh     = 15.0
	mostListed     = 10
)

// Figure is a measure beside what the standards ask for.
type Figure struct {
	Name   string  `json:"name" enum:"average,peak,flood,top,chattering,fleeting,stale"`
	Value  float64 `json:"value"`
	Target float64 `json:"target" doc:"at most; no target where it is negative"`
	Met    bool    `json:"met"`
}

// Frequent is an alarm with how often it came and what is wrong with it.
type Frequent struct {
	Alarm    string   `json:"alarm"`
	Name     string   `json:"name"`
	Area     string   `json:"area"`
	Priority Priority `json:"priority" enum:"critical,high,medium,low"`
	Count    int      `json:"count"`
	Share    float64  `json:"share" doc:"of all alarms, percent"`
	Chatter  int      `json:"chatter" doc:"episodes of three or more within a minute"`
	Worst    int      `json:"worst" doc:"how often in its worst minute"`
	Fleeting int      `json:"fleeting" doc:"times that it was gone within ten seconds"`
	Longest  float64  `json:"longest" doc:"seconds that it stood at most"`
	Since    int64    `json:"since,omitempty" doc:"of one that stands yet: milliseconds since 1970"`
}

// Waited is how long alarms of a priority waited for acknowledgement.
type Waited struct {
	Priority Priority `json:"priority" enum:"critical,high,medium,low"`
	Count    int      `json:"count" doc:"alarms of the priority"`
	Share    float64  `json:"share" doc:"of all alarms, percent"`
	Target   float64  `json:"target" doc:"percent at most; 100 for no limit"`
	Acked    int      `json:"acked"`
	Median   float64  `json:"median" doc:"seconds"`
	Most     float64  `json:"most" doc:"seconds within which 95 % were acknowledged"`
}

// Flood is a time in which more alarms came than a person can take in.
type Flood struct {
	From  int64 `json:"from" doc:"milliseconds since 1970"`
	To    int64 `json:"to"`
	Count int   `json:"count"`
}

// AreaRate is the load of an area's desk.
type AreaRate struct {
	Area    string  `json:"area"`
	Count   int     `json:"count"`
	Average float64 `json:"average" doc:"alarms in ten minutes"`
	Peak    int     `json:"peak" doc:"alarms in ten minutes"`
	Flood   float64 `json:"flood" doc:"percent of the time"`
}

// Performance says how an alarm system did.
type Performance struct {
	From     int64      `json:"from" doc:"milliseconds since 1970"`
	To       int64      `json:"to"`
	Alarms   int        `json:"alarms" doc:"annunciated"`
	Figures  []Figure   `json:"figures"`
	Waited   []Waited   `json:"waited"`
	Areas    []AreaRate `json:"areas"`
	Frequent []Frequent `json:"frequent" doc:"the ten most frequent"`
	Chatter  []Frequent `json:"chattering"`
	Fleeting []Frequent `json:"fleeting"`
	Stale    []Frequent `json:"stale"`
	Floods   []Flood    `json:"floods"`
	Slices   []int      `json:"slices" doc:"alarms in each ten minutes from the beginning"`
}

// life is what a time knows of one alarm.
type life struct {
	Frequent
	spells []Spell
	waits  bool
	raised time.Time
}

// Performed computes the performance of a time, from what happened in it, in
// order, and from which alarms stood at its end since when.
func Performed(happened []Happening, standing map[string]Happening, from, to time.Time) Performance {
	if !to.After(from) {
		to = from.Add(slice)
	}
	c := &assessment{from: from, to: to, lives: map[string]*life{}, waits: map[Priority][]float64{}, counts: map[Priority]int{},
		areas: map[string][]int{}}
	c.slices = make([]int, (to.Sub(from)+slice-1)/slice)
	for _, h := range happened {
		if !h.At.Before(from) && h.At.Before(to) {
			c.take(h)
		}
	}
	for id, h := range standing {
		l := c.life(h)
		if len(l.spells) == 0 || !l.spells[len(l.spells)-1].To.IsZero() {
			l.spells = append(l.spells, Spell{From: h.At})
		}
		l.Since = h.At.UnixMilli()
		c.lives[id] = l
	}
	return c.sum()
}

type assessment struct {
	from, to time.Time
	lives    map[string]*life
	waits    map[Priority][]float64 // seconds
	counts   map[Priority]int
	areas    map[string][]int // slices by area
	slices   []int
	total    int
}

func (c *assessment) life(h Happening) *life {
	l := c.lives[h.Alarm]
	if l == nil {
		l = &life{Frequent: Frequent{Alarm: h.Alarm}}
		c.lives[h.Alarm] = l
	}
	// The newest name and place are today's.
	l.Name, l.Area, l.Priority = h.Name, h.Area, h.Priority
	return l
}

func (c *assessment) take(h Happening) {
	l := c.life(h)
	stands := len(l.spells) > 0 && l.spells[len(l.spells)-1].To.IsZero()
	begins := h.To == Unacknowledged || h.On == Raise && h.To.Annunciated()
	switch {
	case begins && !stands:
		l.spells = append(l.spells, Spell{From: h.At})
		l.Count++
		l.waits, l.raised = h.To.Unseen(), h.At
		c.count(h)
	case h.On == Clear, h.To.Aside():
		if stands {
			l.spells[len(l.spells)-1].To = h.At
		}
	}
	if h.On == Ack && l.waits {
		l.waits = false
		c.waits[h.Priority] = append(c.waits[h.Priority], h.At.Sub(l.raised).Seconds())
	}
}

func (c *assessment) count(h Happening) {
	c.total++
	c.counts[h.Priority]++
	i := int(h.At.Sub(c.from) / slice)
	c.slices[i]++
	of := c.areas[h.Area]
	if of == nil {
		of = make([]int, len(c.slices))
		c.areas[h.Area] = of
	}
	of[i]++
}

// rate sums slices up: their average, their peak, and the percentage of them
// that is a flood.
func rate(slices []int) (average float64, peak int, flood float64) {
	sum, over := 0, 0
	for _, n := range slices {
		sum += n
		peak = max(peak, n)
		if n > targetPeak {
			over++
		}
	}
	return float64(sum) / float64(len(slices)), peak, 100 * float64(over) / float64(len(slices))
}

func (c *assessment) sum() Performance {
	p := Performance{From: c.from.UnixMilli(), To: c.to.UnixMilli(), Alarms: c.total, Slices: c.slices, Waited: []Waited{},
		Areas: []AreaRate{}, Frequent: []Frequent{}, Chatter: []Frequent{}, Fleeting: []Frequent{}, Stale: []Frequent{}, Floods: []Flood{}}
	for _, l := range c.lives {
		l.finish(c.total, c.to)
		f := l.Frequent
		if f.Count > 0 {
			p.Frequent = append(p.Frequent, f)
		}
		if f.Chatter > 0 {
			p.Chatter = append(p.Chatter, f)
		}
		if f.Fleeting > 0 {
			p.Fleeting = append(p.Fleeting, f)
		}
		if time.Duration(f.Longest*float64(time.Second)) > StaleAfter {
			p.Stale = append(p.Stale, f)
		}
	}
	most := func(list []Frequent, by func(Frequent) float64) []Frequent {
		sort.Slice(list, func(i, j int) bool {
			if a, b := by(list[i]), by(list[j]); a != b {
				return a > b
			}
			return list[i].Name < list[j].Name
		})
		return list
	}
	p.Frequent = most(p.Frequent, func(f Frequent) float64 { return float64(f.Count) })
	p.Frequent = p.Frequent[:min(len(p.Frequent), mostListed)]
	most(p.Chatter, func(f Frequent) float64 { return float64(f.Chatter) })
	most(p.Fleeting, func(f Frequent) float64 { return float64(f.Fleeting) })
	most(p.Stale, func(f Frequent) float64 { return f.Longest })
	for area, slices := range c.areas {
		r := AreaRate{Area: area}
		r.Average, r.Peak, r.Flood = rate(slices)
		for _, n := range slices {
			r.Count += n
		}
		p.Areas = append(p.Areas, r)
	}
	sort.Slice(p.Areas, func(i, j int) bool { return p.Areas[i].Count > p.Areas[j].Count })
	c.waited(&p)
	c.floods(&p)
	c.figures(&p)
	return p
}

func (l *life) finish(total int, to time.Time) {
	l.Chatter, l.Worst = Chatter(l.spells)
	l.Fleeting = FleetingOf(l.spells)
	for _, s := range l.spells {
		end := s.To
		if end.IsZero() {
			end = to
		}
		l.Longest = max(l.Longest, end.Sub(s.From).Seconds())
	}
	l.Share = percent(l.Count, total)
}

func percent(n, of int) float64 {
	if of == 0 {
		return 0
	}
	return 100 * float64(n) / float64(of)
}

func (c *assessment) waited(p *Performance) {
	for _, prio := range Priorities {
		w := Waited{Priority: prio, Count: c.counts[prio], Share: percent(c.counts[prio], c.total), Target: 100, Acked: len(c.waits[prio])}
		switch prio {
		case Critical:
			w.Target = targetCritical
		case High:
			w.Target = targetHigh
		}
		if list := c.waits[prio]; len(list) > 0 {
			slices.Sort(list)
			w.Median, w.Most = list[(len(list)-1)/2], list[int(math.Ceil(0.95*float64(len(list))))-1]
		}
		p.Waited = append(p.Waited, w)
	}
}

func (c *assessment) floods(p *Performance) {
	at := func(i int) int64 { return c.from.Add(time.Duration(i) * slice).UnixMilli() }
	for i, n := range c.slices {
		if n <= targetPeak {
			continue
		}
		if last := len(p.Floods) - 1; last >= 0 && p.Floods[last].To == at(i) {
			p.Floods[last].To, p.Floods[last].Count = at(i+1), p.Floods[last].Count+n
			continue
		}
		p.Floods = append(p.Floods, Flood{at(i), at(i + 1), n})
	}
}

func (c *assessment) figures(p *Performance) {
	average, peak, flood := rate(c.slices)
	top := 0.0
	for _, f := range p.Frequent {
		top += f.Share
	}
	for _, f := range []Figure{{Name: "average", Value: average, Target: targetAverage},
		{Name: "peak", Value: float64(peak), Target: targetPeak}, {Name: "flood", Value: flood, Target: targetFlood},
		{Name: "top", Value: top, Target: targetTop}, {Name: "chattering", Value: float64(len(p.Chatter))},
		{Name: "fleeting", Value: float64(len(p.Fleeting))}, {Name: "stale", Value: float64(len(p.Stale)), Target: targetStale}} {
		f.Met = f.Value <= f.Target
		p.Figures = append(p.Figures, f)
	}
}
