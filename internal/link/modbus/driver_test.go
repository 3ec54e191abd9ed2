package modbus

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

// bank is a controller's memory. Registers 200 to 209 do not exist.
type bank struct {
	mu       sync.Mutex
	holding  [1000]uint16
	coils    [1000]bool
	requests []string
}

func (b *bank) log(format string, a ...any) {
	b.requests = append(b.requests, fmt.Sprintf(format, a...))
}

func (b *bank) ReadBits(unit, f byte, start uint16, bits []bool) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.log("%d:%d+%d", f, start, len(bits))
	copy(bits, b.coils[start:])
	return nil
}

func (b *bank) ReadRegisters(unit, f byte, start uint16, regs []uint16) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.log("%d:%d+%d", f, start, len(regs))
	if unit == 9 {
		return modbus.GatewayTarget
	}
	if int(start) < 210 && int(start)+len(regs) > 200 || int(start)+len(regs) > 1000 {
		return modbus.IllegalAddress
	}
	copy(regs, b.holding[start:])
	return nil
}

func (b *bank) WriteBits(unit byte, start uint16, bits []bool) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	copy(b.coils[start:], bits)
	return nil
}

func (b *bank) WriteRegisters(unit byte, start uint16, regs []uint16) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	if start == 50 {
		return modbus.IllegalValue
	}
	copy(b.holding[start:], regs)
	return nil
}

func serve(t *testing.T, b modbus.Bank) device.Device {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() { defer close(done); modbus.Serve(ctx, l, b) }()
	t.Cleanup(func() { cancel(); <-done })
	return at(l.Addr())
}

func at(a net.Addr) device.Device {
	d := device.New()
	d.Name = "PLC"
	d.Host, d.Port, d.Timeout = "127.0.0.1", a.(*net.TCPAddr).Port, 300
	return d
}

func point(t *testing.T, addr, typ string) link.Point {
	t.Helper()
	a, err := device.ParseAddress(addr)
	if err != nil {
		t.Fatal(err)
	}
	ty, err := value.ParseType(typ)
	if err != nil {
		t.Fatal(err)
	}
	return link.Point{Unit: 1, Addr: a, WriteAddr: a, Type: ty, Order: device.ABCD}
}

func connect(t *testing.T, d device.Device) *Driver {
	t.Helper()
	drv := New(d, link.Env{}, link.NewMeters())
	if err := drv.Connect(context.Background()); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { drv.Close() })
	return drv
}

func TestPlanMergesNeighbours(t *testing.T) {
	d := device.New()
	d.MaxGap = 10
	for _, c := range []struct {
		addrs string
		want  string
	}{
		{"holding:0 holding:1 holding:2", "0+3"},
		{"holding:0 holding:11", "0+12"},     // 10 in vain: just allowed
		{"holding:0 holding:12", "0+1 12+1"}, // 11 in vain
		{"holding:0 input:1", "0+1 1+1"},     // two spaces
		{"holding:124 holding:0 holding:10 holding:20 holding:30 holding:40 holding:50 holding:60 holding:70 holding:80 holding:90 holding:100 holding:110 holding:120", "0+125"},
		{"holding:5 holding:5 holding:5", "5+1"},
	} {
		var pts []link.Point
		for _, a := range strings.Fields(c.addrs) {
			pts = append(pts, point(t, a, "INT"))
		}
		var got []string
		for _, b := range New(d, link.Env{}, nil).Plan(pts, d).(*poll).blocks {
			got = append(got, fmt.Sprintf("%d+%d", b.start, b.count))
		}
		order := strings.Join(got, " ")
		if order != c.want && order != "1+1 0+1" {
			t.Errorf("%s: %s, want %s", c.addrs, order, c.want)
		}
	}
	var pts []link.Point
	for i := range 1000 {
		pts = append(pts, point(t, fmt.Sprintf("holding:%d", i), "INT"))
	}
	if n := len(New(d, link.Env{}, nil).Plan(pts, d).Blocks()); n != 8 {
		t.Errorf("1000 registers took %d requests, want 8 of 125", n)
	}
}

