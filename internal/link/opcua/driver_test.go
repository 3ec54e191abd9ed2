package opcua

import (
	"context"
	"errors"
	"net"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/gopcua/opcua/ua"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/plant"
)

func meter(t *testing.T) device.Device {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan struct{})
	at, err := plant.Start(ctx, plant.New(1, 1), plant.Addresses{Modbus: "127.0.0.1:0", OPCUA: "127.0.0.1:0"}, func(error) { close(done) })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { cancel(); <-done })
	d := device.NewOf(device.OPCUA)
	d.ID, d.Name, d.Poll, d.Timeout = "m", "Meter", 100, 2000
	host, port, _ := net.SplitHostPort(at.OPCUA)
	d.Host = host
	d.Port, _ = strconv.Atoi(port)
	return d
}

func point(address, typ string) link.Point {
	t, _ := value.ParseType(typ)
	return link.Point{Text: address, WriteText: address, Type: t}
}

func connect(t *testing.T, d device.Device) *Driver {
	t.Helper()
	drv := New(d, link.Env{}, link.NewMeters())
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	if err := drv.Connect(ctx); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { drv.Close() })
	return drv
}

func TestSubscribeWriteAndStatus(t *testing.T) {
	d := meter(t)
	drv := connect(t, d)
	points := []link.Point{point("ns=1;s=Meter.Power", "LREAL"), point("ns=1;s=Meter.Stable", "BOOL"),
		point("ns=1;s=Meter.Phases|[2]", "REAL"), point("ns=1;s=Meter.Tare", "LREAL"),
		point("ns=1;s=Meter.Nothing", "LREAL"), point("ns=1;s=Meter.Power", "BOOL"), point("ns=1;s=Meter.Phases|[9]", "REAL"),
		point("ns=1;s=Meter.Power", "STRING(80)")}
	p := drv.Plan(points, d)
	defer p.Close()
	out := make([]value.Value, len(points))
	read := func() {
		t.Helper()
		if err := p.Read(context.Background(), out, func() {}); err != nil {
			t.Fatal(err)
		}
	}
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if read(); out[0].Quality == value.Good && out[2].Quality == value.Good && out[3].Quality == value.Good {
			break
		}
	}
	if f := out[0].Float(); f <= 0 || f > 200 {
		t.Errorf("power %v %v at %d", f, out[0].Quality, out[0].Nanos())
	}
	for i, want := range map[int]value.Quality{1: value.Good, 2: value.Good, 3: value.Good, 4: value.BadRefused, 5: value.BadRefused,
		6: value.BadRefused, 7: value.Good} {
		if out[i].Quality != want {
			t.Errorf("%s as %s: %v, want %v", points[i].Text, points[i].Type, out[i].Quality.Reason(), want.Reason())
		}
	}
	if b := p.Blocks(); len(b) != 1 || b[0].Points != len(points) {
		t.Errorf("%+v", b)
	}
	if err := drv.Write(context.Background(), d, points[3], value.Real(value.LREAL, 1200)); err != nil {
		t.Fatal(err)
	}
	if v, err := drv.ReadBack(context.Background(), d, points[3]); err != nil || v.Float() != 1200 {
		t.Errorf("read back %v, %v", v.Float(), err)
	}
	if err := drv.Write(context.Background(), d, points[0], value.Real(value.LREAL, 1)); !errors.Is(err, link.ErrRefused) {
		t.Errorf("a read-only variable: %v", err)
	}
}

func TestBrowse(t *testing.T) {
	d := meter(t)
	drv := connect(t, d)
	names := func(node string) string {
		t.Helper()
		items, err := Browse(context.Background(), drv, node)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, i := range items {
			s := i.Name
			if i.Type != "" {
				s += ":" + i.Type
			}
			if i.Writable {
				s += ":w"
			}
			if i.More {
				s += "/"
			}
			out = append(out, s)
		}
		return strings.Join(out, " ")
	}
	if got := names(""); !strings.Contains(got, "Meter/") {
		t.Errorf("the top: %s", got)
	}
	if got := names("ns=1;s=Meter"); got != "Power:LREAL Energy:LREAL Gross:LREAL Stable:BOOL Phases/ Tare:LREAL:w" {
		t.Errorf("the meter: %s", got)
	}
	if got := names("ns=1;s=Meter.Phases"); got != "[0]:REAL [1]:REAL [2]:REAL" {
		t.Errorf("the array: %s", got)
	}
}

