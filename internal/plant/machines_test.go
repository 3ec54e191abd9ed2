package plant

import (
	"encoding/json"
	"math"
	"testing"

	"readyrail/internal/modbus"
)

func (p *Plant) coil(t *testing.T, unit byte, at uint16, on bool) {
	t.Helper()
	if err := p.WriteBits(unit, at, []bool{on}); err != nil {
		t.Fatal(err)
	}
}

// input reads one input register.
func (p *Plant) input(t *testing.T, unit byte, at uint16) uint16 {
	t.Helper()
	regs := make([]uint16, 1)
	if err := p.ReadRegisters(unit, modbus.ReadInput, at, regs); err != nil {
		t.Fatal(err)
	}
	return regs[0]
}

// The car's controller lets go by itself when whoever supervised it is silent
// for a second; one that never was supervised is moved by hand.
func TestTheCarLetsGoWhenNobodySupervises(t *testing.T) {
	p := New(1, 1)
	p.coil(t, CarUnit, 0, true)
	p.run(3)
	if p.car.velocity == 0 {
		t.Fatal("it does not move though nobody ever supervised it")
	}
	for i := range 10 {
		if err := p.WriteRegisters(CarUnit, 3, []uint16{uint16(i + 1)}); err != nil {
			t.Fatal(err)
		}
		p.run(0.5)
	}
	if p.car.velocity == 0 || p.input(t, CarUnit, 20) != motionMoves {
		t.Fatalf("supervised it stands, or says %d", p.input(t, CarUnit, 20))
	}
	p.run(4) // the heartbeat is silent
	if p.car.velocity != 0 || p.units[1].coils[0] || p.input(t, CarUnit, 20) != motionAlone {
		t.Errorf("alone it moves at %v, its coil is %v, it says %d", p.car.velocity, p.units[1].coils[0], p.input(t, CarUnit, 20))
	}
	p.coil(t, CarUnit, 0, true)
	p.run(1)
	if p.car.velocity != 0 {
		t.Error("it is moved though nobody supervises")
	}
}

func TestTheCarStopsAtTheEndsAndForBoth(t *testing.T) {
	p := New(1, 1)
	p.car.position = trackHigh - 500
	p.coil(t, CarUnit, 0, true)
	p.run(20)
	if p.car.position > trackHigh || p.car.velocity != 0 {
		t.Errorf("at the end it is at %v with %v", p.car.position, p.car.velocity)
	}
	p.coil(t, CarUnit, 1, true) // both ways at once is no way
	p.run(2)
	if p.car.velocity != 0 {
		t.Errorf("both ways it moves at %v", p.car.velocity)
	}
	p.coil(t, CarUnit, 0, false)
	p.run(5)
	if p.car.velocity != -400 {
		t.Errorf("back it moves at %v", p.car.velocity)
	}
}

// The emergency stop brakes four times as hard as letting go.
func TestTheEmergencyStopBrakes(t *testing.T) {
	distance := func(stop func(p *Plant)) float64 {
		p := New(1, 1)
		p.coil(t, CarUnit, 0, true)
		p.run(4)
		from := p.car.position
		stop(p)
		p.run(3)
		if p.car.velocity != 0 {
			t.Errorf("it still moves at %v", p.car.velocity)
		}
		return p.car.position - from
	}
	soft := distance(func(p *Plant) { p.coil(t, CarUnit, 0, false) })
	hard := distance(func(p *Plant) { p.coil(t, KilnUnit, Faults["estop"], true) })
	if hard <= 0 || hard > soft/2 {
		t.Errorf("let go it runs on for %.0f mm, stopped for %.0f", soft, hard)
	}
}

func TestWhatTheControllersSayOfThemselves(t *testing.T) {
	p := New(1, 1)
	p.run(6) // five seconds without a heartbeat
	for _, c := range []struct {
		fault string
		unit  byte
		at    uint16
		want  uint16
	}{
		{"fan1", KilnUnit, 101, programTripped},
		{"burner", KilnUnit, 102, networkSilent}, // whatever else fails, nobody has been heard
		{"estop", CarUnit, 20, motionBrakes},
		{"bus", CarUnit, 21, busStation},
	} {
		p.coil(t, KilnUnit, Faults[c.fault], true)
		p.run(0.1)
		if got := p.input(t, c.unit, c.at); got != c.want {
			t.Errorf("with the fault %s register %d has %d, not %d", c.fault, c.at, got, c.want)
		}
		p.coil(t, KilnUnit, Faults[c.fault], false)
	}
	p.run(0.1)
	if p.input(t, CarUnit, 20) != 0 || p.input(t, CarUnit, 21) != 0 {
		t.Error("the faults are over, and the car's controller still tells of them")
	}
	if err := p.WriteRegisters(KilnUnit, 100, []uint16{7}); err != nil {
		t.Fatal(err)
	}
	p.run(0.1)
	if p.input(t, KilnUnit, 102) != 0 {
		t.Error("it is supervised again, and says that it is not")
	}
}

