package bench

import (
	"context"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"net"
	"sort"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
	"readyrail/internal/link"
	driver "readyrail/internal/link/modbus"
	"readyrail/internal/modbus"
)

// counter is a controller whose registers all exist; it notes the requests.
type counter struct{ requests [][2]int }

func (c *counter) ReadBits(byte, byte, uint16, []bool) error { return nil }
func (c *counter) ReadRegisters(_, _ byte, start uint16, regs []uint16) error {
	c.requests = append(c.requests, [2]int{int(start), len(regs)})
	return nil
}
func (c *counter) WriteBits(byte, uint16, []bool) error        { return nil }
func (c *counter) WriteRegisters(byte, uint16, []uint16) error { return nil }

// scattered lists 10,000 registers as a controller's program leaves them:
// runs of neighbours with gaps of all sizes between.
func scattered() []int {
	r := rand.New(rand.NewPCG(1, 1))
	var out []int
	at := 0
	for len(out) < 10_000 {
		run := 1 + r.IntN(40)
		for i := 0; i < run && len(out) < 10_000; i++ {
			out = append(out, at)
			at++
		}
		switch {
		case r.IntN(10) < 6:
			at += r.IntN(12)
		default:
			at += 20 + r.IntN(120)
		}
	}
	return out
}

// fewest is the least number of requests that covers the addresses when a
// block has at most limit registers and reads at most gap in vain in a row. It
// tries every place to cut, and does not know how the driver does it.
func fewest(addrs []int, limit, gap int) int {
	best := make([]int, len(addrs)+1)
	for i := 1; i <= len(addrs); i++ {
		best[i] = math.MaxInt
		for j := i - 1; j >= 0; j-- {
			if addrs[i-1]-addrs[j]+1 > limit || j < i-1 && addrs[j+1]-addrs[j]-1 > gap {
				break
			}
			best[i] = min(best[i], best[j]+1)
		}
	}
	return best[len(addrs)]
}

// polls reads 10,000 scattered registers over loopback, against the same
// requests written back to back on a raw socket.
func polls() ([]Figure, error) {
	bank := &counter{}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	go modbus.Serve(ctx, l, bank)
	dev := device.New()
	dev.Host, dev.Port = "127.0.0.1", l.Addr().(*net.TCPAddr).Port
	d := driver.New(dev, link.Env{}, link.NewMeters())
	if err := d.Connect(ctx); err != nil {
		return nil, err
	}
	defer d.Close()
	addrs := scattered()
	points := make([]link.Point, len(addrs))
	for i, a := range addrs {
		at := device.Address{Space: device.Holding, Offset: uint16(a), Bit: device.NoBit}
		points[i] = link.Point{Unit: 1, Addr: at, WriteAddr: at, Type: value.Type{Kind: value.INT}, Order: device.ABCD}
	}
	plan := d.Plan(points, dev)
	out := make([]value.Value, len(points))
	rounds := func(f func() error) (time.Duration, error) {
		best := time.Duration(math.MaxInt64)
		for range 40 {
			start := time.Now()
			if err := f(); err != nil {
				return 0, err
			}
			best = min(best, time.Since(start))
		}
		return best, nil
	}
	ours, err := rounds(func() error { bank.requests = bank.requests[:0]; return plan.Read(ctx, out, func() {}) })
	if err != nil {
		return nil, err
	}
	asked := append([][2]int(nil), bank.requests...)
	raw, err := net.Dial("tcp", dev.Endpoint())
	if err != nil {
		return nil, err
	}
	defer raw.Close()
	var frame []byte
	answer := make([]byte, 300)
	bare, err := rounds(func() error {
		for i, q := range asked {
			frame = modbus.AppendFrame(frame[:0], modbus.Header{Transaction: uint16(i), Unit: 1},
				modbus.AppendRead(nil, modbus.ReadHolding, uint16(q[0]), q[1]))
			if _, err := raw.Write(frame); err != nil {
				return err
			}
			if _, err := io.ReadFull(raw, answer[:9+2*q[1]]); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	sort.Ints(addrs)
	least := fewest(addrs, dev.MaxBlock, dev.MaxGap)
	n := float64(len(asked))
	requests := ratio("poll/requests", "requests", n, float64(least), 1)
	if planned := len(plan.Blocks()); len(asked) != planned {
		return nil, fmt.Errorf("%d requests were planned, %d made", planned, len(asked))
	}
	each := ratio("poll/request", "µs", float64(ours.Nanoseconds())/1000/n, float64(bare.Nanoseconds())/1000/n, 10)
	more := below("poll/more than a raw socket", "µs each", float64((ours-bare).Nanoseconds())/1000/n, 5)
	each.Goal, each.Met = "", more.Met
	return []Figure{requests, each, more}, nil
}
