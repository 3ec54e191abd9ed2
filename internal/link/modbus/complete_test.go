package modbus

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strings"
	"testing"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

func TestABitIsWrittenByMaskOrByWord(t *testing.T) {
	for _, c := range []struct {
		how   string
		order device.Order
		want  uint16
	}{
		{device.ByMask, device.ABCD, 0b1100}, {device.ByWord, device.ABCD, 0b1100}, {device.ByMask, device.BADC, 0b1000_0000_0100},
		{device.ByWord, device.BADC, 0b1000_0000_0100},
	} {
		b := &bank{}
		b.holding[40] = 0b0100
		d := serve(t, b)
		d.BitWrite = c.how
		p := point(t, "holding:40.3", "BOOL")
		p.Order = c.order
		if err := connect(t, d).Write(context.Background(), d, p, value.Bool(true)); err != nil || b.holding[40] != c.want {
			t.Errorf("%s, %s: %012b, %v; want %012b", c.how, c.order, b.holding[40], err, c.want)
		}
		read := 0
		for _, r := range b.requests {
			if strings.HasPrefix(r, "3:40") {
				read++
			}
		}
		if read != 1 {
			t.Errorf("%s: the word was read %d times: by the server itself for a mask, by us for a word", c.how, read)
		}
	}
}

func TestADeviceWithoutFunction22SaysHowToMendIt(t *testing.T) {
	d := rogue(t, func(c net.Conn) {
		buf := make([]byte, modbus.MaxPDU)
		for {
			h, pdu, err := modbus.ReadFrame(c, buf)
			if err != nil {
				return
			}
			c.Write(modbus.AppendFrame(nil, h, []byte{pdu[0] | 0x80, 1}))
		}
	})
	err := connect(t, d).Write(context.Background(), d, point(t, "holding:40.3", "BOOL"), value.Bool(true))
	if !errors.Is(err, link.ErrRefused) || !strings.Contains(err.Error(), "written by word") {
		t.Error(err)
	}
}

func TestWriteAndReadTogetherAndApart(t *testing.T) {
	b := &bank{}
	d := serve(t, b)
	d.Together = true
	drv := connect(t, d)
	p := point(t, "holding:10", "REAL")
	if err := drv.Write(context.Background(), d, p, value.Real(value.REAL, 71.5)); err != nil {
		t.Fatal(err)
	}
	if v, err := drv.ReadBack(context.Background(), d, p); err != nil || v.Float() != 71.5 {
		t.Errorf("by function 23: %v, %v", v.Float(), err)
	}
	p = point(t, "input:3", "INT")
	p.WriteAddr, _ = device.ParseAddress("holding:300")
	if err := drv.Write(context.Background(), d, p, value.Int(value.INT, 8)); err != nil || b.holding[300] != 8 || !p.Apart() {
		t.Errorf("written elsewhere than read: %v, %d", err, b.holding[300])
	}
	if v, _ := drv.ReadBack(context.Background(), d, p); v.Int() != 8 {
		t.Errorf("read back from where it is written: %d", v.Int())
	}
}

// TestRequestsInFlight asks a device that answers a batch in reverse order,
// and only when it has the whole of it.
func TestRequestsInFlight(t *testing.T) {
	d := rogue(t, func(c net.Conn) {
		for {
			var batch [][]byte
			for range 3 {
				buf := make([]byte, modbus.MaxPDU)
				h, pdu, err := modbus.ReadFrame(c, buf)
				if err != nil {
					return
				}
				batch = append(batch, modbus.AppendFrame(nil, h, []byte{3, 2, 0, pdu[2]}))
			}
			for i := range batch {
				c.Write(batch[2-i])
			}
		}
	})
	d.InFlight, d.MaxGap = 3, 0
	var pts []link.Point
	for _, a := range []int{1, 20, 40, 60, 80, 100} {
		pts = append(pts, point(t, fmt.Sprintf("holding:%d", a), "INT"))
	}
	out := make([]value.Value, len(pts))
	yields := 0
	if err := connect(t, d).Plan(pts, d).Read(context.Background(), out, func() { yields++ }); err != nil {
		t.Fatal(err)
	}
	for i, p := range pts {
		if out[i].Int() != int64(p.Addr.Offset) {
			t.Errorf("%s got the answer %d of another", p.Addr, out[i].Int())
		}
	}
	if yields != 1 {
		t.Errorf("%d chances to write between two batches", yields)
	}
}

func TestProbe(t *testing.T) {
	b := &bank{}
	b.holding[198], b.holding[199], b.holding[210] = 0x4123, 0x8000, 0x4142
	d := serve(t, b)
	drv := connect(t, d)
	got, took, err := Probe(context.Background(), drv, d, device.Holding, 198, 13)
	if err != nil || took <= 0 || len(got) != 13 {
		t.Fatalf("%d, %v, %v", len(got), took, err)
	}
	r := got[0]
	if r.Hex != "4123" || r.Unsigned != 0x4123 || r.Real["ABCD"] != "10.21875" || r.Double["CDAB"] != "-2147466973" ||
		r.Reference != "400199" {
		t.Errorf("%+v", r)
	}
	if got[2].Problem == "" || got[12].Text != "AB" || got[12].Problem != "" {
		t.Errorf("what is there is shown, what is not is said: %+v, %+v", got[2], got[12])
	}
}

// TestWhatABadDeviceDoes asks devices that hang, answer garbage or stop in the
// middle of a frame: each gets its kind of error, and none stops the hub.
func TestWhatABadDeviceDoes(t *testing.T) {
	for kind, handle := range map[string]func(net.Conn){
		"no answer in time":   func(c net.Conn) { time.Sleep(2 * time.Second); c.Close() },
		"not a Modbus answer": func(c net.Conn) { c.Write([]byte("GET / HTTP/1.1\r\n")); time.Sleep(time.Second) },
		"broken connection":   func(c net.Conn) { c.Read(make([]byte, 12)); c.Write([]byte{0, 1, 0, 0, 0, 5, 1}); c.Close() },
	} {
		d := rogue(t, handle)
		d.ID = "d1"
		hub := link.NewHub(map[string]link.Protocol{device.ModbusTCP: Protocol}, link.Env{})
		hub.Set("draft", []link.DeviceSubscriptions{{Device: d,
			Subscriptions: []link.Subscription{{Handle: 1, Point: point(t, "holding:0", "INT"), Every: 50 * time.Millisecond}}}},
			func([]link.Reading) {})
		until(t, kind, func() bool {
			_, traffic, _ := hub.Diagnose(d)
			for _, k := range traffic.Kinds {
				if k.Kind == kind && k.Text != "" {
					return true
				}
			}
			return false
		})
		hub.Close()
	}
}
