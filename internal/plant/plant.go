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
	"fan1": 900, "fan2": 901, "fan3": 902, "fan4": 903, "probe": 904, "burner": 905, "door": 906, "link": 907, "estop": 908, "bus": 909,
	"deaf": 910,
}

const (
	FirstFault = 900 // coil of the first fault

	registers = 1000 // in each space of each unit
)

// Plant is the whole simulation with its registers.
type Plant struct {
	mu       sync.Mutex
	speed    float64
	chambers [Chambers]*chamber
	yard     *yard
	car      *car
	meter    *meter
	weather  *weather
	units    [2]memory
	pulses   map[*bool]int // steps since each command coil was set
	alive    beat
	carWatch watch
}

// Chambers is how many drying chambers there are; ChamberStep is from the
// registers and bits of one to those of the next, in every space.
const (
	Chambers    = 3
	ChamberStep = 200
)

// beat is the heartbeat of the kilns' controller with whoever supervises it.
type beat struct {
	steps int    // of this controller
	heard uint16 // what the other side counted last
	since int    // steps since that changed
}

// watch is the watchdog of the car's controller: once it has heard whoever
// supervises it, a second of silence ends what is held.
type watch struct {
	heard uint16
	since int // steps
	armed bool
}

// watchPatience is how many steps the other side may be silent.
const watchPatience = 20

func (w *watch) count(now uint16) {
	if now != w.heard {
		w.heard, w.since, w.armed = now, 0, true
	} else {
		w.since = min(w.since+1, watchPatience+1)
	}
}

func (w *watch) lost() bool { return w.armed && w.since > watchPatience }

// beatPatience is how many steps the other side may be silent.
const beatPatience = 100

type memory struct {
	coils    [registers]bool
	discrete [registers]bool
	input    [registers]uint16
	holding  [registers]uint16
}

// New returns a plant in the middle of a run. speed is how many seconds of
// process time pass in one second; machines move in real time.
func New(seed uint64, speed float64) *Plant {
	noise := func(n uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, n)) }
	p := &Plant{speed: speed, car: newCar(), yard: newYard(), meter: newMeter(noise(1)), weather: newWeather(noise(2)),
		pulses: map[*bool]int{}}
	for i, load := range []struct {
		set     [5]uint16
		id      string
		species string
	}{{[5]uint16{720, 595, 820, 120, 120}, "L-2611-04", "Larch"}, {[5]uint16{640, 560, 700, 140, 180}, "L-2611-05", "Spruce"},
		{[5]uint16{550, 490, 600, 100, 240}, "L-2611-06", "Oak"}} {
		p.chambers[i] = newChamber(noise(uint64(10 + i)))
		h := p.units[0].holding[i*ChamberStep:]
		copy(h, load.set[:])
		copy(h[scheduleAt:], schedules[i][:])
		putText(h[speciesAt:scheduleEnd], load.species, 12)
		putText(h[10:18], load.id, 16)
		putText(h[20:26], load.species, 12)
	}
	p.chambers[0].noise = noise(0)
	p.chambers[2].stop()
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
	for i, c := range p.chambers {
		p.command(i, c, kiln)
	}
	p.car.stopped = kiln.coils[Faults["estop"]]
	p.beat(kiln)
	p.car.velocitySP = clamp(float64(int16(car.holding[0])), 0, 1500)
	p.car.accelSP, p.car.decelSP = math.Max(10, float64(int16(car.holding[1]))), math.Max(10, float64(int16(car.holding[2])))
	p.carWatch.count(car.holding[3])
	if p.carWatch.lost() {
		// Nobody supervises any more: what was held is let go here.
		car.coils[0], car.coils[1] = false, false
	}
	p.car.forward, p.car.back = car.coils[0], car.coils[1]
	p.take(&car.coils[2], p.car.setZero)
	p.yard.command(car, p.take)

	dt := Step.Seconds()
	// Long process steps are cut so that the sums stay stable.
	for left := dt * p.speed; left > 0; left -= 5 {
		for _, c := range p.chambers {
			c.advance(math.Min(left, 5), dt*math.Min(left, 5)/(dt*p.speed))
		}
	}
	p.car.advance(dt)
	p.yard.advance(dt, p.car.stopped)
	p.meter.advance(dt, p.load())
	p.weather.advance(dt * p.speed)
	p.render()
}

// command takes what was written for a chamber. Faults are injected into the
// first.
func (p *Plant) command(i int, c *chamber, kiln *memory) {
	h, coils := kiln.holding[i*ChamberStep:], kiln.coils[i*ChamberStep:]
	c.drySP, c.wetSP = float64(int16(h[0]))/10, float64(int16(h[1]))/10
	c.fanSP = clamp(float64(int16(h[2]))/10, 0, 100)
	c.target, c.reverseMinutes = float64(int16(h[3]))/10, float64(int16(h[4]))
	var tripping [4]bool
	if i == 0 {
		for f := range c.fans {
			tripping[f] = kiln.coils[FirstFault+f]
			c.fans[f].tripped = c.fans[f].tripped || tripping[f]
		}
		c.probeBroken = kiln.coils[Faults["probe"]]
		c.burner.blocked = kiln.coils[Faults["burner"]]
		c.doorOpen = kiln.coils[Faults["door"]]
	}
	c.takeOver(h, coils[readyCoil], kiln.coils[Faults["deaf"]])
	c.follow(h)
	p.take(&coils[0], c.start)
	p.take(&coils[1], c.stop)
	p.take(&coils[2], func() { c.reset(tripping) })
	// The lamp test is asked for by a coil and answered by a bit a second later.
	if coils[4] {
		c.lampTest = min(c.lampTest+1, 20)
	} else {
		c.lampTest = 0
	}
}

