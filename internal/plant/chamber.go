// Package plant is the stand-in for the timber yard's controllers: a small
// physical simulation that serves Modbus TCP and knows nothing of the
// application. It moves in fixed steps and is deterministic for a seed.
// docs/plant.md lists its registers.
package plant

import (
	"math"
	"math/rand/v2"
)

// Modes of a chamber.
const (
	idle = iota
	warmUp
	drying
	conditioning
	cooling
)

// chamber is one drying chamber. Temperatures are in °C, moisture and
// positions in %, times in seconds of process time.
type chamber struct {
	lampTest int // steps that the lamp test is on
	noise    *rand.Rand

	dry, wet float64
	moisture [4]float64
	mode     int
	step     int
	elapsed  float64

	heat, vent float64
	integral   float64
	delayed    delay // heat valve to air: dead time
	spray      bool
	doorOpen   bool

	fans     [4]fan
	reversal float64
	burner   burner

	drySP, wetSP, fanSP, target, reverseMinutes float64
	schedule                                    schedule
	taken                                       bool    // the schedule that is handed over, while it is asked for
	setFor                                      int     // the step that the set points are of
	conditioned                                 float64 // seconds
	probeBroken                                 bool
	fault                                       bool
}

type fan struct {
	speed, current   float64
	running, reverse bool
	tripped, hand    bool
}

// delay is a dead time as a ring of past values.
type delay struct {
	ring []float64
	at   int
}

func (d *delay) push(v float64) float64 {
	out := d.ring[d.at]
	d.ring[d.at] = v
	d.at = (d.at + 1) % len(d.ring)
	return out
}

const ambient = 12.0

func newChamber(noise *rand.Rand) *chamber {
	c := &chamber{noise: noise, dry: 69.2, wet: 57.6, mode: drying, step: 3, elapsed: 41 * 3600,
		moisture: [4]float64{33.1, 31.2, 32.4, 30.9}, heat: 55, integral: 55, vent: 22,
		drySP: 72, wetSP: 59.5, fanSP: 82, target: 12, reverseMinutes: 120,
		delayed: delay{ring: make([]float64, 20)}}
	for i := range c.delayed.ring {
		c.delayed.ring[i] = 55
	}
	for i := range c.fans {
		c.fans[i] = fan{speed: 82, running: true}
	}
	c.burner = burner{state: burning}
	return c
}

// start begins a run; it is ignored unless the chamber is idle and closed.
func (c *chamber) start() {
	if c.mode == idle && !c.doorOpen && !c.fault {
		c.mode, c.step, c.elapsed, c.conditioned = warmUp, 1, 0, 0
		c.moisture = [4]float64{46, 44, 47, 43}
	}
}

// stop ends a run by cooling down.
func (c *chamber) stop() {
	if c.mode != idle {
		c.mode = cooling
	}
}

// reset takes back trips and lockouts whose cause is gone.
func (c *chamber) reset(tripping [4]bool) {
	for i := range c.fans {
		if !tripping[i] {
			c.fans[i].tripped = false
		}
	}
	c.burner.reset()
	c.fault = false
}

// advance moves the chamber by dt seconds of process time; machine is the same
// step in the time of the machines, which is not compressed.
func (c *chamber) advance(dt, machine float64) {
	heating := (c.mode == warmUp || c.mode == drying || c.mode == conditioning) && !c.doorOpen
	if c.mode != idle {
		c.elapsed += dt
	}
	air := c.moveFans(dt, machine)
	c.burner.advance(machine, heating && air > 5)

	c.control(dt, heating)
	power := 0.0
	if c.burner.flame {
		power = c.heat
	}
	through := c.delayed.push(power)
	loss := 0.0
	if c.doorOpen {
		loss = 25
	}
	// First order with dead time: at 55 % the chamber stands near 70 °C.
	goal := ambient + through*1.08 - c.vent*0.05 - loss
	c.dry += (goal - c.dry) / 700 * dt
	wetGoal := 0.86*c.dry - 0.16*c.vent + 1.2
	if c.spray {
		wetGoal += 6
	}
	c.wet += (math.Min(wetGoal, c.dry-0.3) - c.wet) / 420 * dt
	c.dryTimber(dt, air)
	c.sequence(dt)
}

