package mqtt

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"math/big"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	mochi "github.com/mochi-mqtt/server/v2"
	"github.com/mochi-mqtt/server/v2/hooks/auth"

	"readyrail/internal/broker"
	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

func yard(t *testing.T) (b *mochi.Server, d device.Device, stop func()) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	return yardOn(t, l)
}

// yardOn is a broker at a listener, and the device that goes to it.
func yardOn(t *testing.T, l net.Listener) (b *mochi.Server, d device.Device, stop func()) {
	var once sync.Once
	stop = func() { once.Do(func() { b.Close() }) }
	t.Helper()
	b, err := broker.Serve(l, new(auth.Hook), &auth.Options{Ledger: &auth.Ledger{Auth: auth.AuthRules{{Username: "ada", Password: "larch",
		Allow: true}, {Username: "", Allow: false}}, ACL: auth.ACLRules{{Username: "ada"}}}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(stop)
	d = device.NewOf(device.MQTT)
	d.ID, d.Name, d.Port, d.Timeout, d.Credential = "w", "Weather", l.Addr().(*net.TCPAddr).Port, 1000, "yard"
	return b, d, stop
}

var env = link.Env{Secret: func(string, string) (link.Secret, error) { return link.Secret{User: "ada", Password: "larch"}, nil }}

func point(address, typ string) link.Point {
	t, _ := value.ParseType(typ)
	return link.Point{Text: address, WriteText: address, Type: t}
}

func TestValuesWillAndWrites(t *testing.T) {
	b, d, stop := yard(t)
	d.Will, d.WillGone, d.MaxSilence = "yard/status", "offline", 60
	b.Publish("yard/weather", []byte(`{"out":{"t":6.5,"wet":true},"list":[1,2,300]}`), true, 1)
	drv := New(d, env, link.NewMeters())
	if err := drv.Connect(context.Background()); err != nil {
		t.Fatal(err)
	}
	defer drv.Close()
	points := []link.Point{point("yard/weather|out.t", "REAL"), point("yard/weather|out.wet", "BOOL"), point("yard/weather|list[2]", "INT"),
		point("yard/weather|list[2]", "SINT"), point("yard/weather|out.gone", "REAL"),
		point("yard/+/plain", "DINT"), point("yard/never", "REAL"), point("yard/sp|value", "REAL")}
	p := drv.Plan(points, d)
	out := make([]value.Value, len(points))
	until := func(what string, ok func() bool) {
		t.Helper()
		for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
			if err := p.Read(context.Background(), out, func() {}); err != nil {
				t.Fatal(err)
			}
			if ok() {
				return
			}
		}
		t.Fatalf("not within 30 s: %s (%v)", what, out)
	}
	until("the retained value", func() bool { return out[0].Float() == 6.5 })
	for i, want := range map[int]value.Quality{1: value.Good, 2: value.Good, 3: value.BadRange, 4: value.BadReported, 5: value.BadWaiting,
		6: value.BadWaiting} {
		if out[i].Quality != want {
			t.Errorf("%s as %s: %q, want %q", points[i].Text, points[i].Type, out[i].Quality.Reason(), want.Reason())
		}
	}
	b.Publish("yard/north/plain", []byte(" 41.6 "), false, 0)
	until("a wildcard, rounded", func() bool { return out[5].Int() == 42 })
	b.Publish("yard/status", []byte("offline"), true, 1)
	until("the far side is gone", func() bool { return out[0].Quality == value.BadGone })
	b.Publish("yard/status", []byte("online"), true, 1)
	until("and back", func() bool { return out[0].Quality == value.Good })
	if err := drv.Write(context.Background(), d, points[7], value.Real(value.REAL, 21.5)); err != nil {
		t.Fatal(err)
	}
	if v, err := drv.ReadBack(context.Background(), d, points[7]); err != nil || v.Float() != 21.5 {
		t.Errorf("read back %v, %v", v.Float(), err)
	}
	if len(p.Blocks()) != 5 {
		t.Errorf("%+v", p.Blocks())
	}
	p.Close()
	stop()
	for end := time.Now().Add(3 * time.Second); drv.alive() == nil; time.Sleep(10 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("the lost connection was not noticed")
		}
	}
}

func TestListen(t *testing.T) {
	b, d, _ := yard(t)
	b.Publish("yard/weather", []byte(`{"t":6.5,"n":3,"on":true,"s":"x"}`), true, 1)
	got, err := Listen(context.Background(), d, env, "yard/#", 300*time.Millisecond)
	if err != nil || len(got) != 1 || len(got[0].Members) != 4 {
		t.Fatalf("%+v, %v", got, err)
	}
	types := ""
	for _, m := range got[0].Members {
		types += m.Path + ":" + m.Type + " "
	}
	if types != "n:DINT on:BOOL s:STRING(80) t:LREAL " {
		t.Error(types)
	}
}

func TestRefusalsInPlainWords(t *testing.T) {
	_, d, _ := yard(t)
	wrong := link.Env{Secret: func(string, string) (link.Secret, error) { return link.Secret{User: "eve", Password: "x"}, nil }}
	if _, err := Test(context.Background(), d, wrong); err == nil || !strings.Contains(err.Error(), "does not take this user") {
		t.Error(err)
	}
	d.TLS = true
	if _, err := Test(context.Background(), d, env); err == nil {
		t.Error("TLS to a broker without it")
	}
	d.TLS = false
	l, _ := net.Listen("tcp", "127.0.0.1:0")
	d.Port = l.Addr().(*net.TCPAddr).Port
	l.Close()
	if _, err := Test(context.Background(), d, env); err == nil || !strings.Contains(err.Error(), "nothing listens") {
		t.Error(err)
	}
}

// Over TLS a broker is reached by the certificate that the engineer trusted,
// and by no other.
func TestTLSByTheTrustedCertificate(t *testing.T) {
	k, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	form := &x509.Certificate{SerialNumber: big.NewInt(1), NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour)}
	der, err := x509.CreateCertificate(rand.Reader, form, form, &k.PublicKey, k)
	if err != nil {
		t.Fatal(err)
	}
	l, err := tls.Listen("tcp", "127.0.0.1:0", &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: k}}})
	if err != nil {
		t.Fatal(err)
	}
	_, d, _ := yardOn(t, l)
	d.TLS = true
	if _, err := Test(context.Background(), d, env); err == nil {
		t.Error("a certificate of nobody was taken")
	}
	d.Trusted = fingerprint([]byte("another"))
	if _, err := Test(context.Background(), d, env); err == nil || !strings.Contains(err.Error(), "certificate") {
		t.Errorf("another certificate: %v", err)
	}
	d.Trusted = fingerprint(der)
	if _, err := Test(context.Background(), d, env); err != nil {
		t.Error(err)
	}
}

func FuzzPayload(f *testing.F) {
	f.Add([]byte(`{"a":[1,{"b":2}]}`), "a[1].b")
	f.Add([]byte(`[[[`), "[0]")
	typ, _ := value.ParseType("INT")
	f.Fuzz(func(t *testing.T, payload []byte, path string) {
		decode(payload, path, typ)
		members(payload)
	})
}
