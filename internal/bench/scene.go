package bench

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"sort"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"readyrail/internal/core/device"
	"readyrail/internal/core/project"
	"readyrail/internal/core/screen"
	"readyrail/internal/edit"
	"readyrail/internal/host"
	"readyrail/internal/machine"
	"readyrail/internal/modbus"
	"readyrail/internal/server"
)

const (
	viewers   = 50
	bindings  = 300
	sceneTime = 5 * time.Second
)

// ticking is a controller whose registers say, in milliseconds modulo 30,000,
// when they were read: every value changes at every poll.
type ticking struct{ counter }

func nowMs() int64 { return time.Now().UnixMilli() % 30_000 }

func (*ticking) ReadRegisters(_, _ byte, start uint16, regs []uint16) error {
	for i := range regs {
		regs[i] = uint16(nowMs())
	}
	return nil
}

func sceneProject(port int) (*project.Project, error) {
	d := device.New()
	d.Name, d.Port, d.Poll = "PLC", port, 100
	doc, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	ops := []project.Op{{Kind: project.KindDevice, ID: "d1", Value: doc}}
	for i := range bindings {
		ops = append(ops, project.Op{Kind: project.KindTag, ID: fmt.Sprintf("t%d", i), Value: json.RawMessage(
			fmt.Sprintf(`{"name":"T%d","type":"INT","source":"device","device":"d1","address":"holding:%d"}`, i, i))})
	}
	for s := range viewers {
		sc := screen.Screen{Name: fmt.Sprintf("S%d", s), Width: 1280, Height: 676, Elements: map[string]*screen.Element{}}
		for i := range bindings {
			sc.Elements[fmt.Sprintf("e%d", i)] = &screen.Element{Kind: "readout", Z: float64(i), W: 10, H: 10,
				Props: map[string]any{"tag": fmt.Sprintf("t%d", i)}}
		}
		doc, err := json.Marshal(sc)
		if err != nil {
			return nil, err
		}
		ops = append(ops, project.Op{Kind: project.KindScreen, ID: fmt.Sprintf("s%d", s), Value: doc})
	}
	p, _, err := edit.NewProject("Bench").Edit(ops)
	return p, err
}

// scenes measures the processor time of 50 clients that look at 300 values
// changing ten times a second, the whole way from the controller's registers to
// the sockets, against the same bytes written to 50 bare sockets.
func scenes() ([]Figure, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	go modbus.Serve(ctx, l, &ticking{})
	h, done, err := openHost()
	if err != nil {
		return nil, err
	}
	defer done()
	who, err := h.CreateOwner(ctx, host.NewAccount{Name: "bench", FullName: "Bench", Password: "a password"})
	if err != nil {
		return nil, err
	}
	content, err := sceneProject(l.Addr().(*net.TCPAddr).Port)
	if err != nil {
		return nil, err
	}
	p, err := h.CreateProject(ctx, who, "bench", content)
	if err != nil {
		return nil, err
	}
	if _, err := p.Publish(ctx, who, host.ReleaseOrder{}); err != nil {
		return nil, err
	}
	web, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	srv := &http.Server{Handler: server.New(h, server.Options{})}
	go srv.Serve(web)
	defer srv.Close()
	cookie, err := signIn(web.Addr().String())
	if err != nil {
		return nil, err
	}
	idle := measureCPU()
	var out []Figure
	for _, c := range []struct {
		name   string
		screen func(i int) string
		atMost float64
	}{{"one screen", func(int) string { return "s0" }, 1.2}, {"50 screens", func(i int) string { return fmt.Sprintf("s%d", i) }, 3}} {
		r, err := look(web.Addr().String(), cookie, c.screen)
		if err != nil {
			return nil, err
		}
		bare, err := bareSockets(r.bytes/r.writes, float64(r.writes)/sceneTime.Seconds()/viewers)
		if err != nil {
			return nil, err
		}
		name := "scene/" + c.name
		out = append(out, ratio(name+"/processor", "ms/s", ms(r.cpu), ms(bare+idle), c.atMost),
			below(name+"/change to frame p95", "ms", r.p95, 30),
			above(name+"/frames", "Hz", float64(r.writes)/sceneTime.Seconds()/viewers, 9))
	}
	return append(out, Figure{Name: "scene/polling alone", Value: ms(idle), Unit: "ms/s", Goal: "counted on both sides", Met: true}), nil
}

func ms(perSecond time.Duration) float64 { return float64(perSecond.Microseconds()) / 1000 }

// measureCPU returns the processor time a second that this process takes.
func measureCPU() time.Duration {
	start, from := time.Now(), machine.Processor()
	time.Sleep(sceneTime)
	return time.Duration(float64(machine.Processor()-from) / time.Since(start).Seconds())
}

