package link

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
)

// fake is a driver whose unit 2 never answers and whose writes are noted.
type fake struct {
	mu     sync.Mutex
	reads  map[byte]int
	writes []string
	slow   time.Duration
}

func (f *fake) Connect(context.Context) error { return nil }
func (f *fake) Close() error                  { return nil }
func (f *fake) Stats() Stats                  { return Stats{} }

type fakePoll struct {
	f      *fake
	points []Point
}

func (f *fake) Plan(points []Point, _ device.Device) Poll { return &fakePoll{f, points} }
func (p *fakePoll) Requests() int                         { return 1 }

func (p *fakePoll) Read(_ context.Context, out []value.Value, yield func()) error {
	unit := p.points[0].Unit
	p.f.mu.Lock()
	p.f.reads[unit]++
	slow := p.f.slow
	p.f.mu.Unlock()
	if unit == 2 {
		time.Sleep(50 * time.Millisecond)
		return fmt.Errorf("unit 2: %w", ErrNoAnswer)
	}
	for i := range out {
		time.Sleep(slow)
		yield()
		out[i] = value.Int(value.INT, int64(i))
	}
	return nil
}

func (f *fake) Write(_ context.Context, p Point, v value.Value, _ time.Duration) error {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.writes = append(f.writes, fmt.Sprintf("%d=%s", p.Addr.Offset, v.Text()))
	return nil
}

func (f *fake) ReadOne(_ context.Context, p Point, _ time.Duration) (value.Value, error) {
	return value.Int(value.INT, 7), nil
}

func point(unit byte, offset uint16) Point {
	return Point{Unit: unit, Addr: device.Address{Space: device.Holding, Offset: offset, Bit: device.NoBit}, Type: value.Type{Kind: value.INT}}
}

func dev(unit int) device.Device {
	d := device.New()
	d.Unit, d.Timeout = unit, 100
	return d
}

func newHub(f *fake) *Hub {
	return NewHub(Protocol{New: func(string) Driver { return f }, Explain: func(err error, _ device.Device) string { return err.Error() }})
}

func subscribe(d device.Device, n int) DeviceSubscriptions {
	ds := DeviceSubscriptions{Device: d}
	for i := range n {
		ds.Subscriptions = append(ds.Subscriptions, Subscription{Handle: int32(i), Point: point(byte(d.Unit), uint16(i)), Every: 50 * time.Millisecond})
	}
	return ds
}

func waitFor(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(8 * time.Second); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		if ok() {
			return
		}
	}
	t.Fatalf("not within 8 s: %s", what)
}

func TestASilentUnitHoldsUpNoOther(t *testing.T) {
	f := &fake{reads: map[byte]int{}}
	h := newHub(f)
	defer h.Close()
	var mu sync.Mutex
	last := map[byte]value.Value{}
	sink := func(unit byte) Sink {
		return func(rs []Reading) {
			mu.Lock()
			defer mu.Unlock()
			last[unit] = rs[0].Value
		}
	}
	h.Set("one", []DeviceSubscriptions{subscribe(dev(1), 1)}, sink(1))
	h.Set("two", []DeviceSubscriptions{subscribe(dev(2), 1)}, sink(2))
	waitFor(t, "unit 2 is bad and unit 1 good", func() bool {
		mu.Lock()
		defer mu.Unlock()
		return last[2].Quality == value.BadNoAnswer && last[2].Kind == value.INT && last[1].Quality == value.Good
	})
	waitFor(t, "unit 2 is left alone", func() bool { return h.Status(dev(2)).State == Down && f.count(2) >= 2 })
	one, two := f.count(1), f.count(2)
	time.Sleep(600 * time.Millisecond)
	if n := f.count(1) - one; n < 6 {
		t.Errorf("unit 1 was read %d times in 600 ms, wanted every 50 ms", n)
	}
	if n := f.count(2) - two; n > 2 {
		t.Errorf("unit 2 was asked %d times while it was to be left alone", n)
	}
	if s := h.Status(dev(1)); s.State != Up {
		t.Errorf("unit 1: %+v", s)
	}
}

func (f *fake) count(unit byte) int {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.reads[unit]
}

func TestWritesGoAheadOfReadsAndUrgentOnesFirst(t *testing.T) {
	f := &fake{reads: map[byte]int{}, slow: 30 * time.Millisecond}
	h := newHub(f)
	defer h.Close()
	h.Set("one", []DeviceSubscriptions{subscribe(dev(1), 20)}, func([]Reading) {})
	waitFor(t, "a poll is under way", func() bool { return f.count(1) > 0 })
	start := time.Now()
	var wg sync.WaitGroup
	for i := range 3 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			h.Write(context.Background(), dev(1), point(1, uint16(100+i)), value.Int(value.INT, 1), false)
		}()
	}
	time.Sleep(5 * time.Millisecond)
	back, err := h.Write(context.Background(), dev(1), point(1, 200), value.Int(value.INT, 0), true)
	if err != nil || back.Int() != 7 {
		t.Errorf("%v, %v", back.Int(), err)
	}
	wg.Wait()
	// The poll takes 600 ms; the writes go in between its requests.
	if d := time.Since(start); d > 300*time.Millisecond {
		t.Errorf("the writes took %v", d)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if len(f.writes) != 4 || f.writes[0] != "200=0" && f.writes[1] != "200=0" {
		t.Errorf("order of the writes: %v", f.writes)
	}
}

func TestAWriteToAnEndpointNobodyWants(t *testing.T) {
	h := newHub(&fake{reads: map[byte]int{}})
	defer h.Close()
	if _, err := h.Write(context.Background(), dev(1), point(1, 0), value.Int(value.INT, 0), true); !errors.Is(err, ErrNotSent) {
		t.Errorf("%v", err)
	}
}
