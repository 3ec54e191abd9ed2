package modbus

import (
	"context"
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/say"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	"readyrail/internal/modbus"
)

// Register is one register, or bit, as the probe shows it, before any tag is
// there.
type Register struct {
	Address   string            `json:"address"`
	Reference string            `json:"reference"`
	Hex       string            `json:"hex"`
	Unsigned  uint16            `json:"unsigned"`
	Signed    int16             `json:"signed"`
	Text      string            `json:"text" doc:"the two bytes as characters"`
	Double    map[string]string `json:"double" doc:"with the next register, as DINT by byte order"`
	Real      map[string]string `json:"real" doc:"with the next register, as REAL by byte order"`
	Problem   string            `json:"problem,omitempty"`
}

var orders = []device.Order{device.ABCD, device.CDAB, device.BADC, device.DCBA}

// Probe reads a range of a space. Where the device refuses the range, each
// register is asked for alone, so that those that exist are seen.
func Probe(ctx context.Context, d link.Driver, dev device.Device, space device.Space, start, count int) ([]Register, time.Duration, error) {
	m, ok := d.(*Driver)
	if !ok {
		return nil, 0, say.Errorf("%w: the device does not speak Modbus", link.ErrNotSent)
	}
	begin := time.Now()
	regs, err := m.Read(ctx, byte(dev.Unit), space, uint16(start), count, timeoutOf(dev))
	problems := make([]string, count)
	if err != nil {
		if _, refused := err.(modbus.Exception); !refused {
			return nil, 0, err
		}
		regs = make([]uint16, count)
		for i := range count {
			one, err := m.Read(ctx, byte(dev.Unit), space, uint16(start+i), 1, timeoutOf(dev))
			if e, refused := err.(modbus.Exception); refused {
				problems[i] = e.Error()
				continue
			} else if err != nil {
				return nil, 0, err
			}
			regs[i] = one[0]
		}
	}
	took := time.Since(begin)
	out := make([]Register, count)
	for i, r := range regs {
		a := device.Address{Space: space, Offset: uint16(start + i), Bit: device.NoBit}
		out[i] = Register{Address: a.String(), Reference: a.Reference(), Hex: fmt.Sprintf("%04X", r), Unsigned: r, Signed: int16(r),
			Problem: problems[i], Double: map[string]string{}, Real: map[string]string{}}
		if space.IsBits() {
			continue
		}
		out[i].Text = printable(r)
		if i+1 < count && problems[i] == "" && problems[i+1] == "" {
			for _, o := range orders {
				pair := regs[i : i+2]
				out[i].Double[string(o)] = modbus.Decode(pair, value.Type{Kind: value.DINT}, device.NoBit, o).Text()
				out[i].Real[string(o)] = realText(modbus.Decode(pair, value.Type{Kind: value.REAL}, device.NoBit, o))
			}
		}
	}
	return out, took, nil
}

func printable(r uint16) string {
	b := binary.BigEndian.AppendUint16(nil, r)
	for i, c := range b {
		if c < 0x20 || c > 0x7e {
			b[i] = '.'
		}
	}
	return string(b)
}

// realText shows a REAL with the digits that it has.
func realText(v value.Value) string {
	if v.Quality.IsBad() {
		return "NaN"
	}
	f := v.Float()
	if f != 0 && (math.Abs(f) < 1e-4 || math.Abs(f) >= 1e7) {
		return strconv.FormatFloat(f, 'e', 3, 32)
	}
	return strconv.FormatFloat(f, 'f', -1, 32)
}