func signIn(addr string) (cookie string, err error) {
	r, err := http.Post("http://"+addr+"/api/session", "application/json", strings.NewReader(`{"name":"bench","password":"a password"}`))
	if err != nil {
		return "", err
	}
	r.Body.Close()
	if r.StatusCode != http.StatusOK || len(r.Cookies()) == 0 {
		return "", fmt.Errorf("signing in: %s", r.Status)
	}
	c := r.Cookies()[0]
	return c.Name + "=" + c.Value, nil
}

// socket opens a WebSocket by hand, so that the client costs no more than a
// bare reader.
func socket(addr, cookie, message string) (net.Conn, error) {
	c, err := net.Dial("tcp", addr)
	if err != nil {
		return nil, err
	}
	fmt.Fprintf(c, "GET /api/live HTTP/1.1\r\nHost: %s\r\nUpgrade: websocket\r\nConnection: Upgrade\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\nCookie: %s\r\n\r\n", addr, cookie)
	in := bufio.NewReader(c)
	status, err := in.ReadString('\n')
	if err != nil || !strings.Contains(status, "101") {
		return nil, fmt.Errorf("the socket was refused: %s %w", status, err)
	}
	// A masked text frame (RFC 6455, 5.2) with a mask of zeros.
	frame := []byte{0x81, 0xFE, byte(len(message) >> 8), byte(len(message)), 0, 0, 0, 0}
	_, err = c.Write(append(frame, message...))
	return c, err
}

type looked struct {
	cpu    time.Duration
	bytes  int
	writes int
	p95    float64
}

func look(addr, cookie string, screenOf func(i int) string) (looked, error) {
	var bytes, writes atomic.Int64
	var mu sync.Mutex
	var delays []float64
	var conns []net.Conn
	defer func() {
		for _, c := range conns {
			c.Close()
		}
	}()
	for i := range viewers {
		c, err := socket(addr, cookie, fmt.Sprintf(`{"op":"scene","ch":1,"project":"bench","program":"release","screen":%q}`, screenOf(i)))
		if err != nil {
			return looked{}, err
		}
		conns = append(conns, c)
		go func() {
			buf := make([]byte, 256<<10)
			for {
				n, err := c.Read(buf)
				if err != nil {
					return
				}
				bytes.Add(int64(n))
				if n < 1000 {
					continue // a beat
				}
				writes.Add(1)
				if i == 0 {
					if d, ok := delay(string(buf[:n])); ok {
						mu.Lock()
						delays = append(delays, d)
						mu.Unlock()
					}
				}
			}
		}()
	}
	time.Sleep(time.Second)
	var b0, w0 int64
	mu.Lock()
	delays = nil
	mu.Unlock()
	b0, w0 = bytes.Load(), writes.Load()
	used := measureCPU()
	r := looked{cpu: used, bytes: int(bytes.Load() - b0), writes: max(1, int(writes.Load()-w0))}
	mu.Lock()
	defer mu.Unlock()
	sort.Float64s(delays)
	if len(delays) == 0 {
		return r, fmt.Errorf("no frame with a value came")
	}
	r.p95 = delays[len(delays)*95/100]
	return r, nil
}

// delay reads the first value of a frame, which says when the controller was
// read.
func delay(frame string) (ms float64, ok bool) {
	_, rest, ok := strings.Cut(frame, `"v":[[`)
	if !ok {
		return 0, false
	}
	_, rest, ok = strings.Cut(rest, `,"`)
	if !ok {
		return 0, false
	}
	text, _, ok := strings.Cut(rest, `"`)
	v, err := strconv.ParseInt(strings.ReplaceAll(text, "\u2009", ""), 10, 64)
	if !ok || err != nil {
		return 0, false
	}
	d := nowMs() - v
	if d < 0 {
		d += 30_000
	}
	return float64(d), true
}

// bareSockets writes as many bytes as often to as many sockets, and does
// nothing else.
func bareSockets(size int, hz float64) (time.Duration, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	var ends []net.Conn
	defer func() {
		for _, c := range ends {
			c.Close()
		}
	}()
	for range viewers {
		c, err := net.Dial("tcp", l.Addr().String())
		if err != nil {
			return 0, err
		}
		s, err := l.Accept()
		if err != nil {
			return 0, err
		}
		ends = append(ends, c, s)
		go func() {
			buf := make([]byte, 256<<10)
			for {
				if _, err := c.Read(buf); err != nil {
					return
				}
			}
		}()
		go func() {
			payload := make([]byte, size)
			tick := time.NewTicker(time.Duration(float64(time.Second) / hz))
			defer tick.Stop()
			for range tick.C {
				if _, err := s.Write(payload); err != nil {
					return
				}
			}
		}()
	}
	time.Sleep(500 * time.Millisecond)
	return measureCPU(), nil
}
