package e2e

import (
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// run runs the program, which has to end well.
func run(t *testing.T, args ...string) string {
	t.Helper()
	out, err := exec.Command(binary, args...).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %v\n%s", args, err, out)
	}
	return string(out)
}

// TestAServerIsBackedUpAndComesBack: who manages the server takes a backup and plans
// more, on the page of projects; one is brought back by command, is whole, and is the
// same plant to whoever signs in there.
func TestAServerIsBackedUpAndComesBack(t *testing.T) {
	s, b := workshop(t)
	b.open("/")
	b.see("Backups of the server", "No backup was ever taken.", "a disk that dies takes both")
	b.click("Take one now")
	b.see("Last good one", "1 kept")
	b.click("Plan …")
	b.choose("How often", "Every day")
	b.fill("Time of the day", "noon")
	b.click("Keep this plan")
	b.until("a time that is none is refused", func() bool {
		return b.js(`document.querySelector('.backups [role=alert]')?.innerText ?? ''`) != ""
	})
	b.fill("Time of the day", "03:15")
	b.fill("How many are kept", "3")
	b.click("Keep this plan")
	b.see("The next one")
	b.gone("Keep this plan")
	b.click("1 kept")
	b.see("ready-rail-", "readyrail restore")

	list := strings.Fields(run(t, "backup", "list", filepath.Join(s.data, "backups")))
	if len(list) == 0 {
		t.Fatal("no backup lies in its folder")
	}
	from := filepath.Join(s.data, "backups", list[0])
	if out := refusal(t, "restore", from, "--data", s.data); !strings.Contains(out, "is not empty") {
		t.Errorf("over a server: %s", out)
	}
	again := filepath.Join(t.TempDir(), "again")
	if out := run(t, "restore", from, "--data", again); !strings.Contains(out, "Larchmoor drying yard (larchmoor)") ||
		!strings.Contains(out, "trail whole") {
		t.Errorf("it says %s", out)
	}
	s.server.end()
	if out := run(t, "keys", "change", "vault", "--data", again); !strings.Contains(out, "vault: age1") {
		t.Errorf("another key: %s", out)
	}
	addr := freeAddr(t)
	second := start(t, "Ready Rail on", "serve", "--addr", addr, "--data", again)
	defer second.end()
	o := openBrowser(t, "http://"+addr)
	o.signIn("iris", "elm-and-yew")
	o.see("Yard")
	o.open("/desk/larchmoor/s-chamber1")
	o.see("Dry bulb set point", "72.0")
}