// beat counts this controller's heartbeat up once a second and notes whether
// the other side's is heard.
func (p *Plant) beat(kiln *memory) {
	b := &p.alive
	b.steps++
	if now := kiln.holding[100]; now != b.heard {
		b.heard, b.since = now, 0
	} else {
		b.since = min(b.since+1, beatPatience+1)
	}
	kiln.input[100] = uint16(b.steps/20) % 1000
	kiln.discrete[100] = b.since <= beatPatience
}

// pulseSteps is how long a command coil stays on before the controller takes it
// back, so that whoever set it can read that it was taken.
const pulseSteps = 10

// take acts once on a command coil that was set, and clears it a little later.
func (p *Plant) take(coil *bool, act func()) {
	switch n := p.pulses[coil]; {
	case !*coil:
		delete(p.pulses, coil)
	case n == 0:
		act()
		p.pulses[coil] = 1
	case n >= pulseSteps:
		*coil = false
		delete(p.pulses, coil)
	default:
		p.pulses[coil]++
	}
}

// render writes the simulation into the registers that can be read.
func (p *Plant) render() {
	for i, c := range p.chambers {
		c.render(p.units[0].input[i*ChamberStep:], p.units[0].discrete[i*ChamberStep:])
	}
	r := &p.units[1]
	position := uint32(int32(math.Round(p.car.position)))
	r.input[0], r.input[1] = uint16(position>>16), uint16(position)
	r.input[2] = uint16(int16(math.Round(p.car.velocity)))
	copy(r.discrete[:], []bool{p.car.stationary(), p.car.valid, p.car.loaded, p.car.stopped})
	p.yard.render(r)
	p.conditions()
}

// render writes a chamber into its part of the registers and bits.
func (c *chamber) render(in []uint16, bits []bool) {
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
		d := bits[20+4*i:]
		d[0], d[1], d[2], d[3] = f.running, f.reverse, f.tripped, f.hand
	}
	bits[0], bits[1], bits[2] = c.spray, !c.doorOpen, c.lampTest >= 20
	bits[takenBit] = c.taken
	b := c.burner
	copy(bits[10:], []bool{b.call, b.purgeFan, b.purged, b.spark, b.gas, b.flame, b.lockout})
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

// Addresses are where the plant's devices listen; one that is empty stays
// away.
type Addresses struct {
	Modbus string // KilnPLC and CarPLC
	OPCUA  string // Meter
	MQTT   string // Weather
}

// Start runs a plant in the background and returns where it listens, once every
// port is open. ended, which may be nil, is called when it has stopped.
func Start(ctx context.Context, p *Plant, at Addresses, ended func(error)) (Addresses, error) {
	type opened struct{ protocol, addr string }
	ports, failed := make(chan opened, 3), make(chan error, 1)
	go func() {
		err := p.Run(ctx, at, func(protocol string, a net.Addr) { ports <- opened{protocol, a.String()} })
		failed <- err
		if ended != nil {
			ended(err)
		}
	}()
	want := 0
	for _, a := range []string{at.Modbus, at.OPCUA, at.MQTT} {
		if a != "" {
			want++
		}
	}
	for range want {
		select {
		case o := <-ports:
			switch o.protocol {
			case "Modbus":
				at.Modbus = o.addr
			case "OPC UA":
				at.OPCUA = o.addr
			case "MQTT":
				at.MQTT = o.addr
			}
		case err := <-failed:
			return at, err
		}
	}
	return at, nil
}

// Run serves the plant until the context ends. ready, which may be nil, is
// called with the protocol and the address of each port that is open, from
// several goroutines.
func (p *Plant) Run(ctx context.Context, at Addresses, ready func(protocol string, a net.Addr)) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	n := 1
	done := make(chan error, 3)
	begin := func(addr string, serve func(context.Context, string, func(string, net.Addr)) error) {
		if addr == "" {
			return
		}
		n++
		go func() { done <- serve(ctx, addr, ready) }()
	}
	begin(at.OPCUA, p.serveMeter)
	begin(at.MQTT, p.serveWeather)
	go func() { done <- p.serveModbus(ctx, at.Modbus, ready) }()
	var first error
	for range n {
		if err := <-done; err != nil && first == nil {
			first = err
			cancel()
		}
	}
	return first
}

// serveModbus serves the two controllers, and moves the whole plant.
func (p *Plant) serveModbus(ctx context.Context, addr string, ready func(string, net.Addr)) error {
	for {
		l, err := net.Listen("tcp", addr)
		if err != nil {
			return fmt.Errorf("the plant cannot listen on %s: %w", addr, err)
		}
		addr = l.Addr().String()
		if ready != nil {
			ready("Modbus", l.Addr())
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
