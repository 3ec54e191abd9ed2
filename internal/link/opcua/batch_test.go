package opcua

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
)

func TestWhatGoesTogether(t *testing.T) {
	var many []link.Point
	for i := range 205 {
		many = append(many, point(fmt.Sprintf("ns=1;s=V%d", i), "REAL"))
	}
	for name, c := range map[string]struct {
		points []link.Point
		want   string
	}{
		"nodes":    {many[:3], "[[0 1 2]]"},
		"elements": {[]link.Point{point("ns=1;s=A|[1]", "REAL"), point("ns=1;s=A|[2]", "REAL")}, "[[0 1]]"},
		"a member": {[]link.Point{many[0], point("ns=1;s=B|Weights[2]", "REAL"), many[1]}, "[[1] [0 2]]"},
		"no node":  {[]link.Point{many[0], point("what", "REAL")}, "[[1] [0]]"},
		"none":     {nil, "[]"},
	} {
		if got := fmt.Sprint(Requests(device.Device{}, c.points)); got != c.want {
			t.Errorf("%s: %s", name, got)
		}
	}
	parted := Requests(device.Device{}, many)
	if len(parted) != 3 || len(parted[0]) != mostNodes || len(parted[2]) != 5 {
		t.Errorf("%d requests", len(parted))
	}
}

// TestSeveralValuesByOneRequest: the server takes each by itself, so that a request
// may be taken in part; that is no refusal, which would mean that none was.
func TestSeveralValuesByOneRequest(t *testing.T) {
	d := meter(t)
	drv := connect(t, d)
	ctx := context.Background()
	tare, power, stable := point("ns=1;s=Meter.Tare", "LREAL"), point("ns=1;s=Meter.Power", "LREAL"), point("ns=1;s=Meter.Stable", "BOOL")
	load := func(x float64) value.Value { return value.Real(value.LREAL, x) }
	if err := drv.WriteBatch(ctx, d, []link.Point{tare}, []value.Value{load(800)}); err != nil {
		t.Fatal(err)
	}
	err := drv.WriteBatch(ctx, d, []link.Point{power, tare}, []value.Value{load(1), load(900)})
	if err == nil || errors.Is(err, link.ErrRefused) || !strings.Contains(err.Error(), "1 of 2") {
		t.Errorf("taken in part: %v", err)
	}
	err = drv.WriteBatch(ctx, d, []link.Point{power, stable}, []value.Value{load(1), value.Bool(true)})
	if !errors.Is(err, link.ErrRefused) {
		t.Errorf("none taken: %v", err)
	}
	got, err := drv.ReadBatch(ctx, d, []link.Point{tare, power, point("ns=1;s=Meter.Nothing", "LREAL")})
	if err != nil || got[0].Float() != 900 || got[1].Quality != value.Good || got[2].Quality != value.BadRefused {
		t.Errorf("%v %v", got, err)
	}
	if _, err := drv.ReadBatch(ctx, d, []link.Point{point("what", "REAL")}); err == nil {
		t.Error("no node is read")
	}
}
