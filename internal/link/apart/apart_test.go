package apart_test

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/link/apart"
	"readyrail/internal/link/opcua"
	"readyrail/internal/plant"
)

// The arguments with which this test program is a far side itself, and the
// stand-in plant: its meter's library changes values while others read them,
// which is not what is looked for here.
const (
	far   = "serve-a-link"
	yards = "run-a-plant"
)

func TestMain(m *testing.M) {
	if len(os.Args) < 2 {
		os.Exit(m.Run())
	}
	switch os.Args[1] {
	case far:
		if err := apart.Serve(protocol(os.Args[2]), os.Stdin, os.Stdout); err != nil {
			os.Exit(1)
		}
	case yards:
		at, err := plant.Start(context.Background(), plant.New(1, 1), plant.Addresses{Modbus: "127.0.0.1:0", OPCUA: "127.0.0.1:0"},
			func(error) {})
		if err != nil {
			os.Exit(1)
		}
		fmt.Println(at.OPCUA)
		_, _ = io.Copy(io.Discard, os.Stdin) // until the test has ended
	default:
		os.Exit(m.Run())
	}
}

func protocol(name string) link.Protocol {
	if name == device.OPCUA {
		return opcua.Protocol
	}
	return link.Protocol{New: func(device.Device, link.Env, *link.Meters) link.Driver { return stuck{} },
		Explain: func(err error, _ device.Device) error { return err }}
}

func wrapped(name string) link.Protocol {
	return apart.Wrap(protocol(name), []string{os.Args[0], far, name}, opcua.Secrets)
}

// stuck is a driver that connects and then does as it is asked: gives up when
// it is told to, or never.
type stuck struct{}

func (stuck) Connect(context.Context) error              { return nil }
func (stuck) Close() error                               { return nil }
func (stuck) Plan([]link.Point, device.Device) link.Poll { return nil }
func (stuck) Write(ctx context.Context, _ device.Device, p link.Point, v value.Value) error {
	if p.Text == "never" {
		select {}
	}
	<-ctx.Done()
	return ctx.Err()
}
func (stuck) ReadBack(_ context.Context, _ device.Device, p link.Point) (value.Value, error) {
	return value.Str(p.Text).AtNanos(7), nil
}

// meter runs the stand-in meter behind a wire that alters what the meter says
// while lie is set.
func meter(t *testing.T, lie *atomic.Bool) device.Device {
	t.Helper()
	cmd := exec.Command(os.Args[0], yards)
	in, _ := cmd.StdinPipe()
	out, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { in.Close(); _ = cmd.Wait() })
	to, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal("the plant does not start")
	}
	to = strings.TrimSpace(to)
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
			go wire(c, to, lie)
		}
	}()
	d := device.NewOf(device.OPCUA)
	d.ID, d.Name, d.Host, d.Poll, d.Timeout = "m", "Meter", "127.0.0.1", 50, 2000
	d.Port = l.Addr().(*net.TCPAddr).Port
	return d
}

// threeReals and minusTwo are how a Variant of an array of REAL begins (IEC
// 62541-6, 5.2.2.16): with three elements, and with a length that cannot be.
var (
	threeReals = []byte{0x8A, 3, 0, 0, 0}
	minusTwo   = []byte{0x8A, 0xFE, 0xFF, 0xFF, 0xFF}
)

// wire joins a client to the server, for which each side goes by the address
// that it knows; a server offers no endpoint under another.
func wire(near net.Conn, to string, lie *atomic.Bool) {
	defer near.Close()
	server, err := net.Dial("tcp", to)
	if err != nil {
		return
	}
	defer server.Close()
	here, there := []byte(near.LocalAddr().String()), []byte(to)
	go func() {
		pass(near, server, func(b []byte) []byte { return bytes.ReplaceAll(b, here, there) })
		server.Close()
	}()
	pass(server, near, func(b []byte) []byte {
		if lie.Load() {
			b = bytes.ReplaceAll(b, threeReals, minusTwo)
		}
		return bytes.ReplaceAll(b, there, here)
	})
}

func pass(from, to net.Conn, alter func([]byte) []byte) {
	b := make([]byte, 1<<16)
	for {
		n, err := from.Read(b)
		if err != nil {
			return
		}
		if _, err := to.Write(alter(b[:n])); err != nil {
			return
		}
	}
}

func point(address, typ string) link.Point {
	t, _ := value.ParseType(typ)
	return link.Point{Text: address, WriteText: address, Type: t}
}

func until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(15 * time.Second); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		if ok() {
			return
		}
	}
	t.Fatalf("not within 15 s: %s", what)
}