func TestRefusedBlockIsSplitUntilTheBadAddressStandsAlone(t *testing.T) {
	b := &bank{}
	for i := range b.holding {
		b.holding[i] = uint16(i)
	}
	d := serve(t, b)
	drv := connect(t, d)
	var pts []link.Point
	for i := 190; i < 215; i += 5 { // 190 195 200 205 210
		pts = append(pts, point(t, fmt.Sprintf("holding:%d", i), "INT"))
	}
	p := drv.Plan(pts, d)
	out := make([]value.Value, len(pts))
	if err := p.Read(context.Background(), out, func() {}); err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{"190", "195", "bad", "bad", "210"} {
		got := out[i].Text()
		if out[i].Quality == value.BadRefused {
			got = "bad"
		}
		if got != want {
			t.Errorf("%s: %s (%v), want %s", pts[i].Addr, got, out[i].Quality, want)
		}
	}
	b.mu.Lock()
	b.requests = nil
	b.mu.Unlock()
	if err := p.Read(context.Background(), out, func() {}); err != nil {
		t.Fatal(err)
	}
	for _, r := range b.requests {
		if strings.HasPrefix(r, "3:200") || strings.HasPrefix(r, "3:205") {
			t.Errorf("the bad address was asked again at once: %v", b.requests)
		}
	}
}

func TestWriteThenReadBack(t *testing.T) {
	b := &bank{}
	d := serve(t, b)
	drv := connect(t, d)
	ctx := context.Background()
	b.holding[40] = 0b0100
	for _, c := range []struct{ addr, typ, text string }{
		{"coil:7", "BOOL", "true"}, {"holding:10", "INT", "-5"}, {"holding:12", "REAL", "71.5"}, {"holding:14", "LREAL", "0.1"},
		{"holding:20", "STRING(16)", "L-2611-04"}, {"holding:40.3", "BOOL", "true"}, {"holding:30", "ULINT", "18446744073709551615"},
	} {
		p := point(t, c.addr, c.typ)
		v, _ := value.Parse(p.Type, c.text)
		if err := drv.Write(ctx, d, p, v); err != nil {
			t.Errorf("%s: %v", c.addr, err)
			continue
		}
		if back, err := drv.ReadBack(ctx, d, p); err != nil || back.Text() != c.text {
			t.Errorf("%s: %q, %v; want %q", c.addr, back.Text(), err, c.text)
		}
	}
	if b.holding[40] != 0b1100 {
		t.Errorf("the other bits of the word: %04b, want 1100", b.holding[40])
	}
	if err := drv.Write(ctx, d, point(t, "holding:50", "INT"), value.Int(value.INT, 1)); !errors.Is(err, link.ErrRefused) {
		t.Errorf("a value the device refuses: %v", err)
	}
	if err := drv.Write(ctx, d, point(t, "input:5", "INT"), value.Int(value.INT, 1)); !errors.Is(err, link.ErrRefused) {
		t.Errorf("an input register: %v", err)
	}
}

// rogue answers each connection with a function of its own.
func rogue(t *testing.T, handle func(net.Conn)) device.Device {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { l.Close() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go handle(c)
		}
	}()
	return at(l.Addr())
}

func TestTestSaysWhyInPlainWords(t *testing.T) {
	good := serve(t, &bank{})
	if rtt, err := Test(context.Background(), good, link.Env{}); err != nil || rtt <= 0 {
		t.Errorf("a good device: %v, %v", rtt, err)
	}
	gateway := good
	gateway.Unit = 9
	closed := good
	closed.Port = 1 // one that was just closed may be given to the next listener
	nobody := good
	nobody.Host = "no-such-host.invalid"
	for name, c := range map[string]struct {
		d    device.Device
		says string
	}{
		"refused":     {closed, "nothing listens on port"},
		"silent":      {rogue(t, func(c net.Conn) { time.Sleep(3 * time.Second); c.Close() }), "gave no answer within 300 ms"},
		"not Modbus":  {rogue(t, func(c net.Conn) { c.Write([]byte("HTTP/1.1 400 Bad Request\r\n\r\n")) }), "does not speak Modbus TCP"},
		"hangs up":    {rogue(t, func(c net.Conn) { c.Close() }), "closed the connection"},
		"half answer": {rogue(t, func(c net.Conn) { c.Write([]byte{0, 1, 0, 0}); c.Close() }), "closed the connection"},
		"wrong unit":  {gateway, "not for unit 9"},
	} {
		_, err := Test(context.Background(), c.d, link.Env{})
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v; want %q", name, err, c.says)
		}
	}
}

