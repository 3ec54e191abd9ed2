package e2e

import (
	"os/exec"
	"strings"
	"testing"
)

// mbpoll is a Modbus program that is not ours, from Debian: what both of our
// sides have wrong alike would show here.
func mbpoll(t *testing.T, addr string, args ...string) string {
	t.Helper()
	host, port, _ := strings.Cut(addr, ":")
	all := append([]string{"-m", "tcp", "-p", port, "-0", "-1", "-q"}, args...)
	// Values to write stand behind the host.
	for i, a := range all {
		if a == "--" {
			all[i] = host
			host = ""
		}
	}
	if host != "" {
		all = append(all, host)
	}
	out, err := exec.Command("mbpoll", all...).CombinedOutput()
	if err != nil && !strings.Contains(string(out), "llegal") {
		t.Fatalf("mbpoll %v: %v\n%s", all, err, out)
	}
	return strings.Join(strings.Fields(string(out)), " ")
}

func TestThePlantAgainstAnIndependentProgram(t *testing.T) {
	if _, err := exec.LookPath("mbpoll"); err != nil {
		t.Fatal("mbpoll is missing: make test installs it")
	}
	addr := freeAddr(t)
	start(t, "Plant on", "plant", "--modbus", addr, "--opcua", freeAddr(t), "--mqtt", freeAddr(t), "--speed", "1")
	for _, c := range []struct {
		what string
		args []string
		want string
	}{
		{"holding registers, function 3", []string{"-a", "1", "-t", "4", "-r", "0", "-c", "5"}, "[0]: 720 [1]: 595 [2]: 820 [3]: 120 [4]: 120"},
		{"write one register, function 6", []string{"-a", "1", "-t", "4", "-r", "0", "--", "705"}, "Written 1 references."},
		{"and read it back", []string{"-a", "1", "-t", "4", "-r", "0", "-c", "1"}, "[0]: 705"},
		{"write several registers, function 16", []string{"-a", "2", "-t", "4", "-r", "0", "--", "410", "260", "510"}, "Written 3 references."},
		{"of the other unit", []string{"-a", "2", "-t", "4", "-r", "0", "-c", "3"}, "[0]: 410 [1]: 260 [2]: 510"},
		{"write one coil, function 5", []string{"-a", "2", "-t", "0", "-r", "0", "--", "1"}, "Written 1 references."},
		{"coils, function 1", []string{"-a", "2", "-t", "0", "-r", "0", "-c", "2"}, "[0]: 1 [1]: 0"},
		{"write several coils, function 15", []string{"-a", "1", "-t", "0", "-r", "900", "--", "0", "0", "1", "0"}, "Written 4 references."},
		{"discrete inputs, function 2", []string{"-a", "1", "-t", "1", "-r", "10", "-c", "7"},
			"[10]: 1 [11]: 1 [12]: 1 [13]: 0 [14]: 1 [15]: 1 [16]: 0"},
		{"a DINT, high word first", []string{"-a", "2", "-t", "3:int", "-B", "-r", "0", "-c", "1"}, "[0]: 12"},
		{"a REAL, high word first", []string{"-a", "1", "-t", "3:float", "-B", "-r", "4", "-c", "1"}, "[4]: 31."},
		{"a REAL, low word first", []string{"-a", "1", "-t", "3:float", "-r", "10", "-c", "1"}, "[10]: 31."},
		{"an address that is not there", []string{"-a", "1", "-t", "4", "-r", "998", "-c", "10"}, "llegal data address"},
	} {
		if got := mbpoll(t, addr, c.args...); !strings.Contains(got, c.want) {
			t.Errorf("%s: %q; want %q in it", c.what, got, c.want)
		}
	}
}
