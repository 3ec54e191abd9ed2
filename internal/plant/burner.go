package plant

// States of a burner.
const (
	off = iota
	purging
	sparking
	opening
	burning
	locked
)

// Times of the lighting sequence, in seconds.
const (
	purgeTime = 5
	sparkTime = 1
	proveTime = 3
	flameTime = 1.2 // from gas to a flame that the sensor sees
)

// burner lights in the real order: purge, spark, gas, and a flame proven in
// time or lockout.
type burner struct {
	state    int
	t        float64
	blocked  bool // an injected fault: no flame comes
	call     bool
	purgeFan bool
	purged   bool
	spark    bool
	gas      bool
	flame    bool
	lockout  bool
}

func (b *burner) enter(state int) { b.state, b.t = state, 0 }

func (b *burner) reset() {
	if b.state == locked && !b.blocked {
		b.enter(off)
	}
}

func (b *burner) advance(dt float64, call bool) {
	b.t += dt
	b.call = call
	if !call && b.state != locked {
		b.enter(off)
	}
	switch b.state {
	case off:
		if call {
			b.enter(purging)
		}
	case purging:
		if b.t >= purgeTime {
			b.enter(sparking)
		}
	case sparking:
		if b.t >= sparkTime {
			b.enter(opening)
		}
	case opening:
		switch {
		case !b.blocked && b.t >= flameTime:
			b.enter(burning)
		case b.t >= proveTime:
			b.enter(locked)
		}
	case burning:
		if b.blocked {
			b.enter(locked)
		}
	}
	b.purgeFan = b.state >= purging && b.state <= burning
	b.purged = b.state >= sparking && b.state <= burning
	b.spark = b.state == sparking || b.state == opening
	b.gas = b.state == opening || b.state == burning
	b.flame = b.state == burning
	b.lockout = b.state == locked
}
