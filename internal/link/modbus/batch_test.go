package modbus

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

// points makes points of texts such as "holding:10 REAL".
func points(t *testing.T, list string) []link.Point {
	t.Helper()
	var out []link.Point
	for entry := range strings.SplitSeq(list, ", ") {
		addr, typ, _ := strings.Cut(entry, " ")
		out = append(out, point(t, addr, typ))
	}
	return out
}

// TestRequestsAreTheFewest parts points that are written together: neighbours go
// in one request, nothing between two of them is written.
func TestRequestsAreTheFewest(t *testing.T) {
	for _, c := range []struct {
		points, want string
		block        int
		together     bool
	}{
		{points: "holding:0 INT, holding:1 INT, holding:2 REAL", want: "[[0 1 2]]"},
		{points: "holding:2 REAL, holding:1 INT, holding:0 INT", want: "[[2 1 0]]"},
		{points: "holding:0 INT, holding:2 INT", want: "[[0] [1]]"},
		{points: "holding:0 INT, holding:1.3 BOOL, holding:2 INT", want: "[[0] [1] [2]]"},
		{points: "coil:4 BOOL, coil:5 BOOL, coil:7 BOOL", want: "[[0 1] [2]]"},
		{points: "coil:0 BOOL, holding:1 INT", want: "[[0] [1]]"},
		{points: "holding:0 STRING(12), holding:6 INT", want: "[[0 1]]"},
		{points: "holding:0 INT, holding:1 INT, holding:2 INT", block: 2, want: "[[0 1] [2]]"},
	} {
		d := device.New()
		if c.block > 0 {
			d.MaxBlock = c.block
		}
		if got := fmt.Sprint(Requests(d, points(t, c.points))); got != c.want {
			t.Errorf("%s: %s, not %s", c.points, got, c.want)
		}
	}
	var many []link.Point
	for i := range 500 {
		many = append(many, point(t, fmt.Sprintf("holding:%d", i), "INT"))
	}
	d := device.New()
	if n := len(Requests(d, many)); n != 5 {
		t.Errorf("500 registers take %d requests, not 5 of 123", n)
	}
	d.Together = true
	if n := len(Requests(d, many)); n != 5 {
		t.Errorf("500 registers by function 23 take %d requests, not 5 of 121", n)
	}
}

// TestABatchIsWrittenWhole writes and reads back values of every kind together,
// and says what the device does not take.
func TestABatchIsWrittenWhole(t *testing.T) {
	for _, together := range []bool{false, true} {
		b := &bank{}
		d := serve(t, b)
		d.Together = together
		drv, ctx := connect(t, d), context.Background()
		b.holding[99], b.holding[112] = 7, 7
		list := points(t, "holding:100 INT, holding:101 REAL, holding:103 STRING(12), holding:109 DINT, holding:111 UINT")
		values := []value.Value{value.Int(value.INT, -5), value.Real(value.REAL, 71.5), value.Str("Larch"), value.Int(value.DINT, 70000),
			value.Uint(value.UINT, 65535)}
		if err := drv.WriteBatch(ctx, d, list, values); err != nil {
			t.Fatal(err)
		}
		back, err := drv.ReadBatch(ctx, d, list)
		for i := range back {
			if !back[i].Same(values[i]) {
				t.Errorf("point %d is %v, not %v", i, back[i], values[i])
			}
		}
		if err != nil || b.holding[99] != 7 || b.holding[112] != 7 {
			t.Errorf("%v; beside it: %d and %d", err, b.holding[99], b.holding[112])
		}
		coils := points(t, "coil:3 BOOL, coil:4 BOOL")
		if err := drv.WriteBatch(ctx, d, coils, []value.Value{value.Bool(true), value.Bool(true)}); err != nil || !b.coils[3] || !b.coils[4] {
			t.Errorf("coils: %v", err)
		}
		refused := points(t, "holding:50 INT, holding:51 INT")
		err = drv.WriteBatch(ctx, d, refused, []value.Value{value.Int(value.INT, 1), value.Int(value.INT, 2)})
		if !errors.Is(err, link.ErrRefused) || b.holding[51] != 0 {
			t.Errorf("what the device does not take: %v, %d", err, b.holding[51])
		}
	}
}
