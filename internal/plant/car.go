package plant

import "math"

// car is the rail car. Positions are in mm, speeds in mm/s.
type car struct {
	position, velocity           float64
	velocitySP, accelSP, decelSP float64
	forward, back                bool
	valid, loaded, stopped       bool
}

// The ends of the track, in mm.
const (
	trackLow  = -2000
	trackHigh = 60000
)

func newCar() *car {
	return &car{position: 12480, velocitySP: 400, accelSP: 250, decelSP: 500, valid: true, loaded: true}
}

func (c *car) advance(dt float64) {
	goal := 0.0
	switch {
	case c.stopped:
	case c.forward && !c.back && c.position < trackHigh:
		goal = c.velocitySP
	case c.back && !c.forward && c.position > trackLow:
		goal = -c.velocitySP
	}
	rate := c.accelSP
	if math.Abs(goal) < math.Abs(c.velocity) || goal*c.velocity < 0 {
		rate = c.decelSP
	}
	if c.stopped {
		rate = 4 * c.decelSP
	}
	change := clamp(goal-c.velocity, -rate*dt, rate*dt)
	c.velocity += change
	c.position = clamp(c.position+c.velocity*dt, trackLow, trackHigh)
}

// stationary tells whether the car stands still.
func (c *car) stationary() bool { return math.Abs(c.velocity) < 1 }

// setZero makes the present place the origin; only while stationary.
func (c *car) setZero() {
	if c.stationary() {
		c.position, c.valid = 0, true
	}
}
