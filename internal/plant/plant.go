package plant

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"net"
	"sync"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/modbus"
)

// Units behind the plant's port.
const (
	KilnUnit = 1
	CarUnit  = 2
)

// Step is the fixed step of the simulation in the machines' own time.
const Step = 50 * time.Millisecond

// Faults that can be injected, by name, with their coil at the kiln unit.
var Faults = map[string]uint16{
	"fan1": 900, "fan2": 901, "fan3": 902, "fan4": 903, "probe": 904, "burner": 905, "door": 906, "link": 907, "estop": 908,
}

const (
	FirstFault = 900 // coil of the first fault

	registers = 1000 // in each space of each unit
)

// Plant is the whole simulation with its registers.
type Plant struct {
	mu      sync.Mutex
	speed   float64
	chamber *chamber
	car     *car
	units   [2]memory
	pulses  [4]int // steps since each command coil was set
}

type memory struct {
	coils    [registers]bool
	discrete [registers]bool
	input    [registers]uint16
	holding  [registers]uint16
}

// New returns a plant in the middle of a run. speed is how many seconds of
// process time pass in one second; machines move in real time.
func New(seed uint64, speed float64) *Plant {
	p := &Plant{speed: speed, chamber: newChamber(rand.New(rand.NewPCG(seed, 0))), car: newCar()}
	h := &p.units[0].holding
	h[0], h[1], h[2], h[3], h[4] = 720, 595, 820, 120, 120
	putText(h[10:18], "L-2611-04", 16)
	putText(h[20:26], "Larch", 12)
	c := &p.units[1].holding
	c[0], c[1], c[2] = 400, 250, 500
	p.render()
	return p
}

func putText(regs []uint16, s string, n int) {
	words, err := modbus.Encode(value.Str(s), value.Type{Kind: value.STRING, Len: n}, device.ABCD)
	if err == nil {
		copy(regs, words)
	}
}

// Advance moves the plant by one Step.
func (p *Plant) Advance() {
	p.mu.Lock()
	defer p.mu.Unlock()
	kiln, car := &p.units[0], &p.units[1]
	c := p.chamber
	c.drySP, c.wetSP = float64(int16(kiln.holding[0]))/10, float64(int16(kiln.holding[1]))/10
	c.fanSP = clamp(float64(int16(kiln.holding[2]))/10, 0, 100)
	c.target, c.reverseMinutes = float64(int16(kiln.holding[3]))/10, float64(int16(kiln.holding[4]))
	var tripping [4]bool
	for i := range c.fans {
		tripping[i] = kiln.coils[FirstFault+i]
		c.fans[i].tripped = c.fans[i].tripped || tripping[i]
	}
	c.probeBroken = kiln.coils[Faults["probe"]]
	c.burner.blocked = kiln.coils[Faults["burner"]]
	c.doorOpen = kiln.coils[Faults["door"]]
	p.car.stopped = kiln.coils[Faults["estop"]]
	p.take(0, &kiln.coils[0], c.start)
	p.take(1, &kiln.coils[1], c.stop)
	p.take(2, &kiln.coils[2], func() { c.reset(tripping) })
	p.car.velocitySP = clamp(float64(int16(car.holding[0])), 0, 1500)
	p.car.accelSP, p.car.decelSP = math.Max(10, float64(int16(car.holding[1]))), math.Max(10, float64(int16(car.holding[2])))
	p.car.forward, p.car.back = car.coils[0], car.coils[1]
	p.take(3, &car.coils[2], p.car.setZero)

	dt := Step.Seconds()
	// Long process steps are cut so that the sums stay stable.
	for left := dt * p.speed; left > 0; left -= 5 {
		c.advance(math.Min(left, 5), dt*math.Min(left, 5)/(dt*p.speed))
	}
	p.car.advance(dt)
	p.render()
}

// pulseSteps is how long a command coil stays on before the controller takes it
// back, so that whoever set it can read that it was taken.
const pulseSteps = 10

// take acts once on a command coil that was set, and clears it a little later.
func (p *Plant) take(i int, coil *bool, act func()) {
	switch {
	case !*coil:
		p.pulses[i] = 0
	case p.pulses[i] == 0:
		act()
		p.pulses[i] = 1
	case p.pulses[i] >= pulseSteps:
		*coil, p.pulses[i] = false, 0
	default:
		p.pulses[i]++
	}
}

