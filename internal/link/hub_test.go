package link

import (
	"context"
	"errors"
	"fmt"
	"strings"
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

type fakePoll struct {
	f      *fake
	points []Point
}

func (f *fake) Plan(points []Point, _ device.Device) Poll { return &fakePoll{f, points} }
func (p *fakePoll) Blocks() []Block                       { return []Block{{Name: "all", Points: len(p.points)}} }
func (p *fakePoll) Close()                                {}

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

func (f *fake) Write(_ context.Context, _ device.Device, p Point, v value.Value) error {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.writes = append(f.writes, fmt.Sprintf("%d=%s", p.Addr.Offset, v.Text()))
	return nil
}

func (f *fake) ReadBack(context.Context, device.Device, Point) (value.Value, error) {
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
	return NewHub(map[string]Protocol{device.ModbusTCP: {New: func(device.Device, Env, *Meters) Driver { return f },
		Explain: func(err error, _ device.Device) error { return err }}}, Env{})
}

func subscribe(d device.Device, n int) DeviceSubscriptions {
	ds := DeviceSubscriptions{Device: d}
	for i := range n {
		ds.Subscriptions = append(ds.Subscriptions, Subscription{Handle: int32(i), Point: point(byte(d.Unit), uint16(i)),
			Every: 50 * time.Millisecond})
	}
	return ds
}

func waitFor(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		if ok() {
			return
		}
	}
	t.Fatalf("not within 30 s: %s", what)
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

func TestAJobRunsBetweenRequestsAndDiagnosisSaysWhatIsPolled(t *testing.T) {
	f := &fake{reads: map[byte]int{}}
	h := newHub(f)
	defer h.Close()
	d := dev(1)
	h.Set("draft", []DeviceSubscriptions{subscribe(d, 3)}, func([]Reading) {})
	waitFor(t, "the link is up", func() bool { return h.Status(d).State == Up && h.Status(d).Points == 3 })
	ran := false
	if err := h.Use(context.Background(), d, func(drv Driver) error { ran = drv == Driver(f); return nil }); err != nil || !ran {
		t.Errorf("a job on the shared connection: %v, %v", ran, err)
	}
	s, _, groups := h.Diagnose(d)
	if s.State != Up || len(groups) != 1 || groups[0].Points != 3 || groups[0].Kept == 0 || groups[0].Blocks[0].Name != "all" {
		t.Errorf("%+v, %+v", s, groups)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if err := h.Use(ctx, d, func(Driver) error { t.Error("a job whose asker is gone ran"); return nil }); !errors.Is(err, context.Canceled) {
		t.Error(err)
	}
}

func TestAHostThatIsNotAllowedIsNotReached(t *testing.T) {
	f := &fake{reads: map[byte]int{}}
	h := newHub(f)
	h.env.Allow = func(host string) error { return fmt.Errorf("%w: %s", ErrForbidden, host) }
	defer h.Close()
	if err := h.Use(context.Background(), dev(1), func(Driver) error { t.Error("it was reached"); return nil }); !errors.Is(err,
		ErrForbidden) {
		t.Error(err)
	}
}

func TestMeter(t *testing.T) {
	m := &Meter{}
	for i := range 100 {
		m.Request(time.Duration(i+1)*time.Millisecond, 12, 20)
	}
	m.Failed("no answer in time", ErrNoAnswer)
	m.Failed("no answer in time", errors.New("the second"))
	got := m.Traffic(time.Now())
	if got.Requests != 100 || got.Errors != 2 || got.Sent != 1200 || got.Got != 2000 || got.Max != 100*time.Millisecond ||
		got.Last != 100*time.Millisecond {
		t.Errorf("%+v", got)
	}
	if got.P50 < 50*time.Millisecond || got.P50 > 58*time.Millisecond || got.P95 < 95*time.Millisecond || got.P95 > 100*time.Millisecond {
		t.Errorf("p50 %v, p95 %v of 1 to 100 ms", got.P50, got.P95)
	}
	if len(got.Kinds) != 1 || got.Kinds[0].Count != 2 || got.Kinds[0].Text != "the second" {
		t.Errorf("%+v", got.Kinds)
	}
	if far := m.Traffic(time.Now().Add(time.Hour)); far.P95 != 0 || far.Requests != 100 {
		t.Errorf("an hour later: %+v", far)
	}
}

// What one owner reads over a shared connection is told from what others do.
func TestSharesOfAConnection(t *testing.T) {
	f := &fake{reads: map[byte]int{}}
	h := NewHub(map[string]Protocol{device.ModbusTCP: {New: func(device.Device, Env, *Meters) Driver { return f },
		Explain: func(err error, _ device.Device) error { return err }}}, Env{})
	defer h.Close()
	h.Set("a/draft", []DeviceSubscriptions{subscribe(dev(1), 3)}, func([]Reading) {})
	h.Set("a/release", []DeviceSubscriptions{subscribe(dev(1), 2)}, func([]Reading) {})
	of := func(project string) func(string) bool {
		return func(owner string) bool { return strings.HasPrefix(owner, project+"/") }
	}
	if n, shared := h.Share(of("a"), dev(1)); n != 3 || shared {
		t.Errorf("%d points, shared %v", n, shared)
	}
	h.Set("b/release", []DeviceSubscriptions{subscribe(dev(1), 5)}, func([]Reading) {})
	if n, shared := h.Share(of("a"), dev(1)); n != 3 || !shared {
		t.Errorf("beside another: %d points, shared %v", n, shared)
	}
	if n, shared := h.Share(of("b"), dev(1)); n != 5 || !shared {
		t.Errorf("the other: %d points, shared %v", n, shared)
	}
}
