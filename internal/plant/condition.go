package plant

// What the controllers tell of themselves, as codes. 0 is good.
const (
	programTripped = 3  // a chamber stands by a fault
	networkSilent  = 21 // nobody supervises this controller

	motionMoves  = 1
	motionAlone  = 12 // let go as nobody supervises any more
	motionBrakes = 31 // emergency stop

	busStation = 47 // station 4, the bays 25 to 48, does not answer
)

// conditions writes what the controllers tell of themselves into their
// registers.
func (p *Plant) conditions() {
	kiln, car := &p.units[0], &p.units[1]
	var program, network, motion, bus uint16
	for _, c := range p.chambers {
		if c.fault {
			program = programTripped
		}
	}
	if p.alive.since > beatPatience {
		network = networkSilent
	}
	switch {
	case p.car.stopped:
		motion = motionBrakes
	case p.carWatch.lost():
		motion = motionAlone
	case !p.car.stationary():
		motion = motionMoves
	}
	if kiln.coils[Faults["bus"]] {
		bus = busStation
	}
	kiln.input[101], kiln.input[102] = program, network
	car.input[20], car.input[21] = motion, bus
}