// render writes the simulation into the registers that can be read.
func (p *Plant) render() {
	c := p.chamber
	k := &p.units[0]
	in := &k.input
	in[0], in[1] = tenths(c.dry), tenths(c.wet)
	for i, m := range c.moisture {
		if c.probeBroken && i == 2 {
			m = -3276.8 // what a broken probe's converter gives
		}
		putReal(in[2+2*i:], m, device.ABCD)
	}
	putReal(in[10:], c.average(), device.CDAB)
	in[12], in[13] = uint16(c.mode), uint16(c.step)
	putReal(in[14:], c.elapsed/3600, device.ABCD)
	in[16], in[17] = tenths(c.heat), tenths(c.vent)
	in[18] = word(c.mode == idle && !c.fault && !c.doorOpen, c.mode != idle, c.fault, c.doorOpen, false, false)
	for i, f := range c.fans {
		in[20+5*i], in[21+5*i] = tenths(f.speed), uint16(math.Round(f.current*100))
		d := k.discrete[20+4*i:]
		d[0], d[1], d[2], d[3] = f.running, f.reverse, f.tripped, f.hand
	}
	k.discrete[0], k.discrete[1] = c.spray, !c.doorOpen
	b := c.burner
	copy(k.discrete[10:], []bool{b.call, b.purgeFan, b.purged, b.spark, b.gas, b.flame, b.lockout})

	r := &p.units[1]
	position := uint32(int32(math.Round(p.car.position)))
	r.input[0], r.input[1] = uint16(position>>16), uint16(position)
	r.input[2] = uint16(int16(math.Round(p.car.velocity)))
	copy(r.discrete[:], []bool{p.car.stationary(), p.car.valid, p.car.loaded, p.car.stopped})
}

func tenths(f float64) uint16 { return uint16(int16(math.Round(f * 10))) }

func putReal(regs []uint16, f float64, o device.Order) {
	words, err := modbus.Encode(value.Real(value.REAL, f), value.Type{Kind: value.REAL}, o)
	if err == nil {
		copy(regs, words)
	}
}

func word(bits ...bool) (w uint16) {
	for i, b := range bits {
		if b {
			w |= 1 << i
		}
	}
	return w
}

func (p *Plant) unit(id byte) (*memory, error) {
	if id < KilnUnit || id > CarUnit {
		return nil, modbus.GatewayTarget
	}
	return &p.units[id-1], nil
}

// bankRange returns part of a space, or the exception that says it is not there.
func bankRange[T any](space []T, start uint16, n int) ([]T, error) {
	if int(start)+n > len(space) {
		return nil, modbus.IllegalAddress
	}
	return space[start : int(start)+n], nil
}

// ReadBits serves functions 1 and 2.
func (p *Plant) ReadBits(unit, function byte, start uint16, bits []bool) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	m, err := p.unit(unit)
	if err != nil {
		return err
	}
	space := m.discrete[:]
	if function == modbus.ReadCoils {
		space = m.coils[:]
	}
	part, err := bankRange(space, start, len(bits))
	copy(bits, part)
	return err
}

// ReadRegisters serves functions 3 and 4.
func (p *Plant) ReadRegisters(unit, function byte, start uint16, regs []uint16) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	m, err := p.unit(unit)
	if err != nil {
		return err
	}
	space := m.input[:]
	if function == modbus.ReadHolding {
		space = m.holding[:]
	}
	part, err := bankRange(space, start, len(regs))
	copy(regs, part)
	return err
}

// WriteBits serves functions 5 and 15.
func (p *Plant) WriteBits(unit byte, start uint16, bits []bool) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	m, err := p.unit(unit)
	if err != nil {
		return err
	}
	part, err := bankRange(m.coils[:], start, len(bits))
	copy(part, bits)
	return err
}

// WriteRegisters serves functions 6 and 16.
func (p *Plant) WriteRegisters(unit byte, start uint16, regs []uint16) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	m, err := p.unit(unit)
	if err != nil {
		return err
	}
	part, err := bankRange(m.holding[:], start, len(regs))
	copy(part, regs)
	return err
}

// linkDown takes and clears the fault that drops the link.
func (p *Plant) linkDown() bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	coil := &p.units[0].coils[Faults["link"]]
	down := *coil
	*coil = false
	return down
}

// DropTime is how long an injected link fault keeps the port closed.
const DropTime = 8 * time.Second

// Run serves the plant at an address until the context ends. ready is called
// with the address when the port is open.
func (p *Plant) Run(ctx context.Context, addr string, ready func(net.Addr)) error {
	for {
		l, err := net.Listen("tcp", addr)
		if err != nil {
			return fmt.Errorf("the plant cannot listen on %s: %w", addr, err)
		}
		addr = l.Addr().String()
		if ready != nil {
			ready(l.Addr())
			ready = nil
		}
		serving, cancel := context.WithCancel(ctx)
		done := make(chan error, 1)
		go func() { done <- modbus.Serve(serving, l, p) }()
		dropped := p.step(serving)
		cancel()
		<-done
		if !dropped {
			return nil
		}
		end := time.Now().Add(DropTime)
		for time.Now().Before(end) && ctx.Err() == nil {
			time.Sleep(Step)
			p.Advance()
		}
	}
}

// step advances the plant in real time until the context ends or the link is
// to drop.
func (p *Plant) step(ctx context.Context) (dropped bool) {
	tick := time.NewTicker(Step)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return false
		case <-tick.C:
			p.Advance()
			if p.linkDown() {
				return true
			}
		}
	}
}
