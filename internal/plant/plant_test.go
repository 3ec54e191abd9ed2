package plant

import (
	"math"
	"testing"

	"readyrail/internal/modbus"
)

func (p *Plant) run(seconds float64) {
	for i := 0.0; i < seconds/Step.Seconds(); i++ {
		p.Advance()
	}
}

func TestDeterministicForASeed(t *testing.T) {
	a, b, c := New(7, 60), New(7, 60), New(8, 60)
	a.run(30)
	b.run(30)
	c.run(30)
	if a.units != b.units {
		t.Error("two plants with one seed went apart")
	}
	if a.units == c.units {
		t.Error("another seed changed nothing")
	}
}

func TestDryBulbFollowsItsSetPoint(t *testing.T) {
	p := New(1, 60)
	p.run(60)
	if d := math.Abs(p.chambers[0].dry - 72); d > 1 {
		t.Errorf("after an hour of process the dry bulb is %.1f, the set point 72", p.chambers[0].dry)
	}
	p.WriteRegisters(KilnUnit, 0, []uint16{650})
	p.run(90)
	if d := math.Abs(p.chambers[0].dry - 65); d > 1.5 {
		t.Errorf("the set point went to 65, the dry bulb to %.1f", p.chambers[0].dry)
	}
}

func TestMoistureFallsFasterWithMoreAir(t *testing.T) {
	fast, slow := New(1, 600), New(1, 600)
	slow.WriteRegisters(KilnUnit, 2, []uint16{300})
	fast.run(60)
	slow.run(60)
	if f, s := fast.chambers[0].average(), slow.chambers[0].average(); !(f < s && s < 32.5) {
		t.Errorf("with 82 %% air %.2f, with 30 %% %.2f, both from 31.9", f, s)
	}
}

// The burner's order with times: purge 5 s, spark 1 s, gas, flame in time.
func TestBurnerLightsInOrder(t *testing.T) {
	b := &burner{}
	for _, c := range []struct {
		seconds                  float64
		purge, spark, gas, flame bool
	}{
		{0.1, true, false, false, false}, {4.8, true, false, false, false}, {0.3, true, true, false, false},
		{1.0, true, true, true, false}, {1.3, true, false, true, true},
	} {
		for i := 0; i < int(c.seconds*100+0.5); i++ {
			b.advance(0.01, true)
		}
		if b.purgeFan != c.purge || b.spark != c.spark || b.gas != c.gas || b.flame != c.flame {
			t.Errorf("%+v: %+v", c, *b)
		}
	}
	b.blocked = true
	b.advance(0.01, true)
	if !b.lockout || b.flame || b.gas {
		t.Errorf("a flame that goes out must lock: %+v", *b)
	}
	b.reset()
	if b.advance(0.01, true); !b.lockout {
		t.Error("a reset must not help while the fault stands")
	}
	b.blocked = false
	b.reset()
	if b.advance(0.01, true); b.lockout {
		t.Error("a reset must help once the fault is gone")
	}
}

func TestCarJogsAndSetsZeroOnlyWhileStationary(t *testing.T) {
	p := New(1, 1)
	p.WriteBits(CarUnit, 0, []bool{true})
	p.run(4)
	if p.car.velocity != 400 || p.car.position <= 12480 {
		t.Fatalf("velocity %v at %v", p.car.velocity, p.car.position)
	}
	p.WriteBits(CarUnit, 2, []bool{true})
	p.run(0.1)
	if p.car.position < 12480 {
		t.Error("zero was set while the car moved")
	}
	p.WriteBits(CarUnit, 0, []bool{false})
	p.run(2)
	p.WriteBits(CarUnit, 2, []bool{true})
	p.run(0.1)
	if p.car.position != 0 {
		t.Errorf("zero was not set: %v", p.car.position)
	}
}

func TestFaults(t *testing.T) {
	p := New(1, 1)
	p.WriteBits(KilnUnit, Faults["fan3"], []bool{true})
	p.run(5)
	bits := make([]bool, 4)
	p.ReadBits(KilnUnit, modbus.ReadDiscreteInputs, 28, bits)
	if bits[0] || !bits[2] {
		t.Errorf("fan 3 running %v, fault %v", bits[0], bits[2])
	}
	p.WriteBits(KilnUnit, Faults["fan3"], []bool{false})
	p.WriteBits(KilnUnit, 2, []bool{true})
	p.run(5)
	p.ReadBits(KilnUnit, modbus.ReadDiscreteInputs, 28, bits)
	if !bits[0] || bits[2] {
		t.Errorf("after the reset fan 3 running %v, fault %v", bits[0], bits[2])
	}
}

func TestAddressesThatAreNotThere(t *testing.T) {
	p := New(1, 1)
	regs := make([]uint16, 10)
	if err := p.ReadRegisters(KilnUnit, modbus.ReadHolding, 995, regs); err != modbus.IllegalAddress {
		t.Errorf("%v", err)
	}
	if err := p.ReadRegisters(3, modbus.ReadHolding, 0, regs); err != modbus.GatewayTarget {
		t.Errorf("%v", err)
	}
}

// TestAScheduleIsTakenOver hands a schedule over: a chamber that runs does not
// answer, an idle one uses nothing of it before it is asked, and then runs its
// steps by their moistures.
func TestAScheduleIsTakenOver(t *testing.T) {
	p := New(1, 600)
	third := 2 * ChamberStep
	h := p.units[0].holding[third:]
	ask := func(on bool) { p.WriteBits(KilnUnit, uint16(third+readyCoil), []bool{on}) }
	taken := func() bool { return p.units[0].discrete[third+takenBit] }
	ask(true)
	p.run(1)
	if taken() {
		t.Error("a chamber that cools took a schedule over")
	}
	ask(false)
	p.run(60)
	if p.chambers[2].mode != idle {
		t.Fatalf("mode %d", p.chambers[2].mode)
	}
	h[stepsAt+1], h[scheduleAt+1] = 610, 110
	p.run(1)
	if h[0] == 610 || h[3] == 110 {
		t.Error("a schedule is used before it is asked for")
	}
	ask(true)
	p.run(1)
	if !taken() || h[0] != 610 || h[3] != 110 {
		t.Errorf("taken %v, dry bulb %d, target %d", taken(), h[0], h[3])
	}
	ask(false)
	p.run(1)
	if taken() {
		t.Error("it says taken though nobody asks")
	}
	seen := map[int]bool{}
	p.WriteBits(KilnUnit, uint16(third), []bool{true})
	for range 4000 {
		p.run(0.5)
		c := p.chambers[2]
		if c.mode == drying {
			seen[c.step] = true
			if want := uint16(c.schedule.steps[c.step-1].dry * 10); math.Abs(float64(h[0])-float64(want)) > 1 {
				t.Fatalf("in step %d the set point is %d, not %d", c.step, h[0], want)
			}
		}
		if c.mode == conditioning {
			break
		}
	}
	if len(seen) < 4 {
		t.Errorf("the steps seen are %v", seen)
	}
}