func TestEndpointsAndTrust(t *testing.T) {
	d := meter(t)
	tried := func(d device.Device, env link.Env) error {
		_, err := Test(context.Background(), New(d, env, link.NewMeters()))
		if err != nil {
			err = Explain(err, d)
		}
		return err
	}
	list, err := Endpoints(context.Background(), New(d, link.Env{}, link.NewMeters()))
	if err != nil || len(list) == 0 || list[0].Security != "None" || list[0].Mode != "none" || list[0].SignIn[0] != "anonymous" {
		t.Errorf("%+v, %v", list, err)
	}
	if err := tried(d, link.Env{}); err != nil {
		t.Error(err)
	}
	d.Security, d.Mode = "Basic256Sha256", "encrypt"
	if err := tried(d, link.Env{}); err == nil || !strings.Contains(err.Error(), "offers no endpoint") {
		t.Errorf("a security that the server has not: %v", err)
	}
	d.Security, d.Mode = "", ""
	env := link.Env{Secret: func(string, string) (link.Secret, error) { return link.Secret{User: "ada", Password: "x"}, nil }}
	d.Credential = "yard"
	if err := tried(d, env); err == nil || !strings.Contains(err.Error(), "in the clear") {
		t.Errorf("a password without encryption: %v", err)
	}
	l, _ := net.Listen("tcp", "127.0.0.1:0")
	d.Credential = ""
	d.Port = l.Addr().(*net.TCPAddr).Port
	l.Close()
	if err := tried(d, link.Env{}); err == nil || !strings.Contains(err.Error(), "nothing listens") {
		t.Errorf("nobody there: %v", err)
	}
}

func TestStatusCodesBecomeQuality(t *testing.T) {
	for code, want := range map[ua.StatusCode]value.Quality{ua.StatusOK: value.Good, ua.StatusUncertain: value.UncertainDevice,
		ua.StatusUncertainLastUsableValue: value.UncertainDevice,
		ua.StatusBadNoCommunication:       value.BadGone, ua.StatusBadSensorFailure: value.BadReported,
		ua.StatusBadNodeIDUnknown: value.BadRefused} {
		if got := quality(code); got != want {
			t.Errorf("0x%08X: %s, want %s", uint32(code), got.Reason(), want.Reason())
		}
	}
}

// TestMembersOfStructures walks through a body as IEC 62541-6, 5.2.6 lays it
// out: a text, an array of numbers, a nested structure, an optional field.
func TestMembersOfStructures(t *testing.T) {
	probe := &structure{fields: []field{{name: "Value", builtin: ua.TypeIDDouble}, {name: "Good", builtin: ua.TypeIDBoolean}}}
	load := &structure{optional: true, fields: []field{{name: "Name", builtin: ua.TypeIDString},
		{name: "Missing", builtin: ua.TypeIDInt32, optional: true}, {name: "Extra", builtin: ua.TypeIDInt16, optional: true},
		{name: "Weights", builtin: ua.TypeIDInt32, array: true}, {name: "Probe", nested: probe}, {name: "Probes", nested: probe, array: true}}}
	b := ua.NewBuffer(nil)
	b.WriteUint32(0b10)
	b.WriteString("L-2611")
	b.WriteInt16(-7)
	b.WriteUint32(3)
	for _, n := range []int32{10, 20, 30} {
		b.WriteInt32(n)
	}
	b.WriteFloat64(12.5)
	b.WriteBool(true)
	b.WriteUint32(2)
	for _, f := range []float64{1.5, 2.5} {
		b.WriteFloat64(f)
		b.WriteBool(false)
	}
	for way, want := range map[string]any{"Name": "L-2611", "Extra": int16(-7), "Weights[2]": int32(30), "Probe.Value": 12.5,
		"Probe.Good": true, "Probes[1].Value": 2.5} {
		m, _ := device.SplitMembers(way)
		if got, _, err := load.find(b.Bytes(), m); err != nil || got != want {
			t.Errorf("%s: %v, %v; want %v", way, got, err, want)
		}
	}
	for _, way := range []string{"Nothing", "Missing", "Weights[9]", "Name.X", "Probes[0].X", "Weights"} {
		m, _ := device.SplitMembers(way)
		if got, _, err := load.find(b.Bytes(), m); err == nil {
			t.Errorf("%s was found: %v", way, got)
		}
	}
	m, _ := device.SplitMembers("Probe.Value")
	_, at, _ := load.find(b.Bytes(), m)
	if at.to-at.from != 8 || at.builtin != ua.TypeIDDouble {
		t.Errorf("where it lies: %+v", at)
	}
	load.find(b.Bytes()[:9], m) // half a body is an error and no panic
}

func FuzzStructure(f *testing.F) {
	s := &structure{optional: true, fields: []field{{name: "A", builtin: ua.TypeIDString}, {name: "B", builtin: ua.TypeIDInt32, array: true},
		{name: "C", builtin: ua.TypeIDVariant, optional: true}, {name: "D", builtin: ua.TypeIDDouble}}}
	f.Add([]byte{1, 0, 0, 0, 255, 255, 255, 255})
	f.Fuzz(func(t *testing.T, b []byte) {
		s.find(b, []device.Member{{Name: "D"}})
	})
}

func TestOwnCertificate(t *testing.T) {
	c, k, err := NewApplicationCertificate(time.Now())
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := keyPair(link.Secret{Certificate: c, Key: k}); err != nil {
		t.Error(err)
	}
}