func (c *chamber) moveFans(dt, machine float64) (air float64) {
	c.reversal += dt
	if c.reversal >= c.reverseMinutes*60 && c.reverseMinutes > 0 {
		c.reversal = 0
		for i := range c.fans {
			c.fans[i].reverse = !c.fans[i].reverse
		}
	}
	for i := range c.fans {
		f := &c.fans[i]
		goal := 0.0
		if c.mode != idle && !f.tripped {
			goal = c.fanSP
		}
		f.speed += (goal - f.speed) * math.Min(1, machine/1.5)
		if f.speed < 0.5 && goal == 0 {
			f.speed = 0
		}
		f.running = f.speed > 5
		// Denser, colder air loads the motor more; the load goes with the cube of
		// the speed.
		density := 293 / (273 + c.dry)
		f.current = 0
		if f.running {
			f.current = 1.4 + 9.6*density*math.Pow(f.speed/100, 3) + 0.05*c.noise.NormFloat64()
		}
		air += f.speed / float64(len(c.fans))
	}
	return air
}

// control is the controller of heat, vents and spray.
func (c *chamber) control(dt float64, heating bool) {
	if !heating {
		c.heat = math.Max(0, c.heat-dt/8)
		c.integral = c.heat
		c.spray = false
		c.vent += (60 - c.vent) * math.Min(1, dt/300)
		if c.mode == idle {
			c.vent = math.Max(0, c.vent-dt/5)
		}
		return
	}
	e := c.drySP - c.dry
	c.integral = clamp(c.integral+e*dt/160, 0, 100)
	c.heat = clamp(4.5*e+c.integral, 0, 100)
	wet := c.wet - c.wetSP
	c.vent = clamp(c.vent+wet*dt/40, 0, 100)
	if wet < -1.5 {
		c.spray = true
	} else if wet > -0.4 {
		c.spray = false
	}
}

// dryTimber lets the moisture fall towards the equilibrium at the present
// depression, faster with more air.
func (c *chamber) dryTimber(dt, air float64) {
	if c.mode == idle {
		return
	}
	equilibrium := clamp(22-1.05*(c.dry-c.wet)-0.05*(c.dry-20), 3, 25)
	rate := (0.25 + air/100) / (55 * 3600)
	for i := range c.moisture {
		c.moisture[i] += (equilibrium-c.moisture[i])*rate*dt*(1+0.06*float64(i-1)) + 0.0006*math.Sqrt(dt)*c.noise.NormFloat64()
	}
}

// sequence goes through the modes.
func (c *chamber) sequence(dt float64) {
	avg := c.average()
	switch c.mode {
	case warmUp:
		if math.Abs(c.dry-c.drySP) < 2 {
			c.mode = drying
		}
	case drying:
		c.step = int(clamp(1+math.Floor((46-avg)/6), 1, steps))
		if c.schedule.loaded {
			c.step = c.schedule.stepAt(avg)
		}
		if avg <= c.target {
			c.mode = conditioning
		}
	case conditioning:
		c.conditioned += dt
		over := avg <= c.target-0.5
		if c.schedule.loaded {
			over = c.conditioned >= c.schedule.conditioning*3600
		}
		if over {
			c.mode = cooling
		}
	case cooling:
		if c.dry < 35 {
			c.mode, c.step = idle, 0
		}
	}
	c.fault = c.burner.lockout
	for _, f := range c.fans {
		c.fault = c.fault || f.tripped
	}
}

func (c *chamber) average() float64 {
	sum, n := 0.0, 0.0
	for i, m := range c.moisture {
		if !(c.probeBroken && i == 2) {
			sum, n = sum+m, n+1
		}
	}
	return sum / n
}

func clamp(x, low, high float64) float64 { return math.Max(low, math.Min(high, x)) }