// A command coil acts once, stays long enough to be read, and is taken back.
func TestACommandIsTakenOnceAndTakenBack(t *testing.T) {
	p := New(1, 1)
	acts := 0
	coil := true
	for range pulseSteps {
		p.take(&coil, func() { acts++ })
		if !coil {
			t.Fatal("it is taken back before anybody can have read it")
		}
	}
	for range 5 {
		p.take(&coil, func() { acts++ })
	}
	if coil || acts != 1 {
		t.Errorf("it is %v and acted %d times", coil, acts)
	}
	coil = true
	p.take(&coil, func() { acts++ })
	if acts != 2 {
		t.Error("set again it does not act again")
	}
}

// A run goes through its modes to the end; it begins in a closed chamber only.
func TestAChamberDriesFromStartToEnd(t *testing.T) {
	p := New(1, 3600)
	c := p.chambers[1]
	c.mode, c.fault = idle, false
	c.doorOpen = true
	if c.start(); c.mode != idle {
		t.Fatal("it begins with its door open")
	}
	c.doorOpen = false
	c.start()
	seen := []int{}
	for range 40_000 {
		p.run(0.05)
		if n := len(seen); n == 0 || seen[n-1] != int(c.mode) {
			seen = append(seen, int(c.mode))
		}
		if c.mode == idle {
			break
		}
	}
	want := []int{int(warmUp), int(drying), int(conditioning), int(cooling), int(idle)}
	if len(seen) != len(want) {
		t.Fatalf("it went through %v, not %v", seen, want)
	}
	for i := range want {
		if seen[i] != want[i] {
			t.Fatalf("it went through %v, not %v", seen, want)
		}
	}
	if c.average() > c.target || c.dry >= 35 {
		t.Errorf("it ended with %.1f %% at %.1f °C, its target %.1f %%", c.average(), c.dry, c.target)
	}
}

func TestABrokenProbeIsLeftOutOfTheMean(t *testing.T) {
	c := New(1, 1).chambers[0]
	c.moisture = [4]float64{30, 32, 90, 34}
	if got := c.average(); got != 46.5 {
		t.Errorf("whole the mean is %v", got)
	}
	c.probeBroken = true
	if got := c.average(); got != 32 {
		t.Errorf("without the third it is %v", got)
	}
}

func TestTheScaleSettles(t *testing.T) {
	m := New(1, 1).meter
	m.onto, m.moving = 20_000, 0
	if m.stable() {
		t.Error("it is stable at once")
	}
	m.moving = 2.9
	if m.stable() || math.Abs(m.gross()-20_000) > 400 {
		t.Errorf("swinging it shows %v", m.gross())
	}
	m.moving, m.tare = 3, 1010
	if !m.stable() || m.gross() != 19_000 { // in steps of 20 kg
		t.Errorf("settled it shows %v", m.gross())
	}
}

func TestTheMeterCountsWhatTheYardDraws(t *testing.T) {
	p := New(1, 1)
	from := p.meter.energy
	p.run(60)
	drawn := p.meter.energy - from
	if mean := drawn * 60; mean < 10 || mean > 60 {
		t.Errorf("in a minute it counted %.2f kWh, %.1f kW", drawn, mean)
	}
	if i := float64(p.meter.phases[1]); math.Abs(i*3*230/1000-p.meter.power) > 0.1 {
		t.Errorf("%.1f A on the second phase are not %.1f kW", i, p.meter.power)
	}
}

func TestTheWeatherIsPlausible(t *testing.T) {
	p := New(1, 3600)
	low, high := math.Inf(1), math.Inf(-1)
	for range 24 * 20 { // a day
		p.run(0.05)
		var w struct {
			Outside struct{ Temperature, Humidity float64 }
			Wind    struct{ Speed float64 }
		}
		if err := json.Unmarshal(p.weatherPayload(), &w); err != nil {
			t.Fatal(err)
		}
		if w.Wind.Speed < 0 || w.Outside.Humidity < 0 || w.Outside.Humidity > 100 {
			t.Fatalf("%+v", w)
		}
		low, high = min(low, w.Outside.Temperature), max(high, w.Outside.Temperature)
	}
	if high-low < 5 || high-low > 20 {
		t.Errorf("between %.1f and %.1f °C in a day", low, high)
	}
}
