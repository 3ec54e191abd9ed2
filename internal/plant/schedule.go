package plant

// Where a schedule is handed over, from a chamber's first holding register:
// nothing of it is used before it is taken over at a request.
const (
	scheduleAt   = 30 // thickness, target moisture, reversal, conditioning
	stepsAt      = 34 // four registers a step
	speciesAt    = 58
	scheduleEnd  = 64
	steps        = 6
	readyCoil    = 5
	takenBit     = 3
	ownSpeciesAt = 20 // what the chamber says it dries
)

// schedule is what a chamber dries by: set points for each step, which begins at
// a mean moisture.
type schedule struct {
	loaded       bool
	target       float64
	reverse      float64
	conditioning float64 // hours
	steps        [steps]scheduleStep
}

type scheduleStep struct{ from, dry, wet, fan float64 }

// takeOver answers a request: an idle chamber takes the schedule over that was
// handed to it, and says so for as long as the request stands.
// A deaf one does not hear the request.
func (c *chamber) takeOver(h []uint16, asked, deaf bool) {
	if !asked {
		c.taken = false
		return
	}
	if c.taken || deaf || c.mode != idle {
		return
	}
	at := func(i int) float64 { return float64(int16(h[i])) }
	s := schedule{loaded: true, target: at(scheduleAt+1) / 10, reverse: at(scheduleAt + 2), conditioning: at(scheduleAt+3) / 10}
	for i := range s.steps {
		r := stepsAt + 4*i
		s.steps[i] = scheduleStep{at(r) / 10, at(r+1) / 10, at(r+2) / 10, at(r+3) / 10}
	}
	c.schedule, c.taken, c.setFor = s, true, 0
	h[3], h[4] = h[scheduleAt+1], h[scheduleAt+2]
	copy(h[ownSpeciesAt:ownSpeciesAt+scheduleEnd-speciesAt], h[speciesAt:scheduleEnd])
}

// follow sets the chamber's set points to those of the step that it is in.
func (c *chamber) follow(h []uint16) {
	n := max(c.step, 1)
	if !c.schedule.loaded || n == c.setFor {
		return
	}
	c.setFor = n
	s := c.schedule.steps[n-1]
	h[0], h[1], h[2] = tenths(s.dry), tenths(s.wet), tenths(s.fan)
}

// stepAt is the step of a mean moisture: the last that begins at it or above.
func (s *schedule) stepAt(moisture float64) int {
	n := 1
	for i, step := range s.steps {
		if i > 0 && moisture <= step.from {
			n = i + 1
		}
	}
	return n
}

// schedules are what lies in each chamber's registers at first: those by which
// its load is dried, though each was set by hand.
var schedules = [Chambers][scheduleEnd - scheduleAt - 6]uint16{
	{50, 120, 120, 60, 600, 520, 505, 700, 400, 620, 560, 820, 300, 720, 595, 820, 250, 750, 590, 820, 200, 780, 580, 820, 150, 800, 570, 800},
	{32, 140, 180, 40, 600, 550, 530, 700, 420, 600, 550, 750, 340, 640, 560, 700, 280, 680, 570, 700, 220, 720, 575, 700, 170, 750, 580, 700},
	{27, 90, 90, 80, 600, 450, 440, 600, 380, 520, 485, 600, 280, 580, 520, 600, 220, 620, 530, 650, 170, 660, 530, 650, 130, 680, 520, 650},
}