func TestLateAnswersAreSkipped(t *testing.T) {
	first := true
	d := rogue(t, func(c net.Conn) {
		buf := make([]byte, modbus.MaxPDU)
		for {
			h, _, err := modbus.ReadFrame(c, buf)
			if err != nil {
				return
			}
			if first {
				first = false
				time.Sleep(250 * time.Millisecond)
				c.Write(modbus.AppendFrame(nil, h, []byte{3, 2, 0, 1}))
				continue
			}
			c.Write(modbus.AppendFrame(nil, h, []byte{3, 2, 0, 2}))
		}
	})
	drv := connect(t, d)
	hurried := d
	hurried.Timeout = 100
	if _, err := drv.ReadBack(context.Background(), hurried, point(t, "holding:0", "INT")); !errors.Is(err, link.ErrNoAnswer) {
		t.Fatalf("%v", err)
	}
	if v, err := drv.ReadBack(context.Background(), d, point(t, "holding:0", "INT")); err != nil || v.Int() != 2 {
		t.Errorf("got %d, %v; the late answer is 1, the right one 2", v.Int(), err)
	}
}

// collector keeps the newest reading of each handle.
type collector struct {
	mu sync.Mutex
	by map[int32]value.Value
}

func (c *collector) sink(rs []link.Reading) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, r := range rs {
		c.by[r.Handle] = r.Value
	}
}

func (c *collector) get(h int32) value.Value {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.by[h]
}

func until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		if ok() {
			return
		}
	}
	t.Fatalf("not within 30 s: %s", what)
}

func TestHubSharesRecoversAndRefusesWhileDown(t *testing.T) {
	b := &bank{}
	b.holding[3] = 33
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	d := at(l.Addr())
	d.ID, d.Poll = "d1", 50
	start := func(l net.Listener) (stop func()) {
		ctx, cancel := context.WithCancel(context.Background())
		done := make(chan struct{})
		go func() { defer close(done); modbus.Serve(ctx, l, b) }()
		return func() { cancel(); <-done }
	}
	stop := start(l)
	hub := link.NewHub(map[string]link.Protocol{device.ModbusTCP: Protocol}, link.Env{})
	defer hub.Close()
	release, draft := &collector{by: map[int32]value.Value{}}, &collector{by: map[int32]value.Value{}}
	p := point(t, "holding:3", "INT")
	subs := func(h int32) []link.DeviceSubscriptions {
		return []link.DeviceSubscriptions{{Device: d, Subscriptions: []link.Subscription{{Handle: h, Point: p, Every: 50 * time.Millisecond}}}}
	}
	hub.Set("release", subs(1), release.sink)
	hub.Set("draft", subs(7), draft.sink)
	until(t, "both owners have the value", func() bool { return release.get(1).Int() == 33 && draft.get(7).Int() == 33 })
	if s := hub.Status(d); s.State != link.Up || s.Points != 1 || s.Blocks != 1 {
		t.Errorf("two owners of one point must be read once: %+v", s)
	}
	if back, err := hub.Write(context.Background(), d, p, value.Int(value.INT, 44), false); err != nil || back.Int() != 44 {
		t.Errorf("write: %v, %v", back.Int(), err)
	}
	stop()
	until(t, "bad while the device is gone", func() bool { return release.get(1).Quality == value.BadNotConnected })
	if _, err := hub.Write(context.Background(), d, p, value.Int(value.INT, 55), false); !errors.Is(err, link.ErrNotSent) {
		t.Errorf("a write while the link is down: %v", err)
	}
	if s := hub.Status(d); s.State != link.Down || s.Problem == nil {
		t.Errorf("status while down: %+v", s)
	}
	again, err := net.Listen("tcp", l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	stop = start(again)
	defer stop()
	until(t, "good again without a restart", func() bool { return release.get(1).Int() == 44 && draft.get(7).Quality == value.Good })
	hub.Set("release", nil, nil)
	hub.Set("draft", nil, nil)
	if s := hub.Status(d); s.State != link.Idle {
		t.Errorf("an endpoint nobody wants: %+v", s)
	}
}