// A server that answers with an array of negative length ends its own link,
// which says so and comes back when the server is sane again.
func TestAServerThatLies(t *testing.T) {
	var lie atomic.Bool
	d := meter(t, &lie)
	h := link.NewHub(map[string]link.Protocol{device.OPCUA: wrapped(device.OPCUA)}, link.Env{})
	defer h.Close()
	var newest atomic.Value
	h.Set("test", []link.DeviceSubscriptions{{Device: d, Subscriptions: []link.Subscription{
		{Handle: 1, Point: point("ns=1;s=Meter.Phases|[2]", "REAL"), Every: 50 * time.Millisecond}}}},
		func(rs []link.Reading) { newest.Store(rs[0].Value) })
	good := func() bool { v, _ := newest.Load().(value.Value); return v.Quality == value.Good }
	until(t, "the value comes", good)
	lie.Store(true)
	until(t, "the link failed, and says why", func() bool {
		return !good() && strings.Contains(fmt.Sprint(h.Status(d).Problem), "the driver failed: reflect.MakeSlice: negative len")
	})
	lie.Store(false)
	until(t, "the value comes again", good)
	s, traffic, _ := h.Diagnose(d)
	if s.State != link.Up || traffic.Requests == 0 || traffic.Reconnects == 0 || traffic.P50 == 0 {
		t.Errorf("%+v %+v", s, traffic)
	}
}

// All that a driver does, it does from afar.
func TestALinkApart(t *testing.T) {
	var lie atomic.Bool
	d, ctx, meters := meter(t, &lie), context.Background(), link.NewMeters()
	drv := wrapped(device.OPCUA).New(d, link.Env{}, meters)
	if list, err := opcua.Endpoints(ctx, drv); err != nil || len(list) == 0 || list[0].Security != "None" {
		t.Errorf("endpoints: %+v %v", list, err)
	}
	if took, err := opcua.Test(ctx, drv); err != nil || took <= 0 {
		t.Errorf("test: %v %v", took, err)
	}
	if err := drv.Connect(ctx); err != nil {
		t.Fatal(err)
	}
	defer drv.Close()
	if list, err := opcua.Browse(ctx, drv, "ns=1;s=Meter"); err != nil || len(list) != 6 {
		t.Errorf("browse: %+v %v", list, err)
	}
	points := []link.Point{point("ns=1;s=Meter.Tare", "LREAL"), point("ns=1;s=Meter.Nothing", "LREAL"),
		point("ns=1;s=Meter.Power", "STRING(80)")}
	p := drv.Plan(points, d)
	out := make([]value.Value, len(points))
	read := func() {
		t.Helper()
		if err := p.Read(ctx, out, func() {}); err != nil {
			t.Fatal(err)
		}
	}
	if err := drv.Write(ctx, d, points[0], value.Real(value.LREAL, 1200)); err != nil {
		t.Fatal(err)
	}
	until(t, "what was written comes", func() bool { read(); return out[0].Float() == 1200 && out[0].Quality == value.Good })
	if out[1].Quality != value.BadRefused || out[2].Str() == "" || out[1].Nanos() == 0 {
		t.Errorf("%+v", out)
	}
	// What does not change is not sent again, and stays.
	kept := out[0]
	if read(); out[0] != kept || len(p.Blocks()) != 1 || p.Blocks()[0].Points != len(points) {
		t.Errorf("%+v %+v", out, p.Blocks())
	}
	if v, err := drv.ReadBack(ctx, d, points[0]); err != nil || v.Float() != 1200 {
		t.Errorf("read back: %v %v", v, err)
	}
	if err := drv.Write(ctx, d, point("ns=1;s=Meter.Power", "LREAL"), value.Real(value.LREAL, 1)); !errors.Is(err, link.ErrRefused) {
		t.Errorf("a read-only variable: %v", err)
	}
	together := []link.Point{points[0], point("ns=1;s=Meter.Power", "LREAL")}
	if parts := wrapped(device.OPCUA).Requests(d, together); len(parts) != 1 {
		t.Errorf("requests: %v", parts)
	}
	err := link.WriteAll(ctx, drv, d, together, []value.Value{value.Real(value.LREAL, 1300), value.Real(value.LREAL, 1)})
	if err == nil || errors.Is(err, link.ErrRefused) {
		t.Errorf("written in part: %v", err)
	}
	if list, err := link.ReadAll(ctx, drv, d, together); err != nil || list[0].Float() != 1300 || list[1].Quality != value.Good {
		t.Errorf("read together: %v %v", list, err)
	}
	if trip, requests, _ := meters.Of(link.UnitKey(d)).Last(); trip == 0 || requests < 5 {
		t.Errorf("%d requests, the last in %v", requests, trip)
	}
	p.Close()
	if err := p.Read(ctx, out, func() {}); err != nil {
		t.Errorf("a plan that was given up is made anew: %v", err)
	}
}

