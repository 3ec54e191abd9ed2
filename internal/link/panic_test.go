package link

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/value"
)

// wild is a driver that panics where it is told to.
type wild struct {
	fake
	at    atomic.Value // "connect", "read", "write", "plan" or "close"
	times atomic.Int64
}

func (w *wild) check(where string) {
	if w.at.Load() == where {
		w.times.Add(1)
		panic("an array of length -2")
	}
}

func (w *wild) Connect(context.Context) error { w.check("connect"); return nil }
func (w *wild) Close() error                  { w.check("close"); return nil }
func (w *wild) Plan(points []Point, d device.Device) Poll {
	w.check("plan")
	return &wildPoll{&fakePoll{&w.fake, points}, w}
}
func (w *wild) Write(context.Context, device.Device, Point, value.Value) error {
	w.check("write")
	return nil
}

type wildPoll struct {
	*fakePoll
	w *wild
}

func (p *wildPoll) Read(ctx context.Context, out []value.Value, yield func()) error {
	p.w.check("read")
	return p.fakePoll.Read(ctx, out, yield)
}

// A link that panics is a link that failed: it says so, and recovers once the
// driver does.
func TestADriverThatPanics(t *testing.T) {
	for _, where := range []string{"connect", "plan", "read", "close"} {
		w := &wild{fake: fake{reads: map[byte]int{}}}
		w.at.Store(where)
		h := NewHub(map[string]Protocol{device.ModbusTCP: {New: func(device.Device, Env, *Meters) Driver { return w },
			Explain: func(err error, _ device.Device) error { return err }}}, Env{})
		good := make(chan bool, 100)
		h.Set("test", []DeviceSubscriptions{subscribe(dev(1), 1)}, func(rs []Reading) {
			select {
			case good <- !rs[0].Value.Quality.IsBad():
			default:
			}
		})
		if where != "close" {
			until(t, where+": it panicked", func() bool { return w.times.Load() > 0 })
			until(t, where+": the link says so", func() bool {
				s := h.Status(dev(1))
				return strings.Contains(fmt.Sprint(s.Problem), "the driver failed: an array of length -2")
			})
			w.at.Store("")
			// What could not be planned is planned with the next configuration.
			h.Set("test", []DeviceSubscriptions{subscribe(dev(1), 2)}, func(rs []Reading) {
				select {
				case good <- !rs[0].Value.Quality.IsBad():
				default:
				}
			})
		}
		until(t, where+": values come", func() bool {
			select {
			case ok := <-good:
				return ok
			default:
				return false
			}
		})
		h.Close()
	}
}

func TestAWriteThatPanics(t *testing.T) {
	w := &wild{fake: fake{reads: map[byte]int{}}}
	w.at.Store("write")
	h := NewHub(map[string]Protocol{device.ModbusTCP: {New: func(device.Device, Env, *Meters) Driver { return w },
		Explain: func(err error, _ device.Device) error { return err }}}, Env{})
	defer h.Close()
	h.Set("test", []DeviceSubscriptions{subscribe(dev(1), 1)}, func([]Reading) {})
	until(t, "the link is up", func() bool { return h.Status(dev(1)).State == Up })
	_, err := h.Write(context.Background(), dev(1), point(1, 0), value.Int(value.INT, 1), false)
	// Whether it was taken is not known.
	if !errors.Is(err, ErrFailed) || errors.Is(err, ErrNotSent) || errors.Is(err, ErrRefused) {
		t.Errorf("%v", err)
	}
	if err := h.Use(context.Background(), dev(1), func(Driver) error { panic("a job") }); !errors.Is(err, ErrFailed) {
		t.Errorf("a job: %v", err)
	}
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
