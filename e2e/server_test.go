package e2e

import (
	"bufio"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"
)

// binary is the program under test; TestMain builds it.
var binary string

func TestMain(m *testing.M) {
	if _, err := exec.LookPath("/usr/bin/chromium"); err != nil {
		fmt.Fprintln(os.Stderr, "the journeys need Chromium at /usr/bin/chromium: make test installs it")
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
var nextPort = 20_000 + os.Getpid()%8_000

// freeAddr returns an address that nothing listens at, each once.
func freeAddr(t testing.TB) string {
	t.Helper()
	for range 1000 {
		nextPort++
		addr := fmt.Sprintf("127.0.0.1:%d", nextPort)
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
	case <-time.After(20 * time.Second):
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

// site is a demo with its plant as a process of its own.
type site struct {
	t             testing.TB
	data          string
	addr, modbus  string
	opcua, mqtt   string
	server, plant *process
	base          string
}

func newSite(t testing.TB) *site {
	t.Helper()
	s := &site{t: t, data: t.TempDir(), addr: freeAddr(t), modbus: freeAddr(t), opcua: freeAddr(t), mqtt: freeAddr(t)}
	s.base = "http://" + s.addr
	s.startPlant()
	s.startServer()
	return s
}

func (s *site) startPlant() {
	s.plant = start(s.t, "Plant on", "plant", "--modbus", s.modbus, "--opcua", s.opcua, "--mqtt", s.mqtt, "--speed", "20")
}

func (s *site) startServer() {
	s.server = start(s.t, "Ready Rail on", "demo", "--addr", s.addr, "--data", s.data, "--modbus", s.modbus, "--opcua", s.opcua, "--mqtt",
		s.mqtt, "--plant=false")
}