// Errors arrive as what they are.
func TestErrorsFromAfar(t *testing.T) {
	var lie atomic.Bool
	d, ctx := meter(t, &lie), context.Background()
	p := wrapped(device.OPCUA)
	tried := func(d device.Device, env link.Env) error {
		_, err := opcua.Test(ctx, p.New(d, env, link.NewMeters()))
		return err
	}
	if err := tried(d, link.Env{Allow: func(string) error { return link.ErrForbidden }}); !errors.Is(err, link.ErrForbidden) {
		t.Errorf("a host that is not allowed: %v", err)
	}
	locked := errors.New("no such entry")
	d.Credential = "yard"
	if err := tried(d, link.Env{Secret: func(string, string) (link.Secret, error) { return link.Secret{}, locked }}); err == nil ||
		!strings.Contains(p.Explain(err, d).Error(), "no such entry") {
		t.Errorf("a vault that does not open: %v", err)
	}
	env := link.Env{Secret: func(name, host string) (link.Secret, error) {
		return link.Secret{User: "ada", Password: name + "@" + host}, nil
	}}
	if err := tried(d, env); err == nil || !strings.Contains(err.Error(), "in the clear") {
		t.Errorf("a password without encryption: %v", err)
	}
	d.Credential = ""
	l, _ := net.Listen("tcp", "127.0.0.1:0")
	_, port, _ := net.SplitHostPort(l.Addr().String())
	l.Close()
	d.Port, _ = strconv.Atoi(port)
	if err := tried(d, link.Env{}); err == nil || !strings.Contains(p.Explain(err, d).Error(), "nothing listens on port "+port) {
		t.Errorf("nobody there: %v", p.Explain(err, d))
	}
	nobody := apart.Wrap(opcua.Protocol, []string{"no-such-program"}, nil)
	err := nobody.New(d, link.Env{}, link.NewMeters()).Connect(ctx)
	if !errors.Is(err, link.ErrFailed) || !strings.Contains(nobody.Explain(err, d).Error(), "does not start") {
		t.Errorf("a program that is not there: %v", err)
	}
}

// A certificate that nobody trusts arrives whole.
func TestACertificateFromAfar(t *testing.T) {
	shown := &opcua.Untrusted{Certificate: opcua.Certificate{Fingerprint: "ab12", Subject: "CN=Meter"}, Before: "cd34"}
	err := apart.Travelled(shown)
	var u *opcua.Untrusted
	if !errors.As(err, &u) || *u != *shown || err.Error() != shown.Error() {
		t.Errorf("%#v", err)
	}
}

// A call that is given up leaves its link whole where the driver gives up too,
// and ends it where it does not.
func TestACallThatIsGivenUp(t *testing.T) {
	drv := wrapped("stuck").New(device.Device{}, link.Env{}, link.NewMeters())
	defer drv.Close()
	ctx := context.Background()
	if err := drv.Connect(ctx); err != nil {
		t.Fatal(err)
	}
	soon := func(address string) error {
		ctx, cancel := context.WithCancel(ctx)
		time.AfterFunc(50*time.Millisecond, cancel)
		return drv.Write(ctx, device.Device{}, point(address, "BOOL"), value.Bool(true))
	}
	if err := soon("waits"); !errors.Is(err, context.Canceled) || errors.Is(err, link.ErrFailed) {
		t.Errorf("one that gives up: %v", err)
	}
	if v, err := drv.ReadBack(ctx, device.Device{}, point("still here", "STRING(80)")); err != nil || v.Str() != "still here" ||
		v.Nanos() != 7 {
		t.Errorf("after it: %v %v", v, err)
	}
	if err := soon("never"); !errors.Is(err, link.ErrNoAnswer) {
		t.Errorf("one that does not: %v", err)
	}
	if _, err := drv.ReadBack(ctx, device.Device{}, point("gone", "STRING(80)")); !errors.Is(err, link.ErrFailed) {
		t.Errorf("after that: %v", err)
	}
	if err := drv.Connect(ctx); err != nil {
		t.Errorf("made anew: %v", err)
	}
}

// The far side ends with the near one, however that ends.
func TestTheFarSideEndsWithTheNearOne(t *testing.T) {
	cmd := exec.Command(os.Args[0], far, "stuck")
	in, err := cmd.StdinPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	in.Close()
	ended := make(chan error, 1)
	go func() { ended <- cmd.Wait() }()
	select {
	case err := <-ended:
		if err != nil {
			t.Error(err)
		}
	case <-time.After(10 * time.Second):
		cmd.Process.Kill()
		t.Error("it goes on")
	}
}
