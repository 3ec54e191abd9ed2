package e2e

import (
	"bufio"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"
)

// binary is the program under test; TestMain builds it.
var binary string

func TestMain(m *testing.M) {
	if _, err := exec.LookPath(chromiumPath()); err != nil {
		fmt.Fprintln(os.Stderr, "the journeys need Debian's Chromium without a window, chromium-headless-shell: make test installs it")
		os.Exit(1)
	}
	dir, err := os.MkdirTemp("", "readyrail-e2e")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "readyrail")
	if out, err := exec.Command("go", "build", "-o", binary, "readyrail/cmd/readyrail").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "build: %v\n%s", err, out)
		os.Exit(1)
	}
	code := m.Run()
	if shared.end != nil {
		shared.end()
	}
	os.RemoveAll(dir)
	os.Exit(code)
}

// process is a running program.
type process struct {
	t    testing.TB
	cmd  *exec.Cmd
	done chan struct{}
}

// nextPort is below those that the system gives to connections by itself, so
// that nobody takes a port between its choice and its use.
var nextPort atomic.Int64

func init() { nextPort.Store(20_000 + int64(os.Getpid())%8_000) }

// freeAddr returns an address that nothing listens at, each once.
func freeAddr(t testing.TB) string {
	t.Helper()
	for range 1000 {
		addr := fmt.Sprintf("127.0.0.1:%d", nextPort.Add(1))
		if l, err := net.Listen("tcp", addr); err == nil {
			l.Close()
			return addr
		}
	}
	t.Fatal("no port is free")
	return ""
}

// start runs the program and waits for the line that says it is ready.
func start(t testing.TB, ready string, args ...string) *process {
	t.Helper()
	p := &process{t: t, cmd: exec.Command(binary, args...), done: make(chan struct{})}
	p.cmd.Stderr = os.Stderr
	out, err := p.cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := p.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	line := make(chan string, 1)
	go func() {
		s := bufio.NewScanner(out)
		for s.Scan() {
			select {
			case line <- s.Text():
			default:
			}
		}
		p.cmd.Wait()
		close(p.done)
	}()
	t.Cleanup(p.kill)
	select {
	case l := <-line:
		if !strings.Contains(l, ready) {
			t.Fatalf("%v said %q", args, l)
		}
	case <-time.After(patience):
		t.Fatalf("%v said nothing", args)
	}
	return p
}

// kill ends the program as a crash would.
func (p *process) kill() {
	p.cmd.Process.Signal(syscall.SIGKILL)
	<-p.done
}

// end asks the program to end and returns how long that took.
func (p *process) end() time.Duration {
	from := time.Now()
	p.cmd.Process.Signal(syscall.SIGTERM)
	<-p.done
	return time.Since(from)
}

// besides are the journeys that run beside others.
var besides sync.Map

// beside lets another journey run beside this one; two at a time fill the
// processors that there are at least.
func beside(t testing.TB) {
	journey, ok := t.(*testing.T)
	if _, again := besides.LoadOrStore(t.Name(), true); ok && !again {
		journey.Parallel()
	}
}

// alone keeps a journey from having another beside it: one that holds a button,
// or is about two people at once, needs the processors.
func alone(t testing.TB) { besides.Store(t.Name(), true) }

// site is a demo with its plant as a process of its own.
type site struct {
	t             testing.TB
	data          string
	addr, modbus  string
	opcua, mqtt   string
	server, plant *process
	base          string
	speed         string // of the plant's process time
}

// newSite starts a demo of the journey's own, and lets another journey run
// beside it.
func newSite(t testing.TB) *site {
	t.Helper()
	return newSiteAt(t, "20")
}

// newSiteAt has a plant whose process goes faster: at 300 the chamber that cools
// down is idle within seconds.
func newSiteAt(t testing.TB, speed string) *site {
	t.Helper()
	beside(t)
	s := &site{t: t, speed: speed, data: t.TempDir(), addr: freeAddr(t), modbus: freeAddr(t), opcua: freeAddr(t), mqtt: freeAddr(t)}
	s.base = "http://" + s.addr
	s.startPlant()
	s.startServer()
	return s
}

func (s *site) startPlant() {
	s.plant = start(s.t, "Plant on", "plant", "--modbus", s.modbus, "--opcua", s.opcua, "--mqtt", s.mqtt, "--speed", s.speed)
}

func (s *site) startServer() {
	s.server = start(s.t, "Ready Rail on", "demo", "--addr", s.addr, "--data", s.data, "--modbus", s.modbus, "--opcua", s.opcua, "--mqtt",
		s.mqtt, "--plant=false")
}
